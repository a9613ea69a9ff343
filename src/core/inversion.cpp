#include "exact.h"
#include "fast.h"
#include "inversion.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <limits>

#include "exponential.h"
#include "normal.h"
#include "path.h"
#include "stream.h"

namespace ensayo {

// Each formula is the law's own quantile in R to the last bit: the same operations in the same order.

namespace {

// Both sides are calculated and one is taken, for no CPU can foresee which.
template <class>
ENSAYO_INLINE void uniform_quantiles(const double* u, std::size_t count, double min, double max, double* x) {
  for (std::size_t j = 0; j < count; ++j) {
    const double p = u[j], rise = p * (max - min), fall = (1 - p) * (max - min);
    const double low = min + rise, high = max - fall;
    x[j] = p <= 0.5 ? low : high;
  }
}

ENSAYO_ON_EVERY_PATH(uniform_on_path, uniform_quantiles, (const double* u, std::size_t count, double min, double max, double* x),
                     (u, count, min, max, x))

// Of a triangle's two slopes each has a near half, from its end, and a far one, from the mode; on which side a number lies and
// which half that is says what is divided by what, and where the root is counted from.
template <class Width>
ENSAYO_INLINE void triangular_quantiles(const double* u, std::size_t count, double min, double mode, double max, double* x) {
  using Doubles = typename Width::Doubles;
  const double rise = mode - min, fall = max - mode, height = 2 / (max - min);
  const double rising = height * rise / 2, falling = height * fall / 2;
  change_abreast<Width>(u, count, x, [=](Doubles& p) {
    const Doubles none = {}, q = 1 - p;
    const auto left = p <= none + rising, low = p <= none + 0.5, near = left ? low : ~low;
    const Doubles own = left ? 2 * p * rise : 2 * q * fall, other = left ? q - (1 - rising) : p - (1 - falling);
    const Doubles area = left ? none + rising : none + falling;
    const Doubles part = (near ? own : other) / (near ? none + height : area);
    Doubles root = near ? part : 1 - part;
    for (unsigned k = 0; k < Width::count; ++k) root[k] = std::sqrt(root[k]);
    const Doubles from_mode = part / (1 + root), above = left ? min + root : mode + fall * from_mode,
                  below = left ? mode - rise * from_mode : max - root;
    p = low ? above : below;
  });
}

ENSAYO_ON_EVERY_PATH(triangular_on_path, triangular_quantiles,
                     (const double* u, std::size_t count, double min, double mode, double max, double* x),
                     (u, count, min, mode, max, x))

}  // namespace

void UniformInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>&) const {
  uniform_on_path(u, count, min_, max_, x);
}

void NormalInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>&) const {
  normal_quantiles(u, count, x);
  for (std::size_t j = 0; j < count; ++j) x[j] = mean_ + sd_ * x[j];
}

void LognormalInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>&) const {
  normal_quantiles(u, count, x);
  for (std::size_t j = 0; j < count; ++j) x[j] *= sdlog_;
  exponentials(x, count, x);
  for (std::size_t j = 0; j < count; ++j) x[j] = min_ + median_ * x[j];
}

void TriangularInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>&) const {
  triangular_on_path(u, count, min_, mode_, max_, x);
}

StepInversion::StepInversion(const double* values, const double* cumulative, std::size_t size, double below)
    : values_(values), cumulative_(cumulative), size_(size), below_(below), guide_(size + 1) {
  std::uint32_t first = 0;
  for (std::size_t g = 0; g <= size; ++g) {
    // the division is the look-up's multiplication turned round, and may be off by a rounding: begin one step early
    const double u = (static_cast<double>(g) - 0.5) / static_cast<double>(size);
    while (first < size && cumulative[first] < u) ++first;
    guide_[g] = first;
  }
}

void StepInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const {
  const double scale = static_cast<double>(size_);
  for (std::size_t j = 0; j < count; ++j) {
    const double p = u[j];
    if (p <= below_ || p > cumulative_[size_ - 1]) {
      open.push_back(j);
      x[j] = p;
      continue;
    }
    std::size_t k = guide_[static_cast<std::size_t>(p * scale)];
    while (k > 0 && cumulative_[k - 1] >= p) --k;
    while (cumulative_[k] < p) ++k;
    x[j] = values_[k];
  }
}

