// Arithmetic, rounding, sums and conditional sums.
#include "exact.h"
#include "sheet_function.h"

#include <algorithm>
#include <cmath>

#include "program.h"

namespace ensayo {
namespace sheet {

namespace {

const double pi = 3.14159265358979323846;

double square_root(double x) { return x < 0 ? fault(Error::number) : std::sqrt(x); }
double logarithm(double x) { return x <= 0 ? fault(Error::number) : std::log(x); }
double logarithm_10(double x) { return x <= 0 ? fault(Error::number) : std::log10(x); }
double whole(double x) { return floor_nearly(x); }
double sign(double x) { return (x > 0) - (x < 0); }
double arc_sine(double x) { return std::fabs(x) > 1 ? fault(Error::number) : std::asin(x); }
double arc_cosine(double x) { return std::fabs(x) > 1 ? fault(Error::number) : std::acos(x); }
double area_cosine(double x) { return x < 1 ? fault(Error::number) : std::acosh(x); }
double area_tangent(double x) { return std::fabs(x) >= 1 ? fault(Error::number) : std::atanh(x); }

double factorial(double x) {
  x = std::floor(x);
  return x < 0 || x > 170 ? fault(Error::number) : std::round(std::tgamma(x + 1));
}

// Away from zero to an even or an odd whole number.
double even(double x) { return std::copysign(2 * std::ceil(-floor_nearly(-std::fabs(x)) / 2), x); }
double odd(double x) { return x == 0 ? 1 : std::copysign(2 * std::ceil((-floor_nearly(-std::fabs(x)) - 1) / 2) + 1, x); }

double round_to(double x, double places) { return rounded(x, places); }

// Toward zero, or away from it, to so many places.
double round_directed(double x, double places, bool up) {
  places = std::trunc(places);
  if (std::fabs(places) > 300) return x;
  const double scale = std::pow(10, std::fabs(places)), size = std::fabs(x);
  const double moved = places >= 0 ? size * scale : size / scale;
  if (!(moved < 0x1p52)) return x;
  const double near = up ? -floor_nearly(-moved) : floor_nearly(moved);
  return std::copysign(places >= 0 ? near / scale : near * scale, x);
}
double round_down(double x, double places) { return round_directed(x, places, false); }
double round_up(double x, double places) { return round_directed(x, places, true); }

double remainder(double x, double by) {
  if (by == 0) return fault(Error::division);
  const double times = floor_nearly(x / by);
  return cancelled(x - by * times, x);
}
double quotient(double x, double by) { return by == 0 ? fault(Error::division) : std::trunc(x / by); }

double to_multiple(double x, double step) {
  if (step == 0 || x == 0) return 0;
  return (x < 0) != (step < 0) ? fault(Error::number) : step * rounded(x / step, 0);
}

// To a multiple, up or down; of two signs only what is below zero by a step above it.
double ceiling_of(double x, double step) {
  if (step == 0 || x == 0) return 0;
  if (x > 0 && step < 0) return fault(Error::number);
  return step < 0 ? -(-floor_nearly(-(x / step)) * -step) : -floor_nearly(-(x / step)) * step;
}
double floor_of(double x, double step) {
  if (x == 0) return 0;
  if (step == 0) return fault(Error::division);
  if (x > 0 && step < 0) return fault(Error::number);
  return floor_nearly(x / step) * step;
}

// Up or down whatever the signs; below zero the other way where a third argument says so.
template <bool up>
double to_multiple_of(const Frame& frame) {
  double x, step, away;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, step, 1)) return step;
  if (!frame.number(2, away)) return away;
  step = std::fabs(step);
  if (step == 0) return 0;
  const bool rises = x < 0 && away != 0 ? !up : up;
  return rises ? -floor_nearly(-(x / step)) * step : floor_nearly(x / step) * step;
}

double power_of(const Frame& frame) {
  double x, y;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, y)) return y;
  return to_power(x, y, frame.setting().odd_roots);
}

double logarithm_to(const Frame& frame) {
  double x, base;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, base, 10)) return base;
  if (x <= 0 || base <= 0) return fault(Error::number);
  return base == 1 ? fault(Error::division) : base == 10 ? std::log10(x) : std::log(x) / std::log(base);
}

