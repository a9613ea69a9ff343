// Tests of what stands between uniform numbers and draws, without R.
#include <algorithm>
#include <cmath>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include "../../src/core/draws.h"
#include "../../src/core/exponential.h"
#include "../../src/core/inversion.h"
#include "../../src/core/occurrences.h"
#include "../../src/core/path.h"
#include "../../src/core/stencil.h"
#include "../../src/core/stream.h"
#include "checks.h"

using namespace ensayo;

// A million over the whole range, and where it ends; on every path.
static void exponentials_are_the_librarys() {
  const double infinite = std::numeric_limits<double>::infinity();
  std::vector<double> x = {0, -0.0, 1e-300, -1e-17, 511.99, 512, -512, 709.78, 709.79, 710, -708.4, -745.1, -746, infinite, -infinite};
  const Stream stream(8, "x", Purpose::draw);
  for (std::uint64_t j = 0; j < 1000000; ++j) x.push_back((2 * open_unit(stream.word(j)) - 1) * (j % 2 == 0 ? 511 : 4));
  std::vector<double> truth(x.size()), found(x.size());
  for (std::size_t j = 0; j < x.size(); ++j) truth[j] = std::exp(x[j]);
  for (Path path : {Path::plain, Path::avx2, Path::avx512}) {
    choose_path(path);
    exponentials(x.data(), x.size(), found.data());
    check(found == truth, "exponentials have the bits of std::exp");
    std::vector<double> few = {-3, std::numeric_limits<double>::quiet_NaN(), 2};
    exponentials(few.data(), few.size(), few.data());
    check(few[0] == std::exp(-3.0) && std::isnan(few[1]) && few[2] == std::exp(2.0), "in place, and of what is no number");
  }
}

// Every size is that of its run and number alone, whatever is taken of it and however many runs there are; of the steps' law some
// places stay open.
static void occurrences_are_found_one_by_one() {
  const double values[] = {1, 2, 5}, cumulative[] = {0.2, 0.5, 0.9};
  const StepInversion law(values, cumulative, 3, 0.05);
  const Stream stream(3, "z", Purpose::occurrence);
  const std::uint64_t first = 17;
  for (std::size_t n : {1u, 31u, 512u, 513u, 1500u}) {
    std::vector<double> counts(n);
    for (std::size_t i = 0; i < n; ++i) counts[i] = static_cast<double>(i * 7 % 23 == 0 ? 40 : i * 5 % 9);
    for (Taken what : {Taken::sum, Taken::number, Taken::largest, Taken::number_above, Taken::sum_above}) {
      for (double deductible : {0.0, 1.0}) {
        Take take;
        take.what = what;
        take.above = 1.5;
        take.deductible = deductible;
        if (deductible > 0) take.limit = 3;
        std::vector<double> found(n), alone(n);
        std::vector<OpenSize> open;
        std::size_t left_open = 0;
        add_occurrences(stream, &law, take, first, n, counts.data(), found.data(), open);
        for (std::size_t i = 0; i < n; ++i) {
          for (std::uint64_t k = 0; static_cast<double>(k) < counts[i]; ++k) {
            const double u = open_unit(stream.at_index(k).word(first + i));
            double size;
            std::vector<std::size_t> places;
            law.apply(&u, 1, &size, places);
            if (places.empty()) take.add(size, alone[i]);
            left_open += places.size();
          }
        }
        check(found == alone && open.size() == left_open, "occurrences at once are those one by one");
      }
    }
  }
}

// Six moments of masses at points are those on the places that they are handed to, and what lies in a later cell is left out.
static void masses_keep_their_moments() {
  const double at[] = {-1.3, 0, 0.25, 3.999999, 4.5, 5, 6.2}, mass[] = {0.1, 0.2, 0.15, 0.3, 0.05, 0.2, 7};
  const std::vector<double> places = on_places(at, mass, 7, -2, 5);
  check(places.size() == 13, "as many places as cells, and five more");
  for (int power = 0; power < 6; ++power) {
    double of_points = 0, of_places = 0;
    for (int i = 0; i < 6; ++i) of_points += mass[i] * std::pow(at[i], power);
    for (int k = 0; k < 13; ++k) of_places += places[static_cast<std::size_t>(k)] * std::pow(k - 4, power);
    check(std::fabs(of_places - of_points) < 1e-10 * (1 + of_points), "a moment is kept");
  }
}

