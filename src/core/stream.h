// Streams: the words behind one input (or one purpose), each addressed by run.
#ifndef ENSAYO_CORE_STREAM_H
#define ENSAYO_CORE_STREAM_H

#include <cstddef>
#include <cstdint>
#include <string>

#include "threefry.h"

namespace ensayo {

// What a stream's words are for. The numbers are part of every address: never renumber them.
enum class Purpose : std::uint64_t { draw = 1, permutation = 2, check = 3 };

class Stream {
 public:
  // `index` counts steps or occurrences within a run; it is 0 where an input is drawn once a run.
  Stream(std::int64_t seed, const std::string& name, Purpose purpose, std::uint64_t index = 0);

  // The word of one run, counted from 0.
  std::uint64_t word(std::uint64_t run) const;

  // The words of `count` runs from `first` on; the same as word() for each.
  void fill(std::uint64_t first, std::size_t count, std::uint64_t* out) const;

 private:
  Block block(std::uint64_t number) const;
  Block key_;
  std::uint64_t index_;
};

// A double in the open interval (0, 1) from a word's upper 52 bits; with 53 it could round to 1.
inline double open_unit(std::uint64_t word) {
  return (static_cast<double>(word >> 12) + 0.5) * 0x1p-52;
}

// `count` uniform numbers of a stream, for the runs from `first` on.
void fill_uniforms(const Stream& stream, std::uint64_t first, std::size_t count, double* out);

}  // namespace ensayo

#endif
