// Where a column's values lie thickest.
#ifndef ENSAYO_CORE_DENSITY_H
#define ENSAYO_CORE_DENSITY_H

#include <cstddef>
#include <vector>

namespace ensayo {

// The cell, counted from 0, in which counts smoothed by a kernel are greatest; the first of several. `kernel` holds the
// weights of cells 0, 1, ... away to either side, of fewer cells than there are. What would be smoothed beyond an end is
// turned back there where `turned` says so, as no value lies beyond it.
struct Turned {
  bool low, high;
};
std::size_t smoothed_top(const std::vector<double>& counts, const std::vector<double>& kernel, Turned turned);

}  // namespace ensayo

#endif
