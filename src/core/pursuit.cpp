#include "pursuit.h"

#include <algorithm>
#include <cmath>

namespace ensayo {

namespace {

double product(const double* a, const double* b, std::size_t n) {
  double s0 = 0, s1 = 0, s2 = 0, s3 = 0;
  std::size_t i = 0;
  for (; i + 4 <= n; i += 4) {
    s0 += a[i] * b[i];
    s1 += a[i + 1] * b[i + 1];
    s2 += a[i + 2] * b[i + 2];
    s3 += a[i + 3] * b[i + 3];
  }
  for (; i < n; ++i) s0 += a[i] * b[i];
  return (s0 + s1) + (s2 + s3);
}

double mean_square(const double* x, std::size_t n) { return n == 0 ? 0 : product(x, x, n) / static_cast<double>(n); }

}  // namespace

Pursuit pursue(const double* columns, std::size_t rows, std::size_t count, const double* y, const std::vector<char>& held,
               std::size_t most) {
  // rows that teach first, those held out after them; what is done to the first is done to the others along
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < rows; ++i) if (!held[i]) order.push_back(i);
  const std::size_t n = order.size();
  for (std::size_t i = 0; i < rows; ++i) if (held[i]) order.push_back(i);
  auto centred = [&](const double* from, double* to) {
    double mean = 0;
    for (std::size_t i = 0; i < n; ++i) mean += from[order[i]];
    if (n > 0) mean /= static_cast<double>(n);
    for (std::size_t i = 0; i < rows; ++i) to[i] = from[order[i]] - mean;
  };
  std::vector<double> all(rows * count), left(rows);
  for (std::size_t j = 0; j < count; ++j) centred(columns + j * rows, all.data() + j * rows);
  centred(y, left.data());
  std::vector<double> size(count);
  for (std::size_t j = 0; j < count; ++j) size[j] = product(&all[j * rows], &all[j * rows], n);
  std::vector<double> now = size;
  std::vector<char> open(count, 1);
  Pursuit out;
  out.held_out.push_back(mean_square(left.data() + n, rows - n));
  const double enough = 1e-24 * product(left.data(), left.data(), n);
  const std::size_t patience = 15;
  std::size_t lowest = 0;  // of the held-out errors
  while (out.taken.size() < std::min(most, count)) {
    if (n < rows && out.taken.size() > lowest + patience) break;
    std::size_t best = count;
    double gain = 0;
    for (std::size_t j = 0; j < count; ++j) {
      // what hangs on the columns taken already has nothing of its own to say
      if (!open[j] || now[j] <= 1e-8 * size[j] || now[j] <= 0) continue;
      const double along = product(&all[j * rows], left.data(), n);
      if (along * along / now[j] > gain) {
        gain = along * along / now[j];
        best = j;
      }
    }
    if (best == count || gain <= enough) break;
    open[best] = 0;
    double* q = &all[best * rows];
    const double scale = 1 / std::sqrt(now[best]);
    for (std::size_t i = 0; i < rows; ++i) q[i] *= scale;
    auto without = [&](double* x) {
      const double along = product(x, q, n);
      for (std::size_t i = 0; i < rows; ++i) x[i] -= along * q[i];
      return along;
    };
    without(left.data());
    for (std::size_t j = 0; j < count; ++j) {
      if (!open[j]) continue;
      const double along = without(&all[j * rows]);
      now[j] -= along * along;
    }
    out.taken.push_back(best);
    out.held_out.push_back(mean_square(left.data() + n, rows - n));
    if (out.held_out.back() < out.held_out[lowest]) lowest = out.held_out.size() - 1;
  }
  return out;
}

}  // namespace ensayo
