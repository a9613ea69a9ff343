// One margin of a scrambled Sobol' sequence. Sobol' (1967); direction numbers by Joe and Kuo (2008), SIAM J. Sci.
// Comput. 30(5); the order of Antonov and Saleev (1979); a random linear scramble and a digital shift, which keep what
// is even about the points and make their mean unbiased: Matousek (1998), Journal of Complexity 14(4).
#ifndef ENSAYO_CORE_SOBOL_H
#define ENSAYO_CORE_SOBOL_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "stream.h"

namespace ensayo {

class SobolMargin {
 public:
  // `polynomial`: the primitive polynomial's coefficients as bits, 0 for the first dimension; `initial`: as many odd
  // numbers as its degree.
  SobolMargin(std::uint32_t polynomial, const std::vector<std::uint32_t>& initial, const Stream& scramble);

  // Uniform numbers of `count` runs from `first` on. Of the first 2^k runs one lies in each of 2^k strata.
  void fill(std::uint64_t first, std::size_t count, double* out) const;

 private:
  static constexpr unsigned bits = 52;
  std::uint64_t point(std::uint64_t run) const;
  std::uint64_t directions_[bits];
  std::uint64_t shift_;
};

}  // namespace ensayo

#endif