double arc_tangent_of(double x, double y) { return x == 0 && y == 0 ? fault(Error::division) : std::atan2(y, x); }

double combinations(double n, double k) {
  n = std::floor(n);
  k = std::floor(k);
  if (n < 0 || k < 0 || k > n) return fault(Error::number);
  double out = 1;
  k = std::min(k, n - k);
  for (double i = 1; i <= k; ++i) out = out * (n - k + i) / i;
  return std::round(out);
}

double truncated(const Frame& frame) {
  double x, places;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, places)) return places;
  return round_down(x, places);
}

double pi_value(const Frame&) { return pi; }

// Neumaier's sum: what each addition loses is kept beside it.
struct Sum {
  double sum = 0, lost = 0;
  void add(double x) {
    const double next = sum + x;
    lost += std::fabs(sum) >= std::fabs(x) ? (sum - next) + x : (x - next) + sum;
    sum = next;
  }
  double value() const { return sum + lost; }
};

double sum(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  const double wrong = numbers_of(frame, 0, numbers);
  if (wrong != 0) return wrong;
  Sum out;
  for (double x : numbers) out.add(x);
  return out.value();
}

// Column after column; only runs in which something is no number are looked at again.
void sum_columns(const Call& call, const Arguments& arguments, std::size_t n) {
  static thread_local std::vector<double> lost;
  lost.assign(n, 0);
  double* __restrict total = arguments.out;
  double* __restrict left = lost.data();
  std::fill(total, total + n, 0.0);
  Sum same;
  const bool all_cells = std::all_of(call.shapes.begin(), call.shapes.end(), [](const Shape& shape) { return shape.reference; });
  for (std::size_t k = 0; k < arguments.count; ++k) {
    const double* __restrict x = arguments.values[k];
    if (arguments.single[k]) {
      // empty cells and texts of a range are passed over; what is an error makes the sum one
      if (std::isfinite(*x)) same.add(*x);
      else if (!all_cells || is_error(*x) || type_of(*x) == Type::logical) left[0] = std::nan("");
      continue;
    }
    for (std::size_t i = 0; i < n; ++i) {
      const double next = total[i] + x[i];
      left[i] += std::fabs(total[i]) >= std::fabs(x[i]) ? (total[i] - next) + x[i] : (x[i] - next) + total[i];
      total[i] = next;
    }
  }
  const bool any_odd = std::isnan(left[0]);
  const double constant = same.value();
  for (std::size_t i = 0; i < n; ++i) total[i] = total[i] + constant + left[i];
  if (!any_odd && all_finite(total, n)) return;
  for (std::size_t i = 0; i < n; ++i) if (any_odd || !std::isfinite(total[i])) total[i] = call.in_run(arguments, i);
}

double product(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  const double wrong = numbers_of(frame, 0, numbers);
  if (wrong != 0) return wrong;
  double out = 1;
  for (double x : numbers) out *= x;
  return numbers.empty() ? 0 : out;
}

double sum_of_squares(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  const double wrong = numbers_of(frame, 0, numbers);
  if (wrong != 0) return wrong;
  Sum out;
  for (double x : numbers) out.add(x * x);
  return out.value();
}

double sum_of_products(const Frame& frame) {
  const Shape& first = frame.shape(0);
  for (std::size_t k = 1; k < frame.count(); ++k) {
    if (frame.shape(k).rows != first.rows || frame.shape(k).columns != first.columns) return fault(Error::value);
  }
  Sum out;
  for (std::size_t j = 0; j < first.size(); ++j) {
    double term = 1;
    for (std::size_t k = 0; k < frame.count(); ++k) {
      const double x = frame.at(k, j);
      if (is_error(x)) return x;
      // what an array calculates may be TRUE or FALSE; of cells, only numbers count
      term *= std::isfinite(x) ? x : is_type(x, Type::logical) && (!frame.shape(k).reference || frame.texts().logical_is_number) ? payload_of(x) : 0;
    }
    out.add(term);
  }
  return out.value();
}

