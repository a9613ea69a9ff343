// Statistics of ranges.
#include "exact.h"
#include "sheet_function.h"

#include <algorithm>
#include <cmath>

#include "program.h"

namespace ensayo {
namespace sheet {

namespace {

// A function of the numbers of all arguments.
template <double (*f)(std::vector<double>&)>
double of_all_numbers(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  const double wrong = numbers_of(frame, 0, numbers);
  return wrong != 0 ? wrong : f(numbers);
}

double sum_of(const std::vector<double>& x) {
  long double sum = 0;
  for (double each : x) sum += each;
  return static_cast<double>(sum);
}
double mean_of(const std::vector<double>& x) { return sum_of(x) / static_cast<double>(x.size()); }
double average(std::vector<double>& x) { return x.empty() ? fault(Error::division) : mean_of(x); }
double least(std::vector<double>& x) { return x.empty() ? 0 : *std::min_element(x.begin(), x.end()); }
double most(std::vector<double>& x) { return x.empty() ? 0 : *std::max_element(x.begin(), x.end()); }

struct Smaller { static double of(double x, double y) { return y < x ? y : x; } };
struct Larger { static double of(double x, double y) { return y > x ? y : x; } };

// Column after column; only where something is no number runs are looked at one by one.
template <class Rule>
void extreme_of_columns(const Call& call, const Arguments& arguments, std::size_t n) {
  const bool cells = std::all_of(call.shapes.begin(), call.shapes.end(), [](const Shape& shape) { return shape.reference; });
  double* __restrict out = arguments.out;
  bool odd = arguments.count == 0, begun = false;
  double same = 0;
  bool any_same = false;
  for (std::size_t k = 0; k < arguments.count && !odd; ++k) {
    const double* __restrict x = arguments.values[k];
    if (arguments.single[k]) {
      if (std::isfinite(*x)) {
        same = any_same ? Rule::of(same, *x) : *x;
        any_same = true;
      } else odd = !(cells && (is_type(*x, Type::empty) || is_type(*x, Type::text)));
      continue;
    }
    odd = !all_finite(x, n);
    if (odd) break;
    if (begun) for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(out[i], x[i]);
    else std::copy(x, x + n, out);
    begun = true;
  }
  if (odd || !begun) {
    for (std::size_t i = 0; i < n; ++i) out[i] = call.in_run(arguments, i);
  } else if (any_same) {
    for (std::size_t i = 0; i < n; ++i) out[i] = Rule::of(out[i], same);
  }
}

double squares_about_mean(const std::vector<double>& x) {
  const double mean = mean_of(x);
  long double out = 0;
  for (double each : x) out += (each - mean) * (each - mean);
  return static_cast<double>(out);
}
double variance(std::vector<double>& x) { return x.size() < 2 ? fault(Error::division) : squares_about_mean(x) / static_cast<double>(x.size() - 1); }
double variance_of_all(std::vector<double>& x) { return x.empty() ? fault(Error::division) : squares_about_mean(x) / static_cast<double>(x.size()); }
double deviation(std::vector<double>& x) { return x.size() < 2 ? fault(Error::division) : std::sqrt(variance(x)); }
double deviation_of_all(std::vector<double>& x) { return x.empty() ? fault(Error::division) : std::sqrt(variance_of_all(x)); }
double squares(std::vector<double>& x) { return x.empty() ? fault(Error::number) : squares_about_mean(x); }

double absolute_deviation(std::vector<double>& x) {
  if (x.empty()) return fault(Error::number);
  const double mean = mean_of(x);
  double out = 0;
  for (double each : x) out += std::fabs(each - mean);
  return out / static_cast<double>(x.size());
}

double geometric_mean(std::vector<double>& x) {
  double out = 0;
  for (double each : x) {
    if (each <= 0) return fault(Error::number);
    out += std::log(each);
  }
  return x.empty() ? fault(Error::number) : std::exp(out / static_cast<double>(x.size()));
}

double harmonic_mean(std::vector<double>& x) {
  double out = 0;
  for (double each : x) {
    if (each <= 0) return fault(Error::number);
    out += 1 / each;
  }
  return x.empty() ? fault(Error::number) : static_cast<double>(x.size()) / out;
}

// The value of a sorted list at a place between 0 and 1, straight between neighbours.
double at_share(std::vector<double>& x, double share) {
  const double place = share * static_cast<double>(x.size() - 1);
  const std::size_t below = static_cast<std::size_t>(std::floor(place));
  std::nth_element(x.begin(), x.begin() + static_cast<std::ptrdiff_t>(below), x.end());
  const double low = x[below];
  if (below + 1 >= x.size()) return low;
  const double high = *std::min_element(x.begin() + static_cast<std::ptrdiff_t>(below) + 1, x.end());
  return low + (place - static_cast<double>(below)) * (high - low);
}

double median(std::vector<double>& x) { return x.empty() ? fault(Error::number) : at_share(x, 0.5); }

double mode(std::vector<double>& x) {
  double best = 0;
  std::size_t most_often = 1;
  // of several, the one that comes first
  for (std::size_t i = 0; i < x.size(); ++i) {
    const std::size_t often = static_cast<std::size_t>(std::count(x.begin() + static_cast<std::ptrdiff_t>(i), x.end(), x[i]));
    if (often > most_often) {
      most_often = often;
      best = x[i];
    }
  }
  return most_often > 1 ? best : fault(Error::missing);
}

// Of one range and a number.
template <double (*f)(std::vector<double>&, double)>
double of_range(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  numbers.clear();
  const double wrong = numbers_in(frame, 0, numbers);
  if (wrong != 0) return wrong;
  double with;
  return frame.number(1, with) ? f(numbers, with) : with;
}

double percentile(std::vector<double>& x, double share) {
  return x.empty() || share < 0 || share > 1 ? fault(Error::number) : at_share(x, share);
}
double percentile_inside(std::vector<double>& x, double share) {
  const double place = share * static_cast<double>(x.size() + 1) - 1;
  if (x.empty() || place < 0 || place > static_cast<double>(x.size() - 1)) return fault(Error::number);
  return x.size() == 1 ? x[0] : at_share(x, place / static_cast<double>(x.size() - 1));
}
double quartile(std::vector<double>& x, double which) {
  which = std::floor(which);
  return x.empty() || which < 0 || which > 4 ? fault(Error::number) : at_share(x, which / 4);
}

double kth_smallest(std::vector<double>& x, double k) {
  k = std::ceil(k);
  if (k < 1 || k > static_cast<double>(x.size())) return fault(Error::number);
  const auto at = x.begin() + static_cast<std::ptrdiff_t>(k) - 1;
  std::nth_element(x.begin(), at, x.end());
  return *at;
}
double kth_largest(std::vector<double>& x, double k) {
  k = std::ceil(k);
  return k < 1 ? fault(Error::number) : kth_smallest(x, static_cast<double>(x.size()) + 1 - k);
}

double rank(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  double x, upward;
  if (!frame.number(0, x)) return x;
  if (!frame.number(2, upward)) return upward;
  numbers.clear();
  const double wrong = numbers_in(frame, 1, numbers);
  if (wrong != 0) return wrong;
  double place = 1;
  bool found = false;
  for (double each : numbers) {
    found = found || each == x;
    place += upward != 0 ? each < x : each > x;
  }
  return found ? place : fault(Error::missing);
}

double count(const Frame& frame) {
  double out = 0;
  for (std::size_t k = 0; k < frame.count(); ++k) {
    const Shape& shape = frame.shape(k);
    for (std::size_t j = 0; j < shape.size(); ++j) {
      const double x = frame.at(k, j);
      if (std::isfinite(x) || (frame.texts().logical_is_number && is_type(x, Type::logical))) ++out;
      else if (!shape.reference && shape.size() == 1 && !is_error(x) && std::isfinite(as_number(x, frame.texts()))) ++out;
    }
  }
  return out;
}

double count_filled(const Frame& frame) {
  double out = 0;
  for (std::size_t k = 0; k < frame.count(); ++k) {
    for (std::size_t j = 0; j < frame.shape(k).size(); ++j) out += !is_type(frame.at(k, j), Type::empty);
  }
  return out;
}

double count_blank(const Frame& frame) {
  double out = 0;
  for (std::size_t j = 0; j < frame.shape(0).size(); ++j) {
    const double x = frame.at(0, j);
    out += is_type(x, Type::empty) || (is_type(x, Type::text) && frame.texts().of(x).empty());
  }
  return out;
}

// With TRUE as 1 and texts of cells as 0.
double numbers_and_more(const Frame& frame, std::vector<double>& out) {
  out.clear();
  for (std::size_t k = 0; k < frame.count(); ++k) {
    for (std::size_t j = 0; j < frame.shape(k).size(); ++j) {
      const double x = frame.at(k, j);
      if (is_error(x)) return x;
      if (is_type(x, Type::empty)) continue;
      out.push_back(std::isfinite(x) ? x : is_type(x, Type::logical) ? payload_of(x) : 0);
    }
  }
  return 0;
}
template <double (*f)(std::vector<double>&)>
double of_all(const Frame& frame) {
  static thread_local std::vector<double> numbers;
  const double wrong = numbers_and_more(frame, numbers);
  return wrong != 0 ? wrong : f(numbers);
}

// Pairs of numbers of two ranges of one size.
struct Pairs {
  double n = 0, x = 0, y = 0, xx = 0, yy = 0, xy = 0;   // sums; of squares and products about the means
  double wrong = 0;
  Pairs(const Frame& frame, std::size_t of_x, std::size_t of_y) {
    if (frame.shape(of_x).size() != frame.shape(of_y).size()) {
      wrong = fault(Error::missing);
      return;
    }
    std::vector<std::pair<double, double>> pairs;
    for (std::size_t j = 0; j < frame.shape(of_x).size(); ++j) {
      const double a = frame.at(of_x, j), b = frame.at(of_y, j);
      if (is_error(a) || is_error(b)) {
        wrong = is_error(a) ? a : b;
        return;
      }
      if (std::isfinite(a) && std::isfinite(b)) pairs.emplace_back(a, b);
    }
    n = static_cast<double>(pairs.size());
    for (const auto& pair : pairs) {
      x += pair.first / n;
      y += pair.second / n;
    }
    for (const auto& pair : pairs) {
      xx += (pair.first - x) * (pair.first - x);
      yy += (pair.second - y) * (pair.second - y);
      xy += (pair.first - x) * (pair.second - y);
    }
  }
};

double correlation(const Frame& frame) {
  const Pairs p(frame, 0, 1);
  return p.wrong != 0 ? p.wrong : p.xx == 0 || p.yy == 0 ? fault(Error::division) : p.xy / std::sqrt(p.xx * p.yy);
}
double share_explained(const Frame& frame) {
  const double r = correlation(frame);
  return is_error(r) ? r : r * r;
}
double covariance_of_all(const Frame& frame) {
  const Pairs p(frame, 0, 1);
  return p.wrong != 0 ? p.wrong : p.n == 0 ? fault(Error::division) : p.xy / p.n;
}
double covariance(const Frame& frame) {
  const Pairs p(frame, 0, 1);
  return p.wrong != 0 ? p.wrong : p.n < 2 ? fault(Error::division) : p.xy / (p.n - 1);
}
// y stands first in these.
double slope(const Frame& frame) {
  const Pairs p(frame, 1, 0);
  return p.wrong != 0 ? p.wrong : p.xx == 0 ? fault(Error::division) : p.xy / p.xx;
}
double intercept(const Frame& frame) {
  const Pairs p(frame, 1, 0);
  return p.wrong != 0 ? p.wrong : p.xx == 0 ? fault(Error::division) : p.y - p.xy / p.xx * p.x;
}
double forecast(const Frame& frame) {
  double at;
  if (!frame.number(0, at)) return at;
  const Pairs p(frame, 2, 1);
  return p.wrong != 0 ? p.wrong : p.xx == 0 ? fault(Error::division) : p.y + p.xy / p.xx * (at - p.x);
}

double standardised(const Frame& frame) {
  double x, mean, sd;
  if (!frame.number(0, x)) return x;
  if (!frame.number(1, mean)) return mean;
  if (!frame.number(2, sd)) return sd;
  return sd <= 0 ? fault(Error::number) : (x - mean) / sd;
}

}  // namespace

std::vector<Definition> statistics_definitions() {
  return {by_block("MIN", 1, -1, "r", extreme_of_columns<Smaller>, of_all_numbers<least>),
          by_block("MAX", 1, -1, "r", extreme_of_columns<Larger>, of_all_numbers<most>), {"AVERAGE", 1, -1, "r", of_all_numbers<average>},
          {"MEDIAN", 1, -1, "r", of_all_numbers<median>}, {"STDEV", 1, -1, "r", of_all_numbers<deviation>}, {"STDEV.S", 1, -1, "r", of_all_numbers<deviation>},
          {"STDEVP", 1, -1, "r", of_all_numbers<deviation_of_all>}, {"STDEV.P", 1, -1, "r", of_all_numbers<deviation_of_all>},
          {"VAR", 1, -1, "r", of_all_numbers<variance>}, {"VAR.S", 1, -1, "r", of_all_numbers<variance>},
          {"VARP", 1, -1, "r", of_all_numbers<variance_of_all>}, {"VAR.P", 1, -1, "r", of_all_numbers<variance_of_all>},
          {"DEVSQ", 1, -1, "r", of_all_numbers<squares>}, {"AVEDEV", 1, -1, "r", of_all_numbers<absolute_deviation>},
          {"GEOMEAN", 1, -1, "r", of_all_numbers<geometric_mean>}, {"HARMEAN", 1, -1, "r", of_all_numbers<harmonic_mean>},
          {"MODE", 1, -1, "r", of_all_numbers<mode>}, {"MODE.SNGL", 1, -1, "r", of_all_numbers<mode>}, {"COUNT", 1, -1, "r", count},
          {"COUNTA", 1, -1, "r", count_filled}, {"COUNTBLANK", 1, 1, "r", count_blank}, {"AVERAGEA", 1, -1, "r", of_all<average>},
          {"MINA", 1, -1, "r", of_all<least>}, {"MAXA", 1, -1, "r", of_all<most>}, {"PERCENTILE", 2, 2, "rv", of_range<percentile>},
          {"PERCENTILE.INC", 2, 2, "rv", of_range<percentile>}, {"PERCENTILE.EXC", 2, 2, "rv", of_range<percentile_inside>},
          {"QUARTILE", 2, 2, "rv", of_range<quartile>}, {"QUARTILE.INC", 2, 2, "rv", of_range<quartile>},
          {"LARGE", 2, 2, "rv", of_range<kth_largest>}, {"SMALL", 2, 2, "rv", of_range<kth_smallest>}, {"RANK", 2, 3, "vrv", rank},
          {"RANK.EQ", 2, 3, "vrv", rank}, {"CORREL", 2, 2, "r", correlation}, {"PEARSON", 2, 2, "r", correlation},
          {"RSQ", 2, 2, "r", share_explained}, {"COVAR", 2, 2, "r", covariance_of_all}, {"COVARIANCE.P", 2, 2, "r", covariance_of_all},
          {"COVARIANCE.S", 2, 2, "r", covariance}, {"SLOPE", 2, 2, "r", slope}, {"INTERCEPT", 2, 2, "r", intercept},
          {"FORECAST", 3, 3, "vrr", forecast}, {"FORECAST.LINEAR", 3, 3, "vrr", forecast}, {"STANDARDIZE", 3, 3, "v", standardised}};
}

}  // namespace sheet
}  // namespace ensayo
