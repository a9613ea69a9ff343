# Laws over a wide range of parameters, and what is asked of all of them.

law_grid <- function() {
  c(list(
    law_normal(0, 1), law_normal(-1e6, 1e-6), law_normal(3, 1e6),
    law_lognormal(mean = 3, sd = 1), law_lognormal(mean = 1e-6, sd = 1e-6), law_lognormal(mean = 1e6, sd = 1),
    law_lognormal(meanlog = 0, sdlog = 2), law_lognormal(meanlog = 1, sdlog = 0.5, min = 10),
    law_lognormal(mean = 12, sd = 3, min = 10), law_lognormal(median = 40, gsd = 1.3),
    law_uniform(0, 1), law_uniform(-1e6, 1e-6), law_uniform(2, 2 + 1e-6),
    law_triangular(0, 0.3, 1), law_triangular(0, 0, 1), law_triangular(0, 1, 1), law_triangular(-1e6, 3, 1e6),
    law_triangular(28, 34, 48), law_pert(0, 0.3, 1), law_pert(0, 0, 1), law_pert(0, 1, 1), law_pert(28, 34, 48),
    law_pert(-1e6, 0, 1e-6), law_pert(1e-6, 2e-6, 1e-3), law_pert(28, 34, 48, weight = 20),
    2 * law_pert(1, 2, 4) + 1, -law_lognormal(mean = 3, sd = 1), (law_triangular(1, 2, 4) - 2) / 1000
  ), more_continuous_laws(), derived_laws())
}

more_continuous_laws <- function() {
  list(
    law_trapezoidal(4, 5, 7, 10), law_trapezoidal(0, 0, 1, 1), law_trapezoidal(0, 0.5, 0.5, 1),
    law_trapezoidal(-1e6, -1, 1, 1e6), law_curvilinear(9.5, 10.5, 0.1), law_curvilinear(-1e6, 1e6, 1e-6),
    law_curvilinear(0, 2e-6, 0.9e-6), law_arcsine(-0.2, 0.2), law_arcsine(0, 1e6),
    law_beta(2, 5), law_beta(0.5, 0.5), law_beta(0.05, 3), law_beta(1e-6, 1), law_beta(1e6, 2e6), law_beta(1, 1),
    law_beta(300, 2, min = -5, max = 5), law_beta(mean = 0.22, sd = 0.05), law_beta(mean = 14, sd = 2, min = 10,
      max = 30),
    law_gamma(2, 3), law_gamma(1e-3, 1), law_gamma(0.05, 1e6), law_gamma(1e6, 1e-6), law_gamma(mean = 900, sd = 400),
    law_gamma(mean = 12, sd = 1, min = 10), law_exponential(mean = 12), law_exponential(rate = 1e6),
    law_exponential(mean = 3, min = 2), law_weibull(2.5, 40), law_weibull(0.3, 1), law_weibull(1e4, 1e6),
    law_weibull(20.5, 3, min = 1), law_weibull(19, 3), law_gumbel(38, 3), law_gumbel(0, 1e-6, tail = "smallest"),
    law_pareto(100, 40, 0.2), law_pareto(0, 1, -0.5), law_pareto(0, 1e6, 0), law_pareto(1, 1, -1.5), law_pareto(0, 1,
      0.7),
    law_logistic(20, 1.5), law_laplace(0, 0.4), law_laplace(1e6, 1e-6), law_student(9, 20, 0.04), law_student(1),
    law_student(2.5), law_student(1e6, -3, 2),
    law_piecewise(c(20, 30, 34, 40, 55), c(0, 10, 50, 90, 100)), law_piecewise(c(0, 1e-6, 1e6), c(0, 99, 100)),
    law_histogram(c(0, 10, 20, 50), c(4, 9, 2)), law_histogram(c(-1, 0, 3), c(1, 1e6)),
    law_empirical(c(61.2, 61.9, 61.4, 61.5, 61.1, 61.8), interpolate = TRUE)
  )
}

derived_laws <- function() {
  list(
    law_truncated(law_normal(2, 1), min = 0), law_truncated(law_normal(0, 1), min = 0),
    law_truncated(law_normal(0, 1), min = 6), law_truncated(law_normal(0, 1), max = -6),
    law_truncated(law_gamma(2, 3), 1, 9), law_truncated(law_lognormal(mean = 3, sd = 1), max = 10),
    law_mixture(list(law_normal(0, 1), law_normal(5, 0.1)), c(3, 1)),
    law_mixture(list(ana = law_pert(20, 30, 50), ben = law_triangular(25, 28, 35)), c(2, 1)),
    law_largest(law_normal(30, 3), 12), law_smallest(law_weibull(2, 5), 50), law_largest(law_uniform(0, 1), 3),
    law_truncated(law_mixture(list(law_normal(0, 1), law_gamma(3, 1))), min = 1),
    law_truncated(law_compound(law_poisson(12), law_gamma(mean = 8, sd = 6)), min = 20)
  )
}

discrete_grid <- function() {
  list(
    law_discrete(c(3, 1, 2), c(0.3, 0.2, 0.5)), law_discrete(c(-1.5, 0, 1e6), c(1, 0, 1e-9)), law_integers(1, 6),
    law_integers(-1e6, 1e6), law_bernoulli(0.15), law_bernoulli(1e-6), law_binomial(40, 0.05), law_binomial(1e6, 0.5),
    law_binomial(1, 0.5), law_poisson(7.5), law_poisson(1e-6), law_poisson(1e6), law_negative_binomial(2.5, 0.3),
    law_negative_binomial(mean = 7.5, sd = 4), law_negative_binomial(mean = 3, size = 0.05), law_geometric(0.2),
    law_geometric(1e-6), law_hypergeometric(6, 44, 10), law_hypergeometric(1e6, 1e6, 1000),
    law_hypergeometric(3, 2, 4), law_empirical(c(3, 1, 1, 2, 7)), law_truncated(law_poisson(3), min = 1),
    law_mixture(list(0, law_poisson(4)), c(1, 3)), law_largest(law_binomial(10, 0.3), 4),
    law_smallest(law_integers(1, 6), 3), 2 * law_poisson(3) + 1, -law_integers(1, 6)
  )
}

small_probabilities <- c(10^-(12:1), 0.2, 0.35, 0.5)

# Inversion is right when |F(Q(p)) - p| <= 1e-9 min(p, 1 - p), or Q(p) lies within 4 units in the last place of the true
# quantile: then p lies between the probabilities four such steps to either side.
inverts <- function(law, p, tail, x = quantile(law, p, tail = tail)) {
  close <- abs(cumulative(law, x, tail = tail) - p) <= 1e-9 * pmin(p, 1 - p)
  # a law moved away from 0 cannot be told more finely than its largest end
  ends <- support(law)
  step <- pmax(4 * .Machine$double.eps * pmax(abs(x), max(abs(ends[is.finite(ends)]), 0)), 1e-316)
  around <- cbind(cumulative(law, x - step, tail = tail), cumulative(law, x + step, tail = tail))
  within <- p >= pmin(around[, 1], around[, 2]) * (1 - 1e-9) & p <= pmax(around[, 1], around[, 2]) * (1 + 1e-9)
  close | within
}

# Values at which a density may jump or bend: all numbers among a law's parameters.
kinks_of <- function(law) {
  unlist(lapply(parameters(law), function(x) {
    if (inherits(x, "ensayo_law")) kinks_of(x) else if (is.list(x)) lapply(x, kinks_of) else if (is.numeric(x)) x
  }))
}
