// Money over time: annuities, present values, rates of return, depreciation.
#include "exact.h"
#include "sheet_function.h"

#include <algorithm>
#include <cmath>

namespace ensayo {
namespace sheet {

namespace {

// value now + payments + value then = 0, payments at the end of a period or, where `early`, at its beginning.
double future_of(double rate, double periods, double payment, double present, bool early) {
  if (rate == 0) return -(present + payment * periods);
  const double growth = std::pow(1 + rate, periods);
  return -(present * growth + payment * (early ? 1 + rate : 1) * (growth - 1) / rate);
}

double payment_of(double rate, double periods, double present, double future, bool early) {
  if (periods == 0) return fault(Error::number);
  if (rate == 0) return -(present + future) / periods;
  const double growth = std::pow(1 + rate, periods);
  return -(present * growth + future) * rate / ((early ? 1 + rate : 1) * (growth - 1));
}

double future(const Frame& frame) {
  double x[5] = {};
  const double wrong = read_numbers(frame, x);
  return wrong != 0 ? wrong : future_of(x[0], x[1], x[2], x[3], x[4] != 0);
}

double present(const Frame& frame) {
  double x[5] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] == 0) return -(x[3] + x[2] * x[1]);
  const double growth = std::pow(1 + x[0], x[1]);
  return -(x[3] + x[2] * (x[4] != 0 ? 1 + x[0] : 1) * (growth - 1) / x[0]) / growth;
}

double payment(const Frame& frame) {
  double x[5] = {};
  const double wrong = read_numbers(frame, x);
  return wrong != 0 ? wrong : payment_of(x[0], x[1], x[2], x[3], x[4] != 0);
}

double interest_of(double rate, double period, double periods, double present_value, double future_value, bool early) {
  const double each = payment_of(rate, periods, present_value, future_value, early);
  if (period == 1) return early ? 0 : -present_value * rate;
  const double owed = early ? future_of(rate, period - 2, each, present_value, true) - each : future_of(rate, period - 1, each, present_value, false);
  return owed * rate;
}

double interest(const Frame& frame) {
  double x[6] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[1] < 1 || x[1] > x[2] ? fault(Error::number) : interest_of(x[0], x[1], x[2], x[3], x[4], x[5] != 0);
}

double principal(const Frame& frame) {
  double x[6] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[1] < 1 || x[1] > x[2]) return fault(Error::number);
  return payment_of(x[0], x[2], x[3], x[4], x[5] != 0) - interest_of(x[0], x[1], x[2], x[3], x[4], x[5] != 0);
}

double cumulated(const Frame& frame, bool of_interest) {
  double x[6] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] <= 0 || x[1] <= 0 || x[2] <= 0 || x[3] < 1 || x[4] < x[3] || x[4] > x[1]) return fault(Error::number);
  double out = 0;
  for (double period = std::ceil(x[3]); period <= x[4]; ++period) {
    const double part = interest_of(x[0], period, x[1], x[2], 0, x[5] != 0);
    out += of_interest ? part : payment_of(x[0], x[1], x[2], 0, x[5] != 0) - part;
  }
  return out;
}
double cumulated_interest(const Frame& frame) { return cumulated(frame, true); }
double cumulated_principal(const Frame& frame) { return cumulated(frame, false); }

double periods(const Frame& frame) {
  double x[5] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double rate = x[0], each = x[1] * (x[4] != 0 ? 1 + rate : 1);
  if (rate == 0) return x[1] == 0 ? fault(Error::division) : -(x[2] + x[3]) / x[1];
  const double from = each + x[2] * rate, to = each - x[3] * rate;
  return to / from <= 0 ? fault(Error::number) : std::log(to / from) / std::log1p(rate);
}

// A root by Newton's steps, and where they leave by bisection between two signs.
template <class Value>
double root_of(const Value& value, double guess) {
  double at = guess;
  for (int k = 0; k < 60; ++k) {
    const double here = value(at), step = 1e-7 * std::max(1e-3, std::fabs(at));
    if (!std::isfinite(here)) break;
    const double slope = (value(at + step) - value(at - step)) / (2 * step);
    if (!std::isfinite(slope) || slope == 0) break;
    const double next = at - here / slope;
    if (!(next > -1) || !std::isfinite(next)) break;
    if (std::fabs(next - at) <= 1e-14 * std::max(1.0, std::fabs(next))) return next;
    at = next;
  }
  if (std::isfinite(value(at)) && std::fabs(value(at)) < 1e-9) return at;
  double low = -0.999999, at_low = value(low);
  for (double high = -0.99; high < 1e4; high = high < 0 ? high / 2 + 0.005 : high * 1.5 + 0.01) {
    const double at_high = value(high);
    if (std::isfinite(at_low) && std::isfinite(at_high) && (at_low < 0) != (at_high < 0)) {
      for (int k = 0; k < 200; ++k) {
        const double middle = low + (high - low) / 2, here = value(middle);
        if ((here < 0) == (at_low < 0)) low = middle;
        else high = middle;
      }
      return low + (high - low) / 2;
    }
    low = high;
    at_low = at_high;
  }
  return fault(Error::number);
}

