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
  new_table(c(list(condition = names(conditions) %||% character()),
    share_columns(condition_counts(result, conditions), "chance", result)))
}

# A column of TRUE, FALSE or, where the run failed, NA for each condition.
evaluate_conditions <- function(result, conditions) {
  if (length(conditions) == 0) return(list())
  parts <- over_conditions(result, conditions, function(all, held, ...) c(all, list(held)))
  stats::setNames(joined_columns(parts), names(conditions))
}

# What `put` makes of what came of the pieces before (`all`), a piece's conditions in each run (`held`), the values of
# `more` formulas in them, and which runs they are (`at`). A folder goes piece by piece; functions that take whole columns
# are given them.
over_conditions <- function(result, conditions, put, more = list(), all = NULL) {
  formulas <- c(stats::setNames(conditions, sprintf("c%d", seq_along(conditions))),
    stats::setNames(more, sprintf("m%d", seq_along(more))))
  evaluator <- new_evaluator(formulas)
  uses <- unique(unlist(lapply(formulas, function(formula) formula$uses)))
  outputs <- intersect(uses, names(result$study$outputs))
  alone <- pieces_alone(formulas)
  pieces <- store_pieces(result$store, if (length(alone) || result$store$kind != "folder") max(run_count(result), 1)
    else store_piece_runs)
  for (i in seq_len(nrow(pieces))) {
    columns <- columns_for(result, uses, pieces$first[i], pieces$count[i])
    at <- pieces$first[i] + seq_len(pieces$count[i])
    values <- evaluator(columns, if (is.null(result$runs)) at else result$runs[at])$values
    if (pieces$count[i]) check_runs_alone(alone, columns, values, result$provenance$seed)
    failed <- lapply(columns[outputs], function(column) which(!is_finite_run(column)))
    held <- Map(function(held, condition) checked_condition(held, condition, failed), values[seq_along(conditions)], conditions)
    all <- put(all, stats::setNames(held, names(conditions)), values[length(conditions) + seq_along(more)], at)
  }
  all
}

# Over all runs: of each condition how many runs `met` it and how many `failed`; where replicates tell errors, how many of
# each met it (`by_replicate`, a column for each). With `specs` the conditions are these, whose last row is all of them
# together, and there is `only`, how often each is the only one that is missed, and `together`, how often two are.
condition_counts <- function(result, conditions, specs = FALSE) {
  replicates <- telling_replicates(result)
  if (!is.null(replicates)) replicates <- match(replicates, unique(replicates))
  over_conditions(result, conditions, all = list(), put = function(all, held, more, at) {
    fails <- if (specs) lapply(held, function(met) is.na(met) | !met)
    if (specs) held <- with_all_specs(held)
    count <- function(columns, f) vapply(columns, function(x) as.double(f(x)), 0)
    counts <- list(met = count(held, function(met) sum(met, na.rm = TRUE)), failed = count(held, function(met) if (anyNA(met)) sum(is.na(met)) else 0))
    if (!is.null(replicates)) {
      counts$by_replicate <- vapply(held, function(met) tabulate(replicates[at][which(met)], max(replicates)) + 0,
        numeric(max(replicates)))
    }
    if (specs) {
      failing <- Reduce(`+`, fails)
      counts$only <- count(fails, function(fail) sum(fail & failing == 1))
      counts$together <- vapply(fails, function(a) count(fails, function(b) sum(a & b)), numeric(length(fails)))
    }
    if (length(all)) Map(`+`, all, counts) else counts
  })
}

checked_condition <- function(held, condition, failed) {
  if (!is.logical(held)) {
    stop_ensayo("argument", "A condition must be TRUE or FALSE in each run.",
      sprintf("%s gives %s.", quoted(condition$text), shown_value(held[1])))
  }
  held[unlist(failed[intersect(condition$uses, names(failed))])] <- NA
  held
}

# Shares of all runs with their simulation error, and of good runs, from counts.
share_columns <- function(counts, what, result) {
  n <- run_count(result)
  met <- unname(counts$met)
  failed <- unname(counts$failed)
  good <- n - failed
  ends <- proportion_interval(met, n)
  error <- sqrt(met / n * (1 - met / n) / n)
  if (!is.null(counts$by_replicate)) {
    sizes <- tabulate(match(telling_replicates(result), unique(telling_replicates(result))))
    between <- lapply(seq_along(met), function(i) replicate_proportion(counts$by_replicate[, i], sizes))
    ends <- list(low = vapply(between, function(x) x$low, 0), high = vapply(between, function(x) x$high, 0))
    error <- vapply(between, function(x) x$error, 0)
  }
  columns <- list(met / n, ends$low, ends$high, error, ifelse(good > 0, met / good, NA))
  c(stats::setNames(columns, c(what, "low", "high", "error", paste0(what, "_good"))),
    list(met = met, good = good, failed = failed))
}
