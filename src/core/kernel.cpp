#include "kernel.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "threads.h"

namespace ensayo {

namespace {

// Points with their coordinates side by side, in units of the lengths.
std::vector<double> scaled(const double* x, std::size_t rows, std::size_t count, const double* lengths) {
  std::vector<double> out(rows * count);
  for (std::size_t k = 0; k < count; ++k) {
    for (std::size_t i = 0; i < rows; ++i) out[i * count + k] = x[k * rows + i] / lengths[k];
  }
  return out;
}

double squared(const double* a, const double* b, std::size_t count) {
  double sum = 0;
  for (std::size_t k = 0; k < count; ++k) sum += (a[k] - b[k]) * (a[k] - b[k]);
  return sum;
}

const double root5 = std::sqrt(5.0);

double matern_at(double square) {
  const double r = root5 * std::sqrt(square);
  return (1 + r + r * r / 3) * std::exp(-r);
}

// Rows in pieces, each on whichever thread is free.
template <class Work>
void over_rows(std::size_t rows, unsigned threads, Work work) {
  const std::size_t piece = 256;
  share_out((rows + piece - 1) / piece, threads, [&](std::size_t k) {
    for (std::size_t i = k * piece; i < std::min(rows, (k + 1) * piece); ++i) work(i);
  });
}

}  // namespace

void matern(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
            double* out) {
  const std::vector<double> from = scaled(a, rows_a, count, lengths), to = scaled(b, rows_b, count, lengths);
  for (std::size_t j = 0; j < rows_b; ++j) {
    for (std::size_t i = 0; i < rows_a; ++i) {
      out[j * rows_a + i] = matern_at(squared(&from[i * count], &to[j * count], count));
    }
  }
}

void matern_sums(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
                 const double* weights, unsigned threads, double* out) {
  const std::vector<double> from = scaled(a, rows_a, count, lengths), to = scaled(b, rows_b, count, lengths);
  over_rows(rows_a, threads, [&](std::size_t i) {
    double sum = 0;
    for (std::size_t j = 0; j < rows_b; ++j) sum += weights[j] * matern_at(squared(&from[i * count], &to[j * count], count));
    out[i] = sum;
  });
}

void matern_slopes(const double* points, std::size_t rows, std::size_t count, const double* lengths, const double* weights,
                   double* out) {
  const std::vector<double> at = scaled(points, rows, count, lengths);
  std::fill(out, out + count, 0.0);
  for (std::size_t j = 0; j < rows; ++j) {
    for (std::size_t i = 0; i < j; ++i) {
      const double* a = &at[i * count];
      const double* b = &at[j * count];
      const double r = root5 * std::sqrt(squared(a, b, count));
      const double slope = 2 * weights[j * rows + i] * 5 / 3 * (1 + r) * std::exp(-r);
      for (std::size_t k = 0; k < count; ++k) out[k] += slope * (a[k] - b[k]) * (a[k] - b[k]);
    }
  }
}

void nearest(const double* a, std::size_t rows_a, const double* b, std::size_t rows_b, std::size_t count, const double* lengths,
             bool apart, unsigned threads, double* out) {
  const std::vector<double> from = scaled(a, rows_a, count, lengths), to = scaled(b, rows_b, count, lengths);
  over_rows(rows_a, threads, [&](std::size_t i) {
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t j = 0; j < rows_b; ++j) {
      if (apart && i == j) continue;
      least = std::min(least, squared(&from[i * count], &to[j * count], count));
    }
    out[i] = std::sqrt(least);
  });
}

}  // namespace ensayo
