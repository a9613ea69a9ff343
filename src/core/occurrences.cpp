#include "exact.h"
#include "occurrences.h"

#include <algorithm>

namespace ensayo {

void Take::add(double size, double& value) const {
  double left = size;
  if (deductible > 0 || limit < std::numeric_limits<double>::infinity()) {
    if (deductible > 0 && size <= deductible) return;
    left = std::min(size - deductible, limit);
  }
  switch (what) {
    case Taken::sum: value += left; break;
    case Taken::number: value += 1; break;
    case Taken::largest: value = std::max(value, left); break;
    case Taken::number_above: value += left > above; break;
    case Taken::sum_above: value += left > above ? left : 0; break;
  }
}

void Take::add(const double* sizes, const std::uint32_t* runs, std::size_t count, double* values) const {
  if (what == Taken::sum && deductible == 0 && limit == std::numeric_limits<double>::infinity()) {
    for (std::size_t j = 0; j < count; ++j) values[runs[j]] += sizes[j];
    return;
  }
  for (std::size_t j = 0; j < count; ++j) add(sizes[j], values[runs[j]]);
}

void add_occurrences(const Stream& stream, const Inversion* law, const Take& take, std::uint64_t first, std::size_t count,
                     const double* counts, double* out, std::vector<OpenSize>& open) {
  constexpr std::size_t block = 512;
  // words are made for many neighbours at once: one by one only where few are wanted
  constexpr std::size_t few = block / 16;
  double u[block], x[block];
  std::uint32_t run[block];
  std::vector<std::size_t> places;
  for (std::size_t at = 0; at < count; at += block) {
    const std::size_t size = std::min(block, count - at);
    for (std::uint32_t i = 0; i < size; ++i) run[i] = i;
    std::size_t left = size;
    for (std::uint64_t k = 0;; ++k) {
      // the runs that have another occurrence
      std::size_t kept = 0;
      for (std::size_t j = 0; j < left; ++j) {
        const std::uint32_t i = run[j];
        run[kept] = i;
        kept += counts[at + i] > static_cast<double>(k);
      }
      left = kept;
      if (left == 0) break;
      const Stream own = stream.at_index(k);
      if (left > few) {
        fill_uniforms(own, first + at, size, u);
        for (std::size_t j = 0; j < left; ++j) u[j] = u[run[j]];  // run[j] is at least j
      } else {
        for (std::size_t j = 0; j < left; ++j) u[j] = open_unit(own.word(first + at + run[j]));
      }
      places.clear();
      if (law) {
        law->apply(u, left, x, places);
      } else {
        for (std::size_t j = 0; j < left; ++j) places.push_back(j);
      }
      std::size_t from = 0;
      for (std::size_t j : places) {  // what lies between open places
        take.add(x + from, run + from, j - from, out + at);
        open.push_back({at + run[j], u[j]});
        from = j + 1;
      }
      take.add(x + from, run + from, left - from, out + at);
    }
  }
}

}  // namespace ensayo
