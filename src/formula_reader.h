// Formulas as R has parsed them, read into a graph. Expressions are read by the pointers of their symbols; what is not of the
// language here, such as functions of the user's own, is left to R.
#ifndef ENSAYO_FORMULA_READER_H
#define ENSAYO_FORMULA_READER_H

#include <Rcpp.h>
#include <Rmath.h>

#include <algorithm>
#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/program.h"

namespace {

using ensayo::Graph;
using ensayo::Kind;
using ensayo::LookupTable;
using ensayo::Operation;
using ensayo::no_node;

// A formula that is R's to evaluate.
struct LeftToR {};

// Words of the language, by what they are read as.
enum class Verb { bracket, plus, minus, plain, whole, compared, logical, one, two, exclusive_or, rounding, logarithm, several,
                  mean, choose, both, either, one_of, lookup, date, at, last, first_step, before };

struct Word {
  Verb verb;
  Operation operation, of_wholes;
};

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
    say("atan2", Verb::two, Operation::arc_tangent_of_two);
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
    say("before", Verb::before);
    return out;
  }();
  return known;
}

// What makes a run fail on its way, in the order in which formula-evaluate.R has the words for them.
enum Fault : unsigned { if_is_missing = 1, and_is_missing, or_is_missing, beyond_table };

// A quantity as it comes: its values, or the series of them.
struct Given {
  Kind kind;
  bool single;
  int steps;             // 0 for a quantity of one value a run
  SEXP keys;             // the names of the steps
  std::size_t place;     // of its first column
};

bool is_same(const Given& x, const Given& y, bool any_length) {
  return x.kind == y.kind && x.steps == y.steps && (any_length || x.single == y.single) &&
         (x.keys == y.keys || R_compute_identical(x.keys, y.keys, 16));
}

Kind kind_of(SEXP column) {
  switch (TYPEOF(column)) {
    case LGLSXP: return Kind::logical;
    case INTSXP: return Kind::whole;
    case REALSXP: return Kind::number;
    case STRSXP: return Kind::text;
    default: throw LeftToR();
  }
}

// Texts as numbers, for comparing them.
class Texts {
 public:
  double number(SEXP text) {
    if (text == NA_STRING) return NA_REAL;
    return known_.emplace(text, static_cast<double>(known_.size())).first->second;
  }

 private:
  std::unordered_map<SEXP, double> known_;
};

struct Compiled {
  std::vector<Given> given;
  std::shared_ptr<ensayo::Program> program;
  std::vector<Kind> kinds;                                  // of what is wanted
  std::unordered_map<std::uint32_t, std::pair<SEXP, int>> sources;   // what a node was written as, and at which step
};

struct Formulas {
  Rcpp::List formulas;
  Rcpp::CharacterVector order;                              // their names
  std::vector<SEXP> names, used;                            // symbols, of these and of the quantities that they are given
  std::vector<std::shared_ptr<LookupTable>> tables;
  std::map<SEXP, const LookupTable*> table_of;
  std::vector<std::shared_ptr<Compiled>> compiled;
  Texts texts;                                              // constants of the formulas, which stay
  Rcpp::List keys;                                          // names of steps, which stay
};

// What lines of a model that goes step by step may name besides quantities of the run: values known for each step, and
// lines some steps ago. A line's name stands for its latest value: of this step where it stands above, else of the step
// before.
struct Lines {
  std::unordered_map<SEXP, std::size_t> line, known;         // by symbol
  std::size_t first;                                         // the place of the first known value among the columns
  std::vector<std::pair<std::size_t, std::size_t>> lags;     // lines, and how many steps ago

  std::uint32_t place_of(std::size_t which, std::size_t steps) {
    const std::pair<std::size_t, std::size_t> lag(which, steps);
    const std::size_t at = static_cast<std::size_t>(std::find(lags.begin(), lags.end(), lag) - lags.begin());
    if (at == lags.size()) lags.push_back(lag);
    return static_cast<std::uint32_t>(first + known.size() + at);
  }
};

