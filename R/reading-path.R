# Whole paths of a series: bands that hold them, and runs picked out among them.

#' Bands and paths of a series
#'
#' A band between two percentiles holds its share of the runs at each step by itself; far fewer runs stay inside all the
#' way. `series_bands()` gives this pointwise band, and a wider one that holds its share of whole runs. `pick_paths()` picks
#' single runs by a stated rule: a curve of percentiles is no run.
#'
#' @param result A result with series.
#' @param output Name of a series, bare or as text; may be left out where there is one only.
#' @param share Numbers between 0 and 1: how much a band is to hold.
#' @return `series_bands()`: a data frame with a row for each share and step: `output`, `step`, `share`; `low` and `high`, between
#'   which that share of the runs is at the step; `path_low` and `path_high`, between which that share of the runs, or a little
#'   more, is at all steps; `inside`, the share of runs that stay within `low` and `high` all the way; `unit`, `kind`.
#' @details Of each run the least of its ranks over the steps, counted from either end, is taken; the band for whole paths is between
#'   the values of the same rank at every step, such that the share of runs never have a lower one.
#' @section Source: Myllymaki, Mrkvicka, Grabarnik, Seijo and Hahn (2017), "Global envelope tests for spatial processes", JRSS B 79(2),
#'   for the ranks of whole paths.
#' @section Errors: `ensayo_error_name` for what is no series; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), inflow = input(law_normal(47, 5), steps = 30)) |>
#'   add_steps(level = state(max(0, level + inflow - 50), start = volume)) |>
#'   simulate(nsim = 500, seed = 11)
#' tail(series_bands(res, level), 2)
#' pick_paths(res, level, by = "lowest")
#' @export
series_bands <- function(result, output, share = 0.9) {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), series_of(result), "a series of the result")
  share <- check_probabilities(share, "share")
  column <- run_column(result, name)
  column <- column[is_finite_run(column), , drop = FALSE]
  depth <- path_depths(column)
  kind <- output_kind_of(result, name)
  n <- nrow(column)
  sorted <- lapply(matrix_columns(column), sort.int, method = "quick")
  rows <- lapply(share, function(share) {
    ends <- 50 + c(-50, 50) * share
    point <- vapply(matrix_columns(column), function(values) {
      column_percentiles(values, kind, ends, NULL, 0.95, NULL)$value
    }, numeric(2))
    rank <- if (n) sort(depth, decreasing = TRUE)[max(1, ceiling(share * n - 1e-9))] else NA
    path <- vapply(sorted, function(values) values[c(rank, n + 1 - rank)], numeric(2))
    rows_of(output = name, step = quantity_steps(result$study, name), share = share, low = point[1, ], high = point[2, ],
      path_low = path[1, ], path_high = path[2, ], inside = share_inside(column, point[1, ], point[2, ]),
      unit = quantity_unit(result$study, name) %||% "", kind = kind)
  })
  new_table(stacked(rows))
}

# The share of runs, a row each, that stay between two lines all the way.
share_inside <- function(column, low, high) {
  n <- nrow(column)
  mean(rowSums(column < rep(low, each = n) | column > rep(high, each = n)) == 0)
}

# Series of a result: outputs, and inputs that are drawn at each step.
series_of <- function(result) {
  c(series_names(result$study), Filter(function(name) is_drawn_series(result, name), draw_names(result)))
}

# Of each run the least rank that it has at any step, counted from the nearer end; among equals the one farther in.
path_depths <- function(column) {
  depth <- rep(nrow(column), nrow(column))
  for (values in matrix_columns(column)) {
    sorted <- sort.int(values, method = "quick")
    depth <- pmin(depth, findInterval(values, sorted), length(values) - findInterval(values, sorted, left.open = TRUE))
  }
  depth
}

