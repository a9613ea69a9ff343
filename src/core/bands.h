// Bands of runs: which band each run lies in, what of a column's variance lies between bands, and how far bands'
// distributions lie from that of all runs.
#ifndef ENSAYO_CORE_BANDS_H
#define ENSAYO_CORE_BANDS_H

#include <cstddef>
#include <vector>

namespace ensayo {

// Bands of equal probability by ranks of which equal values share the mean: no more than `bands`, with twenty runs in each,
// numbered from 1 on without gaps. A column of no more distinct values has each as a band of its own. Returns how many.
int rank_bands(const double* ranks, std::size_t n, int bands, int* band);

// One-way analysis of variance over bands, which count from 1: the correlation ratio less what an idle column has, and F,
// infinite where nothing is left within bands and 0 where nothing varies.
struct BandVariance {
  double index = 0, f = 0;
};
BandVariance band_variance(const int* band, const double* y, std::size_t n, int bands);

// What a column does to another besides raising or lowering it: the square of the correlation of their ranks, what lies
// between bands of the other's ranks, and between bands of their squared distances from the bands' means (nothing where
// those are rounding alone).
struct Shape {
  double square = 0;
  BandVariance curve, spread;
};
class Shapes {
 public:
  Shapes(const double* y_ranks, std::size_t n);
  Shape of(const double* ranks, const int* band, int bands) const;

 private:
  std::vector<double> y_;
  double length_;
};

// The shapes of columns' ranks of the first n runs, a row for each of `x`, for each of `y`; and how many bands, of `most` at most,
// each of `x` has.
void shapes(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n, int most, unsigned threads,
            Shape* out, int* bands);

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
