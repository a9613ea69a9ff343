#include "formula_expression.h"

#include <Rmath.h>

#include <algorithm>

namespace door {

void Reader::read_all() {
  for (std::size_t i = 0; i < all_.used.size(); ++i) given_[all_.used[i]] = &out_.given[i];
  std::vector<ensayo::Wanted> wanted;
  for (R_xlen_t i = 0; i < all_.formulas.size(); ++i) {
    formula_ = all_.formulas[i];
    constants_ = formula_["constants"];
    checks_.clear();
    failed_ = no_node;
    std::uint32_t value = read(formula_["expr"], no_node);
    const Kind kind = graph_[value].kind;
    if (kind == Kind::text) throw LeftToR();
    if (failed_ != no_node) value = graph_.make(Operation::unless, kind, value, failed_);
    wanted.push_back({value, failed_, checks_});
    out_.kinds.push_back(kind);
    made_[all_.names[static_cast<std::size_t>(i)]] = value;
  }
  out_.program = std::make_shared<ensayo::Program>(std::move(graph_), std::move(wanted));
}

std::uint32_t Reader::make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b, std::uint32_t c,
                   const LookupTable* table) {
  const std::size_t before = graph_.size();
  const std::uint32_t id = graph_.make(operation, kind, a, b, c, table);
  if (id >= before) out_.sources[id] = {writing_, step_};
  return id;
}

std::uint32_t Reader::leaf(SEXP value) {
  if (Rf_length(value) != 1) throw LeftToR();
  if (Rf_inherits(value, "difftime")) throw LeftToR();
  switch (TYPEOF(value)) {
    case LGLSXP: return truth(LOGICAL(value)[0] == NA_LOGICAL ? NA_REAL : LOGICAL(value)[0]);
    case INTSXP: {
      if (Rf_inherits(value, "Date")) return number(INTEGER(value)[0] == NA_INTEGER ? NA_REAL : INTEGER(value)[0]);
      return graph_.constant(INTEGER(value)[0] == NA_INTEGER ? NA_REAL : INTEGER(value)[0], Kind::whole);
    }
    case REALSXP: return number(REAL(value)[0]);
    case STRSXP: return graph_.constant(all_.texts.number(STRING_ELT(value, 0)), Kind::text);
    default: throw LeftToR();
  }
}

std::uint32_t Reader::symbol(SEXP name) {
  const auto made = made_.find(name);
  if (made != made_.end()) return made->second;
  const auto given = given_.find(name);
  if (given != given_.end()) {
    const Given& each = *given->second;
    // lines of a step have the value of the step there
    const std::size_t step = each.steps == 0 || lines_ ? 0 : static_cast<std::size_t>(step_ >= 0 ? step_ : throw LeftToR());
    if (each.steps > 0 && step >= static_cast<std::size_t>(each.steps)) throw LeftToR();
    return graph_.column(static_cast<std::uint32_t>(each.place + step), each.kind, each.single);
  }
  if (lines_) {
    const auto known = lines_->known.find(name);
    if (known != lines_->known.end()) {
      return graph_.column(static_cast<std::uint32_t>(lines_->first + known->second), Kind::number, true);
    }
    const auto line = lines_->line.find(name);
    if (line != lines_->line.end()) return graph_.column(lines_->place_of(line->second, 1), Kind::number, false);
  }
  SEXP names = Rf_getAttrib(constants_, R_NamesSymbol);
  for (R_xlen_t i = 0; i < Rf_xlength(constants_); ++i) {
    if (Rf_installTrChar(STRING_ELT(names, i)) == name) return leaf(VECTOR_ELT(constants_, i));
  }
  if (name == Rf_install("pi")) return number(M_PI);
  throw LeftToR();
}

std::uint32_t Reader::read(SEXP expr, std::uint32_t mask) {
  if (TYPEOF(expr) == SYMSXP) return symbol(expr);
  if (TYPEOF(expr) != LANGSXP) return leaf(expr);
  const Word* word = word_of(CAR(expr));
  if (!word) throw LeftToR();
  SEXP outer = writing_;
  writing_ = expr;
  const std::uint32_t id = read_call(*word, CDR(expr), mask);
  writing_ = outer;
  return id;
}

namespace {

void set_mathematics() {
  ensayo::Mathematics& functions = ensayo::mathematics();
  functions.power = R_pow;
  functions.round_to = Rf_fround;
  functions.significant = Rf_fprec;
}

void number_texts(SEXP expr, Texts& texts) {
  if (TYPEOF(expr) == STRSXP) {
    for (R_xlen_t i = 0; i < Rf_xlength(expr); ++i) texts.number(STRING_ELT(expr, i));
  }
  if (TYPEOF(expr) != LANGSXP) return;
  for (SEXP at = CDR(expr); at != R_NilValue; at = CDR(at)) number_texts(CAR(at), texts);
}

}  // namespace

void number_texts(const Rcpp::List& formulas, Texts& texts) {
  for (R_xlen_t i = 0; i < formulas.size(); ++i) {
    const Rcpp::List formula = formulas[i], constants = formula["constants"];
    number_texts(static_cast<SEXP>(formula["expr"]), texts);
    for (R_xlen_t k = 0; k < constants.size(); ++k) number_texts(static_cast<SEXP>(constants[k]), texts);
  }
}

std::unique_ptr<Formulas> new_formulas(const Rcpp::List& formulas, const Rcpp::CharacterVector& names,
                                       const Rcpp::CharacterVector& uses) {
  set_mathematics();
  std::unique_ptr<Formulas> all(new Formulas);
  all->formulas = formulas;
  all->order = names;
  number_texts(formulas, all->texts);
  for (R_xlen_t i = 0; i < names.size(); ++i) all->names.push_back(Rf_installTrChar(names[i]));
  for (R_xlen_t i = 0; i < uses.size(); ++i) all->used.push_back(Rf_installTrChar(uses[i]));
  return all;
}

void read_formulas(Formulas& all, Compiled& out, Lines* lines) { Reader(all, out, lines).read_all(); }

}  // namespace door
