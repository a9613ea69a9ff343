#pragma GCC optimize("fp-contract=off")
#include "stream.h"

#include <algorithm>
#include <vector>

namespace ensayo {

namespace {

// 32 runs share eight generator blocks: run 32 g + l takes word l / 8 of block 8 g + l % 8.
// This order lets wide registers fill eight neighbouring runs at once with the same bits.
constexpr std::uint64_t lanes = 8;
constexpr std::uint64_t group = 4 * lanes;

// Name to key: the generator itself as a compression function (Matyas-Meyer-Oseas), 32 bytes a step, with the
// length in a block of its own so that no name is a prefix of another.
Block hash_name(const std::string& name) {
  Block state = {0, 0, 0, 0};
  auto absorb = [&state](const Block& message) {
    Block mixed = threefry(state, message);
    for (unsigned j = 0; j < 4; ++j) state[j] = mixed[j] ^ message[j];
  };
  for (std::size_t at = 0; at < name.size(); at += sizeof(Block)) {
    Block message = {0, 0, 0, 0};
    const std::size_t bytes = std::min(sizeof(Block), name.size() - at);
    for (std::size_t j = 0; j < bytes; ++j) {  // by shifts, so that byte order does not matter
      const auto byte = static_cast<std::uint64_t>(static_cast<unsigned char>(name[at + j]));
      message[j / 8] |= byte << (8 * (j % 8));
    }
    absorb(message);
  }
  absorb({name.size(), 0, 0, 0});
  return state;
}

}  // namespace

Stream::Stream(std::int64_t seed, const std::string& name, Purpose purpose, std::uint64_t index) : index_(index) {
  const Block hashed = hash_name(name);
  key_ = {static_cast<std::uint64_t>(seed), hashed[0], hashed[1], static_cast<std::uint64_t>(purpose)};
}

Block Stream::block(std::uint64_t number) const { return threefry(key_, {number, index_, 0, 0}); }

std::uint64_t Stream::word(std::uint64_t run) const {
  const std::uint64_t lane = run % group;
  return block(lanes * (run / group) + lane % lanes)[lane / lanes];
}

void Stream::fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const {
  const std::uint64_t last = first + count;
  for (std::uint64_t start = first - first % group; start < last; start += group) {
    for (std::uint64_t b = 0; b < lanes; ++b) {
      const Block words = block(lanes * (start / group) + b);
      for (std::uint64_t w = 0; w < 4; ++w) {
        const std::uint64_t run = start + lanes * w + b;
        if (run >= first && run < last) out[run - first] = words[w];
      }
    }
  }
}

void fill_uniforms(const Stream& stream, std::uint64_t first, std::size_t count, double* out) {
  constexpr std::size_t piece = 4096;
  std::vector<std::uint64_t> words(std::min(count, piece));
  for (std::size_t at = 0; at < count; at += piece) {
    const std::size_t size = std::min(piece, count - at);
    stream.fill(first + at, size, words.data());
    for (std::size_t j = 0; j < size; ++j) out[at + j] = open_unit(words[j]);
  }
}

}  // namespace ensayo
