#include "exact.h"
#include "moments.h"

#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

#include "vectors.h"

namespace ensayo {

double pairwise_total(std::vector<double> sums) {
  while (sums.size() > 1) {
    std::size_t out = 0;
    for (std::size_t i = 0; i < sums.size(); i += 2) {
      sums[out++] = i + 1 < sums.size() ? sums[i] + sums[i + 1] : sums[i];
    }
    sums.resize(out);
  }
  return sums.empty() ? 0 : sums[0];
}

namespace {

constexpr std::size_t cell = 4096;  // of a grid counted from the first run, so that chunks never show in the bits

// Calls visit(values, how many) with the finite values of each cell of the grid.
template <class Visit>
void over_cells(const double* x, std::size_t n, bool all_finite, Visit visit) {
  std::vector<double> kept(cell);
  for (std::size_t start = 0; start < n; start += cell) {
    const std::size_t size = std::min(cell, n - start);
    if (all_finite) {
      visit(x + start, size);
      continue;
    }
    std::size_t count = 0;
    for (std::size_t i = start; i < start + size; ++i) {
      kept[count] = x[i];
      count += std::isfinite(x[i]);
    }
    if (count > 0) visit(kept.data(), count);
  }
}

// A power of two near the largest distance from `centre`, or 1 where fourth powers are safe as they are.
double safe_scale(double spread) {
  if (spread == 0 || (spread < 1e70 && spread > 1e-70)) return 1;
  return std::ldexp(1.0, std::ilogb(spread));
}

}  // namespace

Moments moments(const double* x, std::size_t n) {
  Moments out;
  for (std::size_t i = 0; i < n; ++i) out.count += std::isfinite(x[i]);
  if (out.count == 0) return out;
  const bool whole = out.count == n;
  bool seen = false;
  over_cells(x, n, whole, [&](const double* v, std::size_t size) {
    const Range range = range_of(v, size);
    out.min = seen ? std::min(out.min, range.low) : range.low;
    out.max = seen ? std::max(out.max, range.high) : range.high;
    seen = true;
  });
  const double count = static_cast<double>(out.count);
  if (out.min == out.max) {  // a constant has its own value as its mean, without rounding
    out.mean = out.min;
    return out;
  }
  // Values are taken relative to a half-way point in halves, so that neither the sum nor a difference overflows.
  const double centre = out.min / 2 + out.max / 2;
  const double reach = std::max(out.max / 2 - centre / 2, centre / 2 - out.min / 2);
  const double unit = reach > 1e280 ? std::ldexp(1.0, 60) : 1;
  out.scale = safe_scale(reach);
  // sums of the first `powers` powers of the distance from `from`, in units that are powers of two
  auto sums = [&](double from, double in, unsigned powers) {
    std::vector<std::vector<double>> parts(powers);
    over_cells(x, n, whole, [&](const double* v, std::size_t size) {
      double totals[4];
      power_sums(v, size, from / in, 1 / in, totals);
      for (unsigned k = 0; k < powers; ++k) parts[k].push_back(totals[k]);
    });
    std::vector<double> means;
    for (const std::vector<double>& part : parts) means.push_back(pairwise_total(part) / count);
    return means;
  };
  out.mean = centre + sums(centre, unit, 1)[0] * unit;
  // The second pass also corrects the mean's own rounding (Chan, Golub and LeVeque 1983, eq. 1.7).
  const std::vector<double> about = sums(out.mean, out.scale, 4);
  out.m2 = about[1] - about[0] * about[0];
  out.m3 = about[2];
  out.m4 = about[3];
  return out;
}

}  // namespace ensayo
