# Compound sums with a cumulative probability that is known by another way: exact series, finite sums, or Euler's inversion of the
# Laplace transform.

# The sum over counts of their probability and the cumulative probability of that many sizes.
by_counts <- function(counts, shares, of) function(x) {
  some <- counts > 0
  vapply(x, function(at) sum(shares[!some]) * (at >= 0) + sum(shares[some] * of(at, counts[some])), 0)
}

of_poisson <- function(mean, of, most = qpois(1e-18, mean, lower.tail = FALSE), least = 0) {
  by_counts(least:most, dpois(least:most, mean), of)
}

# E_s(z), the exponential integral of the order s = 2.5 (DLMF 8.19.10 near 0, the continued fraction 8.19.17 beyond).
exponential_integral <- function(z, s = 2.5) {
  if (Mod(z) < 4) {
    k <- 0:60
    return(z^(s - 1) * gamma(1 - s) - sum((-z)^k / factorial(k) / (1 - s + k)))
  }
  fraction <- z + s + 2 * 200
  for (k in 200:1) fraction <- z + s + 2 * (k - 1) - k * (s + k - 1) / fraction
  exp(-z) / fraction
}

# Abate and Whitt (1995), Numerical inversion of Laplace transforms of probability distributions, the Euler method.
euler_upper <- function(x, transform, discretisation = 24, terms = 150, averaged = 12) {
  vapply(x, function(t) {
    of <- function(s) (1 - transform(s)) / s  # of the complement
    k <- seq_len(terms + averaged)
    a <- vapply(k, function(j) (-1)^j * Re(of((discretisation + 2i * j * pi) / (2 * t))), 0)
    partial <- exp(discretisation / 2) / t * (Re(of(discretisation / (2 * t) + 0i)) / 2 + cumsum(a))
    sum(choose(averaged, 0:averaged) * 2^-averaged * partial[terms + 0:averaged])
  }, 0)
}

pareto_sum <- function(mean) function(x) {
  some <- x >= 1
  below <- ifelse(x < 0, 0, exp(-mean))
  below[some] <- 1 - euler_upper(x[some], function(s) exp(mean * (1.5 * exponential_integral(s) - 1)))
  below
}

known_compounds <- function() {
  heavy <- law_pareto(1, 1 / 1.5, 1 / 1.5)  # of the least value 1 and the exponent 1.5
  list(
    exponential = list(law = law_compound(law_poisson(15), law_exponential(1)), of = of_poisson(15, function(x, n) pgamma(x, n))),
    geometric = list(law = law_compound(law_geometric(0.25), law_exponential(2)), of = function(x) ifelse(x < 0, 0, 1 - 0.75 * exp(-x / 8))),
    binomial = list(law = law_compound(law_binomial(20, 0.1), law_gamma(shape = 2.5, scale = 1)),
      of = by_counts(0:20, dbinom(0:20, 20, 0.1), function(x, n) pgamma(x, 2.5 * n))),
    rare = list(law = law_compound(law_poisson(0.01), law_gamma(shape = 0.5, scale = 1)),
      of = of_poisson(0.01, function(x, n) pgamma(x, n / 2))),
    normal = list(law = law_compound(law_poisson(10), law_normal(1, 2)), of = of_poisson(10, function(x, n) pnorm(x, n, 2 * sqrt(n)))),
    many = list(law = law_compound(law_poisson(1e5), law_gamma(shape = 2, scale = 1)),
      of = of_poisson(1e5, function(x, n) pgamma(x, 2 * n), 1e5 + 4000, 1e5 - 4000)),
    once = list(law = law_compound(law_bernoulli(0.3), law_lognormal(mean = 3, sd = 9)),
      of = function(x) ifelse(x < 0, 0, 0.7 + 0.3 * plnorm(x, log(3) - log(10) / 2, sqrt(log(10))))),
    heavy = list(law = law_compound(law_poisson(15), heavy), of = pareto_sum(15)),
    heavier = list(law = law_compound(law_poisson(1000), heavy), of = pareto_sum(1000))
  )
}

# The laws whose draws by runs are not those of the law: runs one by one against exact probabilities, in simulation errors.
faulty_runs <- function(names, nsim, seed) {
  unlist(lapply(names, function(name) {
    known <- known_compounds()[[name]]
    par <- parameters_of(known$law)
    study <- study() |> add_inputs(by_runs = occurrences(par$count, par$size, by = "runs"), by_law = known$law) |>
      add_outputs(out = by_runs)
    d <- draw_inputs(study, nsim, seed, progress = NULL)
    at <- quantile(known$law, c(0.1, 0.5, 0.9, 0.99, 0.999))
    exact <- known$of(at)
    off <- abs(vapply(at, function(x) mean(d$by_runs <= x), 0) - exact) / sqrt(pmax(exact * (1 - exact), 1 / nsim) / nsim)
    # a Latin hypercube draws the law in even slices
    slice <- abs(vapply(at, function(x) mean(d$by_law <= x), 0) - exact) * nsim
    if (max(off) > 3.5 || max(slice) > 2) sprintf("%s, seed %d: %.1f simulation errors, %.1f slices", name, seed, max(off), max(slice))
  }))
}

# How far quantiles from P0.1 to P99.99 are off: their own probability against the one asked, and against the quantile that
# inverts the known probabilities, relative.
compound_misses <- function(known) {
  p <- c(0.001, 0.01, 0.05, 0.1, 0.25, 0.5, 0.75, 0.9, 0.95, 0.99, 0.999, 0.9999)
  never <- known$of(0)
  p <- p[p > never + 1e-6 | p < known$of(-1e-9)]
  x <- quantile(known$law, p)
  exact <- vapply(seq_along(p), function(i) {
    wide <- abs(x[i]) * 0.01 + 1e-9
    uniroot(function(at) known$of(at) - p[i], x[i] + c(-wide, wide), tol = 1e-9 * abs(x[i]), extendInt = "upX")$root
  }, 0)
  c(probability = max(abs(known$of(x) - p)), quantile = max(abs(x / exact - 1)))
}
