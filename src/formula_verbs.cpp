// What the words of formulas stand for.
#include "formula_expression.h"

#include <algorithm>
#include <cmath>

namespace door {

// Arguments with names must stand where they would without.
void Reader::need_in_place(Verb verb, SEXP arguments) {
  std::size_t place = 0;
  for (SEXP at = arguments; at != R_NilValue; at = CDR(at), ++place) {
    if (TAG(at) == R_NilValue) continue;
    const auto may_be = [&](Verb of, std::size_t where, const char* name) {
      return verb == of && place == where && TAG(at) == Rf_install(name);
    };
    need(may_be(Verb::first_step, 1, "never") || may_be(Verb::recovery, 1, "never") || may_be(Verb::logarithm, 1, "base") ||
         may_be(Verb::rounding, 1, "digits") || may_be(Verb::choose, 1, "yes") || may_be(Verb::choose, 2, "no"));
  }
}

std::uint32_t Reader::read_call(const Word& word, SEXP arguments, std::uint32_t mask) {
  const std::size_t n = count(arguments);
  need_in_place(word.verb, arguments);
  const auto argument = [&](std::size_t i) { return CAR(Rf_nthcdr(arguments, static_cast<int>(i))); };
  const auto value = [&](std::size_t i) { return read(argument(i), mask); };
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
      return choose(condition, [&](std::uint32_t under) { return read(argument(1), under); },
                    [&](std::uint32_t under) { return read(argument(2), under); }, mask, if_is_missing);
    }
    case Verb::both: case Verb::either: {
      need(n == 2);
      const std::uint32_t left = numbers(0);
      const auto right = [&](std::uint32_t under) {
        const std::uint32_t id = read(argument(1), under);
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
    case Verb::highest_step: case Verb::lowest_step: return extreme_step(arguments, word.verb == Verb::highest_step, mask);
    case Verb::longest_stay: return longest_stay(arguments, mask);
    case Verb::deepest_fall: return deepest_fall(arguments, mask);
    case Verb::recovery: return recovery(arguments, mask);
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

double Reader::day_of(SEXP text) {
  return Rcpp::as<double>(Rcpp::Function("as.Date", R_BaseEnv)(text));
}

std::uint32_t Reader::arithmetic(const Word& word, std::uint32_t a, std::uint32_t b) {
  const bool whole = is_small(kind(a)) && is_small(kind(b));
  return make(whole ? word.of_wholes : word.operation, whole ? Kind::whole : Kind::number, a, b);
}

std::uint32_t Reader::of_one(Operation operation, std::uint32_t a) {
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

std::uint32_t Reader::choose(std::uint32_t condition, const Branch& yes, const Branch& no, std::uint32_t mask, Fault fault) {
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

std::uint32_t Reader::under(std::uint32_t mask, std::uint32_t more) {
  return mask == no_node ? more : make(Operation::both, Kind::logical, mask, more);
}

void Reader::check(std::uint32_t met, Fault fault, std::uint32_t mask) {
  if (graph_.is_constant(met) && graph_[met].value == 0) return;
  const std::uint32_t node = under(mask, met);
  checks_.push_back({node, fault});
  failed_ = failed_ == no_node ? node : make(Operation::either, Kind::logical, failed_, node);
}

std::uint32_t Reader::one_of(std::uint32_t a, SEXP choices) {
  need(TYPEOF(choices) == LANGSXP);
  std::uint32_t any = truth(0);
  for (SEXP at = CDR(choices); at != R_NilValue; at = CDR(at)) {
    const std::uint32_t choice = leaf(CAR(at));
    need((kind(choice) == Kind::text) == (kind(a) == Kind::text) && !std::isnan(graph_[choice].value));
    any = make(Operation::either, Kind::logical, any, make(Operation::equals_one_of, Kind::logical, a, choice));
  }
  return any;
}

std::uint32_t Reader::look_up(SEXP arguments, std::uint32_t mask) {
  const std::size_t n = count(arguments);
  need(n == 2 || n == 3);
  const LookupTable& table = table_named(CAR(arguments));
  const std::uint32_t x = read(CADR(arguments), mask);
  need_number(x);
  if (n == 2) {
    check(make(Operation::outside, Kind::logical, x, no_node, no_node, &table), beyond_table, mask);
    return make(Operation::lookup, Kind::number, x, no_node, no_node, &table);
  }
  const std::uint32_t y = read(CADDR(arguments), mask);
  need_number(y);
  check(make(Operation::outside_in_two, Kind::logical, x, y, no_node, &table), beyond_table, mask);
  return make(Operation::lookup_in_two, Kind::number, x, y, no_node, &table);
}

const LookupTable& Reader::table_named(SEXP name) {
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

std::uint32_t Reader::several(const Word& word, SEXP arguments, std::uint32_t mask) {
  std::vector<std::uint32_t> values;
  if (count(arguments) == 1) {
    const Given* series = series_in(CAR(arguments));
    need(series != nullptr && step_ < 0);
    for (int step = 0; step < series->steps; ++step) values.push_back(value_at(CAR(arguments), step, mask));
  } else {
    for (SEXP at = arguments; at != R_NilValue; at = CDR(at)) values.push_back(read(CAR(at), mask));
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

}  // namespace door
