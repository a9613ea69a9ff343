// Doors to compound sums: occurrences that are drawn one by one, and masses of which their laws are made.
#include <Rcpp.h>

#include "core/occurrences.h"
#include "core/stencil.h"
#include "core/threads.h"
#include "doors.h"
#include "draw_doors.h"

using ensayo::OpenSize;
using ensayo::Take;

namespace {

constexpr std::size_t share = 1u << 11;  // runs that a thread takes at a time

Take take_of(const Rcpp::List& given) {
  const std::string names[] = {"sum", "number", "largest", "number above", "sum above"};
  Take take;
  const std::string what = given["take"];
  for (int i = 0; i < 5; ++i) if (names[i] == what) take.what = static_cast<ensayo::Taken>(i);
  take.deductible = given["deductible"];
  take.limit = given["limit"];
  take.above = given["above"];
  return take;
}

}  // namespace

// What `take` says of the occurrences of runs after the first `first`, of which each has so many: list(x, runs, u), where sizes of
// some runs, counted from 1, are left to be found at u. `index` tells draws of the same run apart.
// [[Rcpp::export(rng = false)]]
Rcpp::List cpp_draw_occurrences(Rcpp::List address, double index, SEXP recipe, Rcpp::List take, double first,
                                Rcpp::NumericVector counts, int threads) {
  const auto size = static_cast<std::size_t>(counts.size());
  const auto begin = static_cast<std::uint64_t>(first);
  const std::unique_ptr<ensayo::Inversion> law = Rf_isNull(recipe) ? nullptr : door::inversion_of(recipe);
  const ensayo::Stream stream(door::seed_key(address["seed"]), Rcpp::as<std::string>(address["stream"]), ensayo::Purpose::occurrence,
                              0, static_cast<std::uint64_t>(index));
  const Take taken = take_of(take);
  Rcpp::NumericVector x(static_cast<R_xlen_t>(size));
  double* out = x.begin();
  const double* counted = counts.begin();
  std::vector<std::vector<OpenSize>> open((size + share - 1) / share);
  ensayo::share_out(open.size(), static_cast<unsigned>(threads), [&](std::size_t k) {
    const std::size_t at = k * share;
    ensayo::add_occurrences(stream, law.get(), taken, begin + at, std::min(share, size - at), counted + at, out + at, open[k]);
  });
  std::size_t total = 0;
  for (const auto& each : open) total += each.size();
  Rcpp::NumericVector runs(static_cast<R_xlen_t>(total)), u(static_cast<R_xlen_t>(total));
  R_xlen_t place = 0;
  for (std::size_t k = 0; k < open.size(); ++k) {
    for (const OpenSize& each : open[k]) {
      runs[place] = static_cast<double>(k * share + each.run + 1);
      u[place++] = each.u;
    }
  }
  return Rcpp::List::create(Rcpp::Named("x") = x, Rcpp::Named("runs") = runs, Rcpp::Named("u") = u);
}

// Adds sizes of some runs, counted from 1, to what these have: in place.
// [[Rcpp::export(rng = false)]]
void cpp_add_sizes(Rcpp::NumericVector x, Rcpp::NumericVector runs, Rcpp::NumericVector sizes, Rcpp::List take) {
  const Take taken = take_of(take);
  for (R_xlen_t k = 0; k < runs.size(); ++k) taken.add(sizes[k], x[static_cast<R_xlen_t>(runs[k]) - 1]);
}

// Masses handed to the places of a grid; see core/stencil.h.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_on_places(Rcpp::NumericVector at, Rcpp::NumericVector mass, double first, double last) {
  return Rcpp::wrap(ensayo::on_places(at.begin(), mass.begin(), static_cast<std::size_t>(at.size()),
                                      static_cast<std::ptrdiff_t>(first), static_cast<std::ptrdiff_t>(last)));
}
