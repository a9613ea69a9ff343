#' Statistics of every output
#'
#' @param object A result.
#' @param ... Not used; anything here is an error.
#' @param percentiles Numeric from 0 to 100: the percentiles that get a column.
#' @return A data frame with one row an output:
#'   * `output`, `unit`: name and unit;
#'   * `runs`, `failed`: number of good runs, over which all statistics are, and of failed ones;
#'   * `base`: the base case; `base_at`: the percentile at which it sits, from 0 to 100 (runs below it, and half of
#'     those equal to it);
#'   * `mean`, `sd` (divisor n - 1), `skewness` (g1), `excess_kurtosis` (g2), `min`, `P5`, ..., `max`, in the output's
#'     unit (skewness and kurtosis have none, and are `NaN` for a constant).
#' @section Source: percentiles are Hyndman and Fan's (1996) type 7, R's default; g1 and g2 as in Joanes and Gill
#'   (1998).
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' summary(res)
#' @export
summary.ensayo_result <- function(object, ..., percentiles = c(5, 10, 50, 90, 95)) {
  check_no_dots(..., .options = "percentiles")
  percentiles <- sort(unique(check_percentiles(percentiles)))
  rows <- lapply(names(object$outputs), function(name) output_statistics(object, name, percentiles))
  new_table(do.call(rbind, rows))
}

output_statistics <- function(result, name, percentiles) {
  values <- as.double(result$outputs[[name]])
  m <- cpp_moments(values)
  n <- m$count
  none <- if (n == 0) NA_real_ else NULL
  base <- as.double(result$base$outputs[[name]])
  good <- if (n == length(values)) values else values[is.finite(values)]
  at <- percentile_values(good, percentiles)
  data.frame(
    output = name, unit = quantity_unit(result$study, name) %||% "", runs = n, failed = length(values) - n,
    base = base, base_at = percentile_of(good, base),
    mean = none %||% m$mean, sd = none %||% (sqrt(m$m2 * n / (n - 1)) * m$scale),
    skewness = none %||% (m$m3 / m$m2^1.5), excess_kurtosis = none %||% (m$m4 / m$m2^2 - 3),
    min = none %||% m$min, stats::setNames(as.list(at), percentile_names(percentiles)), max = none %||% m$max
  )
}

percentile_names <- function(percentiles) paste0("P", vapply(percentiles, format, "", digits = 6))

# Hyndman and Fan's type 7: between the two order statistics next to rank 1 + (n - 1) p.
percentile_values <- function(values, percentiles) {
  n <- length(values)
  if (n == 0) return(rep(NA_real_, length(percentiles)))
  rank <- 1 + (n - 1) * (percentiles / 100)
  known <- sort(unique(c(floor(rank), ceiling(rank))))
  at <- cpp_order_statistics(as.double(values), known)
  low <- at[match(floor(rank), known)]
  high <- at[match(ceiling(rank), known)]
  share <- rank - floor(rank)
  ifelse(low == high, low, (1 - share) * low + share * high)
}

# Where a value sits among the runs: the share below it, and half of those equal to it, in per cent.
percentile_of <- function(values, value) {
  if (length(values) == 0 || !is.finite(value)) return(NA_real_)
  counts <- cpp_counts_about(as.double(values), value)
  100 * (counts[["below"]] + counts[["equal"]] / 2) / length(values)
}

#' Percentiles of outputs
#'
#' @param result A result.
#' @param percentiles Numeric from 0 to 100. A percentile is the value that is **not exceeded** in that share of the
#'   good runs: P90 is exceeded in one run out of ten.
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @return A data frame with a row for each output and percentile: `output`, `percentile`, `value`, `unit`.
#' @section Source: Hyndman and Fan (1996), type 7, R's default.
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100; `ensayo_error_name` for an unknown
#'   output. When all are below 1 there is a warning, for shares are not percentiles.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' percentiles(res, c(10, 50, 90))
#' @export
percentiles <- function(result, percentiles = c(5, 10, 25, 50, 75, 90, 95), outputs = NULL) {
  check_result(result)
  percentiles <- check_percentiles(percentiles)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  new_table(list(
    output = rep(outputs, each = length(percentiles)),
    percentile = rep(percentiles, length(outputs)),
    value = unlist(lapply(outputs, function(name) percentile_values(finite_values(result, name), percentiles))),
    unit = rep(vapply(outputs, function(name) quantity_unit(result$study, name) %||% "", ""),
      each = length(percentiles))
  ))
}

#' @rdname percentiles
#' @param x A result.
#' @param probs Numeric from 0 to 1: the same as shares.
#' @param na.rm Not used; there for the generic. Failed runs are left out in any case.
#' @param ... Not used; anything here is an error.
#' @details `quantile()` is the same asked by shares from 0 to 1. `mean()` and `median()` give a number for each
#'   output, by name.
#' @export
quantile.ensayo_result <- function(x, probs = c(0, 0.25, 0.5, 0.75, 1), ...) {
  check_no_dots(..., .options = "probs")
  percentiles(x, 100 * check_probabilities(probs))
}

#' @rdname percentiles
#' @export
mean.ensayo_result <- function(x, ...) {
  check_no_dots(..., .options = character())
  stats::setNames(summary(x)$mean, names(x$outputs))
}

#' @rdname percentiles
#' @export
median.ensayo_result <- function(x, na.rm = FALSE, ...) {
  check_no_dots(..., .options = character())
  vapply(names(x$outputs), function(name) percentile_values(finite_values(x, name), 50), 0)
}
