// A keyed permutation of {0, ..., n - 1} that is evaluated, not stored.
#ifndef ENSAYO_CORE_PERMUTATION_H
#define ENSAYO_CORE_PERMUTATION_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "stream.h"

namespace ensayo {

// Up to `shuffle_limit` elements it is a keyed Fisher-Yates shuffle: all n! orders are equally likely. Above, an
// unbalanced Feistel network on i = left * width + right with eight rounds of addition modulo the side's size, and
// cycle walking where a value falls outside; it needs memory of the order of sqrt(n) only.
// Luby and Rackoff (1988) for the network; Black and Rogaway (2002) for cycle walking.
class Permutation {
 public:
  Permutation(const Stream& stream, std::uint64_t n);
  std::uint64_t operator()(std::uint64_t i) const;

  // The images of `count` neighbours from `first` on; the same as operator() for each.
  void fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const;

 private:
  static constexpr std::uint64_t shuffle_limit = 4096;
  static constexpr unsigned rounds = 8;
  void build_shuffle(const Stream& stream);
  void build_network(const Stream& stream);
  std::uint64_t through_network(std::uint64_t i) const;

  std::uint64_t n_;
  std::uint32_t height_ = 0, width_ = 0;
  std::vector<std::uint32_t> table_;  // the shuffle itself, or the network's rounds one after another
};

}  // namespace ensayo

#endif
