// Doors to columns: a part of one, its extremes, counts.
#include <Rcpp.h>

#include "core/vectors.h"

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
