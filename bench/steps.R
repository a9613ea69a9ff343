# Models that go step by step: 5 inputs that are drawn anew at each of 120 steps, 5 states, 10,000 runs. Against the same as a
# function of R run by run, with the same draws, and against R that goes over the steps with whole columns and draws with
# its own functions. Run from the project's root.
source(file.path("bench", "ratio.R"))

n <- 10000
steps <- 120
tank <- study("Two tanks") |>
  add_inputs(inflow = input(law_normal(47, 5), steps = steps), rain = input(law_uniform(0, 4), steps = steps),
    demand = input(law_normal(45, 4), steps = steps), leak = input(law_uniform(0.5, 1.5), steps = steps),
    price = input(law_lognormal(meanlog = 0, sdlog = 0.2), steps = steps)) |>
  add_steps(
    upper = state(min(600, max(0, upper + inflow + rain - leak - 0.6 * demand)), start = 300),
    lower = state(max(0, lower + 0.3 * demand - 0.4 * demand + (if (upper > 350) 8 else 2)), start = 200),
    dry = state(dry + (lower < 20), start = 0),
    bought = state(if (lower < 60) 15 else 0, start = 0),
    cost = state(cost + bought * price, start = 0),
    .last = c(upper, lower, dry, bought, cost)
  )

one_run <- function(inflow, rain, demand, leak, price) {
  upper <- 300
  lower <- 200
  dry <- bought <- cost <- 0
  for (i in seq_along(inflow)) {
    upper <- min(600, max(0, upper + inflow[i] + rain[i] - leak[i] - 0.6 * demand[i]))
    lower <- max(0, lower + 0.3 * demand[i] - 0.4 * demand[i] + (if (upper > 350) 8 else 2))
    dry <- dry + (lower < 20)
    bought <- if (lower < 60) 15 else 0
    cost <- cost + bought * price[i]
  }
  c(upper, lower, dry, bought, cost)
}

whole_columns <- function() {
  upper <- rep(300, n)
  lower <- rep(200, n)
  dry <- bought <- cost <- numeric(n)
  for (i in seq_len(steps)) {
    demand <- rnorm(n, 45, 4)
    upper <- pmin(600, pmax(0, upper + rnorm(n, 47, 5) + runif(n, 0, 4) - runif(n, 0.5, 1.5) - 0.6 * demand))
    lower <- pmax(0, lower + 0.3 * demand - 0.4 * demand + ifelse(upper > 350, 8, 2))
    dry <- dry + (lower < 20)
    bought <- ifelse(lower < 60, 15, 0)
    cost <- cost + bought * rlnorm(n, 0, 0.2)
  }
  list(upper, lower, dry, bought, cost)
}

compiled <- function() simulate(tank, n, seed = 11, progress = NULL)
independent <- function() simulate(tank, n, seed = 11, design = "random", progress = NULL)
res <- compiled()
series <- lapply(c("inflow", "rain", "demand", "leak", "price"), draw_values, result = res)
by_hand <- function(runs) vapply(runs, function(i) do.call(one_run, lapply(series, function(x) x[i, ])), numeric(5))
checked <- c(1:50, n)
found <- t(as.matrix(as.data.frame(res)[checked, c("upper", "lower", "dry", "bought", "cost")]))
stopifnot(identical(unname(found), unname(by_hand(checked))))
# The function of R has its draws; all of simulate() makes them, so that the model alone is what it takes beyond its inputs'.
inputs_alone <- study("Inputs") |> add_inputs(!!!tank$inputs) |>
  add_outputs(y = last(inflow) + last(rain) + last(demand) + last(leak) + last(price))
beyond <- replicate(9, system.time(compiled(), gcFirst = TRUE)[["elapsed"]] -
  system.time(simulate(inputs_alone, n, seed = 11, progress = NULL), gcFirst = TRUE)[["elapsed"]])
cat(sprintf("\nThe model alone, draws at hand on both sides: ratio %.0f\n",
  system.time(by_hand(seq_len(n)))[["elapsed"]] / stats::median(beyond)))
show_ratios("5 states, 120 steps, 5 inputs drawn anew at each, 10,000 runs, all of simulate()",
  ratio("a Latin hypercube at each step, against a function of R, run by run, the same draws", compiled, function() by_hand(seq_len(n)), 3),
  ratio("independent runs, against the same", independent, function() by_hand(seq_len(n)), 3),
  ratio("a Latin hypercube at each step, against R over the steps with whole columns and its own draws", compiled, whole_columns, 9),
  ratio("independent runs, against the same", independent, whole_columns, 9))
