// Order statistics of long columns without sorting them.
#ifndef ENSAYO_CORE_PERCENTILES_H
#define ENSAYO_CORE_PERCENTILES_H

#include <cstddef>
#include <vector>

namespace ensayo {

// The values of rank ranks[0] < ranks[1] < ..., counted from 0, among x[0], ..., x[n - 1]. No x is NaN.
std::vector<double> order_statistics(const double* x, std::size_t n, const std::vector<std::size_t>& ranks);

}  // namespace ensayo

#endif
