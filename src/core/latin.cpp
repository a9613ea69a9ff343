#pragma GCC optimize("fp-contract=off")
#include "latin.h"

#include <algorithm>
#include <vector>

namespace ensayo {

namespace {

// The largest m with n * 2^m <= 2^50, so that (stratum * 2^m + jitter) + 1/2 is exact in a double.
unsigned jitter_bits(std::uint64_t n) {
  unsigned m = 0;
  while (m < 50 && (n << (m + 1)) <= (1ULL << 50)) ++m;
  return m;
}

}  // namespace

LatinMargin::LatinMargin(const Stream& draws, const Stream& order, std::uint64_t n)
    : draws_(draws), order_(order, n), n_(n), jitter_bits_(jitter_bits(n)) {}

void LatinMargin::fill(std::uint64_t first, std::size_t count, double* out) const {
  constexpr std::size_t piece = 4096;
  std::vector<std::uint64_t> words(std::min(count, piece));
  const double scale = static_cast<double>(n_) * static_cast<double>(1ULL << jitter_bits_);
  for (std::size_t at = 0; at < count; at += piece) {
    const std::size_t size = std::min(piece, count - at);
    draws_.fill(first + at, size, words.data());
    for (std::size_t j = 0; j < size; ++j) {
      const std::uint64_t stratum = order_(first + at + j);
      const std::uint64_t jitter = jitter_bits_ == 0 ? 0 : words[j] >> (64 - jitter_bits_);
      out[at + j] = (static_cast<double>((stratum << jitter_bits_) + jitter) + 0.5) / scale;
    }
  }
}

}  // namespace ensayo
