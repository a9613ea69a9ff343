// Inputs that are drawn at each step and keep some of what they were at the step before.
#ifndef ENSAYO_CORE_PERSISTENCE_H
#define ENSAYO_CORE_PERSISTENCE_H

#include <cstddef>
#include <vector>

namespace ensayo {

// Normal scores of a set of inputs as an autoregression of first order, which leaves each input's law as it is at every
// step: z(1) = B w(1), z(t) = p z(t - 1) + R w(t), where w are the scores of independent uniform numbers.
class Persistence {
 public:
  // `begin` is B and `root` is R, lower triangular, row by row; `kept` is p, one for each input.
  Persistence(const std::vector<double>& begin, const std::vector<double>& root, const std::vector<double>& kept);

  // Changes uniform numbers in place: u[j] has `steps` columns of `rows`; of these the runs from `first` on.
  void apply(double* const* u, std::size_t rows, std::size_t steps, std::size_t first, std::size_t count) const;

 private:
  std::vector<double> begin_, root_, kept_;
};

}  // namespace ensayo

#endif
