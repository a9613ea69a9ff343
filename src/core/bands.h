// Sums of a column over bands of runs, and how far bands' distributions lie from that of all runs.
#ifndef ENSAYO_CORE_BANDS_H
#define ENSAYO_CORE_BANDS_H

#include <cstddef>
#include <vector>

namespace ensayo {

struct BandSums {
  std::vector<double> count, sum, squares;  // of y - origin
};

// `band` counts from 1.
BandSums band_sums(const int* band, const double* y, std::size_t n, int bands, double origin);

// For each band the largest distance between its cumulative distribution and that of all runs (Kolmogorov and Smirnov).
// `order` holds the runs, counted from 0, from the smallest to the largest y; `last` tells whether the next y is larger.
std::vector<double> band_distances(const int* band, const int* order, const char* last, std::size_t n, int bands);

// The same without the bias of a maximum: where a band lies farthest is looked for without one group of runs, and the
// distance there is taken from that group, with the sign that the others gave. For each group a row of bands: the
// distance, and how many runs of the group lie in the band; where none do, the distance is 0. Groups count from 0.
struct HeldOut {
  std::vector<double> distance, count;
};
HeldOut held_out_distances(const int* band, const int* group, const int* order, const char* last, std::size_t n, int bands,
                           int groups);

}  // namespace ensayo

#endif
