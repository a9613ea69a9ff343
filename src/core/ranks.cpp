#include "fast.h"
#include "ranks.h"

#include <algorithm>
#include <cmath>

#include "vectors.h"

namespace ensayo {

Keys::Keys(const double* x, std::size_t n, unsigned bits) {
  const Range range = range_of(x, n);
  low_ = range.low;
  least_ = ordered_bits(range.low);
  const std::uint64_t span = ordered_bits(range.high) - least_;
  while (span >> dropped_ >> (bits - 1) > 1) ++dropped_;
  factor_ = (std::ldexp(1.0, static_cast<int>(bits)) - 1) / (range.high - range.low);
  if (!std::isfinite(factor_) || factor_ <= 0) return;
  std::vector<double> sample;
  for (std::size_t i = 0, step = n / 128 + 1; i < n; i += step) sample.push_back(x[i]);
  std::sort(sample.begin(), sample.end());
  const std::size_t by_bits = slots_filled(sample, bits - 8);
  linear_ = true;
  linear_ = slots_filled(sample, bits - 8) >= by_bits;
}

// How many different keys a sorted sample has when their lowest bits are dropped.
std::size_t Keys::slots_filled(const std::vector<double>& sample, unsigned drop) const {
  std::size_t filled = 1;
  for (std::size_t i = 1; i < sample.size(); ++i) {
    filled += ((*this)(sample[i]) >> drop) != ((*this)(sample[i - 1]) >> drop);
  }
  return filled;
}

namespace {

constexpr unsigned key_bits = 32, digit_bits = 11;

// A digit of the keys: `bits` of them from `shift` up.
struct Digit {
  unsigned shift, bits;
  std::uint32_t starts[1u << digit_bits] = {0};
  std::uint32_t of(std::uint32_t key) const { return key >> shift & ((1u << bits) - 1); }
  // how many keys have each digit, and from that where the first of these goes
  void count(const std::vector<std::uint32_t>& keys) {
    for (const std::uint32_t key : keys) ++starts[of(key)];
    std::uint32_t start = 0;
    for (std::uint32_t d = 0; d < 1u << bits; ++d) {
      const std::uint32_t size = starts[d];
      starts[d] = start;
      start += size;
    }
  }
};

}  // namespace

// By leading bits of the keys, about two more than it takes to number the values; neighbours that are then still out of
// order are put right one by one.
const std::vector<Sorter::Entry>& Sorter::sort(const double* x, std::size_t n) {
  entries_.resize(n);
  spare_.resize(n);
  if (n == 0) return entries_;
  const Keys key(x, n, key_bits);
  unsigned bits = 2;
  while (bits < key_bits && n >> (bits - 2) != 0) ++bits;
  const unsigned passes = (bits + digit_bits - 1) / digit_bits, lowest = key_bits - bits;
  std::vector<Digit> digits(passes);
  for (unsigned p = 0; p < passes; ++p) {
    const unsigned from = bits * p / passes, to = bits * (p + 1) / passes;
    digits[p].shift = lowest + from;
    digits[p].bits = to - from;
  }
  keys_.resize(n);
  for (std::size_t i = 0; i < n; ++i) keys_[i] = key(x[i]);
  for (Digit& digit : digits) digit.count(keys_);
  for (std::size_t i = 0; i < n; ++i) {
    entries_[digits[0].starts[digits[0].of(keys_[i])]++] = {keys_[i], static_cast<std::uint32_t>(i)};
  }
  for (unsigned p = 1; p < passes; ++p) {
    Digit& digit = digits[p];
    for (const Entry& entry : entries_) spare_[digit.starts[digit.of(entry.key)]++] = entry;
    entries_.swap(spare_);
  }
  settle(x);
  return entries_;
}

// Insertion sort on what is nearly in order. Equal keys are told apart by the values themselves.
void Sorter::settle(const double* x) {
  const std::size_t n = entries_.size();
  auto before = [x](const Entry& a, const Entry& b) {
    return a.key != b.key ? a.key < b.key : x[a.place] < x[b.place];
  };
  std::size_t moves = 0;
  for (std::size_t i = 1; i < n; ++i) {
    const Entry entry = entries_[i];
    std::size_t j = i;
    for (; j > 0 && before(entry, entries_[j - 1]); --j) entries_[j] = entries_[j - 1];
    entries_[j] = entry;
    moves += i - j;
    if (moves > 8 * n) {  // crowded after all
      std::stable_sort(entries_.begin(), entries_.end(), before);
      return;
    }
  }
}

void Sorter::mid_ranks(const double* x, std::size_t n, double* ranks) {
  sort(x, n);
  for (std::size_t from = 0; from < n;) {
    std::size_t to = from + 1;
    while (to < n && entries_[to].key == entries_[from].key && x[entries_[to].place] == x[entries_[from].place]) ++to;
    const double shared = (static_cast<double>(from) + static_cast<double>(to) + 1) / 2;
    for (std::size_t i = from; i < to; ++i) ranks[entries_[i].place] = shared;
    from = to;
  }
}

}  // namespace ensayo
