#' Statistics against the number of runs
#'
#' Whether enough runs were made: a statistic over the first runs, then over more and more of them, with its confidence
#' interval.
#'
#' @inheritParams percentiles
#' @param statistic `"mean"`, `"sd"`, or a percentile such as `"P95"`, in the study's sense.
#' @param points Whole number: at how many numbers of runs, equally spaced on a logarithmic scale from 10 runs on.
#' @return A data frame with a row for each output and number of runs: `output`, `statistic`, `runs`, `value`, `low`,
#'   `high` (as far as the runs bound it), `unit` and `kind`.
#' @details Intervals are those of independent runs, for the first runs of a Latin hypercube fill its slices no better:
#'   of the mean by Student's t, of the sd by its asymptotic variance with the runs' kurtosis, of percentiles between
#'   order statistics. Failed runs are passed over.
#' @section Errors: `ensayo_error_argument` for another statistic; `ensayo_error_name` for an unknown output.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' convergence_table(res, velocity, "P90", points = 5)
#' plot_convergence(res, velocity, "P90")
#' @export
convergence_table <- function(result, outputs = NULL, statistic = "mean", points = 30, confidence = 0.95) {
  check_result(result)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  check_statistic(statistic)
  points <- check_count(points, at_least = 2, at_most = 1000)
  check_confidence(confidence)
  rows <- lapply(outputs, function(name) {
    values <- finite_values(result, name)
    runs <- if (length(values)) unique(round(exp(seq(log(min(10, length(values))), log(length(values)),
      length.out = points))))
    kind <- output_kind_of(result, name)
    read <- vapply(as.double(runs), function(n) {
      statistic_interval(cpp_part(values, 0, n), statistic, result$study$readings$sense, kind, confidence)
    }, numeric(3))
    data.frame(output = rep(name, length(runs)), statistic = rep(statistic, length(runs)), runs = as.double(runs),
      value = read[1, ], low = read[2, ], high = read[3, ],
      unit = rep(quantity_unit(result$study, name) %||% "", length(runs)), kind = rep(kind, length(runs)))
  })
  new_table(do.call(rbind, rows))
}

check_statistic <- function(statistic, more = character(), arg = "statistic", call = rlang::caller_env()) {
  ok <- rlang::is_string(statistic) && (statistic %in% c("mean", "sd", more) || is_percentile_name(statistic) &&
    percentile_of_name(statistic) <= 100)
  if (!ok) {
    stop_argument(arg, paste("one of", paste(c("\"mean\"", "\"sd\"", sprintf("\"%s\"", more)), collapse = ", "),
      "or a percentile such as \"P95\""), statistic, call = call)
  }
  statistic
}

# Value, low and high end of a statistic of independent runs.
statistic_interval <- function(values, statistic, sense, kind, confidence) {
  n <- length(values)
  if (is_percentile_name(statistic)) {
    read <- percentile_estimates(values, not_exceeded(percentile_of_name(statistic), sense), kind_type(kind),
      confidence)
    return(c(read$value, read$low, read$high))
  }
  m <- cpp_moments(values)
  sd <- sqrt(m$m2 * n / (n - 1)) * m$scale
  if (n < 2) return(c(if (statistic == "mean") m$mean else NA, NA, NA))
  value <- if (statistic == "mean") m$mean else sd
  kurtosis <- if (m$m2 > 0) m$m4 / m$m2^2 else 1
  error <- if (statistic == "mean") sd / sqrt(n) else sd * sqrt(max(kurtosis - 1, 0) / n) / 2
  value + c(0, -1, 1) * error * stats::qt((1 + confidence) / 2, n - 1)
}
