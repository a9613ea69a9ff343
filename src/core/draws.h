// Whole columns of draws, of inputs by themselves and of sets of correlated ones, shared out to threads.
#ifndef ENSAYO_CORE_DRAWS_H
#define ENSAYO_CORE_DRAWS_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "design.h"
#include "inversion.h"

namespace ensayo {

struct DrawColumn {
  Address address;
  const Inversion* law = nullptr;  // none where the uniform numbers themselves are wanted
  double* x = nullptr;             // room for a draw of each run
  std::vector<std::size_t> open;   // places, from 0, where the law's quantile must come from elsewhere: x has u there
};

// Columns of which each depends on those before it, once or in several sets of the same kind. Under a hypercube the matrix
// has their rank correlations, else the lower triangular root of the correlations of their normal scores; row by row.
struct Dependence {
  std::vector<double> matrix;
  std::vector<std::vector<std::size_t>> sets;
};

// Draws of `count` runs after the first `first`. Under a hypercube, correlated columns are put in order by blocks of about
// `block` runs. A column is in one set at most.
void draw_columns(std::vector<DrawColumn>& columns, const std::vector<Dependence>& dependences, const Layout& layout,
                  std::uint64_t block, std::uint64_t first, std::size_t count, unsigned threads);

// Uniform numbers at hand through a law, to as many places of `x`; gives the open places.
std::vector<std::size_t> invert(const Inversion& law, const double* u, std::size_t count, double* x, unsigned threads);

}  // namespace ensayo

#endif
