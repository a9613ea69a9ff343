#include "exact.h"
#include "correlation.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "normal.h"
#include "stream.h"
#include "vectors.h"

namespace ensayo {

Blocks::Blocks(std::uint64_t n, std::uint64_t size) : count(std::max<std::uint64_t>(1, n / size)) {
  small = n / count;
  larger = n % count;
}

std::uint64_t Blocks::first(std::uint64_t block) const { return block * small + std::min(block, larger); }

std::uint64_t Blocks::holding(std::uint64_t run) const {
  const std::uint64_t head = larger * (small + 1);
  return run < head ? run / (small + 1) : larger + (run - head) / small;
}

std::vector<Copy> copies_among(const std::vector<double>& correlation, std::size_t columns) {
  std::vector<Copy> copies(columns);
  for (std::size_t j = 1; j < columns; ++j) {
    for (std::size_t i = 0; i < j && copies[j].sign == 0; ++i) {
      const double r = correlation[j * columns + i];
      if (std::fabs(r) > 1 - 1e-9) copies[j] = {i, r > 0 ? 1 : -1};
    }
  }
  return copies;
}

void copy_column(double* const* u, std::size_t j, const Copy& copy, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) u[j][i] = copy.sign > 0 ? u[copy.from][i] : 1 - u[copy.from][i];
}

namespace {

double square_length(const std::vector<double>& x) { return dot_product(x.data(), x.data(), x.size()); }

void scale_to_unit(std::vector<double>& x) {
  const double length = std::sqrt(square_length(x));
  if (length < 1e-12) return;
  for (double& v : x) v /= length;
}

// The correlation of normal scores that goes with a rank correlation: Pearson (1907); see Kruskal (1958), eq. 5.2.
double score_correlation(double rank_correlation) {
  return 2 * std::sin(3.14159265358979323846 / 6 * rank_correlation);
}

}  // namespace

RankCorrelator::RankCorrelator(const std::vector<double>& asked, std::size_t columns)
    : asked_(asked), columns_(columns), copies_(copies_among(asked, columns)) {}

void RankCorrelator::reorder(double* const* u, std::size_t n, std::uint64_t part_of) {
  if (n < 2) {
    for (std::size_t j = 1; j < columns_; ++j) {
      if (copies_[j].sign != 0) copy_column(u, j, copies_[j], n);
    }
    return;
  }
  // The strata of a block are a sample of all: of a correlation r between ranks within it, (n - 1) / (n + 1) is left
  // between the numbers themselves, for order statistics scatter about their means.
  const double size = static_cast<double>(n);
  blocks_ = part_of / n;
  whole_ = part_of == n;
  start(n, part_of > n ? (size + 1) / (size - 1) : 1);
  place_first(u[0]);
  for (std::size_t j = 1; j < columns_; ++j) {
    if (copies_[j].sign != 0) place_copy(u, j);
    else place(u[j], j);
  }
}

void RankCorrelator::start(std::size_t n, double widened) {
  widened_ = widened;
  placed_.assign(columns_, std::vector<double>());
  basis_.clear();
  coordinates_.clear();
  members_.clear();
  if (n == n_) return;
  n_ = n;
  scores_.resize(n);
  ranks_.resize(n);
  for (std::size_t i = 0; i < n; ++i) {
    scores_[i] = (static_cast<double>(i) + 1) / (static_cast<double>(n) + 1);
    ranks_[i] = static_cast<double>(i) - (static_cast<double>(n) - 1) / 2;
  }
  normal_quantiles(scores_.data(), n, scores_.data());
  scale_to_unit(scores_);
  scale_to_unit(ranks_);
}

namespace {

// How many values are smaller than each.
void count_smaller(const std::vector<Sorter::Entry>& sorted, std::vector<std::uint32_t>& place) {
  place.resize(sorted.size());
  for (std::size_t k = 0; k < sorted.size(); ++k) place[sorted[k].place] = static_cast<std::uint32_t>(k);
}

}  // namespace

