// Doors to the draw engine. Run numbers come as doubles, which hold every whole number up to 2^53.
#include <Rcpp.h>

#include <algorithm>

#include "core/design.h"
#include "core/draws.h"
#include "core/inversion.h"
#include "core/path.h"
#include "core/persistence.h"
#include "core/stream.h"
#include "core/threads.h"
#include "doors.h"
#include "draw_doors.h"

using ensayo::Address;
using ensayo::Inversion;
using ensayo::Layout;
using door::inversion_of;
using door::seed_key;

namespace {

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

// Places counted from 1, as R takes them.
Rcpp::NumericVector from_one(const std::vector<std::size_t>& places) {
  Rcpp::NumericVector out(Rcpp::no_init(static_cast<R_xlen_t>(places.size())));
  std::transform(places.begin(), places.end(), out.begin(), [](std::size_t place) { return static_cast<double>(place) + 1; });
  return out;
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

// Columns of draws for `count` runs after the first `first`, a list(x, open) each: through a law where there is a recipe,
// else uniform numbers. Where the law's quantile must come from R, x has the uniform number and `open` the place. Each of
// `sets` has the places, from 1, of `columns` that depend on each other, once or several times, and their matrix `r`; see
// core/draws.h.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_draw_columns(Rcpp::List addresses, Rcpp::List recipes, Rcpp::List sets, Rcpp::List layout, double first,
                            double count, int threads) {
  std::vector<std::unique_ptr<Inversion>> laws;
  std::vector<ensayo::DrawColumn> columns(static_cast<std::size_t>(addresses.size()));
  std::vector<Rcpp::NumericVector> x;
  for (std::size_t j = 0; j < columns.size(); ++j) {
    const auto at = static_cast<R_xlen_t>(j);
    laws.push_back(Rf_isNull(recipes[at]) ? nullptr : inversion_of(recipes[at]));
    x.emplace_back(Rcpp::no_init(static_cast<R_xlen_t>(count)));
    columns[j].address = address_of(addresses[at]);
    columns[j].law = laws[j].get();
    columns[j].x = x[j].begin();
  }
  std::vector<ensayo::Dependence> dependences;
  for (R_xlen_t s = 0; s < sets.size(); ++s) {
    const Rcpp::List set = sets[s];
    dependences.push_back({by_rows(set["r"]), {}});
    for (const Rcpp::IntegerVector places : Rcpp::List(set["columns"])) {
      dependences.back().sets.emplace_back();
      for (const int place : places) dependences.back().sets.back().push_back(static_cast<std::size_t>(place) - 1);
    }
  }
  const std::uint64_t block = dependences.empty() ? 1 : whole(layout, "block");
  ensayo::draw_columns(columns, dependences, layout_of(layout), block, static_cast<std::uint64_t>(first),
                       static_cast<std::size_t>(count), static_cast<unsigned>(threads));
  Rcpp::List out(addresses.size());
  for (std::size_t j = 0; j < columns.size(); ++j) {
    out[static_cast<R_xlen_t>(j)] = Rcpp::List::create(Rcpp::Named("x") = x[j], Rcpp::Named("open") = from_one(columns[j].open));
  }
  out.names() = addresses.names();
  return out;
}

// The draws of one input at some of its steps (`indices`, from 1), a column each, with its key, for `count` runs after the first
// `first`: list(x, open). Under a Sobol' design `directions` has each step's.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_draw_series(Rcpp::List address, Rcpp::NumericVector indices, Rcpp::CharacterVector keys, SEXP directions,
                           Rcpp::List layout, SEXP recipe, double first, double count, int threads) {
  const auto runs = static_cast<std::size_t>(count), steps = static_cast<std::size_t>(indices.size());
  const std::unique_ptr<Inversion> law = Rf_isNull(recipe) ? nullptr : inversion_of(recipe);
  Rcpp::NumericMatrix x(Rcpp::no_init(static_cast<int>(runs), static_cast<int>(steps)));
  x.attr("dimnames") = Rcpp::List::create(R_NilValue, keys);
  std::vector<ensayo::DrawColumn> columns(steps);
  for (std::size_t k = 0; k < steps; ++k) {
    columns[k].address = address_of(address);
    columns[k].address.index = static_cast<std::uint64_t>(indices[static_cast<R_xlen_t>(k)]);
    if (!Rf_isNull(directions)) set_dimension(columns[k].address, VECTOR_ELT(directions, static_cast<R_xlen_t>(k)));
    columns[k].law = law.get();
    columns[k].x = x.begin() + k * runs;
  }
  ensayo::draw_columns(columns, {}, layout_of(layout), 1, static_cast<std::uint64_t>(first), runs, static_cast<unsigned>(threads));
  std::vector<std::size_t> open;
  for (std::size_t k = 0; k < steps; ++k) {
    for (const std::size_t place : columns[k].open) open.push_back(k * runs + place);
  }
  return Rcpp::List::create(Rcpp::Named("x") = x, Rcpp::Named("open") = from_one(open));
}

// Uniform numbers of a set of inputs, a matrix of runs and steps each, made to persist from step to step, and dependent
// within each, by roots of the covariances of the scores' first values and of what each step brings. In place:
// the matrices must be new and nobody else's.
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

// A column of draws as cpp_draw_columns() has it, from uniform numbers at hand.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_invert(Rcpp::NumericVector u, Rcpp::List recipe, int threads) {
  Rcpp::NumericVector x(Rcpp::no_init(u.size()));
  const std::vector<std::size_t> open = ensayo::invert(*inversion_of(recipe), u.begin(), static_cast<std::size_t>(u.size()), x.begin(),
                                                       static_cast<unsigned>(threads));
  return Rcpp::List::create(Rcpp::Named("x") = x, Rcpp::Named("open") = from_one(open));
}

// Puts values at some places, counted from 1, of a column that was made for it: in place.
// [[Rcpp::export(rng = false)]]
void cpp_put(Rcpp::NumericVector x, Rcpp::NumericVector at, Rcpp::NumericVector values) {
  for (R_xlen_t k = 0; k < at.size(); ++k) x[static_cast<R_xlen_t>(at[k]) - 1] = values[k];
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
