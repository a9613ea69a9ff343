// Doors to ranks and order statistics.
#include <Rcpp.h>

#include "core/correlation.h"
#include "core/percentiles.h"
#include "core/ranks.h"
#include "core/threads.h"

// Ranks of each column, ties sharing theirs; no value is missing.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_mid_ranks(Rcpp::List columns, int threads) {
  Rcpp::List out(columns.size());
  std::vector<const double*> from;
  std::vector<double*> to;
  std::vector<std::size_t> sizes;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    const Rcpp::NumericVector x = columns[j];
    Rcpp::NumericVector ranks(Rcpp::no_init(x.size()));
    out[j] = ranks;
    from.push_back(x.begin());
    to.push_back(ranks.begin());
    sizes.push_back(static_cast<std::size_t>(x.size()));
  }
  out.names() = columns.names();
  const auto workers = static_cast<unsigned>(threads);
  ensayo::share_out(workers, workers, [&](std::size_t worker) {
    ensayo::Sorter sorter;
    for (std::size_t j = worker; j < from.size(); j += workers) sorter.mid_ranks(from[j], sizes[j], to[j]);
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
  std::vector<const double*> left, right;
  for (R_xlen_t j = 0; j < x.size(); ++j) left.push_back(REAL(x[j]));
  for (R_xlen_t j = 0; j < y.size(); ++j) right.push_back(REAL(y[j]));
  const std::size_t n = left.empty() ? 0 : static_cast<std::size_t>(Rf_xlength(x[0]));
  Rcpp::NumericMatrix out(static_cast<int>(left.size()), static_cast<int>(right.size()));
  (ranks ? ensayo::rank_correlations : ensayo::correlations)(left, right, n, static_cast<unsigned>(threads), out.begin());
  return out;
}