// Of a whole hypercube a number's place is its stratum.
void RankCorrelator::sort(const double* u) {
  const auto none = static_cast<std::uint32_t>(n_);
  order_.assign(n_, none);
  bool filled = whole_;
  for (std::size_t i = 0; i < n_ && filled; ++i) {
    const auto stratum = static_cast<std::size_t>(u[i] * static_cast<double>(n_));
    filled = stratum < n_ && order_[stratum] == none;
    if (filled) order_[stratum] = static_cast<std::uint32_t>(i);
  }
  if (filled) return;
  const std::vector<Sorter::Entry>& sorted = sorter_.sort(u, n_);
  for (std::size_t k = 0; k < n_; ++k) order_[k] = sorted[k].place;
}

void RankCorrelator::place_first(const double* u) {
  sort(u);
  std::vector<std::uint32_t> place(n_);
  for (std::size_t k = 0; k < n_; ++k) place[order_[k]] = static_cast<std::uint32_t>(k);
  keep(0, place);
}

void RankCorrelator::place_copy(double* const* u, std::size_t j) {
  copy_column(u, j, copies_[j], n_);
  placed_[j] = placed_[copies_[j].from];
  if (copies_[j].sign < 0) {
    for (double& r : placed_[j]) r = -r;
  }
}

void RankCorrelator::place(double* u, std::size_t j) {
  std::vector<std::uint32_t> place;
  sort(u);
  std::vector<double> sorted(n_), own(n_), mixed(n_);
  for (std::size_t k = 0; k < n_; ++k) {
    sorted[k] = u[order_[k]];
    own[order_[k]] = scores_[k];
  }
  prepare_rest(own.data());

  std::vector<double> asked(j), target(j), missed(j);
  for (std::size_t i = 0; i < j; ++i) {
    asked[i] = std::max(-1.0, std::min(1.0, asked_[j * columns_ + i] * widened_));
  }
  target = asked;
  std::vector<std::uint32_t> best;
  double least = 2;
  constexpr int feedbacks = 2;
  const double enough = 2e-4 * std::min(10.0, std::sqrt(static_cast<double>(blocks_)));  // their misses cancel out
  for (int round = 0; round <= feedbacks && least > enough; ++round) {
    const std::vector<double> parts = proportions(target);
    for (std::size_t i = 0; i < n_; ++i) mixed[i] = parts.back() * own[i];
    for (std::size_t b = 0; b < basis_.size(); ++b) add_multiple(parts[b], basis_[b].data(), n_, mixed.data());
    count_smaller(sorter_.sort(mixed.data(), n_), place);
    std::vector<double> ranks(n_);
    for (std::size_t i = 0; i < n_; ++i) ranks[i] = ranks_[place[i]];
    double worst = 0;
    for (std::size_t i = 0; i < j; ++i) {
      missed[i] = asked[i] - dot_product(placed_[i].data(), ranks.data(), n_);
      worst = std::max(worst, std::fabs(missed[i]));
    }
    if (worst < least) {
      least = worst;
      best = place;
    }
    for (std::size_t i = 0; i < j; ++i) target[i] = std::max(-1.0, std::min(1.0, target[i] + missed[i]));
  }
  for (std::size_t i = 0; i < n_; ++i) u[i] = sorted[best[i]];
  keep(j, best);
}

namespace {

// Solves (normal + ridge) x = right by Cholesky's factors; of `normal` the lower triangle is read.
void solve_with_ridge(const std::vector<double>& normal, const std::vector<double>& right, double ridge,
                      std::vector<double>& x) {
  const std::size_t k = right.size();
  std::vector<double> factor(normal);
  for (std::size_t i = 0; i < k; ++i) {
    for (std::size_t j = 0; j <= i; ++j) {
      double left = factor[i * k + j] + (i == j ? ridge : 0);
      for (std::size_t a = 0; a < j; ++a) left -= factor[i * k + a] * factor[j * k + a];
      factor[i * k + j] = i == j ? std::sqrt(std::max(left, 1e-300)) : left / factor[j * k + j];
    }
  }
  for (std::size_t i = 0; i < k; ++i) {
    x[i] = right[i];
    for (std::size_t a = 0; a < i; ++a) x[i] -= factor[i * k + a] * x[a];
    x[i] /= factor[i * k + i];
  }
  for (std::size_t i = k; i-- > 0;) {
    for (std::size_t a = i + 1; a < k; ++a) x[i] -= factor[a * k + i] * x[a];
    x[i] /= factor[i * k + i];
  }
}

}  // namespace

