// Doors to numbers as text: NA is a word of R's own and is handled here.
#include <Rcpp.h>

#include "core/number_text.h"

// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_number_text(Rcpp::NumericVector x) {
  Rcpp::CharacterVector out(x.size());
  for (R_xlen_t i = 0; i < x.size(); ++i) out[i] = R_IsNA(x[i]) ? std::string("NA") : ensayo::number_text(x[i]);
  return out;
}

// Numbers from their texts; NA for "NA" and for what is no number.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_read_numbers(Rcpp::CharacterVector texts) {
  Rcpp::NumericVector out(texts.size());
  for (R_xlen_t i = 0; i < texts.size(); ++i) {
    if (!ensayo::read_number_text(CHAR(STRING_ELT(texts, i)), out[i])) out[i] = NA_REAL;
  }
  return out;
}
