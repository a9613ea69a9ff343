// The door to the canonical text of a value (R/text-canonical.R): lists, numbers and plain texts are written here; what takes
// R's own words (language, texts with odd characters, kinds that are rare) is asked for.
#include <Rcpp.h>

#include <algorithm>
#include <cstdio>
#include <cstring>
#include <numeric>
#include <string>
#include <vector>

namespace {

// Printable, and nothing to escape.
bool is_plain(const char* text) {
  for (; *text != '\0'; ++text) {
    if (*text < ' ' || *text > '~' || *text == '"' || *text == '\\') return false;
  }
  return true;
}

class Writer {
 public:
  Writer(const Rcpp::Function& odd, const Rcpp::Function& other) : odd_(odd), other_(other) {}

  void value(SEXP x) {
    switch (TYPEOF(x)) {
      case NILSXP: text_ += "null"; return;
      case VECSXP: list(x); return;
      case REALSXP: vector(x, [&](R_xlen_t i) { number(REAL(x)[i]); }); return;
      case STRSXP: vector(x, [&](R_xlen_t i) { string(STRING_ELT(x, i)); }); return;
      case LGLSXP:
        if (Rf_xlength(x) == 1) vector(x, [&](R_xlen_t) { truth(LOGICAL(x)[0]); });
        else other(x);
        return;
      default: other(x);
    }
  }

  const std::string& text() const { return text_; }

 private:
  // What an unnamed or a named list holds; named ones by name, with the place of each name behind the others'.
  void list(SEXP x) {
    const SEXP names = Rf_getAttrib(x, R_NamesSymbol);
    const auto n = static_cast<std::size_t>(Rf_xlength(x));
    if (names == R_NilValue) {
      text_ += '[';
      for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) text_ += ',';
        value(VECTOR_ELT(x, static_cast<R_xlen_t>(i)));
      }
      text_ += ']';
      return;
    }
    const auto order = order_of(names, n);
    text_ += "{order:" + places(names, order) + ";";
    for (std::size_t i = 0; i < n; ++i) {
      if (i > 0) text_ += ';';
      string(STRING_ELT(names, order[i]));
      text_ += ':';
      value(VECTOR_ELT(x, order[i]));
    }
    if (n == 0) text_ += ':';
    text_ += '}';
  }

  static std::vector<R_xlen_t> order_of(SEXP names, std::size_t n) {
    std::vector<R_xlen_t> order(n);
    std::iota(order.begin(), order.end(), R_xlen_t{0});
    std::stable_sort(order.begin(), order.end(), [names](R_xlen_t a, R_xlen_t b) {
      if (STRING_ELT(names, a) == NA_STRING || STRING_ELT(names, b) == NA_STRING) return STRING_ELT(names, a) != NA_STRING;
      return std::strcmp(name_of(names, a), name_of(names, b)) < 0;
    });
    return order;
  }

  // A name twice in a list has the place of its first.
  static std::string places(SEXP names, const std::vector<R_xlen_t>& order) {
    std::vector<std::size_t> place(order.size());
    for (std::size_t i = 0; i < order.size(); ++i) {
      const bool same = i > 0 && std::strcmp(name_of(names, order[i]), name_of(names, order[i - 1])) == 0;
      place[order[i]] = same ? place[order[i - 1]] : i + 1;
    }
    std::string text;
    for (std::size_t i = 0; i < place.size(); ++i) {
      if (i > 0) text += ',';
      text += std::to_string(place[i]);
    }
    return text;
  }

  static const char* name_of(SEXP names, R_xlen_t i) { return Rf_translateCharUTF8(STRING_ELT(names, i)); }

  template <typename Write>
  void vector(SEXP x, Write write) {
    text_ += class_of(x);
    text_ += '(';
    for (R_xlen_t i = 0; i < Rf_xlength(x); ++i) {
      if (i > 0) text_ += ',';
      write(i);
    }
    text_ += ')';
  }

  static std::string class_of(SEXP x) {
    const SEXP given = Rf_getAttrib(x, R_ClassSymbol);
    if (given != R_NilValue) return Rf_translateCharUTF8(STRING_ELT(given, 0));
    const SEXP dim = Rf_getAttrib(x, R_DimSymbol);
    if (dim != R_NilValue) return Rf_length(dim) == 2 ? "matrix" : "array";
    return TYPEOF(x) == REALSXP ? "numeric" : TYPEOF(x) == STRSXP ? "character" : "logical";
  }

  void number(double x) {
    if (R_IsNA(x)) text_ += "NA";
    else if (std::isnan(x)) text_ += "NaN";
    else if (std::isinf(x)) text_ += x > 0 ? "Inf" : "-Inf";
    else {
      char digits[40];
      std::snprintf(digits, sizeof digits, "%a", x);
      text_ += digits;
    }
  }

  void truth(int x) { text_ += x == NA_LOGICAL ? "NA" : x ? "TRUE" : "FALSE"; }

  void string(SEXP x) {
    if (x == NA_STRING || !is_plain(CHAR(x))) append(odd_(Rf_ScalarString(x)));
    else text_.append(1, '"').append(CHAR(x)).append(1, '"');
  }

  // Language is handed over, not evaluated.
  void other(SEXP x) { append(other_(Rcpp::RObject(Rf_lang2(R_QuoteSymbol, x)))); }

  void append(const Rcpp::RObject& text) { text_ += Rf_translateCharUTF8(STRING_ELT(text, 0)); }

  std::string text_;
  Rcpp::Function odd_, other_;
};

}  // namespace

// `odd(text)` gives a text in quotes, `other(x)` the canonical text of a value that is not written here.
// [[Rcpp::export(rng = false)]]
Rcpp::String cpp_canonical_text(SEXP x, Rcpp::Function odd, Rcpp::Function other) {
  Writer writer(odd, other);
  writer.value(x);
  return Rcpp::String(writer.text(), CE_UTF8);
}
