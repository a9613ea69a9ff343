// What the doors to the core have in common.
#ifndef ENSAYO_DOORS_H
#define ENSAYO_DOORS_H

#include <Rcpp.h>

#include <vector>

// The numbers of a column, which must be of type double: another type would be read as something else.
inline double* doubles(SEXP column) {
  if (TYPEOF(column) != REALSXP) Rcpp::stop("a column of type double is needed, not %s", Rf_type2char(TYPEOF(column)));
  return REAL(column);
}

inline std::vector<const double*> columns_of(const Rcpp::List& list) {
  std::vector<const double*> columns;
  for (R_xlen_t j = 0; j < list.size(); ++j) columns.push_back(doubles(list[j]));
  return columns;
}

#endif
