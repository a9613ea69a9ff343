#include "exact.h"
#include "fast.h"
#include "stream.h"

#include <algorithm>
#include <vector>

#include "path.h"

namespace ensayo {

// The generator itself as a compression function (Matyas-Meyer-Oseas), 32 bytes a step, with the length in a block of
// its own so that no name is a prefix of another.
Block name_key(const std::string& name) {
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

Stream::Stream(std::uint64_t seed, const std::string& name, Purpose purpose, std::uint64_t index,
               std::uint64_t replicate)
    : rest_({0, index, replicate, 0}) {
  const Block hashed = name_key(name);
  key_ = {seed, hashed[0], hashed[1], static_cast<std::uint64_t>(purpose)};
}

Stream Stream::at_index(std::uint64_t index) const {
  Stream other(*this);
  other.rest_[1] = index;
  return other;
}

std::uint64_t Stream::word(std::uint64_t run) const {
  const std::uint64_t lane = run % group_size;
  Block counter = rest_;
  counter[0] = lanes * (run / group_size) + lane % lanes;
  return threefry(key_, counter)[lane / lanes];
}

void Stream::fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const {
  std::uint64_t group[group_size];
  const std::uint64_t last = first + count;
  while (first < last) {
    const std::size_t skip = first % group_size;
    const std::size_t whole = skip == 0 ? (last - first) / group_size : 0;
    if (whole > 0) {
      threefry_groups(key_, rest_, first / group_size, whole, out);
      first += whole * group_size;
      out += whole * group_size;
    } else {  // the part of a group at either end
      threefry_groups(key_, rest_, first / group_size, 1, group);
      const std::size_t size = std::min<std::uint64_t>(group_size - skip, last - first);
      std::copy(group + skip, group + skip + size, out);
      first += size;
      out += size;
    }
  }
}

std::uint64_t WordReader::next() {
  constexpr std::size_t held = sizeof words_ / sizeof words_[0];
  if (run_ % held == 0) stream_.fill(run_, held, words_);
  return words_[run_++ % held];
}

// Words that would favour the low values are passed over.
std::uint64_t WordReader::below(std::uint64_t bound) {
  if (bound != bound_) {
    bound_ = bound;
    unfair_ = (0 - bound) % bound;  // 2^64 mod bound
  }
  for (;;) {
    const std::uint64_t word = next();
    if (word >= unfair_) return word % bound;
  }
}

void fill_uniforms(const Stream& stream, std::uint64_t first, std::size_t count, double* out) {
  std::uint64_t words[piece_size];
  for (std::size_t at = 0; at < count; at += piece_size) {
    const std::size_t size = std::min(piece_size, count - at);
    stream.fill(first + at, size, words);
    for (std::size_t j = 0; j < size; ++j) out[at + j] = open_unit(words[j]);
  }
}

}  // namespace ensayo
