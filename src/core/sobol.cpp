#include "sobol.h"

namespace ensayo {

namespace {

unsigned parity(std::uint64_t x) {
  for (unsigned by = 32; by > 0; by /= 2) x ^= x >> by;
  return x & 1;
}

unsigned lowest_bit(std::uint64_t x) {
  unsigned k = 0;
  while ((x >> k & 1) == 0) ++k;
  return k;
}

}  // namespace

SobolMargin::SobolMargin(std::uint32_t polynomial, const std::vector<std::uint32_t>& initial, const Stream& scramble) {
  const unsigned degree = static_cast<unsigned>(initial.size());
  // m[k] < 2^(k + 1) and odd; the direction number is m[k] / 2^(k + 1) (Bratley and Fox 1988, eq. 2 to 4)
  std::uint64_t m[bits];
  for (unsigned k = 0; k < bits; ++k) {
    if (polynomial == 0) m[k] = 1;
    else if (k < degree) m[k] = initial[k];
    else {
      m[k] = m[k - degree] ^ (m[k - degree] << degree);
      for (unsigned j = 1; j < degree; ++j) {
        if (polynomial >> (degree - j) & 1) m[k] ^= m[k - j] << j;
      }
    }
  }
  // Row r of the scramble makes bit r of the result, counted from the top, of bit r and random ones of those above it.
  WordReader words(scramble);
  std::uint64_t rows[bits];
  for (unsigned r = 0; r < bits; ++r) {
    const std::uint64_t own = 1ULL << (bits - 1 - r), above = (1ULL << bits) - 2 * own;
    rows[r] = own | (words.next() & above);
  }
  for (unsigned k = 0; k < bits; ++k) {
    const std::uint64_t plain = m[k] << (bits - 1 - k);
    directions_[k] = 0;
    for (unsigned r = 0; r < bits; ++r) directions_[k] |= std::uint64_t{parity(rows[r] & plain)} << (bits - 1 - r);
  }
  shift_ = words.next() >> (64 - bits);
}

std::uint64_t SobolMargin::point(std::uint64_t run) const {
  std::uint64_t gray = run ^ (run >> 1), x = shift_;
  for (unsigned k = 0; gray != 0; ++k, gray >>= 1) {
    if (gray & 1) x ^= directions_[k];
  }
  return x;
}

void SobolMargin::fill(std::uint64_t first, std::size_t count, double* out) const {
  if (count == 0) return;
  std::uint64_t x = point(first);
  for (std::size_t j = 0; j < count; ++j) {
    out[j] = (static_cast<double>(x) + 0.5) * 0x1p-52;
    x ^= directions_[lowest_bit(first + j + 1)];  // neighbours in Gray's order differ in one direction
  }
}

}  // namespace ensayo