class Reader {
 public:
  Reader(Formulas& all, Compiled& out, Lines* lines = nullptr) : all_(all), out_(out), lines_(lines) {}

  void read_all() {
    for (std::size_t i = 0; i < all_.used.size(); ++i) given_[all_.used[i]] = &out_.given[i];
    std::vector<ensayo::Wanted> wanted;
    for (R_xlen_t i = 0; i < all_.formulas.size(); ++i) {
      formula_ = all_.formulas[i];
      constants_ = formula_["constants"];
      checks_.clear();
      failed_ = no_node;
      std::uint32_t value = read(formula_["expr"], no_node);
      const Kind kind = graph_[value].kind;
      if (kind == Kind::text) throw LeftToR();
      if (failed_ != no_node) value = graph_.make(Operation::unless, kind, value, failed_);
      wanted.push_back({value, failed_, checks_});
      out_.kinds.push_back(kind);
      made_[all_.names[static_cast<std::size_t>(i)]] = value;
    }
    out_.program = std::make_shared<ensayo::Program>(std::move(graph_), std::move(wanted));
  }

 private:
  Kind kind(std::uint32_t id) const { return graph_[id].kind; }
  void need_number(std::uint32_t id) const {
    if (kind(id) == Kind::text) throw LeftToR();
  }
  static bool is_small(Kind kind) { return kind == Kind::logical || kind == Kind::whole; }

