#include "exact.h"
#include "stencil.h"

#include <cmath>

namespace ensayo {

std::vector<double> on_places(const double* at, const double* mass, std::size_t n, std::ptrdiff_t first, std::ptrdiff_t last) {
  // the products of the distances from each place to the five others
  static const double scale[stencil_width] = {-120, 24, -12, 12, -24, 120};
  std::vector<double> out(static_cast<std::size_t>(last - first + stencil_width));
  for (std::size_t i = 0; i < n; ++i) {
    const double cell = std::floor(at[i]);
    const auto from = static_cast<std::ptrdiff_t>(cell) - first;
    if (from < 0 || from > last - first) continue;
    double away[stencil_width], before[stencil_width], after = mass[i];
    for (int j = 0; j < stencil_width; ++j) away[j] = at[i] - cell + 2 - j;
    before[0] = 1;
    for (int j = 1; j < stencil_width; ++j) before[j] = before[j - 1] * away[j - 1];
    double* to = out.data() + from;
    for (int j = stencil_width - 1; j >= 0; --j) {
      to[j] += before[j] * after / scale[j];
      after *= away[j];
    }
  }
  return out;
}

}  // namespace ensayo
