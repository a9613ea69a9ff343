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

// Sums, and sums of products, of columns within `blocks` blocks of runs one after the other, each column measured from
// its mean in units of its half range: `sums` has blocks of p values, `products` blocks of p by p. A constant column's
// are 0.
void block_products(const std::vector<const double*>& x, std::size_t n, std::size_t blocks, unsigned threads,
                    double* sums, double* products);

}  // namespace ensayo

#endif
