#include "exact.h"
#include "correlation.h"

#include <algorithm>

#include "normal.h"
#include "stream.h"
#include "vectors.h"

namespace ensayo {

Copula::Copula(const std::vector<double>& root, std::size_t columns) : root_(root), columns_(columns) {
  std::vector<double> correlation(columns * columns, 0);
  for (std::size_t j = 0; j < columns; ++j) {
    for (std::size_t i = 0; i < j; ++i) {
      double& r = correlation[j * columns + i];
      for (std::size_t k = 0; k <= i; ++k) r += root[j * columns + k] * root[i * columns + k];
    }
  }
  copies_ = copies_among(correlation, columns);
}

void Copula::apply(double* const* u, std::size_t n) const {
  std::vector<double> z(columns_ * piece_size), mixed(piece_size);
  for (std::size_t at = 0; at < n; at += piece_size) {
    const std::size_t size = std::min(piece_size, n - at);
    for (std::size_t j = 0; j < columns_; ++j) normal_quantiles(u[j] + at, size, z.data() + j * piece_size);
    for (std::size_t j = 1; j < columns_; ++j) {
      if (copies_[j].sign != 0) continue;
      std::fill(mixed.begin(), mixed.end(), 0.0);
      for (std::size_t k = 0; k <= j; ++k) {
        const double factor = root_[j * columns_ + k];
        if (factor != 0) add_multiple(factor, z.data() + k * piece_size, size, mixed.data());
      }
      // Phi rounds to 1 beyond 8.3; a uniform number lies inside (0, 1)
      for (std::size_t i = 0; i < size; ++i) u[j][at + i] = std::min(normal_cumulative(mixed[i]), 1 - 0x1p-53);
    }
  }
  for (std::size_t j = 1; j < columns_; ++j) {
    if (copies_[j].sign != 0) copy_column(u, j, copies_[j], n);
  }
}

}  // namespace ensayo