  std::uint32_t make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b = no_node, std::uint32_t c = no_node,
                     const LookupTable* table = nullptr) {
    const std::size_t before = graph_.size();
    const std::uint32_t id = graph_.make(operation, kind, a, b, c, table);
    if (id >= before) out_.sources[id] = {writing_, step_};
    return id;
  }
  std::uint32_t number(double value) { return graph_.constant(value, Kind::number); }
  std::uint32_t truth(double value) { return graph_.constant(value, Kind::logical); }

  std::uint32_t leaf(SEXP value) {
    if (Rf_length(value) != 1) throw LeftToR();
    if (Rf_inherits(value, "difftime")) throw LeftToR();
    switch (TYPEOF(value)) {
      case LGLSXP: return truth(LOGICAL(value)[0] == NA_LOGICAL ? NA_REAL : LOGICAL(value)[0]);
      case INTSXP: {
        if (Rf_inherits(value, "Date")) return number(INTEGER(value)[0] == NA_INTEGER ? NA_REAL : INTEGER(value)[0]);
        return graph_.constant(INTEGER(value)[0] == NA_INTEGER ? NA_REAL : INTEGER(value)[0], Kind::whole);
      }
      case REALSXP: return number(REAL(value)[0]);
      case STRSXP: return graph_.constant(all_.texts.number(STRING_ELT(value, 0)), Kind::text);
      default: throw LeftToR();
    }
  }

  std::uint32_t symbol(SEXP name) {
    const auto made = made_.find(name);
    if (made != made_.end()) return made->second;
    const auto given = given_.find(name);
    if (given != given_.end()) {
      const Given& each = *given->second;
      const std::size_t step = each.steps == 0 ? 0 : static_cast<std::size_t>(step_ >= 0 ? step_ : throw LeftToR());
      if (each.steps > 0 && step >= static_cast<std::size_t>(each.steps)) throw LeftToR();
      return graph_.column(static_cast<std::uint32_t>(each.place + step), each.kind, each.single);
    }
    if (lines_) {
      const auto known = lines_->known.find(name);
      if (known != lines_->known.end()) {
        return graph_.column(static_cast<std::uint32_t>(lines_->first + known->second), Kind::number, true);
      }
      const auto line = lines_->line.find(name);
      if (line != lines_->line.end()) return graph_.column(lines_->place_of(line->second, 1), Kind::number, false);
    }
    SEXP names = Rf_getAttrib(constants_, R_NamesSymbol);
    for (R_xlen_t i = 0; i < Rf_xlength(constants_); ++i) {
      if (Rf_installTrChar(STRING_ELT(names, i)) == name) return leaf(VECTOR_ELT(constants_, i));
    }
    if (name == Rf_install("pi")) return number(M_PI);
    throw LeftToR();
  }

  std::uint32_t read(SEXP expr, std::uint32_t mask) {
    if (TYPEOF(expr) == SYMSXP) return symbol(expr);
    if (TYPEOF(expr) != LANGSXP) return leaf(expr);
    const auto found = words().find(CAR(expr));
    if (found == words().end()) throw LeftToR();
    const Word& word = found->second;
    SEXP outer = writing_;
    writing_ = expr;
    const std::uint32_t id = read_call(word, CDR(expr), mask);
    writing_ = outer;
    return id;
  }

  static std::size_t count(SEXP arguments) { return static_cast<std::size_t>(Rf_length(arguments)); }
  static void need(bool ok) {
    if (!ok) throw LeftToR();
  }
  static bool is_named(SEXP argument, const char* name) { return TAG(argument) == Rf_install(name); }

  std::uint32_t read_call(const Word& word, SEXP arguments, std::uint32_t mask) {
    const std::size_t n = count(arguments);
    SEXP writing = writing_;
    for (SEXP at = arguments; at != R_NilValue; at = CDR(at)) {
      const bool known = TAG(at) == R_NilValue || (word.verb == Verb::first_step && is_named(at, "never")) ||
        (at == CDR(arguments) && ((word.verb == Verb::logarithm && is_named(at, "base")) ||
          (word.verb == Verb::rounding && is_named(at, "digits")))) ||
        (word.verb == Verb::choose && (is_named(at, "yes") || is_named(at, "no")) && at != arguments);
      need(known);
    }
    const auto argument = [&](std::size_t i) { return CAR(Rf_nthcdr(arguments, static_cast<int>(i))); };
    const auto value = [&](std::size_t i) {
      const std::uint32_t id = read(argument(i), mask);
      writing_ = writing;
      return id;
    };
    const auto numbers = [&](std::size_t i) {
      const std::uint32_t id = value(i);
      need_number(id);
      return id;
    };
    switch (word.verb) {
      case Verb::bracket: need(n == 1); return value(0);
      case Verb::plus: case Verb::minus:
        need(n == 1 || n == 2);
        {
          const std::uint32_t a = numbers(0);
          if (n == 2) return arithmetic(word, a, numbers(1));
          const Kind of = is_small(kind(a)) ? Kind::whole : Kind::number;
          if (word.verb == Verb::plus) return of == kind(a) ? a : make(Operation::add_whole, of, a, graph_.constant(0, of));
          return make(of == Kind::whole ? Operation::negate_whole : Operation::negate, of, a);
        }
      case Verb::whole: {
        need(n == 2);
        const std::uint32_t a = numbers(0);
        return arithmetic(word, a, numbers(1));
      }
      case Verb::plain: {
        need(n == 2);
        const std::uint32_t a = numbers(0), b = numbers(1);
        // R, too, multiplies
        if (word.operation == Operation::power && graph_.is_constant(b) && graph_[b].value == 2) {
          return make(Operation::multiply, Kind::number, a, a);
        }
        return make(word.operation, Kind::number, a, b);
      }
      case Verb::compared: {
        need(n == 2);
        const std::uint32_t a = value(0), b = value(1);
        const bool texts = kind(a) == Kind::text || kind(b) == Kind::text;
        need(!texts || (kind(a) == kind(b) && (word.operation == Operation::equal || word.operation == Operation::unequal)));
        return make(word.operation, Kind::logical, a, b);
      }
      case Verb::logical: {
        need(n == 2);
        const std::uint32_t a = numbers(0);
        return make(word.operation, Kind::logical, a, numbers(1));
      }
      case Verb::exclusive_or: {
        need(n == 2);
        const std::uint32_t a = numbers(0), b = numbers(1);
        const std::uint32_t one = make(Operation::logical_or, Kind::logical, a, b);
        const std::uint32_t two = make(Operation::logical_and, Kind::logical, a, b);
        return make(Operation::logical_and, Kind::logical, one, make(Operation::logical_not, Kind::logical, two));
      }
      case Verb::one: return of_one(word.operation, (need(n == 1), value(0)));
      case Verb::two: {
        need(n == 2);
        const std::uint32_t a = numbers(0);
        return make(word.operation, Kind::number, a, numbers(1));
      }
      case Verb::rounding: {
        need(n == 1 || n == 2);
        const std::uint32_t a = numbers(0);
        const std::uint32_t digits = n == 2 ? numbers(1) : number(word.operation == Operation::round_to ? 0 : 6);
        return make(word.operation, Kind::number, a, digits);
      }
      case Verb::logarithm: {
        need(n == 1 || n == 2);
        const std::uint32_t a = numbers(0);
        if (n == 1) return make(Operation::logarithm, Kind::number, a);
        return make(word.operation, Kind::number, a, numbers(1));
      }
      case Verb::several: case Verb::mean: return several(word, arguments, mask);
      case Verb::choose: {
        need(n == 3);
        const std::uint32_t condition = numbers(0);
        return choose(condition, [&](std::uint32_t under) { return branch(argument(1), under, writing); },
                      [&](std::uint32_t under) { return branch(argument(2), under, writing); }, mask, if_is_missing);
      }
      case Verb::both: case Verb::either: {
        need(n == 2);
        const std::uint32_t left = numbers(0);
        const auto right = [&](std::uint32_t under) {
          const std::uint32_t id = branch(argument(1), under, writing);
          need_number(id);
          return kind(id) == Kind::logical ? id : make(Operation::as_logical, Kind::logical, id);
        };
        if (word.verb == Verb::both) return choose(left, right, [&](std::uint32_t) { return truth(0); }, mask, and_is_missing);
        return choose(left, [&](std::uint32_t) { return truth(1); }, right, mask, or_is_missing);
      }
      case Verb::one_of: need(n == 2); return one_of(value(0), argument(1));
      case Verb::lookup: return look_up(arguments, mask);
      case Verb::date: need(n == 1 && TYPEOF(CAR(arguments)) == STRSXP); return number(day_of(CAR(arguments)));
      case Verb::at: case Verb::last: return at_step(arguments, word.verb == Verb::at, mask);
      case Verb::first_step: return first_step(arguments, mask);
      case Verb::before: {
        need(n == 2 && lines_ != nullptr);
        const auto line = lines_->line.find(argument(0));
        need(line != lines_->line.end());
        const double steps = Rcpp::as<double>(argument(1));
        return graph_.column(lines_->place_of(line->second, static_cast<std::size_t>(steps)), Kind::number, false);
      }
    }
    throw LeftToR();
  }

  std::uint32_t branch(SEXP expr, std::uint32_t under, SEXP writing) {
    const std::uint32_t id = read(expr, under);
    writing_ = writing;
    return id;
  }

  // Of a day as R reads it.
  static double day_of(SEXP text) {
    return Rcpp::as<double>(Rcpp::Function("as.Date", R_BaseEnv)(text));
  }

  std::uint32_t arithmetic(const Word& word, std::uint32_t a, std::uint32_t b) {
    const bool whole = is_small(kind(a)) && is_small(kind(b));
    return make(whole ? word.of_wholes : word.operation, whole ? Kind::whole : Kind::number, a, b);
  }

  std::uint32_t of_one(Operation operation, std::uint32_t a) {
    switch (operation) {
      case Operation::is_missing: return make(operation, Kind::logical, a);
      case Operation::is_not_a_number: case Operation::is_finite: case Operation::is_infinite: case Operation::logical_not:
        need_number(a);
        return make(operation, Kind::logical, a);
      case Operation::absolute:
        need_number(a);
        return make(operation, is_small(kind(a)) ? Kind::whole : Kind::number, a);
      default:
        need_number(a);
        return make(operation, Kind::number, a);
    }
  }

  // The value of a choice in the runs that `mask` lets by; a condition that is missing makes a run fail.
  template <class Yes, class No>
  std::uint32_t choose(std::uint32_t condition, Yes yes, No no, std::uint32_t mask, Fault fault) {
    check(make(Operation::is_missing, Kind::logical, condition), fault, mask);
    if (graph_.is_constant(condition)) {
      const double value = graph_[condition].value;
      if (std::isnan(value)) return truth(NA_REAL);
      return value != 0 ? yes(mask) : no(mask);
    }
    const std::uint32_t a = yes(under(mask, make(Operation::holds, Kind::logical, condition)));
    const std::uint32_t b = no(under(mask, make(Operation::fails, Kind::logical, condition)));
    need((kind(a) == Kind::text) == (kind(b) == Kind::text));
    return make(Operation::choose, std::max(kind(a), kind(b)), condition, a, b);
  }

  std::uint32_t under(std::uint32_t mask, std::uint32_t more) {
    return mask == no_node ? more : make(Operation::both, Kind::logical, mask, more);
  }

  void check(std::uint32_t met, Fault fault, std::uint32_t mask) {
    if (graph_.is_constant(met) && graph_[met].value == 0) return;
    const std::uint32_t node = under(mask, met);
    checks_.push_back({node, fault});
    failed_ = failed_ == no_node ? node : make(Operation::either, Kind::logical, failed_, node);
  }

  std::uint32_t one_of(std::uint32_t a, SEXP choices) {
    need(TYPEOF(choices) == LANGSXP);
    std::uint32_t any = truth(0);
    for (SEXP at = CDR(choices); at != R_NilValue; at = CDR(at)) {
      const std::uint32_t choice = leaf(CAR(at));
      need((kind(choice) == Kind::text) == (kind(a) == Kind::text) && !std::isnan(graph_[choice].value));
      any = make(Operation::either, Kind::logical, any, make(Operation::equals_one_of, Kind::logical, a, choice));
    }
    return any;
  }

  std::uint32_t look_up(SEXP arguments, std::uint32_t mask) {
    const std::size_t n = count(arguments);
    need(n == 2 || n == 3);
    const LookupTable& table = table_named(CAR(arguments));
    SEXP writing = writing_;
    const std::uint32_t x = branch(CADR(arguments), mask, writing);
    need_number(x);
    if (n == 2) {
      check(make(Operation::outside, Kind::logical, x, no_node, no_node, &table), beyond_table, mask);
      return make(Operation::lookup, Kind::number, x, no_node, no_node, &table);
    }
    const std::uint32_t y = branch(CADDR(arguments), mask, writing);
    need_number(y);
    check(make(Operation::outside_in_two, Kind::logical, x, y, no_node, &table), beyond_table, mask);
    return make(Operation::lookup_in_two, Kind::number, x, y, no_node, &table);
  }

  const LookupTable& table_named(SEXP name) {
    need(TYPEOF(name) == SYMSXP);
    SEXP tables = formula_["tables"], names = Rf_getAttrib(tables, R_NamesSymbol);
    for (R_xlen_t i = 0; i < Rf_xlength(tables); ++i) {
      if (Rf_installTrChar(STRING_ELT(names, i)) != name) continue;
      SEXP table = VECTOR_ELT(tables, i);
      const auto known = all_.table_of.find(table);
      if (known != all_.table_of.end()) return *known->second;
      const Rcpp::List fields(table);
      auto made = std::make_shared<LookupTable>();
      made->x = Rcpp::as<std::vector<double>>(fields["x"]);
      if (fields.containsElementNamed("y")) made->y = Rcpp::as<std::vector<double>>(fields["y"]);
      made->values = Rcpp::as<std::vector<double>>(fields["values"]);
      all_.tables.push_back(made);
      all_.table_of[table] = made.get();
      return *made;
    }
    throw LeftToR();
  }

  // The first of the series in an expression, whose steps are those of all.
  const Given* series_in(SEXP expr) const {
    if (TYPEOF(expr) == SYMSXP) {
      const auto given = given_.find(expr);
      return given != given_.end() && given->second->steps > 0 ? given->second : nullptr;
    }
    if (TYPEOF(expr) != LANGSXP) return nullptr;
    for (SEXP at = CDR(expr); at != R_NilValue; at = CDR(at)) {
      const Given* found = series_in(CAR(at));
      if (found) return found;
    }
    return nullptr;
  }

  std::uint32_t value_at(SEXP expr, int step, std::uint32_t mask, SEXP writing) {
    const int outer = step_;
    step_ = step;
    const std::uint32_t id = branch(expr, mask, writing);
    step_ = outer;
    return id;
  }

  std::uint32_t several(const Word& word, SEXP arguments, std::uint32_t mask) {
    SEXP writing = writing_;
    std::vector<std::uint32_t> values;
    if (count(arguments) == 1) {
      const Given* series = series_in(CAR(arguments));
      need(series != nullptr && step_ < 0);
      for (int step = 0; step < series->steps; ++step) values.push_back(value_at(CAR(arguments), step, mask, writing));
    } else {
      for (SEXP at = arguments; at != R_NilValue; at = CDR(at)) values.push_back(branch(CAR(at), mask, writing));
    }
    need(!values.empty());
    for (std::uint32_t id : values) need_number(id);
    const bool picks = word.operation == Operation::smaller || word.operation == Operation::larger;
    const bool logic = word.operation == Operation::logical_and || word.operation == Operation::logical_or;
    std::uint32_t all = values[0];
    for (std::size_t i = 1; i < values.size(); ++i) {
      const bool small = is_small(kind(all)) && is_small(kind(values[i]));
      if (logic) all = make(word.operation, Kind::logical, all, values[i]);
      else if (picks) all = make(word.operation, small ? Kind::whole : Kind::number, all, values[i]);
      else all = arithmetic(word, all, values[i]);
    }
    if (word.verb == Verb::mean) return make(Operation::divide, Kind::number, all, number(static_cast<double>(values.size())));
    return all;
  }

  std::vector<double> steps_of(const Given& series) const {
    need(TYPEOF(series.keys) == STRSXP && Rf_length(series.keys) == series.steps);
    std::vector<double> steps;
    for (int i = 0; i < series.steps; ++i) steps.push_back(R_strtod(CHAR(STRING_ELT(series.keys, i)), nullptr));
    return steps;
  }

  std::uint32_t at_step(SEXP arguments, bool stated, std::uint32_t mask) {
    need(count(arguments) == (stated ? 2 : 1));
    const Given* series = series_in(CAR(arguments));
    need(series != nullptr && step_ < 0);
    int step = series->steps - 1;
    if (stated) {
      const std::uint32_t wanted = read(CADR(arguments), mask);
      need(graph_.is_constant(wanted));
      const std::vector<double> steps = steps_of(*series);
      const auto found = std::find(steps.begin(), steps.end(), graph_[wanted].value);
      need(found != steps.end());
      step = static_cast<int>(found - steps.begin());
    }
    return value_at(CAR(arguments), step, mask, writing_);
  }

  // The first step at which the condition holds; missing where it is missing at a step before.
  std::uint32_t first_step(SEXP arguments, std::uint32_t mask) {
    need(count(arguments) == 2);
    SEXP writing = writing_;
    const Given* series = series_in(CAR(arguments));
    need(series != nullptr && step_ < 0);
    const std::vector<double> steps = steps_of(*series);
    const std::uint32_t never = branch(CADR(arguments), mask, writing);
    need_number(never);
    std::vector<std::uint32_t> met;
    std::uint32_t open = mask;
    for (int step = 0; step < series->steps; ++step) {
      const std::uint32_t value = value_at(CAR(arguments), step, open, writing);
      need_number(value);
      met.push_back(value);
      open = under(open, make(Operation::fails, Kind::logical, value));
    }
    std::uint32_t first = kind(never) == Kind::number ? never : make(Operation::add, Kind::number, never, number(0));
    for (std::size_t step = met.size(); step-- > 0;) {
      first = make(Operation::choose, Kind::number, met[step], number(steps[step]), first);
    }
    return first;
  }

  Formulas& all_;
  Compiled& out_;
  Lines* lines_;
  Graph graph_;
  Rcpp::List formula_;
  SEXP constants_ = R_NilValue, writing_ = R_NilValue;
  int step_ = -1;
  std::vector<ensayo::Check> checks_;
  std::uint32_t failed_ = no_node;
  std::unordered_map<SEXP, std::uint32_t> made_;
  std::unordered_map<SEXP, const Given*> given_;
};

