#pragma GCC optimize("fp-contract=off")
#include "moments.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace ensayo {

namespace {

// Sum of term(x[i]) over the finite x[i]: plain sums over a fixed grid of 4096 runs, then pairwise over the grid.
// The grid is counted from the first run, so that chunks never show in the bits.
template <class Term>
double grid_sum(const double* x, std::size_t n, Term term) {
  constexpr std::size_t cell = 4096;
  std::vector<double> sums;
  sums.reserve(n / cell + 1);
  for (std::size_t start = 0; start < n; start += cell) {
    double sum = 0;
    const std::size_t end = std::min(n, start + cell);
    for (std::size_t i = start; i < end; ++i) {
      if (std::isfinite(x[i])) sum += term(x[i]);
    }
    sums.push_back(sum);
  }
  while (sums.size() > 1) {
    std::size_t out = 0;
    for (std::size_t i = 0; i < sums.size(); i += 2) {
      sums[out++] = i + 1 < sums.size() ? sums[i] + sums[i + 1] : sums[i];
    }
    sums.resize(out);
  }
  return sums.empty() ? 0 : sums[0];
}

// A power of two near the largest distance from `centre`, or 1 where fourth powers are safe as they are.
double safe_scale(double spread) {
  if (spread == 0 || (spread < 1e70 && spread > 1e-70)) return 1;
  return std::ldexp(1.0, std::ilogb(spread));
}

}  // namespace

Moments moments(const double* x, std::size_t n) {
  Moments out;
  bool seen = false;
  for (std::size_t i = 0; i < n; ++i) {
    if (!std::isfinite(x[i])) continue;
    out.min = seen ? std::min(out.min, x[i]) : x[i];
    out.max = seen ? std::max(out.max, x[i]) : x[i];
    seen = true;
    ++out.count;
  }
  if (!seen) return out;
  const double count = static_cast<double>(out.count);
  if (out.min == out.max) {  // a constant has its own value as its mean, without rounding
    out.mean = out.min;
    return out;
  }
  // Values are taken relative to a half-way point in halves, so that neither the sum nor a difference overflows.
  const double centre = out.min / 2 + out.max / 2;
  const double reach = std::max(out.max / 2 - centre / 2, centre / 2 - out.min / 2);
  const double unit = reach > 1e280 ? std::ldexp(1.0, 60) : 1;
  const double shift = grid_sum(x, n, [&](double v) { return v / unit - centre / unit; }) / count;
  out.mean = centre + shift * unit;
  out.scale = safe_scale(reach);
  const double s = out.scale, mean = out.mean;
  auto deviation = [s, mean](double v) { return v / s - mean / s; };
  // The second pass also corrects the mean's own rounding (Chan, Golub and LeVeque 1983, eq. 1.7).
  const double drift = grid_sum(x, n, deviation) / count;
  out.m2 = grid_sum(x, n, [&](double v) { const double d = deviation(v); return d * d; }) / count - drift * drift;
  out.m3 = grid_sum(x, n, [&](double v) { const double d = deviation(v); return d * d * d; }) / count;
  out.m4 = grid_sum(x, n, [&](double v) { const double d = deviation(v); return d * d * d * d; }) / count;
  return out;
}

}  // namespace ensayo
