// Tests of what stands between uniform numbers and draws, without R.
#include <cmath>
#include <limits>
#include <vector>

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

void check_draws() {
  masses_keep_their_moments();
  exponentials_are_the_librarys();
  occurrences_are_found_one_by_one();
}
