// Doors to what surrogates are made of.
#include <Rcpp.h>

#include "core/kernel.h"
#include "core/pursuit.h"

namespace {

std::size_t rows_of(const Rcpp::NumericMatrix& x) { return static_cast<std::size_t>(x.nrow()); }
std::size_t columns_of(const Rcpp::NumericMatrix& x) { return static_cast<std::size_t>(x.ncol()); }

}  // namespace

// Which columns are taken, in turn, and the mean squared error in the held-out rows with none of them, one, two and so on.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_pursue(Rcpp::NumericMatrix columns, Rcpp::NumericVector y, Rcpp::LogicalVector held, int most) {
  const ensayo::Pursuit made = ensayo::pursue(columns.begin(), rows_of(columns), columns_of(columns), y.begin(),
    std::vector<char>(held.begin(), held.end()), static_cast<std::size_t>(most));
  Rcpp::IntegerVector taken(made.taken.begin(), made.taken.end());
  return Rcpp::List::create(Rcpp::Named("taken") = taken + 1, Rcpp::Named("held_out") = Rcpp::wrap(made.held_out));
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cpp_matern(Rcpp::NumericMatrix a, Rcpp::NumericMatrix b, Rcpp::NumericVector lengths) {
  Rcpp::NumericMatrix out(a.nrow(), b.nrow());
  ensayo::matern(a.begin(), rows_of(a), b.begin(), rows_of(b), columns_of(a), lengths.begin(), out.begin());
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_matern_sums(Rcpp::NumericMatrix a, Rcpp::NumericMatrix b, Rcpp::NumericVector lengths, Rcpp::NumericVector weights,
                                    int threads) {
  Rcpp::NumericVector out(a.nrow());
  ensayo::matern_sums(a.begin(), rows_of(a), b.begin(), rows_of(b), columns_of(a), lengths.begin(), weights.begin(),
    static_cast<unsigned>(threads), out.begin());
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_matern_slopes(Rcpp::NumericMatrix points, Rcpp::NumericVector lengths, Rcpp::NumericMatrix weights) {
  Rcpp::NumericVector out(points.ncol());
  ensayo::matern_slopes(points.begin(), rows_of(points), columns_of(points), lengths.begin(), weights.begin(), out.begin());
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_nearest(Rcpp::NumericMatrix a, Rcpp::NumericMatrix b, Rcpp::NumericVector lengths, bool apart, int threads) {
  Rcpp::NumericVector out(a.nrow());
  ensayo::nearest(a.begin(), rows_of(a), b.begin(), rows_of(b), columns_of(a), lengths.begin(), apart, static_cast<unsigned>(threads),
    out.begin());
  return out;
}
