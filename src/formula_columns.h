// Columns of R as formulas calculate with them.
#ifndef ENSAYO_FORMULA_COLUMNS_H
#define ENSAYO_FORMULA_COLUMNS_H

#include <Rcpp.h>

#include <unordered_map>
#include <vector>

#include "core/graph.h"

namespace door {

// A quantity as it comes: its values, or the series of them.
struct Given {
  ensayo::Kind kind;
  bool single;
  int steps;             // 0 for a quantity of one value a run
  Rcpp::RObject keys;    // the names of the steps, held for what was compiled for these
  std::size_t place;     // of its first column
};

// Whether the first is of the shape of the second; one value for all runs is as good as a column where there is one run.
bool is_same(const std::vector<Given>& x, const std::vector<Given>& y, bool one_run);

// Texts as numbers, for comparing them.
class Texts {
 public:
  double number(SEXP text) {
    if (text == NA_STRING) return NA_REAL;
    return known_.emplace(text, static_cast<double>(known_.size())).first->second;
  }

 private:
  std::unordered_map<SEXP, double> known_;
};

// Columns as numbers, which stay while they are used. Throws LeftToR at what is no column of numbers, yes or no, or texts.
class Columns {
 public:
  Columns(const Rcpp::List& columns, R_xlen_t n, const Texts& known);
  std::vector<Given> given;
  std::vector<const double*> pointers;

 private:
  void add(SEXP column);
  const double* as_numbers(SEXP column, R_xlen_t length);
  Texts texts_;
  R_xlen_t n_;
  std::vector<std::vector<double>> made_;
};

}  // namespace door

#endif
