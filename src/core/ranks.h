// Order and ranks of doubles by radix sort.
#ifndef ENSAYO_CORE_RANKS_H
#define ENSAYO_CORE_RANKS_H

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <vector>

namespace ensayo {

// Whole numbers of at most `bits` bits, up to 32, in the order of a column's values: by distance from the least value, or
// by the leading bits of the numbers themselves, whichever spreads a sample more. Equal keys do not mean equal values.
class Keys {
 public:
  Keys(const double* x, std::size_t n, unsigned bits);
  std::uint32_t operator()(double v) const {
    if (linear_) return static_cast<std::uint32_t>(static_cast<std::int64_t>((v - low_) * factor_));
    return static_cast<std::uint32_t>((ordered_bits(v) - least_) >> dropped_);
  }

 private:
  // A double's bits as a whole number in its order; -0 is 0.
  static std::uint64_t ordered_bits(double x) {
    x += 0.0;
    std::uint64_t bits;
    std::memcpy(&bits, &x, sizeof bits);
    return bits >> 63 ? ~bits : bits | 1ULL << 63;
  }
  std::size_t slots_filled(const std::vector<double>& sample, unsigned drop) const;
  bool linear_ = false;
  double low_, factor_;
  std::uint64_t least_;
  unsigned dropped_ = 0;
};

// Sorts columns, and keeps its room between one column and the next.
class Sorter {
 public:
  struct Entry {
    std::uint32_t key, place;
  };

  // The places of x[0], ..., x[n - 1], of which none is NaN, from the smallest to the largest value; equal values in order
  // of appearance.
  const std::vector<Entry>& sort(const double* x, std::size_t n);

  // Ranks from 1 to n; equal values share the mean of theirs.
  void mid_ranks(const double* x, std::size_t n, double* ranks);

 private:
  void settle(const double* x);

  std::vector<Entry> entries_, spare_;
  std::vector<std::uint32_t> keys_;
};

}  // namespace ensayo

#endif
