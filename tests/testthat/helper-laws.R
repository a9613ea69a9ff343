# Laws over a wide range of parameters, and what is asked of all of them.

law_grid <- function() {
  list(
    law_normal(0, 1), law_normal(-1e6, 1e-6), law_normal(3, 1e6),
    law_lognormal(mean = 3, sd = 1), law_lognormal(mean = 1e-6, sd = 1e-6), law_lognormal(mean = 1e6, sd = 1),
    law_lognormal(meanlog = 0, sdlog = 2), law_lognormal(meanlog = 1, sdlog = 0.5, min = 10),
    law_lognormal(mean = 12, sd = 3, min = 10),
    law_uniform(0, 1), law_uniform(-1e6, 1e-6), law_uniform(2, 2 + 1e-6),
    law_triangular(0, 0.3, 1), law_triangular(0, 0, 1), law_triangular(0, 1, 1), law_triangular(-1e6, 3, 1e6),
    law_triangular(28, 34, 48), law_pert(0, 0.3, 1), law_pert(0, 0, 1), law_pert(0, 1, 1), law_pert(28, 34, 48),
    law_pert(-1e6, 0, 1e-6), law_pert(1e-6, 2e-6, 1e-3), 2 * law_pert(1, 2, 4) + 1, -law_lognormal(mean = 3, sd = 1),
    (law_triangular(1, 2, 4) - 2) / 1000
  )
}

small_probabilities <- c(10^-(12:1), 0.2, 0.35, 0.5)

# Inversion is right when |F(Q(p)) - p| <= 1e-9 min(p, 1 - p), or Q(p) lies within 4 units in the last place of the true
# quantile: then p lies between the probabilities four such steps to either side.
inverts <- function(law, p, tail) {
  x <- quantile(law, p, tail = tail)
  close <- abs(cumulative(law, x, tail = tail) - p) <= 1e-9 * pmin(p, 1 - p)
  # a law moved away from 0 cannot be told more finely than its largest end
  ends <- support(law)
  step <- 4 * .Machine$double.eps * pmax(abs(x), max(abs(ends[is.finite(ends)]), 0))
  around <- cbind(cumulative(law, x - step, tail = tail), cumulative(law, x + step, tail = tail))
  within <- p >= pmin(around[, 1], around[, 2]) * (1 - 1e-9) & p <= pmax(around[, 1], around[, 2]) * (1 + 1e-9)
  close | within
}
