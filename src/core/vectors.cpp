#include "exact.h"
#include "fast.h"
#include "vectors.h"

#include <algorithm>
#include <cstring>

#include "path.h"

namespace ensayo {

namespace {

// Adds up eight places, pair by pair.
double total(const double* part) {
  return ((part[0] + part[1]) + (part[2] + part[3])) + ((part[4] + part[5]) + (part[6] + part[7]));
}

template <class Width>
ENSAYO_INLINE void dot_kernel(const double* a, const double* b, std::size_t n, double* out) {
  typename Width::Doubles sums[lanes / Width::count] = {}, x, y;
  std::size_t i = 0;
  for (; i + lanes <= n; i += lanes) {
    for (unsigned k = 0; k < lanes / Width::count; ++k) {
      std::memcpy(&x, a + i + k * Width::count, sizeof x);
      std::memcpy(&y, b + i + k * Width::count, sizeof y);
      sums[k] += x * y;
    }
  }
  double part[lanes], rest = 0;
  std::memcpy(part, sums, sizeof part);
  for (; i < n; ++i) rest += a[i] * b[i];
  *out = total(part) + rest;
}

template <class Width>
ENSAYO_INLINE void add_kernel(double factor, const double* a, std::size_t n, double* b) {
  typename Width::Doubles x, y;
  std::size_t i = 0;
  for (; i + Width::count <= n; i += Width::count) {
    std::memcpy(&x, a + i, sizeof x);
    std::memcpy(&y, b + i, sizeof y);
    y += factor * x;
    std::memcpy(b + i, &y, sizeof y);
  }
  for (; i < n; ++i) b[i] += factor * a[i];
}

template <class Width>
ENSAYO_INLINE void range_kernel(const double* x, std::size_t n, Range* out) {
  constexpr unsigned abreast = lanes / Width::count;
  typename Width::Doubles low[abreast] = {}, high[abreast] = {}, value;
  for (unsigned k = 0; k < abreast; ++k) {
    low[k] += x[0];
    high[k] += x[0];
  }
  std::size_t i = 0;
  for (; i + lanes <= n; i += lanes) {
    for (unsigned k = 0; k < abreast; ++k) {
      std::memcpy(&value, x + i + k * Width::count, sizeof value);
      low[k] = value < low[k] ? value : low[k];
      high[k] = value > high[k] ? value : high[k];
    }
  }
  double lows[lanes], highs[lanes];
  std::memcpy(lows, low, sizeof lows);
  std::memcpy(highs, high, sizeof highs);
  *out = {lows[0], highs[0]};
  for (unsigned k = 1; k < lanes; ++k) *out = {std::min(out->low, lows[k]), std::max(out->high, highs[k])};
  for (; i < n; ++i) *out = {std::min(out->low, x[i]), std::max(out->high, x[i])};
}

template <class Width>
ENSAYO_INLINE void powers_kernel(const double* x, std::size_t n, double from, double factor, double* out) {
  constexpr unsigned abreast = lanes / Width::count;
  typename Width::Doubles sums[4][abreast] = {}, d, power;
  std::size_t i = 0;
  for (; i + lanes <= n; i += lanes) {
    for (unsigned k = 0; k < abreast; ++k) {
      std::memcpy(&d, x + i + k * Width::count, sizeof d);
      d = d * factor - from;
      power = d;
      sums[0][k] += power;
      for (unsigned j = 1; j < 4; ++j) {
        power *= d;
        sums[j][k] += power;
      }
    }
  }
  double part[4][lanes];
  std::memcpy(part, sums, sizeof part);
  for (unsigned j = 0; j < 4; ++j) out[j] = total(part[j]);
  for (; i < n; ++i) {
    double rest = 1;
    for (unsigned j = 0; j < 4; ++j) out[j] += rest *= x[i] * factor - from;
  }
}

ENSAYO_ON_EVERY_PATH(powers_on_path, powers_kernel,
                     (const double* x, std::size_t n, double from, double factor, double* out),
                     (x, n, from, factor, out))
ENSAYO_ON_EVERY_PATH(range_on_path, range_kernel, (const double* x, std::size_t n, Range* out), (x, n, out))
ENSAYO_ON_EVERY_PATH(dot_on_path, dot_kernel, (const double* a, const double* b, std::size_t n, double* out),
                     (a, b, n, out))
ENSAYO_ON_EVERY_PATH(add_on_path, add_kernel, (double factor, const double* x, std::size_t n, double* y),
                     (factor, x, n, y))

}  // namespace

double dot_product(const double* a, const double* b, std::size_t n) {
  double out;
  dot_on_path(a, b, n, &out);
  return out;
}

Range range_of(const double* x, std::size_t n) {
  Range out;
  range_on_path(x, n, &out);
  return out;
}

void power_sums(const double* x, std::size_t n, double from, double factor, double* sums) {
  powers_on_path(x, n, from, factor, sums);
}

void add_multiple(double factor, const double* x, std::size_t n, double* y) { add_on_path(factor, x, n, y); }

}  // namespace ensayo
