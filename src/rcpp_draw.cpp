// Doors to the draw engine. Run numbers come as doubles, which hold every whole number up to 2^53.
#include <Rcpp.h>

#include "core/correlation.h"
#include "core/design.h"
#include "core/inversion.h"
#include "core/path.h"
#include "core/persistence.h"
#include "core/stream.h"
#include "core/threads.h"
#include "doors.h"
#include "draw_doors.h"

using ensayo::Address;
using ensayo::Column;
using ensayo::Inversion;
using ensayo::Layout;
using door::inversion_of;
using door::seed_key;

namespace {

constexpr std::size_t share = 1u << 14;  // runs that a thread takes at a time
constexpr std::size_t slab = 1u << 22;   // the user may interrupt between slabs

std::uint64_t whole(const Rcpp::List& list, const char* name) {
  return static_cast<std::uint64_t>(Rcpp::as<double>(list[name]));
}

Layout layout_of(const Rcpp::List& given) {
  const std::string design = given["design"];
  Layout layout;
  layout.design = design == "latin" ? ensayo::Design::latin
                  : design == "midpoints" ? ensayo::Design::midpoints
                  : design == "sobol" ? ensayo::Design::sobol
                                      : ensayo::Design::random;
  layout.runs = whole(given, "nsim");
  layout.replicates = whole(given, "replicates");
  return layout;
}

// The polynomial, then the initial numbers.
void set_dimension(Address& address, Rcpp::NumericVector numbers) {
  address.dimension.polynomial = static_cast<std::uint32_t>(numbers[0]);
  address.dimension.initial.assign(numbers.begin() + 1, numbers.end());
}

Address address_of(const Rcpp::List& given) {
  Address address;
  address.seed = seed_key(given["seed"]);
  address.stream = Rcpp::as<std::string>(given["stream"]);
  address.index = whole(given, "index");
  if (given.containsElementNamed("directions")) set_dimension(address, given["directions"]);
  return address;
}

// Calls work(first, size) on shares of a column, by threads, slab by slab.
template <class Work>
void over_shares(std::size_t count, unsigned threads, Work work) {
  for (std::size_t start = 0; start < count; start += slab) {
    const std::size_t size = std::min(slab, count - start);
    ensayo::share_out((size + share - 1) / share, threads, [&](std::size_t k) {
      work(start + k * share, std::min(share, size - k * share));
    });
    Rcpp::checkUserInterrupt();
  }
}

Rcpp::NumericVector all_places(const std::vector<std::vector<std::size_t>>& parts) {
  std::size_t total = 0;
  for (const auto& places : parts) total += places.size();
  Rcpp::NumericVector all(static_cast<R_xlen_t>(total));
  double* next = all.begin();
  for (const auto& places : parts) next = std::copy(places.begin(), places.end(), next);
  return all;
}

// Fills a column, through a law where a recipe is given. Where the law's quantile must come from R, `open` says so.
template <class Fill>
Rcpp::List drawn(std::size_t count, SEXP recipe, int threads, Fill fill) {
  Rcpp::NumericVector x(Rcpp::no_init(static_cast<R_xlen_t>(count)));
  double* out = x.begin();
  const std::unique_ptr<Inversion> law = Rf_isNull(recipe) ? nullptr : inversion_of(recipe);
  std::vector<std::vector<std::size_t>> open((count + share - 1) / share);
  over_shares(count, static_cast<unsigned>(threads), [&](std::size_t first, std::size_t size) {
    for (std::size_t at = first; at < first + size; at += ensayo::piece_size) {
      const std::size_t piece = std::min(ensayo::piece_size, first + size - at);
      fill(at, piece, out + at);
      if (!law) continue;
      std::vector<std::size_t>& places = open[first / share];
      const std::size_t known = places.size();
      law->apply(out + at, piece, out + at, places);
      for (std::size_t k = known; k < places.size(); ++k) places[k] += at + 1;
    }
  });
  return Rcpp::List::create(Rcpp::Named("x") = x, Rcpp::Named("open") = all_places(open));
}

std::vector<double*> pointers(Rcpp::List columns) {
  std::vector<double*> out;
  for (R_xlen_t j = 0; j < columns.size(); ++j) out.push_back(doubles(columns[j]));
  return out;
}

// Row by row, as the core keeps matrices.
std::vector<double> by_rows(const Rcpp::NumericMatrix& m) {
  std::vector<double> out;
  for (int i = 0; i < m.nrow(); ++i) {
    for (int j = 0; j < m.ncol(); ++j) out.push_back(m(i, j));
  }
  return out;
}

}  // namespace

