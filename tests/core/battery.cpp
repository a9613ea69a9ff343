// Statistical tests of the words behind every draw: along the runs of one input, and across neighbouring inputs, seeds,
// indices and replicates. Prints a line for each test with its deviate z, standard normal if the words are random; |z|
// above 5 fails. The argument is the number of words in each view, 1e7 unless given.
#include <algorithm>
#include <cmath>
#include <complex>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <string>
#include <vector>

#include "../../src/core/stream.h"

using namespace ensayo;
using Words = std::vector<std::uint64_t>;
using Source = std::function<void(std::uint64_t first, Words& words)>;  // fills words from the view's word `first` on

static int passed = 0, failed = 0;
static bool silent = false;

static void report(const std::string& view, const char* test, double z) {
  const bool ok = std::fabs(z) < 5;
  ok ? ++passed : ++failed;
  if (!silent) std::printf("%-34s %-18s z = %6.2f%s\n", view.c_str(), test, z, ok ? "" : "  FAILED");
}

// Chi-square with many degrees of freedom as a normal deviate: Wilson and Hilferty (1931), PNAS 17.
static double deviate(double chi, double freedom) {
  const double v = 2 / (9 * freedom);
  return (std::cbrt(chi / freedom) - (1 - v)) / std::sqrt(v);
}

static double chi_deviate(const std::vector<double>& counts, const std::vector<double>& expected) {
  double chi = 0;
  for (std::size_t k = 0; k < counts.size(); ++k) chi += (counts[k] - expected[k]) * (counts[k] - expected[k]) / expected[k];
  return deviate(chi, static_cast<double>(counts.size()) - 1);
}

static double even_deviate(const std::vector<double>& counts) {
  double total = 0;
  for (double c : counts) total += c;
  return chi_deviate(counts, std::vector<double>(counts.size(), total / static_cast<double>(counts.size())));
}

// Every bit as often 1 as 0, and the upper 16 bits evenly spread.
struct Frequency {
  std::vector<double> cells = std::vector<double>(1 << 16), ones = std::vector<double>(64);
  double n = 0;
  void take(const Words& words) {
    for (std::uint64_t w : words) {
      ++cells[w >> 48];
      for (unsigned b = 0; b < 64; ++b) ones[b] += static_cast<double>(w >> b & 1);
    }
    n += static_cast<double>(words.size());
  }
  void tell(const std::string& view) const {
    report(view, "frequency", even_deviate(cells));
    double chi = 0;
    for (double c : ones) chi += (2 * c - n) * (2 * c - n) / n;
    report(view, "bits", deviate(chi, 64));
  }
};

// Neighbours' upper 8 bits, and a word's upper with the next one's lower 8 bits, as pairs.
struct Serial {
  std::vector<double> upper = std::vector<double>(1 << 16), crossed = std::vector<double>(1 << 16);
  void take(const Words& words) {
    for (std::size_t i = 0; i + 1 < words.size(); i += 2) {
      ++upper[words[i] >> 56 << 8 | words[i + 1] >> 56];
      ++crossed[words[i] >> 56 << 8 | (words[i + 1] & 255)];
    }
  }
  void tell(const std::string& view) const {
    report(view, "serial", even_deviate(upper));
    report(view, "serial, crossed", even_deviate(crossed));
  }
};

// Lengths of the gaps between words in the lowest sixteenth (Knuth 1997, The Art of Computer Programming 2, 3.3.2 D).
struct Gap {
  static constexpr std::size_t longest = 100;
  std::vector<double> counts = std::vector<double>(longest + 1);
  std::size_t length = 0;
  void take(const Words& words) {
    for (std::uint64_t w : words) {
      if (w >> 60 == 0) {
        ++counts[std::min(length, longest)];
        length = 0;
      } else {
        ++length;
      }
    }
  }
  void tell(const std::string& view) const {
    double total = 0;
    for (double c : counts) total += c;
    std::vector<double> expected;
    for (std::size_t k = 0; k < longest; ++k) expected.push_back(total / 16 * std::pow(15.0 / 16, static_cast<double>(k)));
    expected.push_back(total * std::pow(15.0 / 16, static_cast<double>(longest)));
    report(view, "gap", chi_deviate(counts, expected));
  }
};