// Sums over pairs of two ranges.
template <class Rule>
double over_pairs(const Frame& frame) {
  if (frame.shape(0).size() != frame.shape(1).size()) return fault(Error::missing);
  Sum out;
  for (std::size_t j = 0; j < frame.shape(0).size(); ++j) {
    const double x = frame.at(0, j), y = frame.at(1, j);
    if (is_error(x)) return x;
    if (is_error(y)) return y;
    if (std::isfinite(x) && std::isfinite(y)) out.add(Rule::of(x, y));
  }
  return out.value();
}
struct SquaresLess { static double of(double x, double y) { return x * x - y * y; } };
struct SquaresMore { static double of(double x, double y) { return x * x + y * y; } };
struct SquareOfLess { static double of(double x, double y) { return (x - y) * (x - y); } };

// Conditions of pairs of a range and a criterion, from argument `first` on. Gives an error where their shapes differ, or 0.
double read_criteria(const Frame& frame, std::size_t first, std::vector<Criterion>& criteria) {
  criteria.clear();
  for (std::size_t k = first; k + 1 < frame.count(); k += 2) {
    if (frame.shape(k).size() != frame.shape(first).size() || frame.shape(k).rows != frame.shape(first).rows) return fault(Error::value);
    criteria.emplace_back(frame.at(k + 1), frame.texts());
  }
  return 0;
}

// Cells that meet all conditions.
template <class Use>
void each_that_meets(const Frame& frame, std::size_t first, const std::vector<Criterion>& criteria, const Use& use) {
  for (std::size_t j = 0; j < frame.shape(first).size(); ++j) {
    bool met = true;
    for (std::size_t c = 0; c < criteria.size() && met; ++c) met = criteria[c].met(frame.at(first + 2 * c, j));
    if (met) use(j);
  }
}

// A function of a call in one run and its conditions, which are read once where they are the same in all runs.
template <std::size_t first, double (*of)(const Frame&, const std::vector<Criterion>&)>
void with_criteria(const Call& call, const Arguments& arguments, std::size_t n) {
  const bool same = are_single(call, arguments, first + 1, 2);
  std::vector<Criterion> criteria;
  double wrong = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const Frame frame(call, arguments, i);
    if (i == 0 || !same) wrong = read_criteria(frame, first, criteria);
    arguments.out[i] = wrong != 0 ? wrong : of(frame, criteria);
  }
}

struct Tally {
  Sum sum;
  std::size_t count = 0;
  double least = 0, most = 0, wrong = 0;
  void take(double x) {
    if (is_error(x) && wrong == 0) wrong = x;
    if (!std::isfinite(x)) return;
    least = count ? std::min(least, x) : x;
    most = count ? std::max(most, x) : x;
    sum.add(x);
    ++count;
  }
};

// SUMIF and AVERAGEIF: a range, a criterion, and perhaps what is added instead, whose shape is the range's.
double tally_if(const Frame& frame, const std::vector<Criterion>& criteria, Tally& tally) {
  const std::size_t added = frame.has(2) ? 2 : 0;
  if (frame.shape(added).size() != frame.shape(0).size()) return fault(Error::value);
  each_that_meets(frame, 0, criteria, [&](std::size_t j) { tally.take(frame.at(added, j)); });
  return tally.wrong;
}

double tally_ifs(const Frame& frame, const std::vector<Criterion>& criteria, Tally& tally) {
  if (frame.shape(0).size() != frame.shape(1).size()) return fault(Error::value);
  each_that_meets(frame, 1, criteria, [&](std::size_t j) { tally.take(frame.at(0, j)); });
  return tally.wrong;
}
typedef double (*Tallies)(const Frame&, const std::vector<Criterion>&, Tally&);

