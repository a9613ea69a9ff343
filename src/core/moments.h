// Sums that do not depend on how the runs were cut into chunks.
#ifndef ENSAYO_CORE_MOMENTS_H
#define ENSAYO_CORE_MOMENTS_H

#include <cstddef>
#include <vector>

namespace ensayo {

// The total of partial sums, pair by pair.
double pairwise_total(std::vector<double> sums);

struct Moments {
  std::size_t count = 0;  // finite values; the others are passed over
  double mean = 0, min = 0, max = 0;
  double m2 = 0, m3 = 0, m4 = 0;  // central moments, divided by count, of (x - mean) / scale
  double scale = 1;               // above 1 only where fourth powers could overflow, below where they could vanish
};

Moments moments(const double* x, std::size_t n);

}  // namespace ensayo

#endif
