#include "fast.h"
#include "percentiles.h"

#include <algorithm>
#include <cstdint>

#include "ranks.h"

namespace ensayo {

// One pass counts the values in 2^16 slots of the range that they fill, one gathers those of the slots that hold a rank
// asked for; only these are put in order.
std::vector<double> order_statistics(const double* x, std::size_t n, const std::vector<std::size_t>& ranks) {
  if (n <= 2048) {  // the slots would cost more than the whole
    std::vector<double> sorted(x, x + n), out;
    std::sort(sorted.begin(), sorted.end());
    for (std::size_t rank : ranks) out.push_back(sorted[rank]);
    return out;
  }
  constexpr unsigned slot_bits = 16;
  const Keys slot(x, n, slot_bits);

  std::vector<std::size_t> before(std::size_t{1} << slot_bits, 0);
  for (std::size_t i = 0; i < n; ++i) ++before[slot(x[i])];
  std::size_t total = 0;
  for (std::size_t& count : before) {
    const std::size_t size = count;
    count = total;
    total += size;
  }
  auto slot_of_rank = [&](std::size_t rank) {
    return static_cast<std::size_t>(std::upper_bound(before.begin(), before.end(), rank) - before.begin()) - 1;
  };
  // slots asked for, numbered in order; 0 is none
  std::vector<std::uint32_t> number(before.size(), 0);
  std::vector<std::vector<double>> gathered(1);
  for (std::size_t rank : ranks) {
    std::uint32_t& mark = number[slot_of_rank(rank)];
    if (mark != 0) continue;
    mark = static_cast<std::uint32_t>(gathered.size());
    gathered.emplace_back();
  }
  for (std::size_t i = 0; i < n; ++i) {
    const std::uint32_t mark = number[slot(x[i])];
    if (mark != 0) gathered[mark].push_back(x[i]);
  }
  std::vector<double> out;
  for (std::size_t rank : ranks) {
    const std::size_t at = slot_of_rank(rank);
    std::vector<double>& values = gathered[number[at]];
    const auto place = values.begin() + static_cast<std::ptrdiff_t>(rank - before[at]);
    std::nth_element(values.begin(), place, values.end());
    out.push_back(*place);
  }
  return out;
}

}  // namespace ensayo
