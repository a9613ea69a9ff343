// Doors to the draw engine. Seeds and run numbers come as doubles, which hold every whole number up to 2^53.
#include <Rcpp.h>

#include "core/latin.h"
#include "core/stream.h"

namespace {

constexpr std::size_t piece = 1u << 20;  // the user may interrupt between pieces

template <class Fill>
Rcpp::NumericVector filled(double first, double count, Fill fill) {
  const auto begin = static_cast<std::uint64_t>(first);
  const auto size = static_cast<std::size_t>(count);
  Rcpp::NumericVector out(Rcpp::no_init(static_cast<R_xlen_t>(size)));
  for (std::size_t at = 0; at < size; at += piece) {
    fill(begin + at, std::min(piece, size - at), out.begin() + at);
    Rcpp::checkUserInterrupt();
  }
  return out;
}

ensayo::Stream stream(double seed, const std::string& name, ensayo::Purpose purpose, double index) {
  return ensayo::Stream(static_cast<std::int64_t>(seed), name, purpose, static_cast<std::uint64_t>(index));
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_random_uniforms(double seed, std::string name, double index, double first, double count) {
  const ensayo::Stream draws = stream(seed, name, ensayo::Purpose::draw, index);
  return filled(first, count, [&](std::uint64_t at, std::size_t size, double* out) {
    ensayo::fill_uniforms(draws, at, size, out);
  });
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_latin_uniforms(double seed, std::string name, double index, double n, double first,
                                       double count) {
  const ensayo::LatinMargin margin(stream(seed, name, ensayo::Purpose::draw, index),
                                   stream(seed, name, ensayo::Purpose::permutation, index),
                                   static_cast<std::uint64_t>(n));
  return filled(first, count, [&](std::uint64_t at, std::size_t size, double* out) { margin.fill(at, size, out); });
}

// Uniform numbers that choose which runs are checked again; a purpose of its own keeps them apart from the draws.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector cpp_check_uniforms(double seed, std::string name, double count) {
  const ensayo::Stream picks = stream(seed, name, ensayo::Purpose::check, 0);
  return filled(0, count, [&](std::uint64_t at, std::size_t size, double* out) {
    ensayo::fill_uniforms(picks, at, size, out);
  });
}
