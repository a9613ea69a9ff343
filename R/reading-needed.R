#' How many runs it takes
#'
#' Before a long simulation: the number of runs advised for each purpose, from the study's inputs, the asked
#' exactness, a small pilot simulation and the time of a run.
#'
#' @param x A study, of which a pilot is run; or a result, which is the pilot.
#' @param ... Targets made by [known_within()].
#' @param pilot Whole number: the runs of the pilot, where `x` is a study.
#' @param seed As in [simulate()][simulate.ensayo_study].
#' @param run_seconds Number or `NULL`: seconds that one run of the model takes; when `NULL` it is measured in the
#'   pilot.
#' @return A data frame with a row for each target: `statistic`, `about`, `value` (in the pilot), `within` (the
#'   simulation error allowed, in its unit), `confidence`, `runs` (model runs advised), `seconds` they take, and
#'   `basis`: where the number comes from.
#' @details Numbers are for independent runs, on the safe side under a Latin hypercube. Mean, sd and percentiles: the
#'   pilot's confidence interval, which narrows as the root of the number of runs; a percentile is also to be bounded
#'   from both sides. Chances: from the end of the pilot's Clopper-Pearson interval that is nearer to a half.
#'   Correlations: Fisher's z at a correlation of 0, the least certain. First-order indices: the asymptotic variance
#'   of the pick-freeze estimator, at most 1 (Janon et al. 2014, ESAIM: Probability and Statistics 18), times inputs
#'   + 2. A surrogate: ten runs for each input that varies (Loeppky, Sacks and Welch 2009, Technometrics 51(4)).
#' @section Errors: `ensayo_error_argument` where nothing is asked for or an argument is not of the stated kind;
#'   `ensayo_error_name` for an unknown output.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' runs_needed(main, known_within(velocity, within = "0.1 %"),
#'   known_within(velocity, "P99", within = 0.005),
#'   known_within(velocity > 0.9, within = 0.002),
#'     known_within(statistic = "index", within = 0.02), seed = 11)
#' @export
runs_needed <- function(x, ..., pilot = 500, seed = NULL, run_seconds = NULL) {
  study <- if (inherits(x, "ensayo_study")) x else {
    check_result(x, "x", "Give a study or a result.")
    x$study
  }
  targets <- bound_targets(list(...), study, study_statistics)
  if (!is.null(run_seconds)) check_number(run_seconds, at_least = 0)
  result <- if (inherits(x, "ensayo_result")) x
    else simulate(x, check_count(pilot, at_least = 20), seed, progress = NULL)
  # what takes seconds is the model; of what is faster most is the setting up
  took <- result$provenance$seconds
  each <- run_seconds %||% if (took > 2) took / run_count(result) else seconds_a_run(study)
  rows <- lapply(targets, needed_row, result = result)
  table <- do.call(rbind, rows)
  table$seconds <- table$runs * each
  new_table(as.list(table[c("statistic", "about", "value", "within", "confidence", "runs", "seconds", "basis")]))
}

# Time grows with the runs from where everything is set up: between twenty runs and as many as take a little while.
seconds_a_run <- function(study, nsim = 500) {
  timed <- function(nsim) {
    started <- proc.time()[["elapsed"]]
    simulate(study, nsim, 1, progress = NULL)
    proc.time()[["elapsed"]] - started
  }
  least <- timed(20)
  repeat {
    spent <- timed(nsim)
    if (spent - least > 0.1 || nsim >= 1e6) return(max(spent - least, 1e-4) / (nsim - 20))
    nsim <- nsim * 8
  }
}

needed_row <- function(target, result) {
  z <- stats::qnorm((1 + target$confidence) / 2)
  k <- length(varying_names(result$study))
  values <- if (!target$statistic %in% c("correlation", "index", "surrogate")) target_values(result, target)
  value <- if (!is.null(values)) target_reader(result, target)(values[is.finite(values)]) else NA_real_
  within <- if (is.null(target$within)) NA_real_ else if (target$relative && !is.na(value)) target$within * abs(value)
    else target$within
  advice <- switch(target$statistic,
    surrogate = list(10 * k, sprintf("ten runs for each of %s", count_of(k, "input"))),
    correlation = list(3 + (z / within)^2, "a rank correlation near 0, the least certain"),
    index = list((z / within)^2 * (k + 2), sprintf("%s rows, each run for %s and two more",
      format_number(ceiling((z / within)^2)), count_of(k, "input"))),
    chance = , `pass rate` = needed_for_share(values, z, within),
    needed_for_statistic(values, target, result, within)
  )
  data.frame(statistic = target$statistic, about = target$about, value = value, within = within,
    confidence = target$confidence, runs = ceiling(advice[[1]]), basis = advice[[2]])
}

needed_for_share <- function(values, z, within) {
  ends <- proportion_interval(sum(values), length(values))
  p <- if (ends$low <= 0.5 && ends$high >= 0.5) 0.5 else if (ends$high < 0.5) ends$high else ends$low
  list(z^2 * p * (1 - p) / within^2,
    sprintf("a share of %s, from %s", format_share(p), count_of(length(values), "run")))
}

needed_for_statistic <- function(values, target, result, within) {
  values <- values[is.finite(values)]
  n <- length(values)
  sense <- result$study$readings$sense
  read <- statistic_interval(values, target$statistic, sense, output_kind_of(result, target$about), target$confidence)
  half <- if (anyNA(read)) max(abs(read - read[1]), na.rm = TRUE) else diff(read[2:3]) / 2
  bound <- if (is_percentile_name(target$statistic)) {
    runs_to_bound(percentile_of_name(target$statistic), target$confidence)
  } else 0
  basis <- sprintf("\u00b1 %s in %s", format_number(half, 2), count_of(n, "pilot run"))
  if (anyNA(read)) basis <- paste0(basis, ", which do not bound it: a rough guess")
  list(max(n * (half / within)^2, bound, 2), basis)
}