// The draws of one input for `count` runs after the first `first`: list(x, open), see drawn().
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_draw(Rcpp::List address, Rcpp::List layout, SEXP recipe, double first, double count, int threads) {
  const auto begin = static_cast<std::uint64_t>(first);
  const auto size = static_cast<std::size_t>(count);
  const Column column(address_of(address), layout_of(layout), begin, begin + size);
  return drawn(size, recipe, threads, [&](std::size_t at, std::size_t piece, double* out) {
    column.fill(begin + at, piece, out);
  });
}

// The draws of one input at some of its steps (`indices`, from 1), a column each, with its key, for `count` runs after the first `first`:
// list(x, open). Under a Sobol' design `directions` has each step's.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_draw_series(Rcpp::List address, Rcpp::NumericVector indices, Rcpp::CharacterVector keys, SEXP directions,
                           Rcpp::List layout, SEXP recipe, double first, double count, int threads) {
  const auto begin = static_cast<std::uint64_t>(first);
  const auto runs = static_cast<std::size_t>(count);
  const auto steps = static_cast<std::size_t>(indices.size());
  std::vector<Address> addresses;
  for (std::size_t k = 0; k < steps; ++k) {
    addresses.push_back(address_of(address));
    addresses.back().index = static_cast<std::uint64_t>(indices[static_cast<R_xlen_t>(k)]);
    if (!Rf_isNull(directions)) set_dimension(addresses.back(), VECTOR_ELT(directions, static_cast<R_xlen_t>(k)));
  }
  const Layout laid_out = layout_of(layout);
  const std::unique_ptr<Inversion> law = Rf_isNull(recipe) ? nullptr : inversion_of(recipe);
  Rcpp::NumericMatrix x(Rcpp::no_init(static_cast<int>(runs), static_cast<int>(steps)));
  x.attr("dimnames") = Rcpp::List::create(R_NilValue, keys);
  double* out = x.begin();
  std::vector<std::vector<std::size_t>> open(steps);
  const std::size_t at_a_time = std::max<std::size_t>(1, slab / std::max<std::size_t>(runs, 1));
  for (std::size_t start = 0; start < steps; start += at_a_time) {
    ensayo::share_out(std::min(at_a_time, steps - start), static_cast<unsigned>(threads), [&](std::size_t k) {
      const std::size_t step = start + k;
      const Column column(addresses[step], laid_out, begin, begin + runs);
      for (std::size_t at = 0; at < runs; at += ensayo::piece_size) {
        const std::size_t piece = std::min(ensayo::piece_size, runs - at), place = step * runs + at;
        column.fill(begin + at, piece, out + place);
        if (!law) continue;
        const std::size_t known = open[step].size();
        law->apply(out + place, piece, out + place, open[step]);
        for (std::size_t o = known; o < open[step].size(); ++o) open[step][o] += place + 1;
      }
    });
    Rcpp::checkUserInterrupt();
  }
  return Rcpp::List::create(Rcpp::Named("x") = x, Rcpp::Named("open") = all_places(open));
}

// Uniform numbers of a set of inputs, a matrix of runs and steps each, made to persist from step to step, and dependent
// within each, by roots of the covariances of the scores' first values and of what each step brings. In place, as
// cpp_reorder().
// [[Rcpp::export(rng = false)]]
void cpp_persist(Rcpp::List series, Rcpp::NumericMatrix begin, Rcpp::NumericMatrix root, Rcpp::NumericVector kept, int threads) {
  const std::vector<double*> u = pointers(series);
  const auto rows = static_cast<std::size_t>(Rf_nrows(series[0])), steps = static_cast<std::size_t>(Rf_ncols(series[0]));
  const ensayo::Persistence persistence(by_rows(begin), by_rows(root), std::vector<double>(kept.begin(), kept.end()));
  ensayo::share_out((rows + ensayo::piece_size - 1) / ensayo::piece_size, static_cast<unsigned>(threads), [&](std::size_t k) {
    const std::size_t first = k * ensayo::piece_size;
    persistence.apply(u.data(), rows, steps, first, std::min(ensayo::piece_size, rows - first));
  });
}