#' @rdname series_bands
#' @param by `"last"`, `"mean"`, `"lowest"` or `"highest"`: what of each run is compared.
#' @param percentiles Numbers from 0 to 100, in the study's sense: for each the run is picked whose figure is nearest to that
#'   percentile of it.
#' @param worst `"low"` or `"high"`: which end is bad.
#' @return `pick_paths()`: a data frame with a row for each run picked: `output`, `picked` (`"typical"`: the run whose least rank over
#'   the steps, counted from either end, is the greatest; `"worst"`: the one that comes down lowest, or up highest; `"P5"`, ...), `by`,
#'   `run`, `value` (the figure of the run), `unit` and `kind`. [run_details()] shows such a run, [plot_series()] draws it.
#' @export
pick_paths <- function(result, output, by = "mean", percentiles = c(5, 50, 95), worst = "low") {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), series_of(result), "a series of the result")
  by <- check_choice(by, names(path_figures))
  worst <- check_choice(worst, c("low", "high"))
  asked <- check_percentiles(percentiles, "percentiles")
  column <- run_column(result, name)
  good <- which(is_finite_run(column))
  if (length(good) == 0) stop_ensayo("argument", "The series must have good runs.", sprintf("Every run of %s failed.", quoted(name)))
  column <- column[good, , drop = FALSE]
  figure <- path_figures[[by]](column)
  extreme <- path_figures[[if (worst == "low") "lowest" else "highest"]](column)
  wanted <- percentile_values(figure, not_exceeded(asked, result$study$readings$sense), 1)
  picked <- c(which.max(path_depths(column)), if (worst == "low") which.min(extreme) else which.max(extreme),
    vapply(wanted, function(value) which.min(abs(figure - value)), 0L))
  rule <- c("middle all the way", if (worst == "low") "lowest" else "highest", rep(by, length(asked)))
  value <- c(figure[picked[1]], extreme[picked[2]], figure[picked[-(1:2)]])
  new_table(list(output = rep(name, length(picked)), picked = c("typical", "worst", percentile_names(asked)), by = rule,
    run = run_numbers(result)[good][picked], value = value, unit = rep(quantity_unit(result$study, name) %||% "", length(picked)),
    kind = rep(output_kind_of(result, name), length(picked))))
}

path_figures <- list(last = function(column) column[, ncol(column)], mean = function(column) rowMeans(column),
  lowest = function(column) row_extremes(column, pmin), highest = function(column) row_extremes(column, pmax))

#' Gains and losses since the start
#'
#' Gives the result in which a series is counted from its first step: how much was gained or lost since. What counts as
#' positive, and whether it is an amount or per cent of the start, stands on every label.
#'
#' @inheritParams series_bands
#' @param as `"amount"` or `"percent"` of the value at the first step.
#' @param positive `"gain"` or `"loss"`.
#' @return A result. Outputs that are calculated from the series stay as they are, specs on it are left out; it cannot be
#'   written as a folder or go on with more runs. A run that starts with 0 has no per cent: it counts as failed in readings of the series.
#' @section Errors: as in [series_bands()].
#' @examples
#' res <- study("Reserve fund") |>
#'   add_inputs(growth = input(law_normal(0.004, 0.02), steps = 24)) |>
#'   add_steps(value = state(value * (1 + growth), start = 1e6, unit = "EUR")) |>
#'   simulate(nsim = 500, seed = 11)
#' lost <- from_start(res, value, as = "percent", positive = "loss")
#' expected_shortfall(at_step(lost, "last"))
#' @export
from_start <- function(result, output, as = "amount", positive = "gain") {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), series_names(result$study), "a series of the result")
  as <- check_choice(as, c("amount", "percent"))
  positive <- check_choice(positive, c("gain", "loss"))
  rule <- list(sign = if (positive == "gain") 1 else -1, percent = as == "percent")
  label <- quantity_label(result$study, name)
  output <- result$study$outputs[[name]]
  output$label <- sprintf("%s of %s since %s", upper_first(positive), lower_first(label), step_words(output$steps[1]))
  output$unit <- if (rule$percent) "% of the start" else output$unit
  output["kind"] <- list(NULL)
  result$study$outputs[[name]] <- output
  result$study <- without_conditions_on(result$study, name)
  base <- result$base$outputs[[name]]
  result$base$outputs[[name]] <- since_start(as.double(base), base[1], rule)
  result$store <- store_from_start(result$store, name, rule)
  result$provenance$from_start <- c(result$provenance$from_start, sprintf("%s: %s", name, lower_first(output$label)))
  result
}