void set_mathematics() {
  ensayo::Mathematics& functions = ensayo::mathematics();
  functions.power = R_pow;
  functions.round_to = Rf_fround;
  functions.significant = Rf_fprec;
}

// Columns as numbers, which stay while they are used.
class Columns {
 public:
  Columns(const Rcpp::List& columns, R_xlen_t n, const Texts& known) : texts_(known), n_(n) {
    for (R_xlen_t j = 0; j < columns.size(); ++j) add(columns[j]);
  }
  std::vector<Given> given;
  std::vector<const double*> pointers;

 private:
  void add(SEXP column) {
    const bool matrix = Rf_isMatrix(column);
    const R_xlen_t length = Rf_xlength(column);
    const int steps = matrix ? Rf_ncols(column) : 0;
    if (matrix ? Rf_nrows(column) != n_ : length != n_ && length != 1) throw LeftToR();
    SEXP keys = R_NilValue;
    if (matrix && Rf_getAttrib(column, R_DimNamesSymbol) != R_NilValue) keys = VECTOR_ELT(Rf_getAttrib(column, R_DimNamesSymbol), 1);
    given.push_back({kind_of(column), !matrix && length == 1 && n_ != 1, steps, keys, pointers.size()});
    const double* from = given.back().kind == Kind::number ? REAL(column) : as_numbers(column, length);
    pointers.push_back(from);
    for (int j = 1; j < steps; ++j) pointers.push_back(from + j * n_);
  }
  const double* as_numbers(SEXP column, R_xlen_t length) {
    made_.emplace_back(length);
    std::vector<double>& out = made_.back();
    for (R_xlen_t i = 0; i < length; ++i) {
      if (TYPEOF(column) == STRSXP) out[i] = texts_.number(STRING_ELT(column, i));
      else {
        const int value = TYPEOF(column) == LGLSXP ? LOGICAL(column)[i] : INTEGER(column)[i];
        out[i] = value == NA_INTEGER ? NA_REAL : value;
      }
    }
    return out.data();
  }
  Texts texts_;
  R_xlen_t n_;
  std::vector<std::vector<double>> made_;
};

