# Chances of conditions at each step, and up to it.

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
    read <- function(kind, what) {
      by_replicate <- if (!is.null(counts$by_replicate)) counts$by_replicate[[kind]][[name]]
      share_columns(c(list(met = counts[[kind]][name, ], failed = counts$failed[name, ]),
        if (!is.null(by_replicate)) list(by_replicate = by_replicate)), what, .result)
    }
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

# In how many runs each condition holds at each step, has held by then, and is not known; a row for each condition. Where
# replicates tell errors, also in how many of each. Pieces of runs at a time, whose series memory holds.
step_counts <- function(result, conditions, series, steps, most = 2^22) {
  evaluator <- new_evaluator(conditions)
  uses <- unique(unlist(lapply(conditions, function(condition) condition$uses)))
  zeros <- matrix(0, length(conditions), length(steps), dimnames = list(names(conditions), NULL))
  counts <- list(at = zeros, ever = zeros, failed = zeros)
  replicates <- telling_replicates(result)
  if (!is.null(replicates)) {
    replicates <- match(replicates, unique(replicates))
    none <- rep(list(matrix(0, max(replicates), length(steps))), length(conditions))
    counts$by_replicate <- list(at = stats::setNames(none, names(conditions)), ever = stats::setNames(none, names(conditions)))
  }
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
        if (is.null(replicates)) next
        of <- replicates[pieces$first[i] + seq_len(pieces$count[i])]
        for (kind in c("at", "ever")) {
          met <- of[if (kind == "at") held %in% TRUE else ever[[j]]]
          counts$by_replicate[[kind]][[j]][, k] <- counts$by_replicate[[kind]][[j]][, k] + tabulate(met, max(replicates))
        }
      }
    }
  }
  counts
}
