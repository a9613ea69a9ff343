// How a formula is read into a graph: one reader for all that are compiled together.
#ifndef ENSAYO_FORMULA_EXPRESSION_H
#define ENSAYO_FORMULA_EXPRESSION_H

#include <functional>

#include "formula_reader.h"

namespace door {

using ensayo::Kind;
using ensayo::LookupTable;
using ensayo::Operation;
using ensayo::no_node;

class Reader {
 public:
  Reader(Formulas& all, Compiled& out, Lines* lines = nullptr) : all_(all), out_(out), lines_(lines) {}
  void read_all();

 private:
  // What stands in a branch, in the runs that a node lets by.
  typedef std::function<std::uint32_t(std::uint32_t under)> Branch;

  Kind kind(std::uint32_t id) const { return graph_[id].kind; }
  void need_number(std::uint32_t id) const {
    if (kind(id) == Kind::text) throw LeftToR();
  }
  static bool is_small(Kind kind) { return kind == Kind::logical || kind == Kind::whole; }
  std::uint32_t make(Operation operation, Kind kind, std::uint32_t a, std::uint32_t b = no_node, std::uint32_t c = no_node,
                     const LookupTable* table = nullptr);
  std::uint32_t number(double value) { return graph_.constant(value, Kind::number); }
  std::uint32_t truth(double value) { return graph_.constant(value, Kind::logical); }
  std::uint32_t leaf(SEXP value);
  std::uint32_t symbol(SEXP name);
  std::uint32_t read(SEXP expr, std::uint32_t mask);
  static std::size_t count(SEXP arguments) { return static_cast<std::size_t>(Rf_length(arguments)); }
  static void need(bool ok) {
    if (!ok) throw LeftToR();
  }
  static void need_in_place(Verb verb, SEXP arguments);
  std::uint32_t read_call(const Word& word, SEXP arguments, std::uint32_t mask);
  // Of a day as R reads it.
  static double day_of(SEXP text);
  std::uint32_t arithmetic(const Word& word, std::uint32_t a, std::uint32_t b);
  std::uint32_t of_one(Operation operation, std::uint32_t a);
  // The value of a choice in the runs that `mask` lets by; a condition that is missing makes a run fail.
  std::uint32_t choose(std::uint32_t condition, const Branch& yes, const Branch& no, std::uint32_t mask, Fault fault);
  std::uint32_t under(std::uint32_t mask, std::uint32_t more);
  void check(std::uint32_t met, Fault fault, std::uint32_t mask);
  std::uint32_t one_of(std::uint32_t a, SEXP choices);
  std::uint32_t look_up(SEXP arguments, std::uint32_t mask);
  const LookupTable& table_named(SEXP name);
  // The first of the series in an expression, whose steps are those of all.
  const Given* series_in(SEXP expr) const;
  std::uint32_t value_at(SEXP expr, int step, std::uint32_t mask);
  std::uint32_t several(const Word& word, SEXP arguments, std::uint32_t mask);
  std::vector<double> steps_of(const Given& series) const;
  std::uint32_t at_step(SEXP arguments, bool stated, std::uint32_t mask);
  // The first step at which the condition holds; missing where it is missing at a step before.
  std::uint32_t first_step(SEXP arguments, std::uint32_t mask);
  std::uint32_t extreme_step(SEXP arguments, bool highest, std::uint32_t mask);
  std::uint32_t longest_stay(SEXP arguments, std::uint32_t mask);
  std::uint32_t deepest_fall(SEXP arguments, std::uint32_t mask);
  std::uint32_t recovery(SEXP arguments, std::uint32_t mask);
  // The values of the first argument at each step, which are numbers.
  std::vector<std::uint32_t> values_over_steps(SEXP arguments, std::uint32_t mask);

  Formulas& all_;
  Compiled& out_;
  Lines* lines_;
  ensayo::Graph graph_;
  Rcpp::List formula_;
  SEXP constants_ = R_NilValue;
  SEXP writing_ = R_NilValue;             // the call that is read, for telling where a run went wrong
  int step_ = -1;                         // of the series that is read, or -1
  std::vector<ensayo::Check> checks_;
  std::uint32_t failed_ = no_node;
  std::unordered_map<SEXP, std::uint32_t> made_;
  std::unordered_map<SEXP, const Given*> given_;
};

}  // namespace door

#endif