// Equal spacings among 4096 birthdays in a year of 2^32 days: Poisson with mean 4 (Marsaglia 1985).
struct Birthday {
  static constexpr std::size_t born = 4096;
  double years = 0, repeats = 0;
  Words days;
  void take(const Words& words) {
    for (std::uint64_t w : words) {
      days.push_back(w >> 32);
      if (days.size() < born) continue;
      std::sort(days.begin(), days.end());
      for (std::size_t i = born - 1; i > 0; --i) days[i] -= days[i - 1];
      std::sort(days.begin(), days.end());
      for (std::size_t i = 1; i < born; ++i) repeats += days[i] == days[i - 1];
      ++years;
      days.clear();
    }
  }
  void tell(const std::string& view) const { report(view, "birthday spacings", (repeats - 4 * years) / std::sqrt(4 * years)); }
};

// Ranks of 64 x 64 matrices of bits, a word a row (Marsaglia and Tsay 1985).
struct Rank {
  std::vector<double> counts = std::vector<double>(4);
  Words rows;
  static unsigned rank_of(Words rows) {
    unsigned rank = 0;
    for (unsigned b = 0; b < 64; ++b) {
      std::size_t pivot = rank;
      while (pivot < 64 && (rows[pivot] >> b & 1) == 0) ++pivot;
      if (pivot == 64) continue;
      std::swap(rows[pivot], rows[rank]);
      for (std::size_t i = rank + 1; i < 64; ++i) {
        if (rows[i] >> b & 1) rows[i] ^= rows[rank];
      }
      ++rank;
    }
    return rank;
  }
  void take(const Words& words) {
    for (std::uint64_t w : words) {
      rows.push_back(w);
      if (rows.size() < 64) continue;
      ++counts[std::min(64 - rank_of(rows), 3u)];
      rows.clear();
    }
  }
  void tell(const std::string& view) const {
    double total = 0;
    for (double c : counts) total += c;
    // the limits of the probabilities of losing 0, 1, 2 and more ranks
    std::vector<double> expected = {0.2887880950866, 0.5775761901732, 0.1283502644829, 0.0052854502573};
    for (double& e : expected) e *= total;
    report(view, "rank", chi_deviate(counts, expected));
  }
};

// Periodograms of stretches of 2^16 uniform numbers: ordinates are exponential, whatever their frequency.
struct Spectral {
  static constexpr std::size_t size = 1 << 16, bins = 64;
  std::vector<double> heights = std::vector<double>(bins), places = std::vector<double>(bins);
  std::vector<std::complex<double>> stretch;
  double largest = 0, ordinates = 0;

  static void transform(std::vector<std::complex<double>>& x) {
    const std::size_t n = x.size();
    for (std::size_t i = 1, j = 0; i < n; ++i) {
      std::size_t bit = n >> 1;
      for (; j & bit; bit >>= 1) j ^= bit;
      j ^= bit;
      if (i < j) std::swap(x[i], x[j]);
    }
    for (std::size_t length = 2; length <= n; length *= 2) {
      const std::complex<double> turn = std::polar(1.0, -2 * 3.14159265358979323846 / static_cast<double>(length));
      for (std::size_t i = 0; i < n; i += length) {
        std::complex<double> w = 1;
        for (std::size_t k = 0; k < length / 2; ++k, w *= turn) {
          const std::complex<double> a = x[i + k], b = x[i + k + length / 2] * w;
          x[i + k] = a + b;
          x[i + k + length / 2] = a - b;
        }
      }
    }
  }
  void take(const Words& words) {
    for (std::uint64_t w : words) {
      stretch.push_back(open_unit(w) - 0.5);
      if (stretch.size() < size) continue;
      transform(stretch);
      for (std::size_t k = 1; k < size / 2; ++k) {
        const double height = std::norm(stretch[k]) * 12 / static_cast<double>(size);
        ++heights[static_cast<std::size_t>((1 - std::exp(-height)) * bins) % bins];
        places[k * 2 * bins / size] += height;
        largest = std::max(largest, height);
        ++ordinates;
      }
      stretch.clear();
    }
  }
  void tell(const std::string& view) const {
    if (ordinates == 0) return;
    report(view, "spectral", even_deviate(heights));
    const double each = ordinates / bins;
    double chi = 0;
    for (double p : places) chi += (p - each) * (p - each) / each;
    report(view, "spectral, by place", deviate(chi, bins));
    // the largest of N exponentials: Gumbel about log N; as a normal deviate of its probability
    const double beyond = -std::expm1(-ordinates * std::exp(-largest));
    report(view, "spectral, highest", beyond < 1e-6 || beyond > 1 - 1e-9 ? 9 : 0);
  }
};

