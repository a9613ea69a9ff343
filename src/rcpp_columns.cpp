// Doors to whole columns: moments, ranks, order statistics, correlations, bands, parts, extremes and counts.
#include <Rcpp.h>

#include <algorithm>
#include <cmath>

#include "core/bands.h"
#include "core/correlations.h"
#include "core/density.h"
#include "core/moments.h"
#include "core/percentiles.h"
#include "core/ranks.h"
#include "core/threads.h"
#include "core/vectors.h"
#include "doors.h"

// The moments of one column; values that are not finite are passed over.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_moments(Rcpp::NumericVector x) {
  const ensayo::Moments m = ensayo::moments(x.begin(), static_cast<std::size_t>(x.size()));
  return Rcpp::List::create(
      Rcpp::Named("count") = static_cast<double>(m.count), Rcpp::Named("mean") = m.mean, Rcpp::Named("min") = m.min,
      Rcpp::Named("max") = m.max, Rcpp::Named("m2") = m.m2, Rcpp::Named("m3") = m.m3, Rcpp::Named("m4") = m.m4,
      Rcpp::Named("scale") = m.scale);
}

// Ranks of each column, ties sharing theirs; no value is missing.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_mid_ranks(Rcpp::List columns, int threads) {
  Rcpp::List out(columns.size());
  std::vector<const double*> from;
  std::vector<double*> to;
  std::vector<std::size_t> sizes;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    const R_xlen_t size = Rf_xlength(columns[j]);
    Rcpp::NumericVector ranks(Rcpp::no_init(size));
    out[j] = ranks;
    from.push_back(doubles(columns[j]));
    to.push_back(ranks.begin());
    sizes.push_back(static_cast<std::size_t>(size));
  }
  out.names() = columns.names();
  std::vector<ensayo::Sorter> sorters(static_cast<std::size_t>(threads));
  ensayo::share_out_to_workers(from.size(), static_cast<unsigned>(threads), [&](std::size_t j, std::size_t worker) {
    sorters[worker].mid_ranks(from[j], sizes[j], to[j]);
  });
  return out;
}

// The values of some ranks, counted from 1 and increasing.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_order_statistics(Rcpp::NumericVector x, Rcpp::NumericVector ranks) {
  std::vector<std::size_t> wanted;
  for (double rank : ranks) wanted.push_back(static_cast<std::size_t>(rank) - 1);
  return Rcpp::wrap(ensayo::order_statistics(x.begin(), static_cast<std::size_t>(x.size()), wanted));
}

// Pearson's or, of `ranks`, Spearman's correlation of each column of `x` (rows) with each of `y`; NaN where a column is
// constant. Columns are equally long, and finite.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cpp_correlations(Rcpp::List x, Rcpp::List y, bool ranks, int threads) {
  const std::vector<const double*> left = columns_of(x), right = columns_of(y);
  const std::size_t n = left.empty() ? 0 : static_cast<std::size_t>(Rf_xlength(x[0]));
  Rcpp::NumericMatrix out(static_cast<int>(left.size()), static_cast<int>(right.size()));
  (ranks ? ensayo::rank_correlations : ensayo::correlations)(left, right, n, static_cast<unsigned>(threads), out.begin());
  return out;
}

// Sums and products of columns within blocks of runs: list(sums, products), an array each with the blocks last.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_block_products(Rcpp::List columns, double blocks, int threads) {
  const std::vector<const double*> x = columns_of(columns);
  const std::size_t n = x.empty() ? 0 : static_cast<std::size_t>(Rf_xlength(columns[0]));
  const auto p = static_cast<int>(x.size()), count = static_cast<int>(blocks);
  Rcpp::NumericVector sums(Rcpp::Dimension(p, count)), products(Rcpp::Dimension(p, p, count));
  ensayo::block_products(x, n, static_cast<std::size_t>(count), static_cast<unsigned>(threads), sums.begin(),
                         products.begin());
  return Rcpp::List::create(Rcpp::Named("sums") = sums, Rcpp::Named("products") = products);
}

// `count` values after the first `first`.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_part(Rcpp::NumericVector x, double first, double count) {
  const double* from = x.begin() + static_cast<R_xlen_t>(first);
  return Rcpp::NumericVector(from, from + static_cast<R_xlen_t>(count));
}

// The runs, counted from 1, of the first least and the first greatest value; none where all are missing.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_extreme_runs(Rcpp::NumericVector x) {
  const double* known = std::find_if(x.begin(), x.end(), [](double v) { return !std::isnan(v); });
  if (known == x.end()) return Rcpp::NumericVector();
  const ensayo::Range range = ensayo::range_of(known, static_cast<std::size_t>(x.end() - known));
  return {static_cast<double>(std::find(known, static_cast<const double*>(x.end()), range.low) - x.begin()) + 1,
          static_cast<double>(std::find(known, static_cast<const double*>(x.end()), range.high) - x.begin()) + 1};
}

// The least and the greatest of at least one value, of which none is missing.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_range(Rcpp::NumericVector x) {
  const ensayo::Range range = ensayo::range_of(x.begin(), static_cast<std::size_t>(x.size()));
  return {range.low, range.high};
}

// How many values are below one and equal to it, and how many are finite.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_counts_about(Rcpp::NumericVector x, double value) {
  std::size_t below = 0, equal = 0, finite = 0;
  for (double v : x) {
    below += v < value;
    equal += v == value;
    finite += std::isfinite(v);
  }
  return Rcpp::NumericVector::create(
      Rcpp::Named("below") = static_cast<double>(below), Rcpp::Named("equal") = static_cast<double>(equal),
      Rcpp::Named("finite") = static_cast<double>(finite));
}