// The same from uniform numbers at hand.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_invert(Rcpp::NumericVector u, Rcpp::List recipe, int threads) {
  const double* from = u.begin();
  return drawn(static_cast<std::size_t>(u.size()), recipe, threads, [&](std::size_t at, std::size_t piece, double* out) {
    std::copy(from + at, from + at + piece, out);
  });
}

// Puts values at some places, counted from 1, of a column that was made for it: in place.
// [[Rcpp::export(rng = false)]]
void cpp_put(Rcpp::NumericVector x, Rcpp::NumericVector at, Rcpp::NumericVector values) {
  for (R_xlen_t k = 0; k < at.size(); ++k) x[static_cast<R_xlen_t>(at[k]) - 1] = values[k];
}

// Puts columns of uniform numbers of the runs after the first `first` of `nsim` into an order that has the rank
// correlations `asked`, block by block of about `block` runs. The columns must hold whole blocks; they are changed in
// place, so they must be new and nobody else's.
// [[Rcpp::export(rng = false)]]
void cpp_reorder(Rcpp::List columns, Rcpp::NumericMatrix asked, double nsim, double block, double first,
                       int threads) {
  const std::vector<double*> u = pointers(columns);
  const std::vector<double> correlations = by_rows(asked);
  const ensayo::Blocks blocks(static_cast<std::uint64_t>(nsim), static_cast<std::uint64_t>(block));
  const auto begin = static_cast<std::uint64_t>(first), end = begin + static_cast<std::uint64_t>(Rf_xlength(columns[0]));
  const std::uint64_t first_block = blocks.holding(begin), last_block = blocks.holding(end - 1);
  const std::size_t at_a_time = std::max<std::size_t>(1, slab / (blocks.small + 1));
  for (std::uint64_t b = first_block; b <= last_block; b += at_a_time) {
    const std::size_t count = static_cast<std::size_t>(std::min<std::uint64_t>(at_a_time, last_block + 1 - b));
    ensayo::share_out(std::min<std::size_t>(count, static_cast<std::size_t>(threads)), static_cast<unsigned>(threads),
                      [&](std::size_t worker) {
      ensayo::RankCorrelator correlator(correlations, u.size());
      for (std::size_t k = worker; k < count; k += static_cast<std::size_t>(threads)) {
        std::vector<double*> at(u);
        for (double*& column : at) column += blocks.first(b + k) - begin;
        const std::uint64_t size = blocks.first(b + k + 1) - blocks.first(b + k);
        correlator.reorder(at.data(), static_cast<std::size_t>(size), static_cast<std::uint64_t>(nsim));
      }
    });
    Rcpp::checkUserInterrupt();
  }
}

// The first run, and the one after the last, of the whole blocks that hold the runs after `first` up to `last`.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_block_range(double nsim, double block, double first, double last) {
  const ensayo::Blocks blocks(static_cast<std::uint64_t>(nsim), static_cast<std::uint64_t>(block));
  const std::uint64_t from = blocks.holding(static_cast<std::uint64_t>(first));
  const std::uint64_t to = blocks.holding(static_cast<std::uint64_t>(last) - 1);
  return {static_cast<double>(blocks.first(from)), static_cast<double>(blocks.first(to + 1))};
}

