// One margin of a Latin hypercube: n runs, one in each of n strata of equal probability.
// McKay, Beckman and Conover (1979), Technometrics 21(2); in the strata's middles: Patterson (1954), JRSS B 16(1).
#ifndef ENSAYO_CORE_LATIN_H
#define ENSAYO_CORE_LATIN_H

#include <cstddef>
#include <cstdint>

#include "permutation.h"
#include "stream.h"

namespace ensayo {

enum class Place { jittered, middle };  // where in its stratum a run lies

class LatinMargin {
 public:
  LatinMargin(const Stream& draws, const Stream& order, std::uint64_t n, Place place = Place::jittered);

  // Uniform numbers of `count` runs from `first` on. floor(u * n) gives each run's stratum back exactly.
  void fill(std::uint64_t first, std::size_t count, double* out) const;

 private:
  Stream draws_;
  Permutation order_;
  std::uint64_t n_;
  unsigned jitter_bits_;
};

}  // namespace ensayo

#endif
