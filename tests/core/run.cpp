// Tests of src/core on its own, without R. Prints a line for each failure, then "N passed, N failed".
#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <limits>
#include <set>
#include <stdexcept>
#include <string>
#include <vector>

#include "../../src/core/correlation.h"
#include "../../src/core/correlations.h"
#include "../../src/core/design.h"
#include "../../src/core/inversion.h"
#include "../../src/core/latin.h"
#include "../../src/core/moments.h"
#include "../../src/core/normal.h"
#include "../../src/core/number_text.h"
#include "../../src/core/path.h"
#include "../../src/core/percentiles.h"
#include "../../src/core/permutation.h"
#include "../../src/core/ranks.h"
#include "../../src/core/sobol.h"
#include "../../src/core/stream.h"
#include "../../src/core/threads.h"
#include "../../src/core/threefry.h"
#include "../../src/core/vectors.h"

#include "checks.h"

using namespace ensayo;

int passed = 0, failed = 0;

// Known answers published with the generator (Salmon et al. 2011, the authors' table of test vectors).
static void threefry_known_answers() {
  const std::uint64_t ones = ~0ULL;
  const Block zero = {0, 0, 0, 0}, full = {ones, ones, ones, ones};
  check(threefry(zero, zero) ==
            Block{0x09218ebde6c85537ULL, 0x55941f5266d86105ULL, 0x4bd25e16282434dcULL, 0xee29ec846bd2e40bULL},
        "threefry of zeros");
  check(threefry(full, full) ==
            Block{0x29c24097942bba1bULL, 0x0371bbfb0f6f4e11ULL, 0x3c231ffa33f83a1cULL, 0xcd29113fde32d168ULL},
        "threefry of ones");
}

static void streams_are_addressable() {
  const Stream s(11, "demand", Purpose::draw);
  std::vector<std::uint64_t> whole(1000), part(77);
  s.fill(0, 1000, whole.data());
  bool same = true;
  for (std::uint64_t first : {0u, 1u, 31u, 32u, 33u, 500u, 923u}) {
    s.fill(first, 77, part.data());
    for (std::size_t j = 0; j < 77; ++j) same = same && part[j] == whole[first + j] && s.word(first + j) == part[j];
  }
  check(same, "a range, a single run and the whole column agree");
  std::set<std::uint64_t> firsts;
  for (const char* name : {"a", "b", "ab", "", "a\0b"}) {
    for (std::int64_t seed : {-1, 0, 1, 11}) {
      for (Purpose p : {Purpose::draw, Purpose::permutation, Purpose::check}) {
        for (std::uint64_t index : {0u, 1u}) firsts.insert(Stream(seed, name, p, index).word(0));
      }
    }
  }
  check(firsts.size() == 4 * 4 * 3 * 2, "name, seed, purpose and index each make another stream");  // "a\0b" reads "a"
  check(open_unit(0) > 0 && open_unit(~0ULL) < 1, "uniforms stay inside (0, 1)");
}

static void permutations_are_exact() {
  for (std::uint64_t n : {1ull, 2ull, 3ull, 7ull, 1000ull, 4096ull, 4097ull, 10007ull, 65536ull, 100001ull}) {
    const Permutation order(Stream(5, "x", Purpose::permutation), n);
    std::vector<char> hit(n, 0);
    bool inside = true;
    for (std::uint64_t i = 0; i < n; ++i) {
      const std::uint64_t at = order(i);
      inside = inside && at < n;
      if (at < n) hit[at] = 1;
    }
    check(inside && std::count(hit.begin(), hit.end(), 1) == static_cast<long>(n), "every element is reached once");
    for (std::uint64_t first : {n / 2, n - std::min<std::uint64_t>(n, 37)}) {
      std::vector<std::uint64_t> part(std::min<std::uint64_t>(37, n - first));
      order.fill(first, part.size(), part.data());
      bool same = true;
      for (std::size_t j = 0; j < part.size(); ++j) same = same && part[j] == order(first + j);
      check(same, "neighbours at once and one by one agree");
    }
  }
  // All 24 orders of four elements are equally likely: chi-square on 23 degrees of freedom, limit at 1e-6.
  std::vector<int> counts(256, 0);
  for (int seed = 0; seed < 24000; ++seed) {
    const Permutation order(Stream(seed, "x", Purpose::permutation), 4);
    ++counts[order(0) + 4 * order(1) + 16 * order(2) + 64 * order(3)];
  }
  double chi = 0;
  int orders = 0;
  for (int c : counts) {
    if (c > 0) ++orders, chi += (c - 1000.0) * (c - 1000.0) / 1000.0;
  }
  check(orders == 24 && chi < 68.0, "the shuffle favours no order");
}

