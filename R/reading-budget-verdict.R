# The linear budget beside a simulation of the same study: whether it will do, and if not, why.

#' Is the linear budget good enough?
#'
#' Sets the simulation beside the budget: both ends of the coverage interval must agree to the digits that are stated.
#'
#' @param budget A budget, as [budget()] makes it.
#' @param result A result of the same study; or `NULL`: the study is simulated here, with more and more runs until the answer is beyond
#'   the simulation error.
#' @param ... Not used; anything here is an error.
#' @param interval `"symmetric"` or `"shortest"`, as in [coverage_interval()].
#' @param digits 1 or 2: significant digits of the standard uncertainty that must agree; those of the budget when left out.
#' @param most Whole number: the most runs; when `NULL` 2 million, 10 000 of a study whose runs may take long.
#' @param seed Whole number or word, as in [simulate()][simulate.ensayo_study].
#' @param workers As in [simulate()][simulate.ensayo_study].
#' @return A verdict, a list of class `ensayo_verdict` with a method for `as.data.frame()`: a row each for `"estimate"`, `"standard
#'   uncertainty"`, `"low"` and `"high"` (end of the interval): `figure`, `budget`, `simulated`, `difference`, `error` (95 % simulation error of the
#'   simulated one), `tolerance`, and for the ends `verdict`: `"validated"`, `"differs"` or `"undecided"` (the runs cannot tell). In
#'   print, the verdict in words, and what may be behind a difference: curvature, an input that dominates with a law unlike the normal
#'   one, few degrees of freedom, a kink.
#' @details The tolerance is half a unit of the last digit of the standard uncertainty, written with that many significant digits (JCGM
#'   101:2008, 7.9.2). Where an end differs by more, the simulation is to be stated. Student laws are simulated as such (JCGM 101:2008,
#'   6.4.9): with few degrees of freedom their standard deviation is larger than what a budget counts.
#' @section Source: JCGM 101:2008, 7.9.2 and clause 8. Runs are added by doubling; their errors come from ten replicates or more.
#' @section Errors: `ensayo_error_argument` where `result` is of another study, or all runs of it failed.
#' @examples
#' square <- study("At the top") |>
#'   add_inputs(x = law_normal(0, 0.1)) |>
#'   add_outputs(y = 1 - x^2)
#' budget_verdict(budget(square))
#' @export
budget_verdict <- function(budget, result = NULL, ..., interval = "symmetric", digits = NULL, most = NULL, seed = NULL, workers = NULL) {
  check_class(budget, "ensayo_budget", "a budget, as `budget()` makes it")
  check_no_dots(..., .options = c("interval", "digits", "most", "seed", "workers"))
  interval <- check_choice(interval, c("symmetric", "shortest"))
  digits <- if (is.null(digits)) budget$asked$digits else check_count(digits, at_most = 2)
  stated <- budget_result(budget)
  # where nothing moves to first order, the terms of second order say how far it spreads
  spread <- max(stated$standard, if (!isTRUE(stated$standard > 0)) stated$second_order, na.rm = TRUE)
  tolerance <- if (spread > 0) 10^-decimals_for(spread, digits) / 2 else 0
  compare <- function(result) compared_figures(budget, stated, result, interval, tolerance)
  if (is.null(result)) {
    result <- simulated_for(budget, compare, most, seed, workers)
  } else {
    check_result(result)
    if (study_hash(result$study) != study_hash(budget$study)) {
      stop_ensayo("argument", "`result` must be of the study that the budget is of.", "It is of another, or of another version.",
        "Simulate the budget's own study, or leave `result` out.", argument = "result")
    }
    if (length(finite_values(result, budget$output)) < 100) {
      stop_ensayo("argument", "`result` must have 100 runs or more with the output.", count_of(length(finite_values(result, budget$output)), "run"))
    }
  }
  structure(list(budget = budget, result = result, coverage = stated$coverage, interval = interval, digits = digits, rows = compare(result),
    reasons = budget_reasons(budget, tolerance)), class = "ensayo_verdict")
}

#' @export
as.data.frame.ensayo_verdict <- function(x, ...) unclass_table(x$rows)

# The study is run until no end is undecided, or for as long as may be.
simulated_for <- function(budget, compare, most, seed, workers) {
  needed <- needed_outputs(budget$study, budget$output)
  study <- study_for(budget$study, needed)
  study$specs <- list()
  most <- if (is.null(most)) (if (is_dear_study(study)) 1e4 else 2e6) else check_count(most, at_least = 1000)
  nsim <- min(1e5, most - most %% 10)
  result <- simulate(study, nsim, seed, replicates = 10, workers = workers, progress = NULL)
  while (any(compare(result)$verdict %in% "undecided") && 2 * run_count(result) <= most) {
    result <- add_runs(result, run_count(result), workers = workers, progress = NULL)
  }
  result
}

compared_figures <- function(budget, stated, result, interval, tolerance) {
  values <- as.double(values_of(result, budget$output))
  good <- is.finite(values)
  values <- values[good]
  p <- result$provenance
  replicates <- if (p$replicates >= 5) (run_numbers(result)[good] - 1) %/% (p$nsim / p$replicates)
    else (seq_along(values) - 1) %/% ceiling(length(values) / 10)
  share <- stated$coverage
  readers <- list(mean, stats::sd, function(x) covering_ends(sort(x), share, interval)[1], function(x) covering_ends(sort(x), share, interval)[2])
  simulated <- vapply(readers, function(f) f(values), 0)
  half <- vapply(readers, function(f) replicate_errors(values, replicates, f), 0) *
    stats::qt(0.975, max(length(unique(replicates)) - 1, 1))
  linear <- c(stated$value, stated$standard, stated$low, stated$high)
  off <- abs(simulated - linear)
  verdict <- ifelse(off + half <= tolerance, "validated", ifelse(off - half > tolerance, "differs", "undecided"))
  new_table(list(figure = c("estimate", "standard uncertainty", "low", "high"), budget = linear, simulated = simulated,
    difference = simulated - linear, error = half, tolerance = tolerance, verdict = c("", "", verdict[3:4])))
}

# What may make a linear budget wrong, as codes with what they are about.
budget_reasons <- function(budget, tolerance) {
  rows <- budget$rows
  plain <- vapply(budget$known[rows$input], function(one) one$shape %in% c("normal", "student"), NA)
  odd <- which(!plain & rows$share > 0.3)
  curved <- !isTRUE(abs(budget$second) <= 0.02 * budget$variance) || isTRUE(abs(budget$shift) > tolerance)
  few <- budget$df < 30
  reasons <- list(
    kink = if (length(budget$derivatives$kinks)) budget$derivatives$kinks,
    curved = if (is.finite(budget$second) && curved || is.na(budget$second) && isTRUE(abs(budget$shift) > tolerance)) budget$shift,
    dominant = if (length(odd)) rows$input[odd[1]],
    few = if (isTRUE(few)) rows$input[which.min(rows$df / pmax(rows$share, 1e-12)^2)])
  Filter(Negate(is.null), reasons)
}

digits_words <- function(verdict) if (verdict$digits == 1) "one digit" else "two digits"

# The decimals that a verdict's figures are shown with: one more than the tolerance has.
verdict_places <- function(verdict) {
  tolerance <- verdict$rows$tolerance[1]
  if (tolerance > 0) decimals_for(tolerance, 1) + 1 else decimals_for(verdict$rows$simulated[2], 2) + 1
}
