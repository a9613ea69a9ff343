// Distances between points, the Matern kernel of order 5/2 over them, and its slopes along the logarithms of lengths.
// Points stand by column: `rows` values of each of `count` coordinates.
#ifndef ENSAYO_CORE_KERNEL_H
#define ENSAYO_CORE_KERNEL_H

#include <cstddef>

namespace ensayo {

// Values for each point of `a` (down) with each of `b` (across), into `out`.
void matern(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
            double* out);

// For each point of `a` the sum over the points of `b` of the kernel times their weight, in the order of `b`.
void matern_sums(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
                 const double* weights, unsigned threads, double* out);

// For each coordinate the sum over all pairs of `weights` (rows by rows, symmetric) times the kernel's slope along the logarithm of
// that coordinate's length.
void matern_slopes(const double* points, std::size_t rows, std::size_t count, const double* lengths, const double* weights,
                   double* out);

// The least scaled distance of each point of `a` from any of `b`; with `apart`, from any other than the point of the same number.
void nearest(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
             bool apart, unsigned threads, double* out);

}  // namespace ensayo

#endif
