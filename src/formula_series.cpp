// Formulas that read series over their steps. R/formula-series.R says what each verb gives; the steps are taken in order.
#include "formula_expression.h"

#include <algorithm>

namespace door {

const Given* Reader::series_in(SEXP expr) const {
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

std::uint32_t Reader::value_at(SEXP expr, int step, std::uint32_t mask) {
  const int outer = step_;
  step_ = step;
  const std::uint32_t id = read(expr, mask);
  step_ = outer;
  return id;
}

std::vector<double> Reader::steps_of(const Given& series) const {
  need(TYPEOF(series.keys) == STRSXP && Rf_length(series.keys) == series.steps);
  std::vector<double> steps;
  for (int i = 0; i < series.steps; ++i) steps.push_back(R_strtod(CHAR(STRING_ELT(series.keys, i)), nullptr));
  return steps;
}

std::uint32_t Reader::at_step(SEXP arguments, bool stated, std::uint32_t mask) {
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
  return value_at(CAR(arguments), step, mask);
}

std::uint32_t Reader::first_step(SEXP arguments, std::uint32_t mask) {
  need(count(arguments) == 2);
  const Given* series = series_in(CAR(arguments));
  need(series != nullptr && step_ < 0);
  const std::vector<double> steps = steps_of(*series);
  const std::uint32_t never = read(CADR(arguments), mask);
  need_number(never);
  std::vector<std::uint32_t> met;
  std::uint32_t open = mask;
  for (int step = 0; step < series->steps; ++step) {
    const std::uint32_t value = value_at(CAR(arguments), step, open);
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

std::vector<std::uint32_t> Reader::values_over_steps(SEXP arguments, std::uint32_t mask) {
  const Given* series = series_in(CAR(arguments));
  need(series != nullptr && step_ < 0);
  std::vector<std::uint32_t> values;
  for (int step = 0; step < series->steps; ++step) {
    values.push_back(value_at(CAR(arguments), step, mask));
    need_number(values.back());
  }
  return values;
}

std::uint32_t Reader::extreme_step(SEXP arguments, bool highest, std::uint32_t mask) {
  need(count(arguments) == 1);
  const std::vector<std::uint32_t> values = values_over_steps(arguments, mask);
  const std::vector<double> steps = steps_of(*series_in(CAR(arguments)));
  std::uint32_t best = values[0];
  std::uint32_t found = make(Operation::add, Kind::number, make(Operation::multiply, Kind::number, number(0), best), number(steps[0]));
  for (std::size_t i = 1; i < values.size(); ++i) {
    const std::uint32_t beyond = make(highest ? Operation::more : Operation::less, Kind::logical, values[i], best);
    found = make(Operation::choose, Kind::number, beyond, number(steps[i]), found);
    best = make(Operation::choose, Kind::number, beyond, values[i], best);
  }
  return found;
}

std::uint32_t Reader::longest_stay(SEXP arguments, std::uint32_t mask) {
  need(count(arguments) == 1);
  std::uint32_t stay = number(0), longest = number(0);
  for (std::uint32_t met : values_over_steps(arguments, mask)) {
    if (kind(met) != Kind::logical) met = make(Operation::as_logical, Kind::logical, met);
    stay = make(Operation::multiply, Kind::number, make(Operation::add, Kind::number, stay, number(1)), met);
    longest = make(Operation::larger, Kind::number, longest, stay);
  }
  return longest;
}

std::uint32_t Reader::deepest_fall(SEXP arguments, std::uint32_t mask) {
  need(count(arguments) == 1);
  const std::vector<std::uint32_t> values = values_over_steps(arguments, mask);
  std::uint32_t high = values[0], fall = number(0);
  for (std::uint32_t value : values) {
    if (value != values[0]) high = make(Operation::larger, Kind::number, high, value);
    fall = make(Operation::larger, Kind::number, fall, make(Operation::subtract, Kind::number, high, value));
  }
  return fall;
}

std::uint32_t Reader::recovery(SEXP arguments, std::uint32_t mask) {
  need(count(arguments) == 2);
  const std::vector<std::uint32_t> values = values_over_steps(arguments, mask);
  const std::uint32_t never = read(CADR(arguments), mask), none = make(Operation::multiply, Kind::number, number(0), values[0]);
  need_number(never);
  const auto both = [&](std::uint32_t a, std::uint32_t b) { return make(Operation::logical_and, Kind::logical, a, b); };
  const auto negation = [&](std::uint32_t a) { return make(Operation::logical_not, Kind::logical, a); };
  const auto chosen = [&](std::uint32_t condition, std::uint32_t yes, std::uint32_t no) {
    return make(Operation::choose, Kind::number, condition, yes, no);
  };
  std::uint32_t high = values[0], fall = none, took = none, since = none, goal = none;
  std::uint32_t falling = make(Operation::less, Kind::logical, values[0], values[0]);
  for (std::size_t i = 1; i < values.size(); ++i) {
    high = make(Operation::larger, Kind::number, high, values[i]);
    const std::uint32_t below = make(Operation::subtract, Kind::number, high, values[i]);
    const std::uint32_t deeper = make(Operation::more, Kind::logical, below, fall);
    fall = make(Operation::larger, Kind::number, fall, below);
    goal = chosen(deeper, high, goal);
    since = make(Operation::multiply, Kind::number, make(Operation::add, Kind::number, since, number(1)), negation(deeper));
    const std::uint32_t back = both(falling, make(Operation::at_least, Kind::logical, values[i], goal));
    took = chosen(deeper, never, chosen(back, since, took));
    falling = make(Operation::logical_or, Kind::logical, deeper, both(falling, negation(back)));
  }
  return took;
}

}  // namespace door
