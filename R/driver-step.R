# What drives a series at each of its steps, and which steps of an input drive an output.

#' @rdname chance_by_step
#' @param output Name of a series or of an output with one value a run, bare or as text.
#' @param confidence Number between 0 and 1.
#' @return `drivers_by_step()`: a data frame with a row for each step and input: `output`, `step`, `input`, `value` (Spearman's rank
#'   correlation), `low`, `high` and `beyond_noise`. Of a series: with its value at the step, of inputs that enter it; those that
#'   are drawn at each step count by their mean up to that step. Of an output with one value a run: with the values at each step of
#'   the inputs that are drawn at each. At 95 % one of twenty idle inputs or steps is taken for more than noise. Of very many
#'   runs the first are read, as many as a matrix of 16 million values holds.
#' @export
drivers_by_step <- function(result, output, confidence = 0.95) {
  check_result(result)
  check_confidence(confidence)
  study <- result$study
  name <- resolve_name(rlang::enquo(output), c(series_names(study), output_names(result)), "an output of the result")
  steps <- quantity_steps(study, name)
  behind <- intersect(draw_names(result), reach_of(study)(name))
  inputs <- if (is.null(steps)) intersect(behind, stepped_names(study)) else behind
  if (length(inputs) == 0) {
    stop_ensayo("argument", if (is.null(steps)) "The output must depend on inputs that are drawn at each step."
      else "The series must depend on inputs that vary.", sprintf("%s depends on none.", quoted(name)))
  }
  known <- c(list(steps), lapply(study$inputs[intersect(inputs, stepped_names(study))], function(input) input$steps))
  most <- max(100, 2^24 %/% max(lengths(known)))
  if (run_count(result) > most) result$store <- leading_store(result$store, most)
  column <- run_column(result, name)
  good <- which(is_finite_run(column))
  table <- stacked(if (is.null(steps)) lapply(inputs, step_correlations, result = result, y = values_of(result, name)[good], good = good)
    else lapply(inputs, correlations_with_series, result = result, y = matrix_columns(column[good, , drop = FALSE]), good = good,
      steps = steps))
  n <- length(good)
  read <- fisher_interval(table$value, sqrt((1 + table$value^2 / 2) / max(n - 3, 1)), n - 2, confidence)
  new_table(list(output = rep(name, nrow(table)), step = table$step, input = table$input, value = read$value, low = read$low,
    high = read$high, beyond_noise = (read$p_value < 1 - confidence) %in% TRUE))
}

# An input's values at each step with the one value of each run.
step_correlations <- function(input, result, y, good) {
  series <- matrix_columns(run_column(result, input)[good, , drop = FALSE])
  rows_of(step = result$study$inputs[[input]]$steps, input = input, value = correlations_between(series, list(y), TRUE)[, 1])
}

# What an input has been so far with a series at each of its steps.
correlations_with_series <- function(input, result, y, good, steps) {
  if (!is_drawn_series(result, input)) {
    return(rows_of(step = steps, input = input, value = correlations_between(list(values_of(result, input)[good]), y, TRUE)[1, ]))
  }
  series <- run_column(result, input)[good, , drop = FALSE]
  own <- result$study$inputs[[input]]$steps
  so_far <- 0
  value <- rep(NA_real_, length(steps))
  for (k in seq_along(own)) {
    so_far <- so_far + series[, k]
    at <- which(as.double(steps) >= as.double(own[k]) & c(as.double(own), Inf)[k + 1] > as.double(steps))
    if (length(at)) value[at] <- correlations_between(list(so_far), y[at], TRUE)[1, ]
  }
  rows_of(step = steps, input = input, value = value)
}
