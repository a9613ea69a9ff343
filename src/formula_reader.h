// Formulas as R has parsed them, read into a graph.
#ifndef ENSAYO_FORMULA_READER_H
#define ENSAYO_FORMULA_READER_H

#include <Rcpp.h>

#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/program.h"
#include "formula_columns.h"
#include "formula_words.h"

namespace door {

// What makes a run fail on its way, in the order in which formula-evaluate.R has the words for them.
enum Fault : unsigned { if_is_missing = 1, and_is_missing, or_is_missing, beyond_table };

struct Compiled {
  std::vector<Given> given;
  std::shared_ptr<ensayo::Program> program;
  std::vector<ensayo::Kind> kinds;                                  // of what is wanted
  std::unordered_map<std::uint32_t, std::pair<SEXP, int>> sources;   // what a node was written as, and at which step
};

struct Formulas {
  Rcpp::List formulas;
  Rcpp::CharacterVector order;                              // their names
  std::vector<SEXP> names, used;                            // symbols, of these and of the quantities that they are given
  std::vector<std::shared_ptr<ensayo::LookupTable>> tables;
  std::map<SEXP, const ensayo::LookupTable*> table_of;
  std::vector<std::shared_ptr<Compiled>> compiled;
  Texts texts;                                              // constants of the formulas, which stay
};

// What lines of a model that goes step by step may name besides quantities of the run: values known for each step, and
// lines some steps ago. A line's name stands for its latest value: of this step where it stands above, else of the step
// before.
struct Lines {
  std::unordered_map<SEXP, std::size_t> line, known;         // by symbol
  std::size_t first;                                         // the place of the first known value among the columns
  std::vector<std::pair<std::size_t, std::size_t>> lags;     // lines, and how many steps ago

  std::uint32_t place_of(std::size_t which, std::size_t steps) {
    const std::pair<std::size_t, std::size_t> lag(which, steps);
    const std::size_t at = static_cast<std::size_t>(std::find(lags.begin(), lags.end(), lag) - lags.begin());
    if (at == lags.size()) lags.push_back(lag);
    return static_cast<std::uint32_t>(first + known.size() + at);
  }
};

// Formulas whose values `uses` are given; each comes after those it needs.
std::unique_ptr<Formulas> new_formulas(const Rcpp::List& formulas, const Rcpp::CharacterVector& names,
                                       const Rcpp::CharacterVector& uses);

// Texts that formulas compare with have their numbers before those of any column.
void number_texts(const Rcpp::List& formulas, Texts& texts);

// The formulas compiled for quantities as `out` has them given.
void read_formulas(Formulas& all, Compiled& out, Lines* lines = nullptr);

}  // namespace door

#endif
