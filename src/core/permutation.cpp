#include "fast.h"
#include "permutation.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include "path.h"

namespace ensayo {

namespace {

// x modulo `modulus` where x < 2 * modulus, without a branch: what falls below zero wraps round to the top.
ENSAYO_INLINE std::uint32_t wrapped(std::uint32_t x, std::uint32_t modulus) { return std::min(x, x - modulus); }

// The network on many neighbours at once, so that the look-ups of one do not wait for those of another.
template <class>
ENSAYO_INLINE void run_network(const std::uint32_t* table, unsigned rounds, std::uint32_t height, std::uint32_t width,
                               std::uint64_t first, std::size_t count, std::uint64_t* out) {
  constexpr std::size_t abreast = 16;
  std::uint32_t left[abreast], right[abreast];
  std::uint64_t row = first / width, column = first % width;
  for (std::size_t at = 0; at < count; at += abreast) {
    for (std::size_t j = 0; j < abreast; ++j) {
      left[j] = static_cast<std::uint32_t>(row);
      right[j] = static_cast<std::uint32_t>(column);
      if (++column < width) continue;
      column = 0;
      if (++row == height) row = 0;  // past the last element, in a last part that is not whole
    }
    const std::uint32_t* shift = table;
    for (unsigned r = 0; r < rounds; r += 2) {
      for (std::size_t j = 0; j < abreast; ++j) left[j] = wrapped(left[j] + shift[right[j]], height);
      shift += width;
      for (std::size_t j = 0; j < abreast; ++j) right[j] = wrapped(right[j] + shift[left[j]], width);
      shift += height;
    }
    const std::size_t size = std::min(abreast, count - at);
    for (std::size_t j = 0; j < size; ++j) out[at + j] = static_cast<std::uint64_t>(left[j]) * width + right[j];
  }
}

ENSAYO_ON_EVERY_PATH(network_on_path, run_network,
                     (const std::uint32_t* table, unsigned rounds, std::uint32_t height, std::uint32_t width,
                      std::uint64_t first, std::size_t count, std::uint64_t* out),
                     (table, rounds, height, width, first, count, out))

}  // namespace

Permutation::Permutation(const Stream& stream, std::uint64_t n) : n_(n) {
  if (n_ <= shuffle_limit) build_shuffle(stream);
  else build_network(stream);
}

void Permutation::build_shuffle(const Stream& stream) {
  table_.resize(n_);
  std::iota(table_.begin(), table_.end(), 0u);
  WordReader words(stream);
  for (std::uint64_t i = n_; i > 1; --i) std::swap(table_[i - 1], table_[words.below(i)]);
}

void Permutation::build_network(const Stream& stream) {
  height_ = static_cast<std::uint32_t>(std::ceil(std::sqrt(static_cast<double>(n_))));
  width_ = static_cast<std::uint32_t>((n_ + height_ - 1) / height_);
  // Even rounds shift the left part by a number found under the right part, odd rounds the other way round.
  WordReader words(stream);
  table_.reserve(rounds / 2 * (width_ + height_));
  for (unsigned r = 0; r < rounds; ++r) {
    const std::uint64_t entries = r % 2 == 0 ? width_ : height_;
    const std::uint64_t modulus = r % 2 == 0 ? height_ : width_;
    for (std::uint64_t j = 0; j < entries; ++j) table_.push_back(static_cast<std::uint32_t>(words.below(modulus)));
  }
}

std::uint64_t Permutation::through_network(std::uint64_t i) const {
  std::uint64_t out;
  network_on_path(table_.data(), rounds, height_, width_, i, 1, &out);
  return out;
}

std::uint64_t Permutation::operator()(std::uint64_t i) const {
  if (n_ <= shuffle_limit) return table_[i];
  do i = through_network(i);
  while (i >= n_);
  return i;
}

void Permutation::fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const {
  if (n_ <= shuffle_limit) {
    std::copy(table_.begin() + static_cast<std::ptrdiff_t>(first),
              table_.begin() + static_cast<std::ptrdiff_t>(first + count), out);
    return;
  }
  network_on_path(table_.data(), rounds, height_, width_, first, count, out);
  for (std::size_t j = 0; j < count; ++j) {
    if (out[j] >= n_) out[j] = (*this)(out[j]);
  }
}

}  // namespace ensayo
