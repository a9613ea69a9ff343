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

void add_occurrences(const Stream& stream, const Inversion* law, const Take& take, std::uint64_t first, std::size_t count,
                     const double* counts, double* out, std::vector<OpenSize>& open) {
  constexpr std::size_t block = 1024;
  std::vector<double> u(block), x(block), all(block);
  std::vector<std::size_t> run, places;
  for (std::size_t at = 0; at < count; at += block) {
    const std::size_t size = std::min(block, count - at);
    run.resize(size);
    for (std::size_t i = 0; i < size; ++i) run[i] = i;
    for (std::uint64_t k = 0;; ++k) {
      // the runs that have another occurrence
      std::size_t left = 0;
      for (std::size_t i : run) if (counts[at + i] > static_cast<double>(k)) run[left++] = i;
      run.resize(left);
      if (left == 0) break;
      const Stream own = stream.at_index(k);
      if (2 * left > size) {
        fill_uniforms(own, first + at, size, all.data());
        for (std::size_t j = 0; j < left; ++j) u[j] = all[run[j]];
      } else {
        for (std::size_t j = 0; j < left; ++j) u[j] = open_unit(own.word(first + at + run[j]));
      }
      places.clear();
      if (law) {
        law->apply(u.data(), left, x.data(), places);
      } else {
        for (std::size_t j = 0; j < left; ++j) places.push_back(j);
      }
      std::size_t next = 0;
      for (std::size_t j = 0; j < left; ++j) {
        if (next < places.size() && places[next] == j) {
          open.push_back({at + run[j], u[j]});
          ++next;
        } else {
          take.add(x[j], out[at + run[j]]);
        }
      }
    }
  }
}

}  // namespace ensayo