static void latin_margins_fill_every_stratum() {
  for (std::uint64_t n : {1ull, 2ull, 3ull, 7ull, 1000ull, 4099ull, 1000003ull}) {
    const LatinMargin margin(Stream(3, "x", Purpose::draw), Stream(3, "x", Purpose::permutation), n);
    std::vector<double> u(n);
    margin.fill(0, n, u.data());
    std::vector<char> hit(n, 0);
    for (double v : u) hit[static_cast<std::size_t>(std::floor(v * static_cast<double>(n)))] += 1;
    check(std::all_of(hit.begin(), hit.end(), [](char c) { return c == 1; }), "one draw in each stratum");
    double alone = 0;
    margin.fill(n / 2, 1, &alone);
    check(alone == u[n / 2], "one run alone has the same draw");
  }
  const std::uint64_t big = (1ULL << 31) + 5;
  const LatinMargin margin(Stream(3, "x", Purpose::draw), Stream(3, "x", Purpose::permutation), big);
  double ends[2];
  margin.fill(0, 1, ends);
  margin.fill(big - 1, 1, ends + 1);
  check(ends[0] > 0 && ends[0] < 1 && ends[1] > 0 && ends[1] < 1, "more runs than a 32-bit count");
}

// Ranks of two inputs' hypercubes, and of neighbouring runs and seeds, are as unrelated as chance allows.
static void streams_are_unrelated() {
  const std::uint64_t n = 1000;
  std::vector<double> first(n), second(n);
  LatinMargin(Stream(1, "a", Purpose::draw), Stream(1, "a", Purpose::permutation), n).fill(0, n, first.data());
  double square = 0, largest = 0;
  const int others = 1000;
  for (int k = 0; k < others; ++k) {
    const std::string name = k % 2 == 0 ? "b" + std::to_string(k) : "a";  // other inputs, and the same under other seeds
    const std::int64_t seed = k % 2 == 0 ? 1 : k + 1;
    LatinMargin(Stream(seed, name, Purpose::draw), Stream(seed, name, Purpose::permutation), n).fill(0, n, second.data());
    double sum = 0;
    for (std::uint64_t i = 0; i < n; ++i) sum += (first[i] - 0.5) * (second[i] - 0.5);
    const double z = 12 * sum / static_cast<double>(n) * std::sqrt(static_cast<double>(n));
    square += z * z;
    largest = std::max(largest, std::fabs(z));
  }
  // z^2 has mean 1 and standard deviation sqrt(2 / others); the limits are five of them, and 4.9 for one z in 1000
  check(std::fabs(square / others - 1) < 5 * std::sqrt(2.0 / others), "correlations scatter as chance has it");
  check(largest < 4.9, "no pair is correlated beyond chance");
}

// Where a run stands in a hypercube says nothing of where its neighbours stand, above and below the shuffle's limit.
static void permutations_have_no_pattern() {
  for (std::uint64_t n : {std::uint64_t{4000}, std::uint64_t{5003}, std::uint64_t{100003}}) {
    double worst = 0;
    for (int seed = 0; seed < 20; ++seed) {
      const Permutation order(Stream(seed, "x", Purpose::permutation), n);
      const double middle = static_cast<double>(n - 1) / 2, variance = (static_cast<double>(n) * n - 1) / 12;
      for (std::uint64_t lag : {std::uint64_t{1}, std::uint64_t{2}, std::uint64_t{71}}) {
        double sum = 0;
        for (std::uint64_t i = 0; i + lag < n; ++i) {
          sum += (static_cast<double>(order(i)) - middle) * (static_cast<double>(order(i + lag)) - middle);
        }
        worst = std::max(worst, std::fabs(sum / variance / std::sqrt(static_cast<double>(n))));
      }
    }
    check(worst < 4.5, "neighbouring runs are unrelated");
    // counts of run and stratum on a 10 by 10 grid: chi-square on 81 degrees of freedom, mean 81, limit at 1e-6
    const Permutation order(Stream(7, "grid", Purpose::permutation), n);
    std::vector<double> counts(100, 0);
    for (std::uint64_t i = 0; i < n; ++i) counts[10 * (10 * i / n) + 10 * order(i) / n] += 1;
    double chi = 0;
    const double expected = static_cast<double>(n) / 100;
    for (double c : counts) chi += (c - expected) * (c - expected) / expected;
    check(chi < 155, "runs and strata fill a grid evenly");
  }
}

static void jitter_is_uniform() {
  const std::uint64_t n = 20000;
  std::vector<double> u(n);
  LatinMargin(Stream(9, "x", Purpose::draw), Stream(9, "x", Purpose::permutation), n).fill(0, n, u.data());
  std::vector<double> counts(20, 0);
  for (double v : u) counts[static_cast<std::size_t>(20 * (v * n - std::floor(v * n)))] += 1;
  double chi = 0;
  for (double c : counts) chi += (c - n / 20.0) * (c - n / 20.0) / (n / 20.0);
  check(chi < 62, "places within strata are uniform");  // 19 degrees of freedom, limit at 2e-6
}

