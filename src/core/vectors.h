// Sums over columns, eight places abreast in a fixed order, so that every code path gives the same bits.
#ifndef ENSAYO_CORE_VECTORS_H
#define ENSAYO_CORE_VECTORS_H

#include <cstddef>

namespace ensayo {

double dot_product(const double* a, const double* b, std::size_t n);

struct Range {
  double low, high;
};

// The least and the greatest of n > 0 values, of which none is NaN.
Range range_of(const double* x, std::size_t n);

// Sums of d, d^2, d^3 and d^4 with d = x * factor - from.
void power_sums(const double* x, std::size_t n, double from, double factor, double* sums);

// y += factor * x
void add_multiple(double factor, const double* x, std::size_t n, double* y);

}  // namespace ensayo

#endif
