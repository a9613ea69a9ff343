// Laws by inversion: x = quantile(u), for columns of u inside (0, 1).
#ifndef ENSAYO_CORE_INVERSION_H
#define ENSAYO_CORE_INVERSION_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ensayo {

class Inversion {
 public:
  virtual ~Inversion() = default;

  // `x` may be `u` itself. Where the quantile must come from elsewhere, `x` keeps u and the place is added to `open`.
  virtual void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const = 0;
};

class UniformInversion : public Inversion {
 public:
  UniformInversion(double min, double max) : min_(min), max_(max) {}
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

 private:
  double min_, max_;
};

class NormalInversion : public Inversion {
 public:
  NormalInversion(double mean, double sd) : mean_(mean), sd_(sd) {}
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

 private:
  double mean_, sd_;
};

class LognormalInversion : public Inversion {
 public:
  LognormalInversion(double median, double sdlog, double min) : median_(median), sdlog_(sdlog), min_(min) {}
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

 private:
  double median_, sdlog_, min_;  // the median is counted from min
};

class TriangularInversion : public Inversion {
 public:
  TriangularInversion(double min, double mode, double max) : min_(min), mode_(mode), max_(max) {}
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

 private:
  double min_, mode_, max_;
};

// The first of `size` increasing values whose cumulative probability is at least u. A guide table (Chen and Asau 1974,
// AIIE Transactions 6) says where to begin to look. Beyond the last cumulative probability, and up to `below`, which
// belongs to values before the first, places stay open.
class StepInversion : public Inversion {
 public:
  StepInversion(const double* values, const double* cumulative, std::size_t size, double below);
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

 private:
  const double* values_;
  const double* cumulative_;
  std::size_t size_;
  double below_;
  std::vector<std::uint32_t> guide_;
};

// A dear quantile as polynomials of degree 7 on cells of p, the smaller tail's probability: some octaves below a half, as
// many on either side, each cut into 2^fineness cells, counted from a half down and found from the bits of p without a
// search. Where p is smaller still, or a cell's first coefficient is not a number, places stay open.
class TableInversion : public Inversion {
 public:
  static constexpr unsigned terms = 8;

  TableInversion(const double* coefficients, std::size_t side_cells, unsigned fineness, double min, double max)
      : coefficients_(coefficients), side_cells_(side_cells), fineness_(fineness), min_(min), max_(max) {}
  void apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const override;

  // What a table is made of: the probability at place `at`, from -1 to 1, of cell `cell` of one side, and the
  // coefficients of the polynomial through `terms` values at node(0), ..., node(terms - 1).
  static double probability(std::size_t cell, unsigned fineness, double at);
  static double node(unsigned k);
  static void interpolate(const double* values, double* coefficients);

  // A cell's polynomial as those of the two cells of which it is made at the next fineness, 2 `cell` and 2 `cell` + 1.
  static void halve(const double* coefficients, double* halves);

 private:
  const double* coefficients_;  // of the lower side's cells from p = 1/2 down, then of the upper side's
  std::size_t side_cells_;
  unsigned fineness_;
  double min_, max_;  // the support, which rounding must not leave
};

}  // namespace ensayo

#endif
