# Suggested runs against plain Latin hypercubes: how many runs a Gaussian process needs until its error on 4,000 fresh runs is at most a
# share of the output's spread; the median of nine seeds. Functions with something narrow in them. Run from the project's root.
suppressMessages(library(ensayo))

cases <- list(
  bump = list(k = 2, share = 0.01, of = function(x1, x2) exp(-30 * ((x1 - 0.7)^2 + (x2 - 0.3)^2)) + 0.3 * x1),
  well = list(k = 3, share = 0.02, of = function(x1, x2, x3) 0.03 / (0.03 + (x1 - 0.6)^2 + (x2 - 0.5)^2) + 0.1 * x3),
  `two peaks` = list(k = 2, share = 0.01, of = function(x1, x2) exp(-60 * ((x1 - 0.2)^2 + (x2 - 0.25)^2)) + 0.6 * exp(-40 * ((x1 - 0.8)^2 + (x2 - 0.7)^2))))
# runs until the error stays at or below the aim, between the numbers tried by straight line on the logarithm
needed <- function(runs, errors, aim) {
  first <- which(errors <= aim)[1]
  if (is.na(first)) return(Inf)
  if (first == 1) return(runs[1])
  at <- log(errors[first - 1:0])
  runs[first - 1] + (runs[first] - runs[first - 1]) * (at[1] - log(aim)) / (at[1] - at[2])
}
for (name in names(cases)) {
  case <- cases[[name]]
  inputs <- paste0("x", seq_len(case$k))
  s <- study(name) |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), case$k), inputs)) |> add_model(case$of, outputs = "y", vectorised = TRUE)
  fresh <- as.data.frame(simulate(s, 4000, 99, progress = NULL))
  error <- function(fast) sqrt(mean((predict(fast, fresh[inputs])$y - fresh$y)^2)) / stats::sd(fresh$y)
  fit <- function(n, seed) surrogate(simulate(s, n, seed, progress = NULL), kinds = "gaussian")
  found <- vapply(1:9, function(seed) {
    plain <- seq(20, 200, 10)
    by_plain <- needed(plain, vapply(plain, function(n) error(fit(n, seed)), 0), case$share)
    fast <- fit(20, seed)
    runs <- 20
    errors <- error(fast)
    while (utils::tail(errors, 1) > case$share && utils::tail(runs, 1) < 200) {
      fast <- improve_surrogate(fast, error = 1e-12, batch = 5, most = 5, seed = seed, progress = NULL)
      runs <- c(runs, utils::tail(runs, 1) + 5)
      errors <- c(errors, error(fast))
    }
    c(by_plain, needed(runs, errors, case$share))
  }, c(0, 0))
  medians <- apply(found, 1, stats::median)
  cat(sprintf("%-10s error %2.0f %% of the spread: Latin %.0f runs, suggested %.0f; suggested over Latin %.2f\n", name, 100 * case$share, medians[1],
    medians[2], medians[2] / medians[1]))
}
