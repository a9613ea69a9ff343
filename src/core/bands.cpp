#pragma GCC optimize("fp-contract=off")
#include "bands.h"

#include <algorithm>
#include <cmath>

namespace ensayo {

BandSums band_sums(const int* band, const double* y, std::size_t n, int bands, double origin) {
  const auto size = static_cast<std::size_t>(bands);
  BandSums out{std::vector<double>(size), std::vector<double>(size), std::vector<double>(size)};
  for (std::size_t i = 0; i < n; ++i) {
    const auto k = static_cast<std::size_t>(band[i] - 1);
    const double d = y[i] - origin;
    ++out.count[k];
    out.sum[k] += d;
    out.squares[k] += d * d;
  }
  return out;
}

std::vector<double> band_distances(const int* band, const int* order, const char* last, std::size_t n, int bands) {
  const auto size = static_cast<std::size_t>(bands);
  std::vector<double> count(size), seen(size), distance(size);
  for (std::size_t i = 0; i < n; ++i) ++count[static_cast<std::size_t>(band[i] - 1)];
  for (std::size_t i = 0; i < n; ++i) {
    ++seen[static_cast<std::size_t>(band[order[i]] - 1)];
    if (!last[i]) continue;
    const double all = static_cast<double>(i + 1) / static_cast<double>(n);
    for (std::size_t k = 0; k < size; ++k) {
      if (count[k] > 0) distance[k] = std::max(distance[k], std::fabs(seen[k] / count[k] - all));
    }
  }
  return distance;
}

}  // namespace ensayo
