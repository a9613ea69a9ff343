# How often the figure is as close to the truth as was asked, when runs are added until it should be: three models with
# closed forms, 500 repeats each, 95 % confidence asked. The record stands in the README.
library(ensayo)

additive <- study() |> add_inputs(a = law_normal(0, 3), b = law_exponential(mean = 2)) |>
  add_outputs(y = a * 2 + b)
product <- study() |> add_inputs(a = law_lognormal(meanlog = 0, sdlog = 0.3),
  b = law_lognormal(meanlog = 1, sdlog = 0.4)) |>
  add_outputs(y = a * b)
folded <- study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1)) |>
  add_outputs(y = (a * b)^2)

shortfall <- function(model, target, truth, within, nsim = 1000, repeats = 500) {
  off <- vapply(seq_len(repeats), function(seed) {
    result <- simulate(model, nsim, seed, until = target, most = 2e6, progress = NULL)
    until <- provenance(result)$until
    c(abs(until$value - truth) <= within, until$met, provenance(result)$nsim)
  }, numeric(3))
  data.frame(within = mean(off[1, ]), reached = mean(off[2, ]), runs = stats::median(off[3, ]))
}

print(rbind(
  cbind(model = "median of a sum, under a Latin hypercube", shortfall(additive, known_within(y, "P50", within = 0.15), {
    # the median of a normal plus an exponential, by its cumulative probability
    stats::uniroot(function(x) stats::integrate(function(b) stats::pnorm((x - b) / 6) * stats::dexp(b, 0.5), 0, 80,
      rel.tol = 1e-10)$value - 0.5, c(-5, 10), tol = 1e-9)$root
  }, 0.15)),
  cbind(model = "P95 of a product of lognormals", shortfall(product, known_within(y, "P95", within = 0.1),
    stats::qlnorm(0.95, 1, 0.5), 0.1)),
  cbind(model = "mean of a squared product of normals",
    shortfall(folded, known_within(y, "mean", within = 0.1), 1, 0.1))
), row.names = FALSE)
