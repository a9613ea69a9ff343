#include "exact.h"
#include "correlations.h"

#include <algorithm>
#include <cmath>

#include "moments.h"
#include "ranks.h"
#include "stream.h"
#include "threads.h"
#include "vectors.h"

namespace ensayo {

namespace {

// A column measured from its mean in units of its half range, which keeps squares from overflow and from vanishing.
struct Measured {
  explicit Measured(const double* column) : x(column) {}
  const double* x;
  double centre = 0, unit = 0, mean = 0;

  void measure(std::size_t n) {
    std::vector<double> sums;
    const Range range = range_of(x, n);
    centre = range.low / 2 + range.high / 2;
    unit = range.high / 2 - range.low / 2;
    std::vector<double> part(piece_size), ones(piece_size, 1.0);
    for (std::size_t first = 0; unit > 0 && first < n; first += piece_size) {
      const std::size_t size = std::min(piece_size, n - first);
      piece(first, size, part.data());
      sums.push_back(dot_product(part.data(), ones.data(), size));
    }
    mean = pairwise_total(sums) / static_cast<double>(n);
  }
  void piece(std::size_t first, std::size_t size, double* out) const {
    for (std::size_t i = 0; i < size; ++i) out[i] = (x[first + i] - centre) / unit - mean;
  }
};

}  // namespace

// Piece by piece, so that every column is read once; whichever thread made the pieces' sums, they are added up in
// order.
void correlations(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n,
                  unsigned threads, double* out) {
  std::vector<Measured> columns;
  for (const double* column : x) columns.emplace_back(column);
  for (const double* column : y) columns.emplace_back(column);
  if (n > 0) share_out(columns.size(), threads, [&](std::size_t j) { columns[j].measure(n); });

  // of each pair, and of each column with itself
  const std::size_t pieces = (n + piece_size - 1) / piece_size, pairs = x.size() * y.size();
  std::vector<std::vector<double>> sums(pairs + columns.size(), std::vector<double>(pieces));
  share_out(pieces, threads, [&](std::size_t p) {
    const std::size_t first = p * piece_size, size = std::min(piece_size, n - first);
    std::vector<double> part(columns.size() * size);
    auto at = [&](std::size_t j) { return part.data() + j * size; };
    for (std::size_t j = 0; j < columns.size(); ++j) {
      columns[j].piece(first, size, at(j));
      sums[pairs + j][p] = dot_product(at(j), at(j), size);
    }
    for (std::size_t k = 0; k < pairs; ++k) {
      sums[k][p] = dot_product(at(k % x.size()), at(x.size() + k / x.size()), size);
    }
  });
  std::vector<double> lengths;
  for (std::size_t j = 0; j < columns.size(); ++j) lengths.push_back(std::sqrt(pairwise_total(sums[pairs + j])));
  for (std::size_t k = 0; k < pairs; ++k) {
    const std::size_t i = k % x.size(), j = x.size() + k / x.size();
    const double r = pairwise_total(sums[k]) / lengths[i] / lengths[j];
    out[k] = n < 2 || columns[i].unit == 0 || columns[j].unit == 0 ? std::nan("") : std::max(-1.0, std::min(1.0, r));
  }
}

void block_products(const std::vector<const double*>& x, std::size_t n, std::size_t blocks, unsigned threads,
                    double* sums, double* products) {
  std::vector<Measured> columns;
  for (const double* column : x) columns.emplace_back(column);
  share_out(columns.size(), threads, [&](std::size_t j) { columns[j].measure(n); });
  const std::size_t p = columns.size();
  std::fill(sums, sums + blocks * p, 0.0);
  std::fill(products, products + blocks * p * p, 0.0);
  const std::vector<double> ones(piece_size, 1.0);
  share_out(blocks, threads, [&](std::size_t b) {
    std::vector<double> part(p * piece_size);
    auto at = [&](std::size_t j) { return part.data() + j * piece_size; };
    double* sum = sums + b * p;
    double* product = products + b * p * p;
    const std::size_t end = n * (b + 1) / blocks;
    for (std::size_t first = n * b / blocks; first < end; first += piece_size) {
      const std::size_t size = std::min(piece_size, end - first);
      for (std::size_t j = 0; j < p; ++j) {
        if (columns[j].unit == 0) continue;
        columns[j].piece(first, size, at(j));
        sum[j] += dot_product(at(j), ones.data(), size);
        for (std::size_t i = 0; i <= j; ++i) product[j * p + i] += dot_product(at(i), at(j), size);
      }
    }
    for (std::size_t j = 0; j < p; ++j) {
      for (std::size_t i = 0; i < j; ++i) product[i * p + j] = product[j * p + i];
    }
  });
}

namespace {

// A column of ranks from its mean, (n + 1) / 2; its length is 0 where every rank is the same.
struct CentredRanks {
  std::vector<double> ranks;
  double length = 0;

  void make(Sorter& sorter, const double* x, std::size_t n) {
    ranks.resize(n);
    sorter.mid_ranks(x, n, ranks.data());
    const double middle = (static_cast<double>(n) + 1) / 2;
    for (double& rank : ranks) rank -= middle;
    length = std::sqrt(dot_product(ranks.data(), ranks.data(), n));
  }
};

}  // namespace

// Ranks of a column of `x` are needed once, so that they never leave a thread's own room.
void rank_correlations(const std::vector<const double*>& x, const std::vector<const double*>& y, std::size_t n,
                       unsigned threads, double* out) {
  std::vector<Sorter> sorters(threads);
  std::vector<CentredRanks> of_y(y.size()), of_x(threads);
  share_out_to_workers(y.size(), threads, [&](std::size_t j, std::size_t t) { of_y[j].make(sorters[t], y[j], n); });
  share_out_to_workers(x.size(), threads, [&](std::size_t i, std::size_t t) {
    of_x[t].make(sorters[t], x[i], n);
    for (std::size_t j = 0; j < y.size(); ++j) {
      const double lengths = of_x[t].length * of_y[j].length;
      const double r = dot_product(of_x[t].ranks.data(), of_y[j].ranks.data(), n) / lengths;
      out[j * x.size() + i] = lengths > 0 ? std::max(-1.0, std::min(1.0, r)) : std::nan("");
    }
  });
}

}  // namespace ensayo