static void try_view(const std::string& view, std::uint64_t count, const Source& source) {
  Frequency frequency;
  Serial serial;
  Gap gap;
  Birthday birthday;
  Rank rank;
  Spectral spectral;
  Words words(1 << 16);
  for (std::uint64_t first = 0; first + words.size() <= count; first += words.size()) {
    source(first, words);
    frequency.take(words);
    serial.take(words);
    gap.take(words);
    birthday.take(words);
    rank.take(words);
    spectral.take(words);
  }
  frequency.tell(view);
  serial.tell(view);
  gap.tell(view);
  birthday.tell(view);
  rank.tell(view);
  spectral.tell(view);
}

int main(int argc, char** argv) {
  const auto count = static_cast<std::uint64_t>(argc > 1 ? std::atof(argv[1]) : 1e7);
  const auto fewer = std::min<std::uint64_t>(count, count / 10 + 3000000);  // where each word costs a new stream
  const Stream runs(11, "demand", Purpose::draw);
  try_view("runs of one input", count, [&](std::uint64_t first, Words& words) {
    runs.fill(first, words.size(), words.data());
  });
  const std::uint64_t far = (1ULL << 40) + 3;
  try_view("every 33rd run, far out", fewer, [&](std::uint64_t first, Words& words) {
    for (std::size_t i = 0; i < words.size(); ++i) words[i] = runs.word(far + 33 * (first + i));
  });
  try_view("neighbouring seeds, the same run", fewer, [](std::uint64_t first, Words& words) {
    for (std::size_t i = 0; i < words.size(); ++i) words[i] = Stream(first + i, "demand", Purpose::draw).word(7);
  });
  try_view("neighbouring inputs, the same run", fewer, [](std::uint64_t first, Words& words) {
    for (std::size_t i = 0; i < words.size(); ++i) {
      words[i] = Stream(11, "x" + std::to_string(first + i), Purpose::draw).word(7);
    }
  });
  try_view("neighbouring indices, the same run", fewer, [](std::uint64_t first, Words& words) {
    for (std::size_t i = 0; i < words.size(); ++i) words[i] = Stream(11, "demand", Purpose::draw, first + i).word(7);
  });
  try_view("replicates and purposes in turn", fewer, [](std::uint64_t first, Words& words) {
    const Purpose purposes[] = {Purpose::draw, Purpose::permutation, Purpose::check, Purpose::scramble};
    for (std::size_t i = 0; i < words.size(); ++i) {
      words[i] = Stream(11, "demand", purposes[i % 4], 0, (first + i) / 4).word(7);
    }
  });
  // The tests can fail: multiples of the golden ratio fill every interval too evenly.
  const int before[] = {passed, failed};
  silent = true;
  try_view("", 2000000, [](std::uint64_t first, Words& words) {
    for (std::size_t i = 0; i < words.size(); ++i) words[i] = (first + i) * 0x9E3779B97F4A7C15ULL;
  });
  const int found = failed - before[1];
  passed = before[0] + (found >= 9);
  failed = before[1] + (found < 9);
  std::printf("%-34s %d of 10 tests fail, as they should\n", "multiples of the golden ratio", found);
  std::printf("%d passed, %d failed\n", passed, failed);
  return failed == 0 ? 0 : 1;
}
