// Door to the moments of one column; values that are not finite are passed over.
#include <Rcpp.h>

#include "core/moments.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_moments(Rcpp::NumericVector x) {
  const ensayo::Moments m = ensayo::moments(x.begin(), static_cast<std::size_t>(x.size()));
  return Rcpp::List::create(
      Rcpp::Named("count") = static_cast<double>(m.count), Rcpp::Named("mean") = m.mean, Rcpp::Named("min") = m.min,
      Rcpp::Named("max") = m.max, Rcpp::Named("m2") = m.m2, Rcpp::Named("m3") = m.m3, Rcpp::Named("m4") = m.m4,
      Rcpp::Named("scale") = m.scale);
}
