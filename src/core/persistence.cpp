#include "exact.h"
#include "persistence.h"

#include <algorithm>

#include "normal.h"
#include "stream.h"
#include "vectors.h"

namespace ensayo {

Persistence::Persistence(const std::vector<double>& begin, const std::vector<double>& root, const std::vector<double>& kept)
    : begin_(begin), root_(root), kept_(kept) {}

void Persistence::apply(double* const* u, std::size_t rows, std::size_t steps, std::size_t first, std::size_t count) const {
  const std::size_t inputs = kept_.size();
  std::vector<double> z(inputs * piece_size), w(inputs * piece_size), mixed(piece_size);
  for (std::size_t at = first; at < first + count; at += piece_size) {
    const std::size_t size = std::min(piece_size, first + count - at);
    for (std::size_t step = 0; step < steps; ++step) {
      const std::vector<double>& root = step == 0 ? begin_ : root_;
      for (std::size_t j = 0; j < inputs; ++j) normal_quantiles(u[j] + step * rows + at, size, &w[j * piece_size]);
      for (std::size_t j = 0; j < inputs; ++j) {
        std::fill(mixed.begin(), mixed.end(), 0.0);
        if (step > 0) add_multiple(kept_[j], &z[j * piece_size], size, mixed.data());
        for (std::size_t k = 0; k <= j; ++k) {
          const double factor = root[j * inputs + k];
          if (factor != 0) add_multiple(factor, &w[k * piece_size], size, mixed.data());
        }
        std::copy(mixed.begin(), mixed.begin() + static_cast<std::ptrdiff_t>(size), &z[j * piece_size]);
        double* out = u[j] + step * rows + at;
        // Phi rounds to 1 beyond 8.3, and to 0 far below; a uniform number lies inside (0, 1)
        for (std::size_t i = 0; i < size; ++i) out[i] = std::min(std::max(normal_cumulative(mixed[i]), 0x1p-1022), 1 - 0x1p-53);
      }
    }
  }
}

}  // namespace ensayo
