// Masses at points handed to the places of a grid.
#ifndef ENSAYO_CORE_STENCIL_H
#define ENSAYO_CORE_STENCIL_H

#include <cstddef>
#include <vector>

namespace ensayo {

constexpr int stencil_width = 6;

// Each point, `at` in steps of the grid, gives its mass to the six places about it by Lagrange's polynomials, so that six moments
// are kept: of the cell from k to k + 1 to places k - 2 to k + 3. The first entry is place `first` - 2, the last place `last` + 3; what
// lies in a cell after `last` is left out.
std::vector<double> on_places(const double* at, const double* mass, std::size_t n, std::ptrdiff_t first, std::ptrdiff_t last);

}  // namespace ensayo

#endif
