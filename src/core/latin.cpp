#include "exact.h"
#include "fast.h"
#include "latin.h"

#include <algorithm>

namespace ensayo {

namespace {

// The largest m with n * 2^m <= 2^50, so that (stratum * 2^m + jitter) + 1/2 is exact in a double.
unsigned exact_jitter_bits(std::uint64_t n) {
  unsigned m = 0;
  while (m < 50 && (n << (m + 1)) <= (1ULL << 50)) ++m;
  return m;
}

}  // namespace

LatinMargin::LatinMargin(const Stream& draws, const Stream& order, std::uint64_t n, Place place)
    : draws_(draws), order_(order, n), n_(n), jitter_bits_(place == Place::middle ? 0 : exact_jitter_bits(n)) {}

void LatinMargin::fill(std::uint64_t first, std::size_t count, double* out) const {
  std::uint64_t strata[piece_size], words[piece_size];
  const double scale = static_cast<double>(n_ << jitter_bits_);
  for (std::size_t at = 0; at < count; at += piece_size) {
    const std::size_t size = std::min(piece_size, count - at);
    order_.fill(first + at, size, strata);
    if (jitter_bits_ > 0) {
      draws_.fill(first + at, size, words);
      const unsigned left = jitter_bits_, right = 64 - jitter_bits_;
      for (std::size_t j = 0; j < size; ++j) strata[j] = (strata[j] << left) + (words[j] >> right);
    }
    // all below 2^50: signed integers turn into doubles faster
    for (std::size_t j = 0; j < size; ++j) {
      out[at + j] = (static_cast<double>(static_cast<std::int64_t>(strata[j])) + 0.5) / scale;
    }
  }
}

}  // namespace ensayo