// A column's own scores, at a right angle to those of the columns before it.
void RankCorrelator::prepare_rest(double* own) {
  for (const std::vector<double>& b : basis_) add_multiple(-dot_product(b.data(), own, n_), b.data(), n_, own);
  const double length = std::sqrt(dot_product(own, own, n_));
  if (length > 1e-12) {
    for (std::size_t i = 0; i < n_; ++i) own[i] /= length;
  }
}

// How much of each basis vector, and last of the column's own rest, makes scores with the target's correlations.
std::vector<double> RankCorrelator::proportions(const std::vector<double>& target) const {
  const std::size_t k = basis_.size();
  std::vector<double> parts(k + 1), wanted(k);
  double within = 0, shortest = 1;
  for (std::size_t b = 0; b < k; ++b) {
    const std::vector<double>& at = coordinates_[b];
    wanted[b] = score_correlation(target[members_[b]]);
    double left = wanted[b];
    for (std::size_t a = 0; a < b; ++a) left -= parts[a] * at[a];
    parts[b] = left / at[b];
    within += parts[b] * parts[b];
    shortest = std::min(shortest, at[b]);
  }
  if (within > 1 || shortest < 0.1) return nearest_proportions(wanted);
  parts.back() = within > 1 - 1e-9 ? 0 : std::sqrt(1 - within);
  return parts;
}

// In a matrix without much to spare, what a column adds to those before it is little more than the sample's own
// rounding, and no mixture may have all the correlations wanted. Then: the one that misses them by the least sum of
// squares, with a ridge that keeps it from leaning on such columns, and of length 1 at most, with the multiplier found
// by halving.
std::vector<double> RankCorrelator::nearest_proportions(const std::vector<double>& wanted) const {
  const std::size_t k = basis_.size();
  auto coordinate = [&](std::size_t b, std::size_t a) { return a <= b ? coordinates_[b][a] : 0; };
  std::vector<double> normal(k * k), right(k), parts(k + 1);
  for (std::size_t i = 0; i < k; ++i) {
    for (std::size_t b = i; b < k; ++b) {
      right[i] += coordinate(b, i) * wanted[b];
      for (std::size_t j = 0; j <= i; ++j) normal[i * k + j] += coordinate(b, i) * coordinate(b, j);
    }
  }
  auto square_within = [&](double ridge) {
    solve_with_ridge(normal, right, ridge, parts);
    return std::inner_product(parts.begin(), parts.end() - 1, parts.begin(), 0.0);
  };
  double low = 1e-4, high = static_cast<double>(k);
  double within = square_within(low);
  if (within > 1) {
    for (int step = 0; step < 40; ++step) {
      const double middle = std::sqrt(low * high);  // on a scale of powers
      (square_within(middle) > 1 ? low : high) = middle;
    }
    within = square_within(high);
  }
  parts.back() = within > 1 - 1e-9 ? 0 : std::sqrt(1 - within);
  return parts;
}

// A column that those before it determine adds nothing to the basis.
void RankCorrelator::keep(std::size_t j, const std::vector<std::uint32_t>& place) {
  placed_[j].resize(n_);
  std::vector<double> rest(n_);
  for (std::size_t i = 0; i < n_; ++i) {
    placed_[j][i] = ranks_[place[i]];
    rest[i] = scores_[place[i]];
  }
  std::vector<double> along;
  for (const std::vector<double>& b : basis_) {
    along.push_back(dot_product(b.data(), rest.data(), n_));
    add_multiple(-along.back(), b.data(), n_, rest.data());
  }
  const double length = std::sqrt(square_length(rest));
  if (length < 1e-6) return;
  for (double& v : rest) v /= length;
  along.push_back(length);
  basis_.push_back(std::move(rest));
  coordinates_.push_back(std::move(along));
  members_.push_back(j);
}

}  // namespace ensayo
