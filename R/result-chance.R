#' Chances of conditions
#'
#' The chance that a condition holds is the share of runs in which it does.
#'
#' A run that failed in an output of the condition has not met it: `chance` is over all runs. `chance_good` leaves
#' such runs out. `low` and `high` tell the **simulation error** of `chance`, for lack of runs: the 95 % interval of
#' Clopper and Pearson (1934). It is not the spread of any output.
#'
#' @param .result A result.
#' @param ... Conditions on outputs and inputs, such as `pressure < 40`, if wanted named. They are formulas as in
#'   [add_outputs()].
#' @return A data frame with one row a condition: `condition` (its name or text), `chance`, `low`, `high`,
#'   `chance_good` (from 0 to 1), and the numbers of runs `met`, `good` and `failed`.
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
      names(.result$outputs)[1]))
  }
  held <- evaluate_conditions(.result, conditions)
  counts <- lapply(held, count_met)
  new_table(c(list(condition = names(held)), share_columns(counts, "chance")))
}

#' Pass rates of specs
#'
#' The pass rate is the share of runs that meet a spec, and of those that meet all of them.
#'
#' @inherit chance details
#' @param result A result of a study with specs; see [add_specs()].
#' @return A data frame with one row a spec and, where there are several, a last row `all specs`: `spec`, `condition`,
#'   `pass_rate`, `low`, `high`, `pass_rate_good` (from 0 to 1), and the numbers of runs `met`, `good` and `failed`.
#' @section Errors: `ensayo_error_argument` where the study has no specs.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   add_specs(not_scouring = velocity <= 0.9, not_settling = velocity >= 0.6) |>
#'   simulate(nsim = 1000, seed = 11)
#' pass_rate(res)
#' @export
pass_rate <- function(result) {
  check_result(result)
  specs <- result$study$specs
  if (length(specs) == 0) {
    stop_ensayo("argument", "The study must have specs.", "It has none.",
      "Add them with `add_specs()` before simulating, or ask `chance(result, ...)`.")
  }
  held <- evaluate_conditions(result, specs)
  text <- vapply(specs, function(spec) spec$text, "")
  if (length(specs) > 1) {
    # good for all specs is a run that is good for each: a sum of NA and FALSE is NA, where `&` would say FALSE
    held[["all specs"]] <- Reduce(`+`, held) == length(held)
    text <- c(text, "")
  }
  new_table(c(list(spec = names(held), condition = unname(text)), share_columns(lapply(held, count_met), "pass_rate")))
}

# A column of TRUE, FALSE or, where the run failed, NA for each condition.
evaluate_conditions <- function(result, conditions) {
  if (length(conditions) == 0) return(list())
  columns <- result_columns(result)
  evaluate <- new_evaluator(stats::setNames(conditions, sprintf("c%d", seq_along(conditions))))
  values <- evaluate(columns, seq_len(result$provenance$nsim))$values
  check_runs_alone(evaluate, columns, values, result$provenance$seed)
  for (i in seq_along(values)) {
    if (!is.logical(values[[i]])) {
      stop_ensayo("argument", "A condition must be TRUE or FALSE in each run.",
        sprintf("%s gives %s.", quoted(conditions[[i]]$text), shown_value(values[[i]][1])))
    }
    failed <- unlist(lapply(intersect(conditions[[i]]$uses, names(result$outputs)), function(name) {
      which(!is.finite(result$outputs[[name]]))
    }))
    values[[i]][failed] <- NA
  }
  stats::setNames(values, names(conditions))
}

count_met <- function(met) list(met = sum(met, na.rm = TRUE), good = sum(!is.na(met)), failed = sum(is.na(met)))

share_columns <- function(counts, what) {
  count <- function(field) vapply(counts, function(x) as.double(x[[field]]), 0, USE.NAMES = FALSE)
  met <- count("met")
  good <- count("good")
  failed <- count("failed")
  ends <- proportion_interval(met, good + failed)
  columns <- list(met / (good + failed), ends$low, ends$high, ifelse(good > 0, met / good, NA))
  c(stats::setNames(columns, c(what, "low", "high", paste0(what, "_good"))),
    list(met = met, good = good, failed = failed))
}

# Clopper and Pearson (1934), Biometrika 26(4): never below the stated confidence, also near 0 and 1.
proportion_interval <- function(met, n, confidence = 0.95) {
  tail <- (1 - confidence) / 2
  list(
    low = ifelse(met == 0, 0, stats::qbeta(tail, met, n - met + 1)),
    high = ifelse(met == n, 1, stats::qbeta(tail, met + 1, n - met, lower.tail = FALSE))
  )
}
