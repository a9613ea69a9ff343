#include "formula_words.h"

#include <unordered_map>
#include <utility>

namespace door {

namespace {

using ensayo::Operation;

// By the pointers of R's symbols.
const std::unordered_map<SEXP, Word>& words() {
  static const std::unordered_map<SEXP, Word> known = [] {
    std::unordered_map<SEXP, Word> out;
    const auto say = [&](const char* name, Verb verb, Operation operation = Operation::constant,
                         Operation of_wholes = Operation::constant) {
      out[Rf_install(name)] = {verb, operation, of_wholes};
    };
    say("(", Verb::bracket);
    say("+", Verb::plus, Operation::add, Operation::add_whole);
    say("-", Verb::minus, Operation::subtract, Operation::subtract_whole);
    say("*", Verb::whole, Operation::multiply, Operation::multiply_whole);
    say("/", Verb::plain, Operation::divide);
    say("^", Verb::plain, Operation::power);
    say("%%", Verb::whole, Operation::modulus, Operation::modulus_whole);
    say("%/%", Verb::whole, Operation::quotient, Operation::quotient_whole);
    const std::pair<const char*, Operation> compared[] = {{"==", Operation::equal}, {"!=", Operation::unequal},
      {"<", Operation::less}, {"<=", Operation::at_most}, {">", Operation::more}, {">=", Operation::at_least}};
    for (const auto& each : compared) say(each.first, Verb::compared, each.second);
    say("&", Verb::logical, Operation::logical_and);
    say("|", Verb::logical, Operation::logical_or);
    say("!", Verb::one, Operation::logical_not);
    say("xor", Verb::exclusive_or);
    const std::pair<const char*, Operation> of_one[] = {{"abs", Operation::absolute}, {"sign", Operation::sign},
      {"sqrt", Operation::square_root}, {"exp", Operation::exponential}, {"expm1", Operation::exponential_less_one},
      {"log2", Operation::logarithm_2}, {"log10", Operation::logarithm_10}, {"log1p", Operation::logarithm_of_one_more},
      {"cos", Operation::cosine}, {"sin", Operation::sine}, {"tan", Operation::tangent}, {"acos", Operation::arc_cosine},
      {"asin", Operation::arc_sine}, {"atan", Operation::arc_tangent}, {"cosh", Operation::hyperbolic_cosine},
      {"sinh", Operation::hyperbolic_sine}, {"tanh", Operation::hyperbolic_tangent}, {"acosh", Operation::area_cosine},
      {"asinh", Operation::area_sine}, {"atanh", Operation::area_tangent}, {"floor", Operation::floor},
      {"ceiling", Operation::ceiling}, {"trunc", Operation::truncate}, {"is.na", Operation::is_missing},
      {"is.nan", Operation::is_not_a_number}, {"is.finite", Operation::is_finite}, {"is.infinite", Operation::is_infinite}};
    for (const auto& each : of_one) say(each.first, Verb::one, each.second);
    say("log", Verb::logarithm, Operation::logarithm_to_base);
    say("atan2", Verb::plain, Operation::arc_tangent_of_two);
    say("round", Verb::rounding, Operation::round_to);
    say("signif", Verb::rounding, Operation::significant);
    for (const char* name : {"min", "pmin"}) say(name, Verb::several, Operation::smaller);
    for (const char* name : {"max", "pmax"}) say(name, Verb::several, Operation::larger);
    say("sum", Verb::several, Operation::add, Operation::add_whole);
    say("prod", Verb::several, Operation::multiply, Operation::multiply_whole);
    say("any", Verb::several, Operation::logical_or);
    say("all", Verb::several, Operation::logical_and);
    say("mean", Verb::mean, Operation::add, Operation::add_whole);
    for (const char* name : {"if", "ifelse"}) say(name, Verb::choose);
    say("&&", Verb::both);
    say("||", Verb::either);
    say("%in%", Verb::one_of);
    say("lookup", Verb::lookup);
    say("date", Verb::date);
    say("at", Verb::at);
    say("last", Verb::last);
    say("first_step", Verb::first_step);
    say("highest_step", Verb::highest_step);
    say("lowest_step", Verb::lowest_step);
    say("longest_stay", Verb::longest_stay);
    say("deepest_fall", Verb::deepest_fall);
    say("recovery", Verb::recovery);
    say("before", Verb::before);
    return out;
  }();
  return known;
}

}  // namespace

const Word* word_of(SEXP head) {
  const auto found = words().find(head);
  return found == words().end() ? nullptr : &found->second;
}

bool is_read_here(SEXP expr) {
  if (TYPEOF(expr) != LANGSXP) return true;
  if (!word_of(CAR(expr))) return false;
  if (CAR(expr) == Rf_install("%in%")) return is_read_here(CADR(expr));
  for (SEXP at = CDR(expr); at != R_NilValue; at = CDR(at)) {
    if (!is_read_here(CAR(at))) return false;
  }
  return true;
}

}  // namespace door
