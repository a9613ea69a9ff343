#include "exact.h"
#include "density.h"

#include <algorithm>

#include "vectors.h"

namespace ensayo {

std::size_t smoothed_top(const std::vector<double>& counts, const std::vector<double>& kernel, Turned turned) {
  const auto cells = static_cast<std::ptrdiff_t>(counts.size()), reach = static_cast<std::ptrdiff_t>(kernel.size()) - 1;
  std::vector<double> both(kernel.rbegin(), kernel.rend() - 1), smoothed(counts.size());
  both.insert(both.end(), kernel.begin(), kernel.end());
  // a cell's count, as if it stood at another place, spread to where the kernel reaches
  auto spread = [&](std::ptrdiff_t cell, std::ptrdiff_t at) {
    const double count = counts[static_cast<std::size_t>(cell)];
    if (count == 0) return;
    const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, at - reach), to = std::min(cells - 1, at + reach);
    add_multiple(count, both.data() + (from - at + reach), static_cast<std::size_t>(to - from + 1), smoothed.data() + from);
  };
  for (std::ptrdiff_t cell = 0; cell < cells; ++cell) spread(cell, cell);
  for (std::ptrdiff_t cell = 0; cell < reach; ++cell) {
    if (turned.low) spread(cell, -1 - cell);
    if (turned.high) spread(cells - 1 - cell, cells + cell);
  }
  return static_cast<std::size_t>(std::max_element(smoothed.begin(), smoothed.end()) - smoothed.begin());
}

}  // namespace ensayo
