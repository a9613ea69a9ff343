// How the runs of a study are laid out, and the uniform numbers of one input over them.
#ifndef ENSAYO_CORE_DESIGN_H
#define ENSAYO_CORE_DESIGN_H

#include <cstddef>
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "stream.h"

namespace ensayo {

enum class Design { random, latin, midpoints, sobol };

struct Layout {
  Design design = Design::random;
  std::uint64_t runs = 1;        // in all
  std::uint64_t replicates = 1;  // independent designs one after another, each of runs / replicates
};

// A dimension of the Sobol' sequence; of no concern to the other designs.
struct Dimension {
  std::uint32_t polynomial = 0;
  std::vector<std::uint32_t> initial;
};

struct Address {
  std::uint64_t seed = 0;
  std::string stream;
  std::uint64_t index = 0;
  Dimension dimension;
};

// One input's uniform numbers within one replicate.
class Margin {
 public:
  virtual ~Margin() = default;
  virtual void fill(std::uint64_t first, std::size_t count, double* out) const = 0;
};

// One input's uniform numbers for the runs from `first` to before `last`; whatever range is asked for, a run's number is
// the same. Filling does not change it, so that threads may share it.
class Column {
 public:
  Column(const Address& address, const Layout& layout, std::uint64_t first, std::uint64_t last);
  void fill(std::uint64_t first, std::size_t count, double* out) const;

 private:
  std::uint64_t each_, first_replicate_;
  std::vector<std::unique_ptr<Margin>> margins_;  // of the replicates in the range
};

}  // namespace ensayo

#endif