template <Tallies tallies>
double sum_of_met(const Frame& frame, const std::vector<Criterion>& criteria) {
  Tally tally;
  const double wrong = tallies(frame, criteria, tally);
  return wrong != 0 ? wrong : tally.sum.value();
}
template <Tallies tallies>
double average_of_met(const Frame& frame, const std::vector<Criterion>& criteria) {
  Tally tally;
  const double wrong = tallies(frame, criteria, tally);
  return wrong != 0 ? wrong : tally.count == 0 ? fault(Error::division) : tally.sum.value() / static_cast<double>(tally.count);
}
double least_ifs(const Frame& frame, const std::vector<Criterion>& criteria) {
  Tally tally;
  const double wrong = tally_ifs(frame, criteria, tally);
  return wrong != 0 ? wrong : tally.least;
}
double most_ifs(const Frame& frame, const std::vector<Criterion>& criteria) {
  Tally tally;
  const double wrong = tally_ifs(frame, criteria, tally);
  return wrong != 0 ? wrong : tally.most;
}
double count_ifs(const Frame& frame, const std::vector<Criterion>& criteria) {
  double count = 0;
  each_that_meets(frame, 0, criteria, [&](std::size_t) { ++count; });
  return count;
}

}  // namespace

std::vector<Definition> mathematics_definitions() {
  Definition products = {"SUMPRODUCT", 1, -1, "r", sum_of_products};
  products.flags = takes_array;
  return {by_block("SUM", 1, -1, "r", sum_columns, sum), products, {"PRODUCT", 1, -1, "r", product}, {"SUMSQ", 1, -1, "r", sum_of_squares},
          {"SUMX2MY2", 2, 2, "r", over_pairs<SquaresLess>}, {"SUMX2PY2", 2, 2, "r", over_pairs<SquaresMore>},
          {"SUMXMY2", 2, 2, "r", over_pairs<SquareOfLess>}, by_block("SUMIF", 2, 3, "rvr", with_criteria<0, sum_of_met<tally_if>>), by_block("AVERAGEIF", 2, 3, "rvr", with_criteria<0, average_of_met<tally_if>>),
          by_block("COUNTIF", 2, 2, "rv", with_criteria<0, count_ifs>), by_block("SUMIFS", 3, -1, "rrv", with_criteria<1, sum_of_met<tally_ifs>>),
          by_block("AVERAGEIFS", 3, -1, "rrv", with_criteria<1, average_of_met<tally_ifs>>), by_block("MINIFS", 3, -1, "rrv", with_criteria<1, least_ifs>),
          by_block("MAXIFS", 3, -1, "rrv", with_criteria<1, most_ifs>), by_block("COUNTIFS", 2, -1, "rv", with_criteria<0, count_ifs>),
          of_number("ABS", std::fabs), of_number("SIGN", sign), of_number("SQRT", square_root), of_number("EXP", std::exp), of_number("LN", logarithm),
          of_number("LOG10", logarithm_10), of_number("INT", whole), of_number("EVEN", even), of_number("ODD", odd), of_number("FACT", factorial),
          of_number("SIN", std::sin), of_number("COS", std::cos), of_number("TAN", std::tan), of_number("ASIN", arc_sine), of_number("ACOS", arc_cosine),
          of_number("ATAN", std::atan), of_number("SINH", std::sinh), of_number("COSH", std::cosh), of_number("TANH", std::tanh), of_number("ASINH", std::asinh),
          of_number("ACOSH", area_cosine), of_number("ATANH", area_tangent), of_number("RADIANS", [](double x) { return x / 180 * pi; }),
          of_number("DEGREES", [](double x) { return x / pi * 180; }), of_number("SQRTPI", [](double x) { return square_root(x * pi); }),
          of_numbers("ATAN2", arc_tangent_of), of_numbers("MOD", remainder), of_numbers("QUOTIENT", quotient), of_numbers("ROUND", round_to, 1),
          of_numbers("ROUNDUP", round_up, 1), of_numbers("ROUNDDOWN", round_down, 1), of_numbers("MROUND", to_multiple), of_numbers("CEILING", ceiling_of),
          of_numbers("FLOOR", floor_of), of_numbers("COMBIN", combinations), {"TRUNC", 1, 2, "v", truncated}, {"POWER", 2, 2, "v", power_of},
          {"LOG", 1, 2, "v", logarithm_to}, {"PI", 0, 0, "", pi_value}, {"CEILING.MATH", 1, 3, "v", to_multiple_of<true>},
          {"FLOOR.MATH", 1, 3, "v", to_multiple_of<false>}};
}

}  // namespace sheet
}  // namespace ensayo
