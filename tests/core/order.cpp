// Tests of ranks, order statistics and of putting columns into order, without R.
#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <set>
#include <vector>

#include "../../src/core/correlation.h"
#include "../../src/core/correlations.h"
#include "../../src/core/design.h"
#include "../../src/core/latin.h"
#include "../../src/core/normal.h"
#include "../../src/core/path.h"
#include "../../src/core/percentiles.h"
#include "../../src/core/ranks.h"
#include "../../src/core/stream.h"
#include "checks.h"

using namespace ensayo;

static void sorting_ranks_and_order_statistics() {
  std::vector<std::vector<double>> columns = {{3, 1, 2}, {2, 2, 1, 5, 5, 5}, {0.0, -0.0, 1e-320, -1e-320, 1e300, -1e300}};
  columns.emplace_back(5000, 7.0);
  columns.emplace_back();
  const Stream wild(1, "s", Purpose::draw);
  for (int i = 0; i < 20000; ++i) columns.back().push_back(std::exp(40 * (open_unit(wild.word(i)) - 0.5)));
  columns.emplace_back(columns.back());
  for (double& v : columns.back()) v = 1e6 + 1e-9 * std::floor(v);  // crowded, with ties
  for (const std::vector<double>& x : columns) {
    const std::size_t n = x.size();
    std::vector<std::size_t> order(n);
    for (std::size_t i = 0; i < n; ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&x](std::size_t a, std::size_t b) { return x[a] < x[b]; });
    Sorter sorter;
    const auto& sorted = sorter.sort(x.data(), n);
    bool same = true;
    for (std::size_t k = 0; k < n; ++k) same = same && sorted[k].place == order[k];
    check(same, "radix sort is stable and right");
    const std::vector<std::size_t> ranks = {0, n / 3, n / 2 + 1, n - 1};
    const std::vector<double> found = order_statistics(x.data(), n, ranks);
    for (std::size_t k = 0; k < ranks.size(); ++k) check(found[k] == x[order[ranks[k]]], "order statistics");
  }
}

static void blocks_cover_all_runs() {
  for (std::uint64_t n : {1ull, 5ull, 1024ull, 10007ull, (1ull << 31) + 5}) {
    for (std::uint64_t size : {1ull, 7ull, 1024ull, 1ull << 40}) {
      const Blocks blocks(n, size);
      bool right = blocks.first(0) == 0 && blocks.first(blocks.count) == n;
      for (std::uint64_t run : {std::uint64_t{0}, n / 3, n / 2, n - 1}) {
        const std::uint64_t b = blocks.holding(run);
        right = right && blocks.first(b) <= run && run < blocks.first(b + 1);
      }
      check(right, "blocks");
    }
  }
}

static void reordering_keeps_the_numbers() {
  const std::size_t n = 3000;
  std::vector<std::vector<double>> u(4, std::vector<double>(n));
  for (int k = 0; k < 4; ++k) fill_uniforms(Stream(1, std::to_string(k), Purpose::draw), 0, n, u[k].data());
  const std::vector<std::vector<double>> before = u;
  const std::vector<double> asked = {1, 0.7, -1, 0.2, 0.7, 1, -0.7, 0.5, -1, -0.7, 1, -0.2, 0.2, 0.5, -0.2, 1};
  double* columns[] = {u[0].data(), u[1].data(), u[2].data(), u[3].data()};
  RankCorrelator(asked, 4).reorder(columns, n, n);
  std::vector<double> achieved(16);
  const std::vector<const double*> view(columns, columns + 4);
  for (unsigned threads : {1u, 3u}) {
    rank_correlations(view, view, n, threads, achieved.data());
    for (int k = 0; k < 16; ++k) check(std::fabs(achieved[k] - asked[k]) < 0.001, "rank correlations are met");
  }
  check(u[0] == before[0], "the first column stays");
  for (int k : {1, 3}) {
    std::vector<double> now = u[k], then = before[k];
    std::sort(now.begin(), now.end());
    std::sort(then.begin(), then.end());
    check(now == then, "a column keeps its numbers");
  }
  check(u[2][17] == 1 - u[0][17], "a correlation of -1 mirrors");
}

// Where the numbers are those of all strata their order is known; half of each have the same order, which must be found.
static void strata_are_in_order() {
  const std::size_t n = 5000;
  std::vector<std::vector<double>> u(2, std::vector<double>(n)), half;
  for (int k = 0; k < 2; ++k) {
    const Stream draws(1, std::to_string(k), Purpose::draw), order(1, std::to_string(k), Purpose::permutation);
    LatinMargin(draws, order, n).fill(0, n, u[k].data());
  }
  half = u;
  for (std::vector<double>& column : half) for (double& v : column) v /= 2;
  double *whole[] = {u[0].data(), u[1].data()}, *halves[] = {half[0].data(), half[1].data()};
  RankCorrelator({1, 0.4, 0.4, 1}, 2).reorder(whole, n, n);
  RankCorrelator({1, 0.4, 0.4, 1}, 2).reorder(halves, n, n);
  bool same = true;
  for (std::size_t i = 0; i < n; ++i) same = same && u[0][i] == 2 * half[0][i] && u[1][i] == 2 * half[1][i];
  check(same, "a hypercube is put in order as any numbers are");
}

void check_order() {
  strata_are_in_order();
  sorting_ranks_and_order_statistics();
  blocks_cover_all_runs();
  reordering_keeps_the_numbers();
}
