#include "threefry.h"

namespace ensayo {

namespace {

// Rotation distances of Threefry-4x64: a pair for each of eight rounds, then over again (Salmon et al. 2011, table 3).
constexpr unsigned rotations[8][2] = {{14, 16}, {52, 57}, {23, 40}, {5, 37}, {25, 33}, {46, 12}, {58, 22}, {32, 32}};
constexpr std::uint64_t parity = 0x1BD11BDAA9FC1A22ULL;
constexpr unsigned rounds = 20;

inline std::uint64_t rotate_left(std::uint64_t x, unsigned by) { return (x << by) | (x >> (64 - by)); }

inline void mix(std::uint64_t& a, std::uint64_t& b, unsigned by) {
  a += b;
  b = rotate_left(b, by) ^ a;
}

}  // namespace

Block threefry(const Block& key, const Block& counter) {
  const std::uint64_t schedule[5] = {key[0], key[1], key[2], key[3], parity ^ key[0] ^ key[1] ^ key[2] ^ key[3]};
  Block x;
  for (unsigned j = 0; j < 4; ++j) x[j] = counter[j] + schedule[j];
  for (unsigned r = 0; r < rounds; ++r) {
    const unsigned* by = rotations[r % 8];
    // Odd rounds pair the words crosswise: that is the whole of the permutation step.
    mix(x[0], r % 2 == 0 ? x[1] : x[3], by[0]);
    mix(x[2], r % 2 == 0 ? x[3] : x[1], by[1]);
    if (r % 4 == 3) {
      const unsigned s = r / 4 + 1;
      for (unsigned j = 0; j < 4; ++j) x[j] += schedule[(s + j) % 5];
      x[3] += s;
    }
  }
  return x;
}

}  // namespace ensayo
