# What goes on from step to step: chances of conditions, and what drives a series at each step.

#' Chances and drivers, step by step
#'
#' `chance_by_step()`: how likely a condition on series holds at each step, and how likely it has held at that step or one
#' before: the first is read across runs at one moment, the second along each run. `drivers_by_step()`: which inputs an output
#' goes with, at each step.
#'
#' @param .result,result A result with series.
#' @param ... Conditions on series of the same steps, such as `level < 50`; quantities with one value a run may stand in them.
#' @return `chance_by_step()`: a data frame with a row for each condition and step: `condition`, `step`; `chance`, `low`, `high`
#'   and `error` at that step; `ever`, `ever_low`, `ever_high` and `ever_error` of having held at that step or before. Shares are of
#'   all runs; a failed run meets no condition.
#' @section Errors: `ensayo_error_argument` where conditions read no series, or series of different steps; `ensayo_error_name` for
#'   unknown names.
#' @seealso [chance()] for conditions on whole runs, such as `any(level < 50)`; [at_step()].
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), inflow = input(law_normal(47, 5), steps = 30),
#'     demand = input(law_pert(35, 45, 70), steps = 30, persistence = 0.7)) |>
#'   add_steps(level = state(max(0, level + inflow - demand), start = volume)) |>
#'   add_outputs(lowest = min(level)) |>
#'   simulate(nsim = 500, seed = 11)
#' chance_by_step(res, level < 300) |> tail(3)
#' drivers_by_step(res, level) |> tail(3)
#' drivers_by_step(res, lowest) |> head(3)
#' @export
chance_by_step <- function(.result, ...) {
  check_result(.result)
  series <- series_steps(.result$study)
  vocabulary <- quantity_vocabulary(.result$study)
  attr(vocabulary, "series") <- list()
  conditions <- read_conditions(rlang::enquos(..., .ignore_empty = "all"), vocabulary, "Condition")
  used <- intersect(names(series), unlist(lapply(conditions, function(condition) condition$uses)))
  steps <- unique(series[used])
  if (length(steps) != 1) {
    stop_ensayo("argument", "Conditions must be on series of the same steps.",
      if (length(used) == 0) "They read none." else sprintf("%s have different ones.", and_list(quoted(used))),
      sprintf("Such as `chance_by_step(result, %s > 0)`.", c(names(series), "level")[1]))
  }
  counts <- step_counts(.result, conditions, used, steps[[1]])
  rows <- lapply(names(conditions), function(name) {
    read <- function(kind, what) share_columns(list(met = counts[[kind]][name, ], failed = counts$failed[name, ]), what, .result)
    ever <- read("ever", "ever")[1:4]
    names(ever) <- c("ever", "ever_low", "ever_high", "ever_error")
    c(list(condition = rep(name, length(steps[[1]])), step = steps[[1]]), read("at", "chance")[1:4], ever)
  })
  new_table(stacked(lapply(rows, list2DF)))
}

# Specs that ask for something at all steps, as conditions on a step that misses it.
missed_by_step <- function(study) {
  over <- Filter(function(spec) rlang::is_call(spec$expr, "all", 1) && any(spec$uses %in% names(series_steps(study))), study$specs)
  vapply(over, function(spec) sprintf("!(%s)", deparse1(spec$expr[[2]])), "")
}

# In how many runs each condition holds at each step, has held by then, and is not known; a row for each condition. Pieces of
# runs at a time, whose series memory holds.
step_counts <- function(result, conditions, series, steps, most = 2^22) {
  evaluator <- new_evaluator(conditions)
  uses <- unique(unlist(lapply(conditions, function(condition) condition$uses)))
  zeros <- matrix(0, length(conditions), length(steps), dimnames = list(names(conditions), NULL))
  counts <- list(at = zeros, ever = zeros, failed = zeros)
  pieces <- store_pieces(result$store, max(1, most %/% (length(steps) * length(series))))
  for (i in seq_len(nrow(pieces))) {
    columns <- columns_for(result, uses, pieces$first[i], pieces$count[i])
    ever <- rep(list(logical(pieces$count[i])), length(conditions))
    for (k in seq_along(steps)) {
      now <- columns
      now[series] <- lapply(columns[series], function(column) unname(column[, k]))
      values <- evaluator(now, seq_len(pieces$count[i]))$values
      for (j in seq_along(conditions)) {
        held <- checked_condition(values[[j]], conditions[[j]], lapply(now[series], function(x) which(!is.finite(x))))
        ever[[j]] <- ever[[j]] | held %in% TRUE
        counts$at[j, k] <- counts$at[j, k] + sum(held, na.rm = TRUE)
        counts$ever[j, k] <- counts$ever[j, k] + sum(ever[[j]])
        counts$failed[j, k] <- counts$failed[j, k] + sum(is.na(held))
      }
    }
  }
  counts
}

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
  good <- which(is_finite_run(run_column(result, name)))
  rows <- if (is.null(steps)) lapply(inputs, step_correlations, result = result, name = name, good = good)
    else lapply(inputs, correlations_with_series, result = result, name = name, good = good, steps = steps)
  table <- stacked(rows)
  n <- length(good)
  read <- fisher_interval(table$value, sqrt((1 + table$value^2 / 2) / max(n - 3, 1)), n - 2, confidence)
  new_table(list(output = rep(name, nrow(table)), step = table$step, input = table$input, value = read$value, low = read$low,
    high = read$high, beyond_noise = (read$p_value < 1 - confidence) %in% TRUE))
}

# An input's values at each step with the one value of each run.
step_correlations <- function(input, result, name, good) {
  series <- run_column(result, input)[good, , drop = FALSE]
  y <- values_of(result, name)[good]
  rows_of(step = result$study$inputs[[input]]$steps, input = input, value = correlations_between(columns_of(series), list(y), TRUE)[, 1])
}

# What an input has been so far with a series at each of its steps.
correlations_with_series <- function(input, result, name, good, steps) {
  y <- columns_of(run_column(result, name)[good, , drop = FALSE])
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

columns_of <- function(m) lapply(seq_len(ncol(m)), function(k) m[, k])