static void moments_hold_at_the_edges() {
  const double inf = std::numeric_limits<double>::infinity();
  const std::vector<double> x = {1, 2, 3, 4, inf, std::nan("")};
  const Moments m = moments(x.data(), x.size());
  check(m.count == 4 && m.mean == 2.5 && m.m2 == 1.25 && m.m3 == 0 && m.m4 == 2.5625, "moments of 1, 2, 3, 4");
  check(m.min == 1 && m.max == 4, "extremes leave out what is not finite");
  check(moments(x.data(), 0).count == 0, "no values");
  const std::vector<double> same(5000, 0.1);
  check(moments(same.data(), 5000).mean == 0.1 && moments(same.data(), 5000).m2 == 0, "a constant is exact");
  const std::vector<double> huge = {1e308, 1.5e308, 1.7e308, -1.7e308};
  const Moments h = moments(huge.data(), 4);
  check(std::fabs(h.mean / 6.25e307 - 1) < 1e-14 && std::isfinite(h.m4) && h.m4 > 0, "near overflow");
  const std::vector<double> tiny = {1e-300, 2e-300, 3e-300, 4e-300};
  const Moments t = moments(tiny.data(), 4);
  check(std::fabs(t.m2 * t.scale / 1e-300 * t.scale / 1e-300 - 1.25) < 1e-12 && t.m4 > 0, "near underflow");
  std::vector<double> offset(100000);
  for (std::size_t i = 0; i < offset.size(); ++i) offset[i] = 1e9 + static_cast<double>(i % 2);
  check(std::fabs(moments(offset.data(), offset.size()).m2 - 0.25) < 1e-12, "a small spread on a large mean");
}

static void numbers_survive_as_text() {
  bool same = true;
  for (int i = 0; i < 20000; ++i) {
    const std::uint64_t word = Stream(1, "text", Purpose::draw).word(i);
    double x, back;
    std::memcpy(&x, &word, sizeof x);  // any bits at all
    if (!std::isfinite(x)) continue;
    same = same && read_number_text(number_text(x).c_str(), back) && back == x;
  }
  check(same, "every double reads back as itself");
  double out;
  check(number_text(0.1) == "0.1" && number_text(4200) == "4200", "short numbers stay short");
  check(!read_number_text("1,5", out) && !read_number_text("", out) && !read_number_text("3 m", out),
        "what is not a number is refused");
}

static void every_path_gives_the_same_bits() {
  const std::size_t n = 10007;
  const LatinMargin margin(Stream(3, "x", Purpose::draw), Stream(3, "x", Purpose::permutation), n);
  std::vector<double> plain(n), z(n), other(n), other_z(n);
  double sums[4], other_sums[4];
  choose_path(Path::plain);
  margin.fill(0, n, plain.data());
  normal_quantiles(plain.data(), n, z.data());
  power_sums(z.data(), n, 0.25, 0.5, sums);
  const double product = dot_product(plain.data(), z.data(), n);
  for (Path path : {Path::avx2, Path::avx512}) {
    if (!has_path(path)) {
      std::printf("this CPU has no %s: its path is not tested\n", path == Path::avx2 ? "AVX2" : "AVX-512");
      continue;
    }
    choose_path(path);
    margin.fill(0, n, other.data());
    normal_quantiles(other.data(), n, other_z.data());
    power_sums(z.data(), n, 0.25, 0.5, other_sums);
    check(other == plain && other_z == z && std::equal(sums, sums + 4, other_sums), "code paths agree");
    check(dot_product(plain.data(), z.data(), n) == product, "code paths agree on sums");
    const Range range = range_of(z.data(), n);
    check(range.low == *std::min_element(z.begin(), z.end()) && range.high == *std::max_element(z.begin(), z.end()),
          "least and greatest");
  }
}

// Against quantiles published to 16 digits by Wichura (1988), and the complementary error function.
static void normal_quantiles_are_right() {
  const double p[] = {0.25, 0.001, 1e-20, 0.5, 0.975, 1e-300};
  const double truth[] = {-0.6744897501960817, -3.090232306167814, -9.262340089798408, 0, 1.959963984540054,
                          -37.0471};
  double z[6];
  normal_quantiles(p, 6, z);
  for (int k = 0; k < 5; ++k) check(std::fabs(z[k] - truth[k]) <= 2e-15 * std::fabs(truth[k]), "normal quantile");
  check(std::fabs(z[5] - truth[5]) < 1e-4, "normal quantile far out");
  for (double q : {-30.0, -5.0, -0.3, 0.0, 2.0}) {
    double back;
    const double u = normal_cumulative(q);
    normal_quantiles(&u, 1, &back);
    check(std::fabs(back - q) < 1e-13 * (1 + std::fabs(q)), "normal probability and back");
  }
}

