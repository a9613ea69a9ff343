#include "exact.h"
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

HeldOut held_out_distances(const int* band, const int* group, const int* order, const char* last, std::size_t n, int bands,
                           int groups) {
  const auto size = static_cast<std::size_t>(bands);
  HeldOut out{std::vector<double>(size * static_cast<std::size_t>(groups)),
              std::vector<double>(size * static_cast<std::size_t>(groups))};
  for (int held = 0; held < groups; ++held) {
    std::vector<double> count(size), seen(size), farthest(size), at_most(size);
    double all = 0;
    for (std::size_t i = 0; i < n; ++i) {
      if (group[i] == held) continue;
      ++count[static_cast<std::size_t>(band[i] - 1)];
      ++all;
    }
    std::vector<std::size_t> place(size, n);
    double passed = 0;
    for (std::size_t i = 0; i < n; ++i) {
      const auto run = static_cast<std::size_t>(order[i]);
      if (group[run] != held) {
        ++seen[static_cast<std::size_t>(band[run] - 1)];
        ++passed;
      }
      if (!last[i]) continue;
      for (std::size_t k = 0; k < size; ++k) {
        if (count[k] == 0) continue;
        const double apart = seen[k] / count[k] - passed / all;
        if (std::fabs(apart) > std::fabs(farthest[k])) {
          farthest[k] = apart;
          place[k] = i;
        }
      }
    }
    const auto row = static_cast<std::size_t>(held) * size;
    double own = 0;
    std::vector<double> own_at_most(size);
    for (std::size_t i = 0; i < n; ++i) {
      const auto run = static_cast<std::size_t>(order[i]);
      if (group[run] != held) continue;
      ++own;
      const auto of = static_cast<std::size_t>(band[run] - 1);
      ++out.count[row + of];
      if (i <= place[of]) ++own_at_most[of];
      for (std::size_t k = 0; k < size; ++k) at_most[k] += i <= place[k];
    }
    for (std::size_t k = 0; k < size; ++k) {
      const double in_band = out.count[row + k];
      if (in_band == 0) continue;
      out.distance[row + k] = (farthest[k] < 0 ? -1 : 1) * (own_at_most[k] / in_band - at_most[k] / own);
    }
  }
  return out;
}

}  // namespace ensayo