namespace {

constexpr std::uint64_t top_exponent = 1021;  // the exponent bits of numbers from 1/4 up to 1/2

// Values of a table, whose far cells stand in for what lies beyond them: `beyond` counts how far.
template <class>
ENSAYO_INLINE void look_up(const double* table, std::uint64_t side_cells, unsigned fineness, const double* u, std::size_t count, double* x,
                           std::uint64_t* beyond) {
  constexpr unsigned terms = TableInversion::terms;
  const std::uint64_t top = ((top_exponent + 1) << fineness) - 1;
  const unsigned rest_bits = 52 - fineness;
  const std::uint64_t rest_mask = (1ULL << rest_bits) - 1;
  const double half_width = static_cast<double>(1ULL << (rest_bits - 1));
  for (std::size_t j = 0; j < count; ++j) {
    const double p = std::min(std::min(u[j], 1 - u[j]), 0x1.fffffffffffffp-2);
    std::uint64_t bits;
    std::memcpy(&bits, &p, sizeof bits);
    const std::uint64_t cell = top - (bits >> rest_bits), held = std::min(cell, side_cells - 1);
    beyond[j] = cell - held;
    const double* c = table + terms * (held + (u[j] > 0.5 ? side_cells : 0));
    const double s = static_cast<double>(static_cast<std::int64_t>(bits & rest_mask)) / half_width - 1;
    double sum = c[terms - 1];
    for (unsigned k = terms - 1; k > 0; --k) sum = sum * s + c[k - 1];
    x[j] = sum;
  }
}

ENSAYO_ON_EVERY_PATH(look_up_on_path, look_up,
                     (const double* table, std::uint64_t side_cells, unsigned fineness, const double* u, std::size_t count, double* x,
                      std::uint64_t* beyond),
                     (table, side_cells, fineness, u, count, x, beyond))

}  // namespace

void TableInversion::apply(const double* u, std::size_t count, double* x, std::vector<std::size_t>& open) const {
  double values[piece_size];
  std::uint64_t beyond[piece_size];
  for (std::size_t at = 0; at < count; at += piece_size) {
    const std::size_t size = std::min(piece_size, count - at);
    look_up_on_path(coefficients_, side_cells_, fineness_, u + at, size, values, beyond);
    for (std::size_t j = 0; j < size; ++j) {
      const bool missed = beyond[j] != 0 || std::isnan(values[j]);
      if (missed) open.push_back(at + j);
      x[at + j] = missed ? u[at + j] : std::min(std::max(values[j], min_), max_);
    }
  }
}

double TableInversion::probability(std::size_t cell, unsigned fineness, double at) {
  const std::size_t slices = std::size_t{1} << fineness;
  const std::size_t octave = cell / slices, slice = slices - 1 - cell % slices;
  const double base = std::ldexp(0.25, -static_cast<int>(octave));
  const double width = base / static_cast<double>(slices);
  return base + width * static_cast<double>(slice) + width * ((at + 1) / 2);
}

// Chebyshev points with both ends among them, so that neighbouring cells meet.
double TableInversion::node(unsigned k) {
  if (k == 0) return -1;
  if (k == terms - 1) return 1;
  return -std::cos(3.14159265358979323846 * k / (terms - 1));
}

namespace {

using Matrix = std::array<std::array<double, TableInversion::terms>, TableInversion::terms>;

// The inverse of the matrix of powers of the nodes, by Gauss and Jordan with row exchanges.
Matrix inverse_of_powers() {
  constexpr unsigned n = TableInversion::terms;
  Matrix a{}, inverse{};
  for (unsigned i = 0; i < n; ++i) {
    a[i][0] = 1;
    for (unsigned j = 1; j < n; ++j) a[i][j] = a[i][j - 1] * TableInversion::node(i);
    inverse[i][i] = 1;
  }
  for (unsigned column = 0; column < n; ++column) {
    unsigned best = column;
    for (unsigned i = column; i < n; ++i) {
      if (std::fabs(a[i][column]) > std::fabs(a[best][column])) best = i;
    }
    std::swap(a[column], a[best]);
    std::swap(inverse[column], inverse[best]);
    const double pivot = a[column][column];
    for (unsigned j = 0; j < n; ++j) a[column][j] /= pivot, inverse[column][j] /= pivot;
    for (unsigned i = 0; i < n; ++i) {
      const double factor = a[i][column];
      if (i == column || factor == 0) continue;
      for (unsigned j = 0; j < n; ++j) {
        a[i][j] -= factor * a[column][j];
        inverse[i][j] -= factor * inverse[column][j];
      }
    }
  }
  return inverse;
}

}  // namespace

void TableInversion::interpolate(const double* values, double* coefficients) {
  static const Matrix inverse = inverse_of_powers();
  const double middle = values[terms / 2];  // taken off first: what is left has small rounding errors
  for (unsigned k = 0; k < terms; ++k) {
    double sum = 0;
    for (unsigned i = 0; i < terms; ++i) sum += inverse[k][i] * (values[i] - middle);
    coefficients[k] = sum;
  }
  coefficients[0] += middle;
}

// By s = (t + 1) / 2 and s = (t - 1) / 2, a power at a time.
void TableInversion::halve(const double* coefficients, double* halves) {
  for (int half = 0; half < 2; ++half) {
    double* out = halves + half * static_cast<int>(terms);
    const double centre = half == 0 ? 0.5 : -0.5;
    std::fill(out, out + terms, 0.0);
    for (unsigned k = terms; k > 0; --k) {  // out = out * (t / 2 + centre) + coefficient
      for (unsigned j = terms - 1; j > 0; --j) out[j] = out[j] * centre + out[j - 1] / 2;
      out[0] = out[0] * centre + coefficients[k - 1];
    }
  }
}

}  // namespace ensayo