static void tables_and_steps_invert() {
  // x = sqrt(p) below and above a half, from values at the nodes alone
  const unsigned fineness = 2;
  const std::size_t side = 12 << fineness;  // so many octaves
  std::vector<double> coefficients;
  for (int upper = 0; upper < 2; ++upper) {
    for (std::size_t c = 0; c < side; ++c) {
      double values[TableInversion::terms], cell[TableInversion::terms];
      for (unsigned k = 0; k < TableInversion::terms; ++k) {
        const double p = TableInversion::probability(c, fineness, TableInversion::node(k));
        values[k] = std::sqrt(upper ? 1 - p : p);
      }
      TableInversion::interpolate(values, cell);
      coefficients.insert(coefficients.end(), cell, cell + TableInversion::terms);
    }
  }
  const TableInversion table(coefficients.data(), side, fineness, 0, 1);
  std::vector<double> u(50000), x(50000);
  fill_uniforms(Stream(1, "t", Purpose::draw), 0, u.size(), u.data());
  u[0] = 0.5, u[1] = 0.25, u[2] = 0.75, u[3] = 1e-12, u[4] = 1 - 1e-12;
  std::vector<std::size_t> open;
  table.apply(u.data(), u.size(), x.data(), open);
  double worst = 0;
  for (std::size_t i = 0; i < u.size(); ++i) {
    if (std::binary_search(open.begin(), open.end(), i)) {
      check(x[i] == u[i] && std::min(u[i], 1 - u[i]) < 0x1p-13, "far tails stay open");
    } else {
      worst = std::max(worst, std::fabs(x[i] / std::sqrt(u[i]) - 1));
    }
  }
  check(worst < 1e-9 && open.size() < 50, "the table meets the function");
  double halves[2 * TableInversion::terms];
  TableInversion::halve(coefficients.data() + 8, halves);
  for (double s : {-1.0, -0.2, 0.6, 1.0}) {
    double whole = 0, upper = 0;
    for (int k = TableInversion::terms - 1; k >= 0; --k) {
      whole = whole * (s / 2 + 0.5) + coefficients[8 + k];
      upper = upper * s + halves[k];
    }
    check(std::fabs(whole - upper) < 1e-14, "half a cell is the same polynomial");
  }
  const double values[] = {10, 20, 30}, cumulative[] = {0.2, 0.2 + 1e-12, 1};
  const StepInversion steps(values, cumulative, 3, 0);
  const double at[] = {1e-9, 0.2, 0.2 + 5e-13, 0.2 + 2e-12, 0.999};
  double out[5];
  open.clear();
  steps.apply(at, 5, out, open);
  check(open.empty() && out[0] == 10 && out[1] == 10 && out[2] == 20 && out[3] == 30 && out[4] == 30, "steps");
}

static int pulses = 0;

static void work_is_shared_out_and_can_be_ended() {
  std::vector<int> done(1000, 0);
  share_out(done.size(), 4, [&](std::size_t k) { ++done[k]; });
  check(std::count(done.begin(), done.end(), 1) == 1000, "every piece is done once");
  pulse() = [] {
    if (++pulses == 3) throw std::runtime_error("enough");
  };
  std::atomic<int> count(0);
  bool ended = false;
  try {
    share_out(100000000, 2, [&](std::size_t) { ++count; });
  } catch (const std::runtime_error&) {
    ended = true;
  }
  pulse() = nullptr;
  check(ended && count < 100000000, "what the pulse throws ends the work on every thread");
  try {
    share_out(100, 3, [&](std::size_t k) {
      if (k == 50) throw std::out_of_range("fifty");
    });
    ended = false;
  } catch (const std::out_of_range&) {
  }
  check(ended, "an exception of any thread is thrown on");
}

int main() {
  check_models();
  check_order();
  check_bands();
  check_draws();
  check_sheets();
  work_is_shared_out_and_can_be_ended();
  every_path_gives_the_same_bits();
  normal_quantiles_are_right();
  tables_and_steps_invert();
  threefry_known_answers();
  streams_are_addressable();
  permutations_are_exact();
  latin_margins_fill_every_stratum();
  streams_are_unrelated();
  permutations_have_no_pattern();
  jitter_is_uniform();
  moments_hold_at_the_edges();
  numbers_survive_as_text();
  std::printf("%d passed, %d failed\n", passed, failed);
  return failed == 0 ? 0 : 1;
}
