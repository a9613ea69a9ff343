// Probabilities and quantiles of laws. What the core has not comes from the functions that a program around it fills in.
#include "sheet_function.h"

#include <cmath>

#include "normal.h"

namespace ensayo {
namespace sheet {

namespace {

const double root_of_two_pi = 2.50662827463100050242;

double normal_density(double z) { return std::exp(-z * z / 2) / root_of_two_pi; }
double normal_quantile(double p) {
  double z;
  normal_quantiles(&p, 1, &z);
  return z;
}

double normal(const Frame& frame) {
  double x[4] = {0, 0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[2] <= 0) return fault(Error::number);
  const double z = (x[0] - x[1]) / x[2];
  return x[3] != 0 ? normal_cumulative(z) : normal_density(z) / x[2];
}

double normal_inverse(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[0] <= 0 || x[0] >= 1 || x[2] <= 0 ? fault(Error::number) : x[1] + x[2] * normal_quantile(x[0]);
}

double standard_normal(const Frame& frame) {
  double x[2] = {0, 1};
  const double wrong = read_numbers(frame, x);
  return wrong != 0 ? wrong : x[1] != 0 ? normal_cumulative(x[0]) : normal_density(x[0]);
}

double standard_normal_of(double z) { return normal_cumulative(z); }
double standard_normal_inverse(double p) { return p <= 0 || p >= 1 ? fault(Error::number) : normal_quantile(p); }
double density_of_standard_normal(double z) { return normal_density(z); }

double lognormal(const Frame& frame) {
  double x[4] = {0, 0, 1, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] <= 0 || x[2] <= 0) return fault(Error::number);
  const double z = (std::log(x[0]) - x[1]) / x[2];
  return x[3] != 0 ? normal_cumulative(z) : normal_density(z) / (x[0] * x[2]);
}

double lognormal_inverse(const Frame& frame) {
  double x[3] = {0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[0] <= 0 || x[0] >= 1 || x[2] <= 0 ? fault(Error::number) : std::exp(x[1] + x[2] * normal_quantile(x[0]));
}

double exponential(const Frame& frame) {
  double x[3] = {0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] < 0 || x[1] <= 0) return fault(Error::number);
  return x[2] != 0 ? -std::expm1(-x[1] * x[0]) : x[1] * std::exp(-x[1] * x[0]);
}

double weibull(const Frame& frame) {
  double x[4] = {0, 0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] < 0 || x[1] <= 0 || x[2] <= 0) return fault(Error::number);
  const double scaled = x[0] / x[2], power = std::pow(scaled, x[1]);
  return x[3] != 0 ? -std::expm1(-power) : x[1] / x[2] * std::pow(scaled, x[1] - 1) * std::exp(-power);
}

double gamma_law(const Frame& frame) {
  double x[4] = {0, 0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] < 0 || x[1] <= 0 || x[2] <= 0) return fault(Error::number);
  if (x[3] != 0) return mathematics().gamma_cumulative(x[0], x[1], x[2]);
  return std::exp((x[1] - 1) * std::log(x[0] / x[2]) - x[0] / x[2] - std::lgamma(x[1])) / x[2];
}

double gamma_inverse(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  return x[0] < 0 || x[0] >= 1 || x[1] <= 0 || x[2] <= 0 ? fault(Error::number) : mathematics().gamma_quantile(x[0], x[1], x[2]);
}

