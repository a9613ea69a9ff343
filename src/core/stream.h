// Streams: the words behind one input (or one purpose), each addressed by run.
#ifndef ENSAYO_CORE_STREAM_H
#define ENSAYO_CORE_STREAM_H

#include <cstddef>
#include <cstdint>
#include <string>

#include "threefry.h"

namespace ensayo {

// What a stream's words are for. The numbers are part of every address: never renumber them.
enum class Purpose : std::uint64_t { draw = 1, permutation = 2, check = 3, scramble = 4, occurrence = 5 };

// 256 bits that stand for a name; two names with the same key would share their numbers.
Block name_key(const std::string& name);

class Stream {
 public:
  // `index` counts steps or occurrences within a run; it is 0 where an input is drawn once a run. `replicate` counts
  // hypercubes; runs are counted from 0 within each.
  Stream(std::uint64_t seed, const std::string& name, Purpose purpose, std::uint64_t index = 0,
         std::uint64_t replicate = 0);

  // The same stream at another index, without finding the name's key again.
  Stream at_index(std::uint64_t index) const;

  // The word of one run, counted from 0.
  std::uint64_t word(std::uint64_t run) const;

  // The words of `count` runs from `first` on; the same as word() for each.
  void fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const;

 private:
  Block key_;
  Block rest_;  // of the counter, whose first word says which block
};

// The words of a stream one after another.
class WordReader {
 public:
  explicit WordReader(const Stream& stream) : stream_(stream) {}
  std::uint64_t next();
  // A whole number below `bound`, every value equally likely.
  std::uint64_t below(std::uint64_t bound);

 private:
  Stream stream_;
  std::uint64_t run_ = 0, bound_ = 0, unfair_ = 0;
  std::uint64_t words_[8 * group_size];
};

// A double in the open interval (0, 1) from a word's upper 52 bits; with 53 it could round to 1.
inline double open_unit(std::uint64_t word) {
  return (static_cast<double>(word >> 12) + 0.5) * 0x1p-52;
}

// `count` uniform numbers of a stream, for the runs from `first` on.
void fill_uniforms(const Stream& stream, std::uint64_t first, std::size_t count, double* out);

// Work on long columns goes piece by piece, so that what lies between stays in the cache.
constexpr std::size_t piece_size = 4096;

}  // namespace ensayo

#endif