// Columns of 23,000 runs and more, of which some depend on each other, of any design: a range of runs, other threads and fewer columns
// give the same numbers.
static void columns_are_drawn_in_any_parts() {
  const NormalInversion normal(3, 2);
  const double values[] = {1, 2}, cumulative[] = {0.3, 0.9999};
  const StepInversion steps(values, cumulative, 2, 1e-4);
  const std::size_t runs = 24000;
  for (Design design : {Design::latin, Design::midpoints, Design::random, Design::sobol}) {
    const bool in_order = design == Design::latin || design == Design::midpoints;
    const std::vector<double> matrix = in_order ? std::vector<double>{1, 0.6, 0.6, 1} : std::vector<double>{1, 0, 0.6, 0.8};
    for (std::uint64_t replicates : {1u, 3u}) {
      Layout layout;
      layout.design = design;
      layout.runs = runs;
      layout.replicates = replicates;
      auto drawn = [&](const std::vector<int>& which, bool dependent, std::uint64_t first, std::size_t count, unsigned threads) {
        std::vector<std::vector<double>> x(which.size(), std::vector<double>(count, -1));
        std::vector<DrawColumn> columns(which.size());
        for (std::size_t j = 0; j < which.size(); ++j) {
          columns[j].address.seed = 7;
          columns[j].address.stream = std::to_string(which[j]);
          columns[j].address.dimension = {which[j] == 0 ? 0u : 1u, {1}};
          if (which[j] == 1) columns[j].law = &normal;
          if (which[j] == 4) columns[j].law = &steps;
          columns[j].x = x[j].data();
        }
        std::vector<Dependence> sets;
        if (dependent) sets.push_back({matrix, {{0, 2}, {3, 1}}});
        draw_columns(columns, sets, layout, 5000, first, count, threads);
        for (std::size_t j = 0; j < which.size(); ++j) {
          for (const std::size_t place : columns[j].open) x[j].at(place) += 100;  // a number that stayed open
        }
        return x;
      };
      const auto all = drawn({0, 1, 2, 3, 4}, true, 0, runs, 1);
      check(all == drawn({0, 1, 2, 3, 4}, true, 0, runs, 3), "threads");
      check(std::count_if(all[4].begin(), all[4].end(), [](double v) { return v > 99; }) > 0, "some places stay open");
      for (const auto& [first, count] : {std::pair<std::uint64_t, std::size_t>(7999, 2), {12345, 9000}, {runs - 1, 1}}) {
        std::vector<std::vector<double>> part(5);
        for (std::size_t j = 0; j < 5; ++j) part[j].assign(all[j].begin() + static_cast<long>(first), all[j].begin() + static_cast<long>(first + count));
        check(part == drawn({0, 1, 2, 3, 4}, true, first, count, 2), "a range of runs");
      }
      const auto alone = drawn({0, 3, 4}, false, 0, runs, 2);
      check(alone[0] == all[0] && alone[1] == all[3] && alone[2] == all[4], "the first of a set, and what is in none, stay");
      double product = 0;
      for (std::size_t i = 0; i < runs; ++i) product += (all[0][i] - 0.5) * (all[2][i] - 0.5) * 12 / runs;
      check(std::fabs(product - (in_order ? 0.6 : 0.582)) < 0.02, "a set depends");
    }
  }
}

void check_draws() {
  columns_are_drawn_in_any_parts();
  masses_keep_their_moments();
  exponentials_are_the_librarys();
  occurrences_are_found_one_by_one();
}