double beta_inverse(const Frame& frame) {
  double x[5] = {0, 0, 0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  if (x[0] <= 0 || x[0] >= 1 || x[1] <= 0 || x[2] <= 0 || x[4] <= x[3]) return fault(Error::number);
  return x[3] + (x[4] - x[3]) * mathematics().beta_quantile(x[0], x[1], x[2]);
}

double beta_law(const Frame& frame) {
  double x[6] = {0, 0, 0, 1, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double width = x[5] - x[4], share = (x[0] - x[4]) / width;
  if (x[1] <= 0 || x[2] <= 0 || width <= 0 || share < 0 || share > 1) return fault(Error::number);
  if (x[3] != 0) return mathematics().beta_cumulative(share, x[1], x[2]);
  return std::exp((x[1] - 1) * std::log(share) + (x[2] - 1) * std::log1p(-share) + std::lgamma(x[1] + x[2]) - std::lgamma(x[1]) -
                  std::lgamma(x[2])) / width;
}

double student_inverse(double p, double freedom) {
  return p <= 0 || p >= 1 || freedom < 1 ? fault(Error::number) : mathematics().student_quantile(p, std::floor(freedom));
}
double student_inverse_of_two_tails(double p, double freedom) {
  return p <= 0 || p > 1 || freedom < 1 ? fault(Error::number) : -mathematics().student_quantile(p / 2, std::floor(freedom));
}
double student_above(double x, double freedom) {
  return freedom < 1 ? fault(Error::number) : mathematics().student_cumulative(-x, std::floor(freedom));
}
double student_two_tails(double x, double freedom) {
  return x < 0 || freedom < 1 ? fault(Error::number) : 2 * mathematics().student_cumulative(-x, std::floor(freedom));
}

double chi_square(const Frame& frame) {
  double x[3] = {0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double half = std::floor(x[1]) / 2;
  if (x[0] < 0 || half < 0.5) return fault(Error::number);
  if (x[2] != 0) return mathematics().gamma_cumulative(x[0], half, 2);
  return std::exp((half - 1) * std::log(x[0] / 2) - x[0] / 2 - std::lgamma(half)) / 2;
}
double chi_square_inverse(double p, double freedom) {
  return p < 0 || p >= 1 || freedom < 1 ? fault(Error::number) : mathematics().gamma_quantile(p, std::floor(freedom) / 2, 2);
}

double chance_of_count(double k, double n, double p) {
  if (p == 0) return k == 0;
  if (p == 1) return k == n;
  return std::exp(std::lgamma(n + 1) - std::lgamma(k + 1) - std::lgamma(n - k + 1) + k * std::log(p) + (n - k) * std::log1p(-p));
}

double binomial(const Frame& frame) {
  double x[4] = {0, 0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double k = std::floor(x[0]), n = std::floor(x[1]), p = x[2];
  if (k < 0 || k > n || p < 0 || p > 1) return fault(Error::number);
  if (x[3] == 0) return chance_of_count(k, n, p);
  return k == n ? 1 : 1 - mathematics().beta_cumulative(p, k + 1, n - k);
}

double binomial_inverse(const Frame& frame) {
  double x[3] = {};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double n = std::floor(x[0]);
  if (n < 0 || x[1] < 0 || x[1] > 1 || x[2] <= 0 || x[2] >= 1 || n > 1e6) return fault(Error::number);
  double sum = 0;
  for (double k = 0; k < n; ++k) {
    sum += chance_of_count(k, n, x[1]);
    if (sum >= x[2]) return k;
  }
  return n;
}

double poisson(const Frame& frame) {
  double x[3] = {0, 0, 1};
  const double wrong = read_numbers(frame, x);
  if (wrong != 0) return wrong;
  const double k = std::floor(x[0]);
  if (k < 0 || x[1] < 0) return fault(Error::number);
  if (x[1] == 0) return x[2] != 0 || k == 0;
  if (x[2] == 0) return std::exp(k * std::log(x[1]) - x[1] - std::lgamma(k + 1));
  return 1 - mathematics().gamma_cumulative(x[1], k + 1, 1);
}

Definition by_hand(const char* name, int least, int most, double (*of)(const Frame&)) {
  return {name, least, most, "v", of, nullptr, nullptr, main_thread_only};
}

}  // namespace

std::vector<Definition> law_definitions() {
  return {{"NORM.DIST", 4, 4, "v", normal}, {"NORMDIST", 3, 4, "v", normal}, {"NORM.INV", 3, 3, "v", normal_inverse},
          {"NORMINV", 3, 3, "v", normal_inverse}, {"NORM.S.DIST", 1, 2, "v", standard_normal}, of_number("NORMSDIST", standard_normal_of),
          of_number("NORM.S.INV", standard_normal_inverse), of_number("NORMSINV", standard_normal_inverse), of_number("PHI", density_of_standard_normal),
          {"LOGNORM.DIST", 4, 4, "v", lognormal}, {"LOGNORMDIST", 1, 4, "v", lognormal}, {"LOGNORM.INV", 3, 3, "v", lognormal_inverse},
          {"LOGINV", 1, 3, "v", lognormal_inverse}, {"EXPON.DIST", 3, 3, "v", exponential}, {"EXPONDIST", 3, 3, "v", exponential},
          {"WEIBULL.DIST", 4, 4, "v", weibull}, {"WEIBULL", 4, 4, "v", weibull}, by_hand("GAMMA.DIST", 4, 4, gamma_law),
          by_hand("GAMMADIST", 4, 4, gamma_law), by_hand("GAMMA.INV", 3, 3, gamma_inverse), by_hand("GAMMAINV", 3, 3, gamma_inverse),
          by_hand("BETA.INV", 3, 5, beta_inverse), by_hand("BETAINV", 3, 5, beta_inverse), by_hand("BETA.DIST", 4, 6, beta_law),
          of_numbers("T.INV", student_inverse, 2, main_thread_only), of_numbers("T.INV.2T", student_inverse_of_two_tails, 2, main_thread_only), of_numbers("TINV", student_inverse_of_two_tails, 2, main_thread_only),
          of_numbers("T.DIST.RT", student_above, 2, main_thread_only), of_numbers("T.DIST.2T", student_two_tails, 2, main_thread_only), by_hand("CHISQ.DIST", 3, 3, chi_square),
          of_numbers("CHISQ.INV", chi_square_inverse, 2, main_thread_only), by_hand("BINOM.DIST", 4, 4, binomial), by_hand("BINOMDIST", 4, 4, binomial),
          by_hand("BINOM.INV", 3, 3, binomial_inverse), by_hand("CRITBINOM", 3, 3, binomial_inverse), by_hand("POISSON.DIST", 3, 3, poisson),
          by_hand("POISSON", 2, 3, poisson)};
}

}  // namespace sheet
}  // namespace ensayo
