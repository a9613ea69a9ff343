#' The runs in which a condition holds
#'
#' A result of those runs alone: every reading of it is a conditional one, such as the mean pressure given that demand
#' is above 40.
#'
#' @param .result A result.
#' @param ... Conditions on outputs and inputs, as in [chance()]; runs that meet all of them are kept. A run that failed
#'   in an output of a condition does not meet it.
#' @return A result with the runs that are left, under their own numbers. Its print, figures and reports say what it is
#'   given; it cannot be written as a folder or go on with more runs.
#' @section Errors: `ensayo_error_argument` for what is not a condition, and where no run meets it.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' summary(given(res, flow > 0.04))
#' @export
given <- function(.result, ...) {
  check_result(.result)
  kept_given(.result, read_conditions(rlang::enquos(..., .ignore_empty = "all"), quantity_vocabulary(.result$study),
    "Condition"))
}

kept_given <- function(result, conditions, call = rlang::caller_env()) {
  held <- evaluate_conditions(result, conditions)
  kept <- which(Reduce(`&`, held, rep(TRUE, run_count(result))))
  if (length(kept) == 0) {
    stop_ensayo("argument", "The condition must hold in at least one run.",
      sprintf("%s holds in none of %s.", paste(quoted(names(held)), collapse = " and "),
        count_of(run_count(result), "run")), "Relax it, or simulate more runs.", call = call)
  }
  runs_kept(result, kept, c(result$provenance$given, names(held)))
}

# The result of some runs, by their places.
runs_kept <- function(result, kept, words) {
  runs <- run_numbers(result)[kept]
  result$store <- store_at(result$store, kept)
  result$failures <- result$failures[result$failures$run %in% runs, , drop = FALSE]
  result$runs <- runs
  result$provenance$given <- words
  result
}
