#include "draw_doors.h"

#include "core/stream.h"

namespace door {

std::uint64_t seed_key(SEXP seed) {
  if (TYPEOF(seed) == STRSXP) return ensayo::name_key(CHAR(STRING_ELT(seed, 0)))[2];
  return static_cast<std::uint64_t>(static_cast<std::int64_t>(Rcpp::as<double>(seed)));
}

using ensayo::Inversion;

std::unique_ptr<Inversion> inversion_of(const Rcpp::List& recipe) {
  const std::string kind = recipe["kind"];
  auto number = [&](const char* name) { return Rcpp::as<double>(recipe[name]); };
  if (kind == "uniform") return std::make_unique<ensayo::UniformInversion>(number("min"), number("max"));
  if (kind == "normal") return std::make_unique<ensayo::NormalInversion>(number("mean"), number("sd"));
  if (kind == "lognormal") {
    return std::make_unique<ensayo::LognormalInversion>(number("median"), number("sdlog"), number("min"));
  }
  if (kind == "triangular") {
    return std::make_unique<ensayo::TriangularInversion>(number("min"), number("mode"), number("max"));
  }
  if (kind == "steps") {
    const Rcpp::NumericVector values = recipe["values"], cumulative = recipe["cumulative"];
    return std::make_unique<ensayo::StepInversion>(values.begin(), cumulative.begin(),
                                                   static_cast<std::size_t>(values.size()), number("below"));
  }
  const Rcpp::NumericVector coefficients = recipe["coefficients"];
  const auto side_cells = static_cast<std::size_t>(coefficients.size()) / ensayo::TableInversion::terms / 2;
  return std::make_unique<ensayo::TableInversion>(coefficients.begin(), side_cells, static_cast<unsigned>(number("fineness")),
                                                  number("min"), number("max"));
}

}  // namespace door
