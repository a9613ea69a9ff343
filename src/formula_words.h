// Words of the formula language, by what they are read as. A formula with others, such as functions of the user's own, is R's
// to evaluate.
#ifndef ENSAYO_FORMULA_WORDS_H
#define ENSAYO_FORMULA_WORDS_H

#include <Rcpp.h>

#include "core/operations.h"

namespace door {

// Thrown where a formula is R's to evaluate.
struct LeftToR {};

enum class Verb { bracket, plus, minus, plain, whole, compared, logical, one, exclusive_or, rounding, logarithm, several,
                  mean, choose, both, either, one_of, lookup, date, at, last, first_step, highest_step, lowest_step,
                  longest_stay, deepest_fall, recovery, before };

struct Word {
  Verb verb;
  ensayo::Operation operation, of_wholes;
};

// The word that a call's head is, or NULL.
const Word* word_of(SEXP head);

// Whether a formula is made of these words alone.
bool is_read_here(SEXP expr);

}  // namespace door

#endif