double rate(const Frame& frame) {
  double x[6] = {0, 0, 0, 0, 0, 0.1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] <= 0) return fault(Error::number);
  return root_of([&](double r) {
    if (std::fabs(r) < 1e-10) return x[2] + x[3] + x[1] * x[0];
    const double growth = std::pow(1 + r, x[0]);
    return x[2] * growth + x[3] + x[1] * (x[4] != 0 ? 1 + r : 1) * (growth - 1) / r;
  }, x[5]);
}

double net_present(const Frame& frame) {
  double at;
  if (!frame.number(0, at)) return at;
  if (at == -1) return fault(Error::division);
  static thread_local std::vector<double> flows;
  const double wrong = numbers_of(frame, 1, flows);
  if (wrong != 0) return wrong;
  double out = 0;
  for (std::size_t k = flows.size(); k-- > 0;) out = (out + flows[k]) / (1 + at);
  return out;
}

bool has_both_signs(const std::vector<double>& flows) {
  return std::any_of(flows.begin(), flows.end(), [](double x) { return x > 0; }) && std::any_of(flows.begin(), flows.end(), [](double x) { return x < 0; });
}

double rate_of_return(const Frame& frame) {
  static thread_local std::vector<double> flows;
  flows.clear();
  const double wrong = numbers_in(frame, 0, flows);
  if (wrong != 0) return wrong;
  double guess;
  if (!frame.number(1, guess, 0.1)) return guess;
  if (!has_both_signs(flows)) return fault(Error::number);
  return root_of([&](double r) {
    double out = 0;
    for (std::size_t k = flows.size(); k-- > 0;) out = out / (1 + r) + flows[k];
    return out;
  }, guess);
}

double modified_rate(const Frame& frame) {
  static thread_local std::vector<double> flows;
  flows.clear();
  const double wrong = numbers_in(frame, 0, flows);
  if (wrong != 0) return wrong;
  double finance, again;
  if (!frame.number(1, finance)) return finance;
  if (!frame.number(2, again)) return again;
  if (!has_both_signs(flows)) return fault(Error::division);
  double spent = 0, earned = 0;
  const double last = static_cast<double>(flows.size()) - 1;
  for (std::size_t k = 0; k < flows.size(); ++k) {
    if (flows[k] < 0) spent -= flows[k] / std::pow(1 + finance, static_cast<double>(k));
    else earned += flows[k] * std::pow(1 + again, last - static_cast<double>(k));
  }
  return std::pow(earned / spent, 1 / last) - 1;
}

// Payments and their days; the error among them, or 0.
double dated(const Frame& frame, std::size_t first, std::vector<double>& flows, std::vector<double>& days) {
  flows.clear();
  days.clear();
  double wrong = numbers_in(frame, first, flows);
  if (wrong == 0) wrong = numbers_in(frame, first + 1, days);
  if (wrong != 0) return wrong;
  return flows.empty() || flows.size() != days.size() ? fault(Error::number) : 0;
}

double present_of_dated(const std::vector<double>& flows, const std::vector<double>& days, double r) {
  double out = 0;
  for (std::size_t k = 0; k < flows.size(); ++k) out += flows[k] / std::pow(1 + r, (std::floor(days[k]) - std::floor(days[0])) / 365);
  return out;
}

double dated_present(const Frame& frame) {
  static thread_local std::vector<double> flows, days;
  double at;
  if (!frame.number(0, at)) return at;
  const double wrong = dated(frame, 1, flows, days);
  return wrong != 0 ? wrong : present_of_dated(flows, days, at);
}

