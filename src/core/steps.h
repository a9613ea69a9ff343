// Models that go step by step: lines that are calculated in order at each step, from quantities of the run, values that are
// known for each step, and values of lines some steps ago.
#ifndef ENSAYO_CORE_STEPS_H
#define ENSAYO_CORE_STEPS_H

#include <cstdint>
#include <vector>

#include "program.h"

namespace ensayo {

// The columns that the lines are calculated from stand in this order: quantities of the run, values known for each step,
// values of steps before. A quantity with a value at each step has a column for each, of which the lines know the first.
struct StepModel {
  struct Lag {
    std::size_t line;
    std::size_t steps;    // 1 or more
  };
  Program start;                                // a wanted quantity for each line that has a starting value
  Program lines;                                // a wanted quantity for each line
  std::vector<std::size_t> started;             // which lines these are
  std::vector<std::vector<double>> known;       // a value for each step
  std::vector<Lag> lags;
  enum class Kept { nothing, last, all };
  std::vector<Kept> kept;                       // at which steps the values of each line are wanted
  std::size_t steps;
  std::vector<std::size_t> series;              // first columns of quantities with a value at each step

  // Values of n runs at the steps that are kept, of each line of which some are: a step after the other. Runs that failed are
  // marked. Gives back what is worth a warning.
  unsigned run(const std::vector<const double*>& columns, const std::vector<bool>& single, std::size_t n, unsigned threads,
               const std::vector<double*>& out, std::vector<unsigned char>& failed) const;

  // Where run i went wrong: the line, the step (0 for the starting values) and the reason.
  struct Place {
    std::size_t line, step;
    Reason reason;
  };
  Place explain(const std::vector<const double*>& columns, const std::vector<bool>& single, std::size_t i) const;

 private:
  class Path;
};

}  // namespace ensayo

#endif