// Texts that formulas compare with have their numbers before those of any column.
void number_texts(SEXP expr, Texts& texts) {
  if (TYPEOF(expr) == STRSXP) {
    for (R_xlen_t i = 0; i < Rf_xlength(expr); ++i) texts.number(STRING_ELT(expr, i));
  }
  if (TYPEOF(expr) != LANGSXP) return;
  for (SEXP at = CDR(expr); at != R_NilValue; at = CDR(at)) number_texts(CAR(at), texts);
}

Formulas* new_formulas(const Rcpp::List& formulas, const Rcpp::CharacterVector& names, const Rcpp::CharacterVector& uses) {
  set_mathematics();
  std::unique_ptr<Formulas> all(new Formulas);
  all->formulas = formulas;
  all->order = names;
  for (R_xlen_t i = 0; i < formulas.size(); ++i) {
    const Rcpp::List formula = formulas[i], constants = formula["constants"];
    number_texts(formula["expr"], all->texts);
    for (R_xlen_t k = 0; k < constants.size(); ++k) number_texts(constants[k], all->texts);
  }
  for (R_xlen_t i = 0; i < names.size(); ++i) all->names.push_back(Rf_installTrChar(names[i]));
  for (R_xlen_t i = 0; i < uses.size(); ++i) all->used.push_back(Rf_installTrChar(uses[i]));
  return all.release();
}

}  // namespace

#endif
