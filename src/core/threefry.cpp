#include "fast.h"
#include "threefry.h"

#include <cstring>

#include "path.h"

namespace ensayo {

namespace {

// Rotation distances of Threefry-4x64: a pair for each of eight rounds, then over again (Salmon et al. 2011, table 3).
constexpr unsigned rotations[8][2] = {{14, 16}, {52, 57}, {23, 40}, {5, 37}, {25, 33}, {46, 12}, {58, 22}, {32, 32}};
constexpr std::uint64_t parity = 0x1BD11BDAA9FC1A22ULL;
constexpr unsigned rounds = 20;

template <class Word>
ENSAYO_INLINE void mix(Word& a, Word& b, unsigned by) {
  a += b;
  b = ((b << by) | (b >> (64 - by))) ^ a;
}

// On single words, or on eight blocks side by side. `x` is the counter and becomes the block.
template <class Word>
ENSAYO_INLINE void encrypt(const Block& key, Word* x) {
  const std::uint64_t schedule[5] = {key[0], key[1], key[2], key[3], parity ^ key[0] ^ key[1] ^ key[2] ^ key[3]};
  for (unsigned j = 0; j < 4; ++j) x[j] += schedule[j];
#pragma GCC unroll 20
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
}

template <class Width>
ENSAYO_INLINE void fill_groups(const Block& key, const Block& rest, std::uint64_t first, std::size_t groups,
                               std::uint64_t* out) {
  using Words = typename Width::Words;
  std::uint64_t spread[4][Width::count];  // the counter in every lane, its first word counting them
  for (unsigned b = 0; b < Width::count; ++b) {
    for (unsigned j = 0; j < 4; ++j) spread[j][b] = j == 0 ? b : rest[j];
  }
  Words start[4];
  std::memcpy(start, spread, sizeof start);
  for (std::size_t g = 0; g < groups; ++g, out += group_size) {
    for (unsigned b = 0; b < lanes; b += Width::count) {
      Words x[4] = {start[0] + (lanes * (first + g) + b), start[1], start[2], start[3]};
      encrypt(key, x);
      for (unsigned w = 0; w < 4; ++w) std::memcpy(out + lanes * w + b, &x[w], sizeof x[w]);
    }
  }
}

ENSAYO_ON_EVERY_PATH(groups_on_path, fill_groups,
                     (const Block& key, const Block& rest, std::uint64_t first, std::size_t groups, std::uint64_t* out),
                     (key, rest, first, groups, out))

}  // namespace

Block threefry(const Block& key, const Block& counter) {
  Block x = counter;
  encrypt(key, x.data());
  return x;
}

void threefry_groups(const Block& key, const Block& rest, std::uint64_t first, std::size_t groups, std::uint64_t* out) {
  groups_on_path(key, rest, first, groups, out);
}

}  // namespace ensayo
