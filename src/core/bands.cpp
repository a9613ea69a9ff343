#include "exact.h"
#include "bands.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <numeric>

#include "moments.h"
#include "ranks.h"
#include "threads.h"
#include "vectors.h"

namespace ensayo {

namespace {

// Runs in each band, and sums over them.
std::vector<double> runs_in(const int* band, std::size_t n, int bands) {
  std::vector<double> count(static_cast<std::size_t>(bands) + 1);
  for (std::size_t i = 0; i < n; ++i) ++count[static_cast<std::size_t>(band[i])];
  return count;
}

// In two halves, since an addition to a place waits for the one before it; band 0 is nobody's.
template <class Value>
std::vector<double> sums_over(const int* band, std::size_t n, int bands, Value value) {
  std::vector<double> sum(static_cast<std::size_t>(bands) + 1), other(sum.size());
  const std::size_t half = n / 2;
  for (std::size_t i = 0; i < half; ++i) {
    sum[static_cast<std::size_t>(band[i])] += value(i);
    other[static_cast<std::size_t>(band[half + i])] += value(half + i);
  }
  if (n % 2 == 1) sum[static_cast<std::size_t>(band[n - 1])] += value(n - 1);
  for (std::size_t k = 0; k < sum.size(); ++k) sum[k] += other[k];
  return sum;
}

// From each band's runs and sum, and the sum of all squares.
BandVariance variance_of(const std::vector<double>& count, const std::vector<double>& sums, double squares, std::size_t n) {
  const double runs = static_cast<double>(n), bands = static_cast<double>(count.size() - 1);
  double sum = 0, between = 0;
  for (std::size_t k = 1; k < count.size(); ++k) {
    sum += sums[k];
    between += sums[k] * sums[k] / count[k];
  }
  const double total = squares - sum * sum / runs;
  between -= sum * sum / runs;
  const double within = (total - between) / (runs - bands);
  BandVariance found;
  // all the same, or each band one value: nothing left to test against
  if (!(total > 0)) return found;
  if (!(within > 1e-15 * total)) {
    found.index = between / total;
    found.f = std::numeric_limits<double>::infinity();
    return found;
  }
  found.index = (between - (bands - 1) * within) / total;
  found.f = between / (bands - 1) / within;
  return found;
}

// A column's distances from its mean.
std::vector<double> centred(const double* y, std::size_t n) {
  std::vector<double> out(y, y + n);
  const double mean = pairwise_total(out) / static_cast<double>(n);
  for (double& value : out) value -= mean;
  return out;
}

// A column's distinct values in increasing order; where they are more than `most`, the first ones that tell so.
std::vector<double> few_distinct(const double* x, std::size_t n, std::size_t most) {
  std::vector<double> seen;
  for (std::size_t i = 0; i < n && seen.size() <= most; ++i) {
    const auto at = std::lower_bound(seen.begin(), seen.end(), x[i]);
    if (at == seen.end() || *at != x[i]) seen.insert(at, x[i]);
  }
  return seen;
}

}  // namespace

int rank_bands(const double* ranks, std::size_t n, int bands, int* band) {
  const std::vector<double> distinct = few_distinct(ranks, n, static_cast<std::size_t>(bands));
  if (distinct.size() <= static_cast<std::size_t>(bands)) {
    for (std::size_t i = 0; i < n; ++i) {
      band[i] = static_cast<int>(std::lower_bound(distinct.begin(), distinct.end(), ranks[i]) - distinct.begin()) + 1;
    }
    return static_cast<int>(distinct.size());
  }
  bands = std::max(2, static_cast<int>(std::min(static_cast<std::size_t>(bands), n / 20)));
  std::vector<int> number(static_cast<std::size_t>(bands) + 1);
  const double factor = bands / static_cast<double>(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double at = ranks[i] * factor - 1e-9;
    band[i] = static_cast<int>(at);
    band[i] += band[i] < at;
    number[static_cast<std::size_t>(band[i])] = 1;
  }
  int filled = 0;
  for (int& place : number) if (place > 0) place = ++filled;
  for (std::size_t i = 0; i < n; ++i) band[i] = number[static_cast<std::size_t>(band[i])];
  return filled;
}

BandVariance band_variance(const int* band, const double* y, std::size_t n, int bands) {
  const std::vector<double> from_mean = centred(y, n);
  return variance_of(runs_in(band, n, bands), sums_over(band, n, bands, [&](std::size_t i) { return from_mean[i]; }),
                     dot_product(from_mean.data(), from_mean.data(), n), n);
}

Shapes::Shapes(const double* y_ranks, std::size_t n) : y_(centred(y_ranks, n)), length_(dot_product(y_.data(), y_.data(), n)) {}

Shape Shapes::of(const double* ranks, const int* band, int bands) const {
  const std::size_t n = y_.size();
  // what is left of the ranks' squares about their mean, (n + 1) / 2
  const double runs = static_cast<double>(n), length = dot_product(ranks, ranks, n) - runs * (runs + 1) * (runs + 1) / 4;
  const double both = dot_product(ranks, y_.data(), n);
  Shape shape;
  shape.square = both * both / length / length_;
  const std::vector<double> count = runs_in(band, n, bands);
  std::vector<double> mean = sums_over(band, n, bands, [&](std::size_t i) { return y_[i]; });
  shape.curve = variance_of(count, mean, length_, n);
  for (std::size_t k = 1; k < count.size(); ++k) mean[k] /= count[k];
  std::vector<double> left(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double d = y_[i] - mean[static_cast<std::size_t>(band[i])];
    left[i] = d * d;
  }
  const std::vector<double> sums = sums_over(band, n, bands, [&](std::size_t i) { return left[i]; });
  if (std::accumulate(sums.begin(), sums.end(), 0.0) >= 1e-9 * length_) {
    shape.spread = variance_of(count, sums, dot_product(left.data(), left.data(), n), n);
  }
  return shape;
}

void shapes(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n, int most, unsigned threads,
            Shape* out, int* bands) {
  struct Room {
    Sorter sorter;
    std::vector<double> ranks;
    std::vector<int> band;
  };
  std::vector<Room> rooms(threads);
  auto ranked = [n](Room& room, const double* column) {
    room.ranks.resize(n);
    room.sorter.mid_ranks(column, n, room.ranks.data());
  };
  std::vector<std::unique_ptr<Shapes>> of_y(y.size());
  share_out_to_workers(y.size(), threads, [&](std::size_t j, std::size_t worker) {
    ranked(rooms[worker], y[j]);
    of_y[j] = std::make_unique<Shapes>(rooms[worker].ranks.data(), n);
  });
  share_out_to_workers(x.size(), threads, [&](std::size_t i, std::size_t worker) {
    Room& room = rooms[worker];
    ranked(room, x[i]);
    room.band.resize(n);
    bands[i] = rank_bands(room.ranks.data(), n, most, room.band.data());
    for (std::size_t j = 0; j < y.size(); ++j) out[j * x.size() + i] = of_y[j]->of(room.ranks.data(), room.band.data(), bands[i]);
  });
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
