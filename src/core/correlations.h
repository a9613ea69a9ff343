// The correlations that columns have; correlation.h gives them some.
#ifndef ENSAYO_CORE_CORRELATIONS_H
#define ENSAYO_CORE_CORRELATIONS_H

#include <cstddef>
#include <vector>

namespace ensayo {

// Pearson's correlations of each column of `x` with each of `y`, of n finite values each; `out` has a column for each of
// `y`. NaN where a column is constant.
void correlations(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n,
                  unsigned threads, double* out);

// Spearman's correlations, the same way.
void rank_correlations(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n,
                       unsigned threads, double* out);

}  // namespace ensayo

#endif
