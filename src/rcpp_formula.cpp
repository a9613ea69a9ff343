// Doors to compiled formulas.
#include "formula_reader.h"

using ensayo::Kind;
using namespace door;

namespace {

const Compiled& compiled_for(Formulas& all, const Columns& columns, R_xlen_t n) {
  for (const auto& known : all.compiled) if (is_same(known->given, columns.given, n == 1)) return *known;
  auto made = std::make_shared<Compiled>();
  made->given = columns.given;
  read_formulas(all, *made);
  all.compiled.push_back(made);
  return *made;
}

// A column of what R has for the kind.
SEXP finished(const std::vector<double>& values, Kind kind) {
  SEXP out = PROTECT(Rf_allocVector(kind == Kind::logical ? LGLSXP : INTSXP, static_cast<R_xlen_t>(values.size())));
  int* to = kind == Kind::logical ? LOGICAL(out) : INTEGER(out);
  for (std::size_t i = 0; i < values.size(); ++i) to[i] = std::isnan(values[i]) ? NA_INTEGER : static_cast<int>(values[i]);
  UNPROTECT(1);
  return out;
}

}  // namespace

// Which formulas are of the language here, by their words.
// [[Rcpp::export(rng = false)]]
Rcpp::LogicalVector cpp_formulas_to_compile(Rcpp::List formulas) {
  Rcpp::LogicalVector out(formulas.size());
  for (R_xlen_t i = 0; i < formulas.size(); ++i) {
    const Rcpp::List formula = formulas[i];
    out[i] = Rf_length(formula["functions"]) == 0 && is_read_here(formula["expr"]);
  }
  return out;
}

// Formulas in an order in which each comes after those it needs; `uses` are the quantities that they are given.
// [[Rcpp::export(rng = false)]]
SEXP cpp_formulas(Rcpp::List formulas, Rcpp::CharacterVector names, Rcpp::CharacterVector uses) {
  return Rcpp::XPtr<Formulas>(new_formulas(formulas, names, uses).release(), true);
}

// Their values in n runs, what was seen of each, and what is worth a warning; NULL where they are R's to evaluate.
// [[Rcpp::export(rng = false)]]
SEXP cpp_evaluate_formulas(SEXP formulas, Rcpp::List columns, double n, int threads) {
  Formulas& all = *Rcpp::XPtr<Formulas>(formulas);
  const R_xlen_t runs = static_cast<R_xlen_t>(n);
  try {
    const Columns given(columns, runs, all.texts);
    const Compiled& compiled = compiled_for(all, given, runs);
    const std::size_t count = compiled.kinds.size();
    Rcpp::List values(static_cast<R_xlen_t>(count));
    std::vector<std::vector<double>> small(count);
    std::vector<double*> out(count);
    for (std::size_t k = 0; k < count; ++k) {
      if (compiled.kinds[k] == Kind::number) {
        SEXP column = Rf_allocVector(REALSXP, runs);
        values[static_cast<R_xlen_t>(k)] = column;
        out[k] = REAL(column);
      } else {
        small[k].resize(static_cast<std::size_t>(runs));
        out[k] = small[k].data();
      }
    }
    std::vector<unsigned> seen;
    const unsigned warnings = compiled.program->run(given.pointers, static_cast<std::size_t>(runs),
      static_cast<unsigned>(std::max(threads, 1)), out, seen);
    for (std::size_t k = 0; k < count; ++k) {
      if (compiled.kinds[k] != Kind::number) values[static_cast<R_xlen_t>(k)] = finished(small[k], compiled.kinds[k]);
    }
    values.names() = all.order;
    return Rcpp::List::create(Rcpp::Named("values") = values, Rcpp::Named("seen") = Rcpp::IntegerVector(seen.begin(), seen.end()),
      Rcpp::Named("warnings") = static_cast<int>(warnings));
  } catch (const LeftToR&) {
    return R_NilValue;
  }
}

// Why some of the runs have no value of a formula: the fault that made each fail on its way (0 for none); else the value with
// which it went wrong, and the expression and the step where it did.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_explain_formulas(SEXP formulas, Rcpp::List columns, double n, int formula, Rcpp::IntegerVector runs) {
  Formulas& all = *Rcpp::XPtr<Formulas>(formulas);
  const Columns given(columns, static_cast<R_xlen_t>(n), all.texts);
  const Compiled& compiled = compiled_for(all, given, static_cast<R_xlen_t>(n));
  Rcpp::IntegerVector fault(runs.size()), where(runs.size()), step(runs.size());
  Rcpp::NumericVector value(runs.size());
  Rcpp::List expressions;
  std::map<SEXP, int> known;
  std::vector<std::size_t> places;
  for (int run : runs) places.push_back(static_cast<std::size_t>(run - 1));
  const std::vector<ensayo::Reason> reasons = compiled.program->explain(given.pointers, places, static_cast<std::size_t>(formula - 1));
  for (R_xlen_t i = 0; i < runs.size(); ++i) {
    const ensayo::Reason& reason = reasons[static_cast<std::size_t>(i)];
    fault[i] = reason.by_check ? static_cast<int>(reason.what) : 0;
    value[i] = reason.value;
    const auto source = compiled.sources.find(reason.node);
    if (source == compiled.sources.end() || reason.by_check) continue;
    const auto placed = known.emplace(source->second.first, static_cast<int>(expressions.size()) + 1);
    if (placed.second) expressions.push_back(source->second.first);
    where[i] = placed.first->second;
    step[i] = source->second.second + 1;
  }
  return Rcpp::List::create(Rcpp::Named("fault") = fault, Rcpp::Named("value") = value, Rcpp::Named("where") = where,
    Rcpp::Named("step") = step, Rcpp::Named("expressions") = expressions);
}
