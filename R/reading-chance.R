#' Chances of conditions
#'
#' The chance that a condition holds is the share of runs in which it does.
#'
#' A run that failed in an output of the condition has not met it: `chance` is over all runs. `chance_good` leaves
#' such runs out. `low`, `high` and `error` tell the **simulation error** of `chance`, for lack of runs: the 95 %
#' interval of Clopper and Pearson (1934) and the standard error. It is not the spread of any output. Under a Latin
#' hypercube both are conservative; of a result with five replicates or more they come from between these (the interval
#' as in Korn and Graubard 1998).
#'
#' @param .result A result.
#' @param ... Conditions on outputs and inputs, such as `pressure < 40`, if wanted named. They are formulas as in
#'   [add_outputs()].
#' @return A data frame with one row a condition: `condition` (its name or text), `chance`, `low`, `high`,
#'   `error`, `chance_good` (from 0 to 1), and the numbers of runs `met`, `good` and `failed`.
#' @section Errors: `ensayo_error_argument` for what is not a condition, with its own message for `pressure = 38`;
#'   `ensayo_error_name` for an unknown name, with the nearest one.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' chance(res, velocity > 0.8, peak = flow > 0.045)
#' @export
chance <- function(.result, ...) {
  check_result(.result)
  known <- quantity_vocabulary(.result$study)
  conditions <- read_conditions(rlang::enquos(..., .ignore_empty = "all"), known, "Condition")
  if (length(conditions) == 0) {
    stop_ensayo("argument", "Give at least one condition.", NULL, sprintf("Such as `chance(result, %s > 0)`.",
      output_names(.result)[1]))
  }
  chances_of(.result, conditions)
}

# An empty table where there are no conditions.
chances_of <- function(result, conditions) {
  held <- evaluate_conditions(result, conditions)
  new_table(c(list(condition = names(held) %||% character()), share_columns(held, "chance", result)))
}

# A column of TRUE, FALSE or, where the run failed, NA for each condition.
evaluate_conditions <- function(result, conditions) {
  if (length(conditions) == 0) return(list())
  formulas <- stats::setNames(conditions, sprintf("c%d", seq_along(conditions)))
  evaluator <- new_evaluator(formulas)
  uses <- unique(unlist(lapply(conditions, function(condition) condition$uses)))
  outputs <- intersect(uses, names(result$study$outputs))
  # a folder's columns piece by piece; functions that take whole columns are given them
  alone <- pieces_alone(formulas)
  pieces <- store_pieces(result$store, if (length(alone) || result$store$kind != "folder") max(run_count(result), 1)
    else store_piece_runs)
  parts <- lapply(seq_len(nrow(pieces)), function(i) {
    columns <- columns_for(result, uses, pieces$first[i], pieces$count[i])
    held <- evaluator(columns, run_numbers(result)[pieces$first[i] + seq_len(pieces$count[i])])$values
    if (pieces$count[i]) check_runs_alone(alone, columns, held, result$provenance$seed)
    failed <- lapply(columns[outputs], function(column) which(!is_finite_run(column)))
    Map(function(held, condition) checked_condition(held, condition, failed), held, conditions)
  })
  stats::setNames(joined_columns(parts), names(conditions))
}

checked_condition <- function(held, condition, failed) {
  if (!is.logical(held)) {
    stop_ensayo("argument", "A condition must be TRUE or FALSE in each run.",
      sprintf("%s gives %s.", quoted(condition$text), shown_value(held[1])))
  }
  held[unlist(failed[intersect(condition$uses, names(failed))])] <- NA
  held
}

# Shares of all runs with their simulation error, and of good runs, from columns of TRUE, FALSE and NA.
share_columns <- function(held, what, result) {
  count <- function(f) vapply(held, function(met) as.double(f(met)), 0, USE.NAMES = FALSE)
  met <- count(function(x) sum(x, na.rm = TRUE))
  failed <- count(function(x) sum(is.na(x)))
  n <- run_count(result)
  good <- n - failed
  ends <- proportion_interval(met, n)
  replicates <- telling_replicates(result)
  error <- sqrt(met / n * (1 - met / n) / n)
  if (!is.null(replicates)) {
    between <- lapply(held, function(x) replicate_proportion(x %in% TRUE, replicates))
    for (i in seq_along(between)) {
      ends$low[i] <- between[[i]]$low
      ends$high[i] <- between[[i]]$high
      error[i] <- between[[i]]$error
    }
  }
  columns <- list(met / n, ends$low, ends$high, error, ifelse(good > 0, met / good, NA))
  c(stats::setNames(columns, c(what, "low", "high", "error", paste0(what, "_good"))),
    list(met = met, good = good, failed = failed))
}
