#include "permutation.h"

#include <cmath>
#include <numeric>
#include <utility>

namespace ensayo {

namespace {

// A whole number below `bound`, every value equally likely: words that would favour the low values are passed over.
std::uint64_t below(std::uint64_t bound, const Stream& stream, std::uint64_t& next) {
  const std::uint64_t unfair = (0 - bound) % bound;  // 2^64 mod bound
  for (;;) {
    const std::uint64_t word = stream.word(next++);
    if (word >= unfair) return word % bound;
  }
}

}  // namespace

Permutation::Permutation(const Stream& stream, std::uint64_t n) : n_(n) {
  if (n_ <= shuffle_limit) build_shuffle(stream);
  else build_network(stream);
}

void Permutation::build_shuffle(const Stream& stream) {
  table_.resize(n_);
  std::iota(table_.begin(), table_.end(), 0u);
  std::uint64_t next = 0;
  for (std::uint64_t i = n_; i > 1; --i) std::swap(table_[i - 1], table_[below(i, stream, next)]);
}

void Permutation::build_network(const Stream& stream) {
  height_ = static_cast<std::uint64_t>(std::ceil(std::sqrt(static_cast<double>(n_))));
  width_ = (n_ + height_ - 1) / height_;
  // Even rounds shift the left part by a number found under the right part, odd rounds the other way round.
  std::uint64_t next = 0;
  table_.reserve(rounds / 2 * (width_ + height_));
  for (unsigned r = 0; r < rounds; ++r) {
    const std::uint64_t entries = r % 2 == 0 ? width_ : height_;
    const std::uint64_t modulus = r % 2 == 0 ? height_ : width_;
    for (std::uint64_t j = 0; j < entries; ++j) {
      table_.push_back(static_cast<std::uint32_t>(below(modulus, stream, next)));
    }
  }
}

std::uint64_t Permutation::through_network(std::uint64_t i) const {
  std::uint64_t left = i / width_, right = i % width_;
  const std::uint32_t* round = table_.data();
  for (unsigned r = 0; r < rounds; r += 2) {
    left += round[right];
    if (left >= height_) left -= height_;
    round += width_;
    right += round[left];
    if (right >= width_) right -= width_;
    round += height_;
  }
  return left * width_ + right;
}

std::uint64_t Permutation::operator()(std::uint64_t i) const {
  if (n_ <= shuffle_limit) return table_[i];
  do i = through_network(i);
  while (i >= n_);
  return i;
}

}  // namespace ensayo
