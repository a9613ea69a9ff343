// Doors to numbers as text: NA is a word of R's own and is handled here.
#include <Rcpp.h>

#include <fstream>

#include "core/number_text.h"

namespace {

void append_cell(std::string& text, double x) {
  if (R_IsNA(x)) text += "NA";
  else ensayo::append_number(text, x);
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_number_text(Rcpp::NumericVector x) {
  Rcpp::CharacterVector out(x.size());
  std::string text;
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    text.clear();
    append_cell(text, x[i]);
    out[i] = text;
  }
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

// Writes a header line and rows of columns, which are doubles or texts ready for the file, or adds the rows alone to a
// file that has them. FALSE where that fails.
// [[Rcpp::export(rng = false)]]
bool cpp_write_csv(std::string path, std::string header, Rcpp::List columns, double rows, bool append) {
  std::ofstream file(path, append ? std::ios::binary | std::ios::app : std::ios::binary);
  std::string text = append ? "" : header + "\n";
  const auto n = static_cast<R_xlen_t>(rows);
  for (R_xlen_t i = 0; i < n; ++i) {
    for (R_xlen_t j = 0; j < columns.size(); ++j) {
      if (j > 0) text += ',';
      const SEXP column = columns[j];
      if (TYPEOF(column) == REALSXP) append_cell(text, REAL(column)[i]);
      else if (TYPEOF(column) == STRSXP) text += CHAR(STRING_ELT(column, i));
      else Rcpp::stop("a column of numbers or texts is needed");
    }
    text += '\n';
    if (text.size() > (1u << 20)) {
      file << text;
      text.clear();
      Rcpp::checkUserInterrupt();
    }
  }
  file << text;
  file.close();
  return !file.fail();
}
