#include "exact.h"
#include "fast.h"
#include "normal.h"

#include <algorithm>
#include <cmath>

#include "path.h"

namespace ensayo {

namespace {

// Coefficients as published, of the highest power first; each pair is numerator and denominator.
constexpr double centre_above[8] = {2509.0809287301226727, 33430.575583588128105, 67265.770927008700853,
                                    45921.953931549871457, 13731.693765509461125, 1971.5909503065514427,
                                    133.14166789178437745, 3.387132872796366608};
constexpr double centre_below[8] = {5226.495278852854561, 28729.085735721942674, 39307.89580009271061,
                                    21213.794301586595867, 5394.1960214247511077, 687.1870074920579083,
                                    42.313330701600911252, 1};
constexpr double near_above[8] = {7.7454501427834140764e-4, .0227238449892691845833, .24178072517745061177,
                                  1.27045825245236838258, 3.64784832476320460504, 5.7694972214606914055,
                                  4.6303378461565452959, 1.42343711074968357734};
constexpr double near_below[8] = {1.05075007164441684324e-9, 5.475938084995344946e-4, .0151986665636164571966,
                                  .14810397642748007459, .68976733498510000455, 1.6763848301838038494,
                                  2.05319162663775882187, 1};
constexpr double far_above[8] = {2.01033439929228813265e-7, 2.71155556874348757815e-5, .0012426609473880784386,
                                 .026532189526576123093, .29656057182850489123, 1.7848265399172913358,
                                 5.4637849111641143699, 6.6579046435011037772};
constexpr double far_below[8] = {2.04426310338993978564e-15, 1.4215117583164458887e-7, 1.8463183175100546818e-5,
                                 7.868691311456132591e-4, .0148753612908506148525, .13692988092273580531,
                                 .59983220655588793769, 1};
constexpr double centre_reach = 0.425;

template <class Number>
ENSAYO_INLINE void polynomial(const double* c, const Number& r, Number& sum) {
  sum = r * c[0] + c[1];
#pragma GCC unroll 6
  for (unsigned j = 2; j < 8; ++j) sum = sum * r + c[j];
}

constexpr double near_reach = 5;

double far_quantile(double r) {
  double above, below;
  polynomial(far_above, r - 5., above);
  polynomial(far_below, r - 5., below);
  return above / below;
}

// The distance from 0 in the tails, from r = sqrt(-log(p)); beyond near_reach it is put in afterwards.
template <class Width>
ENSAYO_INLINE void near_quantiles(const double* from, std::size_t count, double* z) {
  using Doubles = typename Width::Doubles;
  change_abreast<Width>(from, count, z, [](Doubles& r) {
    r -= 1.6;
    Doubles above, below;
    polynomial(near_above, r, above);
    polynomial(near_below, r, below);
    r = above / below;
  });
}

ENSAYO_ON_EVERY_PATH(near_on_path, near_quantiles, (const double* from, std::size_t count, double* z), (from, count, z))

// The centre's formula for all; the tails' values, about 15 in 100, are put in afterwards.
template <class Width>
ENSAYO_INLINE void centre_quantiles(const double* p, std::size_t count, double* z) {
  using Doubles = typename Width::Doubles;
  change_abreast<Width>(p, count, z, [](Doubles& q) {
    q -= 0.5;
    const Doubles r = 0.180625 - q * q;
    Doubles above, below;
    polynomial(centre_above, r, above);
    polynomial(centre_below, r, below);
    q = q * above / below;
  });
}

ENSAYO_ON_EVERY_PATH(centre_on_path, centre_quantiles, (const double* p, std::size_t count, double* z), (p, count, z))

}  // namespace

void normal_quantiles(const double* p, std::size_t count, double* z) {
  constexpr std::size_t part = 256;
  double held[part];  // so that `p` and `z` may be the same
  std::size_t tails[part];
  double from[part], beyond[part];
  for (std::size_t at = 0; at < count; at += part) {
    const std::size_t size = std::min(part, count - at);
    std::copy(p + at, p + at + size, held);
    centre_on_path(held, size, z + at);
    std::size_t found = 0;
    for (std::size_t j = 0; j < size; ++j) {  // without a branch, for no CPU can foresee it
      tails[found] = j;
      found += std::fabs(held[j] - 0.5) > centre_reach;
    }
    for (std::size_t k = 0; k < found; ++k) {
      const double own = held[tails[k]];
      from[k] = std::sqrt(-std::log(std::min(own, 1 - own)));
    }
    near_on_path(from, found, beyond);
    for (std::size_t k = 0; k < found; ++k) {
      const double distance = from[k] <= near_reach ? beyond[k] : far_quantile(from[k]);
      z[at + tails[k]] = std::copysign(distance, held[tails[k]] - 0.5);
    }
  }
}

double normal_cumulative(double z) { return 0.5 * std::erfc(-z * 0.70710678118654752440); }

}  // namespace ensayo
