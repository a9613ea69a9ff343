// Tests of bands of runs, and of where values lie thickest, without R.
#include <cmath>
#include <cstdlib>
#include <vector>

#include "../../src/core/bands.h"
#include "../../src/core/density.h"
#include "../../src/core/ranks.h"
#include "checks.h"

using namespace ensayo;

static void bands_follow_ranks() {
  std::vector<double> ranks(100);
  std::vector<int> band(100);
  for (std::size_t i = 0; i < 100; ++i) ranks[i] = static_cast<double>((i * 37) % 100 + 1);
  check(rank_bands(ranks.data(), 100, 10, band.data()) == 5, "twenty runs in each band");
  for (std::size_t i = 0; i < 100; ++i) check(band[i] == static_cast<int>((ranks[i] - 1) / 20) + 1, "a rank's band");
  // three values, ties sharing their ranks: each a band of its own
  const double few[] = {1.5, 3, 4.5, 1.5, 4.5};
  check(rank_bands(few, 5, 3, band.data()) == 3 && band[0] == 1 && band[1] == 2 && band[2] == 3 && band[4] == 3, "few values");
  // one large tie in the middle fills bands by itself, and the numbers have no gap
  for (std::size_t i = 0; i < 100; ++i) ranks[i] = i < 10 ? static_cast<double>(i) + 1 : i < 90 ? 50.5 : static_cast<double>(i) + 1;
  check(rank_bands(ranks.data(), 100, 5, band.data()) == 3 && band[0] == 1 && band[50] == 2 && band[99] == 3, "no gaps");
}

static void shapes_are_told() {
  // a parabola: nothing rises, all lies between bands
  std::vector<double> x, y;
  std::vector<int> band(99);
  for (int i = 0; i < 99; ++i) {
    x.push_back(i + 1);
    const int away = std::abs(i - 49);
    y.push_back(away == 0 ? 1 : 2 * away + 0.5);
  }
  const int bands = rank_bands(x.data(), 99, 20, band.data());
  const Shape shape = Shapes(y.data(), 99).of(x.data(), band.data(), bands);
  check(bands == 4 && shape.square < 1e-20 && shape.curve.index > 0.6 && shape.curve.f > 50, "a curve");
  // a spread that goes with x, about the same mean
  for (int i = 0; i < 98; ++i) y[static_cast<std::size_t>(i)] = i % 2 ? 50 + i / 2.0 : 50 - i / 2.0;
  const Shape spread = Shapes(y.data(), 98).of(x.data(), band.data(), bands);
  check(spread.curve.index < 0.1 && spread.spread.index > 0.5, "a spread");
}

// Of many columns at once, on any number of threads: what each one shows of the first runs.
static void shapes_are_told_at_once() {
  std::vector<std::vector<double>> columns(5, std::vector<double>(700));
  for (std::size_t i = 0; i < 700; ++i) {
    for (std::size_t j = 0; j < 5; ++j) columns[j][i] = std::sin(static_cast<double>(i * (3 * j + 2) % 691)) + (j == 2 ? columns[0][i] : 0);
    columns[1][i] = std::floor(3 * columns[1][i]);
  }
  const std::vector<const double*> x = {columns[0].data(), columns[1].data(), columns[2].data()}, y = {columns[3].data(), columns[2].data()};
  auto ranks_of = [](const double* column) {
    std::vector<double> ranks(600);
    Sorter().mid_ranks(column, 600, ranks.data());
    return ranks;
  };
  for (unsigned threads : {1u, 3u}) {
    std::vector<Shape> found(6);
    std::vector<int> bands(3), band(600);
    shapes(x, y, 600, 12, threads, found.data(), bands.data());
    for (std::size_t i = 0; i < 3; ++i) {
      const std::vector<double> ranks = ranks_of(x[i]);
      check(rank_bands(ranks.data(), 600, 12, band.data()) == bands[i], "as many bands");
      for (std::size_t j = 0; j < 2; ++j) {
        const Shape one = Shapes(ranks_of(y[j]).data(), 600).of(ranks.data(), band.data(), bands[i]), &at = found[j * 3 + i];
        check(one.square == at.square && one.curve.f == at.curve.f && one.spread.index == at.spread.index, "as of each by itself");
      }
    }
  }
}

static void counts_have_a_smoothed_top() {
  const std::vector<double> counts = {3, 0, 0, 2, 2, 0, 0}, kernel = {1, 0.6, 0.1};
  check(smoothed_top(counts, kernel, {false, false}) == 3, "the first of two cells of one height");
  // beyond the low end nothing lies: what reaches there is turned back
  check(smoothed_top(counts, kernel, {true, false}) == 0, "turned back at an end");
  check(smoothed_top({0, 0, 5}, {1}, {true, true}) == 2, "a kernel of one cell");
}

static void bands_are_summed_and_compared() {
  const int band[] = {1, 2, 1, 2, 2};
  const double y[] = {1e9 + 1, 1e9 + 2, 1e9 + 3, 1e9 + 4, 1e9 + 6};
  // sums of squares 14.8 in all, of which 4.8 lie between the bands, with one and three degrees of freedom
  const BandVariance found = band_variance(band, y, 5, 2);
  check(std::fabs(found.f - 1.44) < 1e-12 && std::fabs(found.index - (4.8 - 10.0 / 3) / 14.8) < 1e-12, "variance between bands");
  const double still[] = {3, 3, 3, 3, 3}, apart[] = {1, 2, 1, 2, 2};
  check(band_variance(band, still, 5, 2).f == 0 && std::isinf(band_variance(band, apart, 5, 2).f), "nothing varies, nothing is left");
  const int order[] = {0, 1, 2, 3, 4};
  const char last[] = {1, 1, 1, 1, 1};
  const std::vector<double> distance = band_distances(band, order, last, 5, 2);
  check(std::fabs(distance[0] - 0.4) < 1e-15 && std::fabs(distance[1] - (0.6 - 1.0 / 3)) < 1e-15, "band distances");
  const char tied[] = {0, 0, 0, 0, 1};
  check(band_distances(band, order, tied, 5, 2)[0] == 0, "ties are one step");
}

void check_bands() {
  bands_follow_ranks();
  shapes_are_told();
  shapes_are_told_at_once();
  counts_have_a_smoothed_top();
  bands_are_summed_and_compared();
}
