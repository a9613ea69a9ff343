// Sums of a count of sizes, run by run: the size of each occurrence is drawn at an address of its own.
#ifndef ENSAYO_CORE_OCCURRENCES_H
#define ENSAYO_CORE_OCCURRENCES_H

#include <cstddef>
#include <cstdint>
#include <limits>
#include <vector>

#include "inversion.h"
#include "stream.h"

namespace ensayo {

// What is taken of a run's occurrences, of each of which is left what is above a deductible, at most a limit.
enum class Taken { sum, number, largest, number_above, sum_above };

struct Take {
  Taken what = Taken::sum;
  double deductible = 0, limit = std::numeric_limits<double>::infinity();
  double above = 0;  // of number_above and sum_above

  // Adds one occurrence of this size to what a run has; a run begins with 0.
  void add(double size, double& value) const;

  // The same for `count` sizes, each of them of another run.
  void add(const double* sizes, const std::uint32_t* runs, std::size_t count, double* values) const;
};

// A size whose quantile must come from elsewhere: the run, counted from the first of its column, and its uniform number.
struct OpenSize {
  std::size_t run;
  double u;
};

// Adds the occurrences of `count` runs from run `first` on, of which run `first` + i has counts[i], to `out`. Sizes come from
// `stream`, at the occurrence's number, counted from 0, as index; with no `law` all of them stay open.
void add_occurrences(const Stream& stream, const Inversion* law, const Take& take, std::uint64_t first, std::size_t count,
                     const double* counts, double* out, std::vector<OpenSize>& open);

}  // namespace ensayo

#endif