// Columns of independent uniform numbers made dependent, run by run, by a Gaussian copula with the score correlations
// `root` times its transpose. In place, as cpp_reorder().
// [[Rcpp::export(rng = false)]]
void cpp_copula(Rcpp::List columns, Rcpp::NumericMatrix root, int threads) {
  const std::vector<double*> u = pointers(columns);
  const ensayo::Copula copula(by_rows(root), u.size());
  over_shares(static_cast<std::size_t>(Rf_xlength(columns[0])), static_cast<unsigned>(threads),
              [&](std::size_t first, std::size_t size) {
    std::vector<double*> at(u);
    for (double*& column : at) column += first;
    copula.apply(at.data(), size);
  });
}

// Uniform numbers that choose which runs are checked again; a purpose of its own keeps them apart from the draws.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_check_uniforms(SEXP seed, std::string name, double count) {
  Rcpp::NumericVector out(Rcpp::no_init(static_cast<R_xlen_t>(count)));
  ensayo::fill_uniforms(ensayo::Stream(seed_key(seed), name, ensayo::Purpose::check), 0,
                        static_cast<std::size_t>(out.size()), out.begin());
  return out;
}

// What stands for each name in the generator's key, as text.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector cpp_name_keys(Rcpp::CharacterVector names) {
  Rcpp::CharacterVector out(names.size());
  for (R_xlen_t i = 0; i < names.size(); ++i) {
    const ensayo::Block key = ensayo::name_key(CHAR(names[i]));
    char text[36];
    std::snprintf(text, sizeof text, "%016llx%016llx", static_cast<unsigned long long>(key[0]),
                  static_cast<unsigned long long>(key[1]));
    out[i] = text;
  }
  return out;
}

// The probabilities at some places, or at the nodes where none are given, of some cells of a fineness of one side; a
// column for each cell. Cells are counted from 0.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cpp_table_probabilities(int fineness, Rcpp::NumericVector cells, Rcpp::NumericVector at) {
  using Table = ensayo::TableInversion;
  std::vector<double> places(at.begin(), at.end());
  for (unsigned k = 0; at.size() == 0 && k < Table::terms; ++k) places.push_back(Table::node(k));
  Rcpp::NumericMatrix out(static_cast<int>(places.size()), static_cast<int>(cells.size()));
  for (int c = 0; c < out.ncol(); ++c) {
    for (int k = 0; k < out.nrow(); ++k) {
      out(k, c) = Table::probability(static_cast<std::size_t>(cells[c]), static_cast<unsigned>(fineness),
                                     places[static_cast<std::size_t>(k)]);
    }
  }
  return out;
}

// The coefficients at the next fineness.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cpp_table_halves(Rcpp::NumericMatrix coefficients) {
  Rcpp::NumericMatrix out(coefficients.nrow(), 2 * coefficients.ncol());
  for (int c = 0; c < coefficients.ncol(); ++c) ensayo::TableInversion::halve(&coefficients(0, c), &out(0, 2 * c));
  return out;
}

// Coefficients, a column a cell, from values at the nodes.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cpp_table_coefficients(Rcpp::NumericMatrix values) {
  Rcpp::NumericMatrix out(values.nrow(), values.ncol());
  for (int c = 0; c < values.ncol(); ++c) {
    ensayo::TableInversion::interpolate(&values(0, c), &out(0, c));
  }
  return out;
}

// How many threads the machine runs at once; 1 where it does not say.
// [[Rcpp::export(rng = false)]]
int cpp_hardware_threads() {
  static const int threads = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  return threads;
}

// The widest code path that this machine has, or the one to use from now on where a name is given; for tests, and for
// the record.
// [[Rcpp::export(rng = false)]]
std::string cpp_code_path(std::string wanted = "") {
  const std::pair<const char*, ensayo::Path> paths[] = {
      {"plain", ensayo::Path::plain}, {"avx2", ensayo::Path::avx2}, {"avx512", ensayo::Path::avx512}};
  for (const auto& path : paths) {
    if (wanted == path.first) ensayo::choose_path(path.second);
  }
  for (const auto& path : paths) {
    if (ensayo::path_in_use() == path.second) return path.first;
  }
  return "plain";
}

// The user may interrupt the core's work between its pieces.
// [[Rcpp::init]]
void listen_for_interrupts(DllInfo* dll) {
  (void)dll;
  ensayo::pulse() = [] { Rcpp::checkUserInterrupt(); };
}
