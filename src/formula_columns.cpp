#include "formula_columns.h"

#include <algorithm>

#include "formula_words.h"

namespace door {

namespace {

using ensayo::Kind;

Kind kind_of(SEXP column) {
  switch (TYPEOF(column)) {
    case LGLSXP: return Kind::logical;
    case INTSXP: return Kind::whole;
    case REALSXP: return Kind::number;
    case STRSXP: return Kind::text;
    default: throw LeftToR();
  }
}

}  // namespace

bool is_same(const std::vector<Given>& x, const std::vector<Given>& y, bool one_run) {
  return std::equal(x.begin(), x.end(), y.begin(), y.end(), [&](const Given& a, const Given& b) {
    return a.kind == b.kind && a.steps == b.steps && (one_run || a.single == b.single) &&
           (a.keys.get__() == b.keys.get__() || R_compute_identical(a.keys, b.keys, 16));
  });
}

Columns::Columns(const Rcpp::List& columns, R_xlen_t n, const Texts& known) : texts_(known), n_(n) {
  for (R_xlen_t j = 0; j < columns.size(); ++j) add(columns[j]);
}

void Columns::add(SEXP column) {
  const bool matrix = Rf_isMatrix(column);
  const R_xlen_t length = Rf_xlength(column);
  const int steps = matrix ? Rf_ncols(column) : 0;
  if (matrix ? Rf_nrows(column) != n_ : length != n_ && length != 1) throw LeftToR();
  SEXP keys = R_NilValue;
  if (matrix && Rf_getAttrib(column, R_DimNamesSymbol) != R_NilValue) keys = VECTOR_ELT(Rf_getAttrib(column, R_DimNamesSymbol), 1);
  given.push_back({kind_of(column), !matrix && length == 1 && n_ != 1, steps, keys, pointers.size()});
  const double* from = given.back().kind == Kind::number ? REAL(column) : as_numbers(column, length);
  pointers.push_back(from);
  for (int j = 1; j < steps; ++j) pointers.push_back(from + j * n_);
}

const double* Columns::as_numbers(SEXP column, R_xlen_t length) {
  made_.emplace_back(length);
  std::vector<double>& out = made_.back();
  for (R_xlen_t i = 0; i < length; ++i) {
    if (TYPEOF(column) == STRSXP) out[i] = texts_.number(STRING_ELT(column, i));
    else {
      const int value = TYPEOF(column) == LGLSXP ? LOGICAL(column)[i] : INTEGER(column)[i];
      out[i] = value == NA_INTEGER ? NA_REAL : value;
    }
  }
  return out.data();
}

}  // namespace door
