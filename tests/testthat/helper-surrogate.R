# Functions of which surrogates, and chances, are known; what `make test` does with a few seeds, `make test-long` does with a hundred.
uniform_inputs <- function(k, from = 0, to = 1) stats::setNames(rep(list(law_uniform(from, to)), k), paste0("x", seq_len(k)))
normal_inputs <- function(k) stats::setNames(rep(list(law_normal(0, 1)), k), paste0("x", seq_len(k)))

surrogate_studies <- function() {
  list(
    ishigami = study("Ishigami") |> add_inputs(!!!uniform_inputs(3, -pi, pi)) |> add_outputs(y = sin(x1) + 7 * sin(x2)^2 + 0.1 * x3^4 * sin(x1)),
    nine = study("Nine") |> add_inputs(!!!uniform_inputs(9)) |> add_outputs(y = 10 * sin(pi * x1 * x2) + 20 * (x3 - 0.5)^2 + 10 * x4 + 5 * x5),
    step = study("Step") |> add_inputs(!!!uniform_inputs(4)) |> add_outputs(y = (if (x1 > 0.6) 1 else 0) + 0.3 * x2),
    ridge = study("Ridge") |> add_inputs(!!!uniform_inputs(4)) |> add_outputs(y = exp(-50 * (x1 + x2 - 1)^2)),
    noisy = study("Noisy") |> add_inputs(!!!uniform_inputs(5)) |> add_outputs(y = x1 + x2^2 + 0.3 * qnorm((x3 * 7919) %% 1 * 0.998 + 0.001)))
}

# Seeds of which the stated interval does not hold predictive R squared on fresh runs.
scores_missed <- function(name, nsim, seeds, fresh = 10000) {
  s <- surrogate_studies()[[name]]
  new <- as.data.frame(simulate(s, fresh, 777, progress = NULL))
  Filter(Negate(is.null), lapply(seeds, function(seed) {
    fast <- surrogate(simulate(s, nsim, seed, progress = NULL))
    row <- summary(fast)
    truth <- 1 - mean((predict(fast, new[draw_names(simulate(s, 1, 1, progress = NULL))])$y - new$y)^2) / mean((new$y - mean(new$y))^2)
    if (truth < row$low || truth > row$high) sprintf("%s, seed %d: %.5f, stated %.5f to %.5f", name, seed, truth, row$low, row$high)
  }))
}

# Seeds in which others than the four idle inputs of nine are called idle.
idle_missed <- function(nsim, seeds) {
  Filter(Negate(is.null), lapply(seeds, function(seed) {
    idle <- summary(surrogate(simulate(surrogate_studies()$nine, nsim, seed, progress = NULL)))$idle
    if (idle != "x6 x7 x8 x9") sprintf("seed %d: idle are %s", seed, idle)
  }))
}

# Chances between 1e-3 and 1e-6: by closed forms, and of the four branches by a sum over a grid.
rare_cases <- function() {
  branches <- function(x1, x2) pmin(3 + 0.1 * (x1 - x2)^2 - (x1 + x2) / sqrt(2), 3 + 0.1 * (x1 - x2)^2 + (x1 + x2) / sqrt(2), x1 - x2 + 7 / sqrt(2), x2 - x1 + 7 / sqrt(2))
  grid <- seq(-8, 8, length.out = 3201)
  two <- study("Two inputs") |> add_inputs(!!!normal_inputs(2))
  list(
    straight = list(study = two |> add_outputs(y = (x1 + x2) / sqrt(2)), condition = quote(y > 4), truth = pnorm(-4)),
    parabola = list(study = two |> add_outputs(y = 5 - x2 - 0.5 * (x1 - 0.1)^2), condition = quote(y < 0), truth = integrate(function(x) {
      dnorm(x) * pnorm(5 - 0.5 * (x - 0.1)^2, lower.tail = FALSE)
    }, -30, 30, rel.tol = 1e-9, subdivisions = 1000)$value),
    `two places` = list(study = two |> add_outputs(y = x1 + 0 * x2), condition = quote(y > 4 | y < -4.5), truth = pnorm(-4) + pnorm(-4.5)),
    `four branches` = list(study = two |> add_outputs(y = min(3 + 0.1 * (x1 - x2)^2 - (x1 + x2) / sqrt(2), 3 + 0.1 * (x1 - x2)^2 + (x1 + x2) / sqrt(2),
      x1 - x2 + 7 / sqrt(2), x2 - x1 + 7 / sqrt(2))), condition = quote(y < 0), truth = diff(grid[1:2])^2 *
      sum(vapply(grid, function(v) sum(dnorm(grid)[branches(v, grid) <= 0]) * dnorm(v), 0))),
    `twenty inputs` = list(study = study("Twenty") |> add_inputs(!!!normal_inputs(20)) |> add_outputs(y = !!str2lang(paste0("x", 1:20, collapse = " + "))),
      condition = bquote(y > .(4.5 * sqrt(20))), truth = pnorm(-4.5)))
}

# Seeds of which the interval does not hold the chance.
rare_missed <- function(name, seeds, most = 2000) {
  case <- rare_cases()[[name]]
  Filter(Negate(is.null), lapply(seeds, function(seed) {
    found <- rare_chance(case$study, !!case$condition, most = most, seed = seed, progress = NULL)
    if (found$low > case$truth || found$high < case$truth) {
      sprintf("%s, seed %d: %.3g to %.3g, truth %.3g%s", name, seed, found$low, found$high, case$truth, if (found$trusted) "" else " (called not to be trusted)")
    }
  }))
}