// Whether every finite value is a whole number.
// [[Rcpp::export(rng = false)]]
bool cpp_all_whole(Rcpp::NumericVector x) {
  return std::all_of(x.begin(), x.end(), [](double v) { return !std::isfinite(v) || v == std::floor(v); });
}

// How many values lie in each of `cells` cells of one width from `from` on; those outside are passed over, and the
// last cell has its upper end.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_cell_counts(Rcpp::NumericVector x, double from, double width, int cells) {
  Rcpp::NumericVector counts(cells);
  const double scale = 1 / width;
  for (double v : x) {
    const double cell = (v - from) * scale;
    if (cell >= 0 && cell < cells) ++counts[static_cast<R_xlen_t>(cell)];
    else if (cell == cells) ++counts[cells - 1];
  }
  return counts;
}

// The place of the greatest of smoothed counts, from 1; see core/density.h.
// [[Rcpp::export(rng = false)]]
double cpp_smoothed_top(std::vector<double> counts, std::vector<double> kernel, bool low, bool high) {
  return static_cast<double>(ensayo::smoothed_top(counts, kernel, {low, high})) + 1;
}

// Bands by ranks; see core/bands.h.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector cpp_rank_bands(Rcpp::NumericVector ranks, int bands) {
  Rcpp::IntegerVector band(Rcpp::no_init(ranks.size()));
  ensayo::rank_bands(ranks.begin(), static_cast<std::size_t>(ranks.size()), bands, band.begin());
  return band;
}

// For each column's bands how many they are, the index and F.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_band_variances(Rcpp::List bands, Rcpp::NumericVector y) {
  const R_xlen_t k = bands.size();
  const auto n = static_cast<std::size_t>(y.size());
  Rcpp::IntegerVector count(k);
  Rcpp::NumericVector index(k), f(k);
  for (R_xlen_t j = 0; j < k; ++j) {
    const Rcpp::IntegerVector band = bands[j];
    count[j] = band.size() > 0 ? *std::max_element(band.begin(), band.end()) : 0;
    const ensayo::BandVariance found = ensayo::band_variance(band.begin(), y.begin(), n, count[j]);
    index[j] = found.index;
    f[j] = found.f;
  }
  return Rcpp::List::create(Rcpp::Named("count") = count, Rcpp::Named("index") = index, Rcpp::Named("f") = f);
}

// What columns `x` do to each of `y`, of the first `n` runs; see core/bands.h. How many bands each of `x` has, and what is said of
// it, a column for each of `y`.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_shapes(Rcpp::List x, Rcpp::List y, double n, int most, int threads) {
  const auto rows = static_cast<int>(x.size()), columns = static_cast<int>(y.size());
  std::vector<ensayo::Shape> shapes(static_cast<std::size_t>(x.size() * y.size()));
  Rcpp::IntegerVector bands(rows);
  ensayo::shapes(columns_of(x), columns_of(y), static_cast<std::size_t>(n), most, static_cast<unsigned>(threads), shapes.data(),
                 bands.begin());
  auto told = [&](auto field) {
    Rcpp::NumericMatrix values(Rcpp::no_init(rows, columns));
    std::transform(shapes.begin(), shapes.end(), values.begin(), field);
    return values;
  };
  typedef const ensayo::Shape& S;
  return Rcpp::List::create(
      Rcpp::Named("bands") = bands, Rcpp::Named("square") = told([](S s) { return s.square; }),
      Rcpp::Named("index") = told([](S s) { return s.curve.index; }), Rcpp::Named("f") = told([](S s) { return s.curve.f; }),
      Rcpp::Named("spread_index") = told([](S s) { return s.spread.index; }),
      Rcpp::Named("spread_f") = told([](S s) { return s.spread.f; }));
}

namespace {
// The runs from the smallest y to the largest, counted from 0, and whether the next is larger.
struct Sorted {
  Sorted(const Rcpp::NumericVector& y, const Rcpp::IntegerVector& order)
      : at(static_cast<std::size_t>(y.size())), last(at.size()) {
    for (std::size_t i = 0; i < at.size(); ++i) at[i] = order[static_cast<R_xlen_t>(i)] - 1;
    for (std::size_t i = 0; i < at.size(); ++i) last[i] = i + 1 == at.size() || y[at[i]] != y[at[i + 1]];
  }
  std::vector<int> at;
  std::vector<char> last;
};
}  // namespace

// For each band the largest distance of its cumulative distribution of y from that of all; `order` as R's order().
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_band_distances(Rcpp::IntegerVector band, Rcpp::NumericVector y, Rcpp::IntegerVector order, int bands) {
  const Sorted sorted(y, order);
  return Rcpp::wrap(ensayo::band_distances(band.begin(), sorted.at.data(), sorted.last.data(), sorted.at.size(), bands));
}

// For each band and each group of runs the distance found without the group and taken from it, and the group's runs in
// the band; `group` counts from 0.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_held_out_distances(Rcpp::IntegerVector band, Rcpp::IntegerVector group, Rcpp::NumericVector y,
                                  Rcpp::IntegerVector order, int bands, int groups) {
  const Sorted sorted(y, order);
  const ensayo::HeldOut found = ensayo::held_out_distances(band.begin(), group.begin(), sorted.at.data(), sorted.last.data(),
                                                           sorted.at.size(), bands, groups);
  return Rcpp::List::create(Rcpp::Named("distance") = Rcpp::NumericMatrix(bands, groups, found.distance.begin()),
                            Rcpp::Named("count") = Rcpp::NumericMatrix(bands, groups, found.count.begin()));
}