double dated_rate(const Frame& frame) {
  static thread_local std::vector<double> flows, days;
  double guess;
  const double wrong = dated(frame, 0, flows, days);
  if (wrong != 0) return wrong;
  if (!frame.number(2, guess, 0.1)) return guess;
  if (!has_both_signs(flows)) return fault(Error::number);
  return root_of([&](double r) { return present_of_dated(flows, days, r); }, guess);
}

double straight_line(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  return wrong != 0 ? wrong : x[2] == 0 ? fault(Error::division) : (x[0] - x[1]) / x[2];
}

double sum_of_years(const Frame& frame) {
  double x[4] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[3] < 1 || x[3] > x[2] ? fault(Error::number) : (x[0] - x[1]) * (x[2] - x[3] + 1) * 2 / (x[2] * (x[2] + 1));
}

double declining(const Frame& frame) {
  double x[5] = {0, 0, 0, 0, 2};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double cost = x[0], salvage = x[1], life = x[2], period = x[3], share = x[4] / life;
  if (cost < 0 || salvage < 0 || period < 1 || period > life || x[4] <= 0) return fault(Error::number);
  const double before = share >= 1 ? (period == 1 ? cost : 0) : cost * std::pow(1 - share, period - 1);
  const double after = share >= 1 ? 0 : cost * std::pow(1 - share, period);
  return std::max(0.0, before - std::max(after, salvage));
}

double fixed_declining(const Frame& frame) {
  double x[5] = {0, 0, 0, 0, 12};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double cost = x[0], salvage = x[1], life = x[2], period = x[3], months = x[4];
  if (cost <= 0 || salvage < 0 || life <= 0 || period < 1 || period > life + 1 || months < 1 || months > 12) return fault(Error::number);
  const double share = rounded(1 - std::pow(salvage / cost, 1 / life), 3), first = cost * share * months / 12;
  if (period == 1) return first;
  double gone = first, out = 0;
  for (double k = 2; k <= period; ++k) {
    out = k > life ? (cost - gone) * share * (12 - months) / 12 : (cost - gone) * share;
    gone += out;
  }
  return out;
}

double effective(double nominal, double times) {
  times = std::floor(times);
  return nominal <= 0 || times < 1 ? fault(Error::number) : std::pow(1 + nominal / times, times) - 1;
}
double nominal(double effective_rate, double times) {
  times = std::floor(times);
  return effective_rate <= 0 || times < 1 ? fault(Error::number) : (std::pow(effective_rate + 1, 1 / times) - 1) * times;
}

double growth_rate(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  return wrong != 0 ? wrong : x[0] <= 0 || x[1] == 0 ? fault(Error::number) : std::pow(x[2] / x[1], 1 / x[0]) - 1;
}

double duration(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[0] <= 0 || x[1] <= 0 || x[2] <= 0 ? fault(Error::number) : (std::log(x[2]) - std::log(x[1])) / std::log1p(x[0]);
}

double schedule_of_rates(const Frame& frame) {
  double out;
  if (!frame.number(0, out)) return out;
  static thread_local std::vector<double> rates;
  rates.clear();
  const double wrong = numbers_in(frame, 1, rates);
  if (wrong != 0) return wrong;
  for (double each : rates) out *= 1 + each;
  return out;
}

}  // namespace

std::vector<Definition> money_definitions() {
  return {{"FV", 3, 5, "v", future}, {"PV", 3, 5, "v", present}, {"PMT", 3, 5, "v", payment}, {"IPMT", 4, 6, "v", interest},
          {"PPMT", 4, 6, "v", principal}, {"CUMIPMT", 6, 6, "v", cumulated_interest}, {"CUMPRINC", 6, 6, "v", cumulated_principal},
          {"NPER", 3, 5, "v", periods}, {"RATE", 3, 6, "v", rate}, {"NPV", 2, -1, "vr", net_present}, {"IRR", 1, 2, "rv", rate_of_return},
          {"MIRR", 3, 3, "rvv", modified_rate}, {"XNPV", 3, 3, "vrr", dated_present}, {"XIRR", 2, 3, "rrv", dated_rate},
          {"SLN", 3, 3, "v", straight_line}, {"SYD", 4, 4, "v", sum_of_years}, {"DDB", 4, 5, "v", declining}, {"DB", 4, 5, "v", fixed_declining},
          of_numbers("EFFECT", effective), of_numbers("NOMINAL", nominal), {"RRI", 3, 3, "v", growth_rate}, {"PDURATION", 3, 3, "v", duration},
          {"FVSCHEDULE", 2, 2, "vr", schedule_of_rates}};
}

}  // namespace sheet
}  // namespace ensayo
