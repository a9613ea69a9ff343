// Correlation between columns of uniform numbers: by another order of each column's own numbers, or run by run.
#ifndef ENSAYO_CORE_CORRELATION_H
#define ENSAYO_CORE_CORRELATION_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "ranks.h"

namespace ensayo {

// How n runs are cut into blocks of about `size`: as many as fit, their sizes differing by at most one, the larger first.
struct Blocks {
  Blocks(std::uint64_t n, std::uint64_t size);
  std::uint64_t first(std::uint64_t block) const;  // the block's first run; of block `count`, n
  std::uint64_t holding(std::uint64_t run) const;  // the block of a run
  std::uint64_t count, small, larger;              // runs in a small block, and how many have one more
};

// For each column the earlier one that it copies (sign 1) or mirrors (sign -1), where their correlation is 1 or -1.
struct Copy {
  std::size_t from = 0;
  int sign = 0;
};

// After Iman and Conover (1982), Communications in Statistics B11(3), one column at a time: the first keeps its order;
// of each later one the normal scores are mixed with those of the columns before it, in the proportions that give the
// target within this very sample, and its numbers take the mixture's order. What the ordering misses is fed back into
// the target. So a column depends on those before it alone, and no column's numbers ever change, only their order.
class RankCorrelator {
 public:
  // `asked`: rank correlations, `columns` by `columns`.
  RankCorrelator(const std::vector<double>& asked, std::size_t columns);

  // Puts n numbers a column into order. `part_of` is the number of runs in all of which these are a block.
  void reorder(double* const* u, std::size_t n, std::uint64_t part_of);

 private:
  void start(std::size_t n, double widened);
  void sort(const double* u);
  void place_first(const double* u);
  void place_copy(double* const* u, std::size_t j);
  void place(double* u, std::size_t j);
  void prepare_rest(double* own);
  std::vector<double> proportions(const std::vector<double>& target) const;
  std::vector<double> nearest_proportions(const std::vector<double>& wanted) const;
  void keep(std::size_t j, const std::vector<std::uint32_t>& place);

  std::vector<double> asked_;
  std::size_t columns_, n_ = 0;
  std::uint64_t blocks_ = 1;
  double widened_ = 1;
  std::vector<Copy> copies_;
  std::vector<double> scores_, ranks_;            // of places 0 to n - 1, centred and of length 1
  std::vector<std::vector<double>> placed_;       // each column's ranks as placed
  std::vector<std::vector<double>> basis_;        // an orthonormal basis of the placed scores,
  std::vector<std::vector<double>> coordinates_;  // and each column's place in it
  std::vector<std::size_t> members_;              // which column each basis vector came with
  std::vector<std::uint32_t> order_;              // where a column's numbers lie, from the smallest up
  bool whole_ = false;                            // whether the numbers are those of all strata
  Sorter sorter_;
};

std::vector<Copy> copies_among(const std::vector<double>& correlation, std::size_t columns);

// Column j becomes the copy or the mirror of another.
void copy_column(double* const* u, std::size_t j, const Copy& copy, std::size_t n);

// A Gaussian copula run by run: u = Phi(L z), for a lower triangular root L of the score correlations.
class Copula {
 public:
  Copula(const std::vector<double>& root, std::size_t columns);
  void apply(double* const* u, std::size_t n) const;

 private:
  std::vector<double> root_;
  std::size_t columns_;
  std::vector<Copy> copies_;
};

}  // namespace ensayo

#endif
