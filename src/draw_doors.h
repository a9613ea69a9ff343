// What the doors to the draw engine have in common.
#ifndef ENSAYO_DRAW_DOORS_H
#define ENSAYO_DRAW_DOORS_H

#include <Rcpp.h>

#include <cstdint>
#include <memory>

#include "core/inversion.h"

namespace door {

// A number is its own key; a text's is taken from its hash.
std::uint64_t seed_key(SEXP seed);

// A recipe as the R side makes it (draw-table.R); its numbers stay where they are.
std::unique_ptr<ensayo::Inversion> inversion_of(const Rcpp::List& recipe);

}  // namespace door

#endif
