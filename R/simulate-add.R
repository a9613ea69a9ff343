# Going on where a simulation ended.

#' Add runs to a result
#'
#' Goes on where a simulation ended: what was run is kept, and the study is run for the new runs alone. The result is
#' the one that [simulate()][simulate.ensayo_study] gives for all the runs at once.
#'
#' @param result A result.
#' @param nsim Whole number: how many runs to add. Under a Latin hypercube, a multiple of the runs in each of its
#'   replicates.
#' @param ... Not used; anything here is an error.
#' @param threads,workers,progress As for [simulate()][simulate.ensayo_study].
#' @return A result of all the runs. What was there is its first part, unchanged.
#' @details Independent runs (`"random"`) and one Sobol' sequence go on as they are. A Latin hypercube cannot: its
#'   slices are as many as its runs. So it is followed by further hypercubes of the same size, independent of it:
#'   within each replicate every slice is filled and the correlations hold; over all runs together each slice of one
#'   replicate holds as many draws as there are replicates, and finer slices are filled by chance.
#' @section Errors: `ensayo_error_argument` where `nsim` does not fit the design, or the result cannot go on because its
#'   study draws other numbers now than those on record.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' add_runs(res, 2000)
#' @export
add_runs <- function(result, nsim, ..., threads = NULL, workers = NULL, progress = show_progress) {
  check_result(result)
  check_no_dots(..., .options = c("nsim", "threads", "workers"))
  check_whole(result, "Adding runs")
  started <- Sys.time()
  had <- result$provenance
  if (!is.null(had$preview)) {
    stop_ensayo("argument", "A preview cannot go on with more runs.",
      sprintf("It holds the first %s of %s.", format_given(had$preview), count_of(had$nsim, "run")),
      sprintf("Run the whole: `simulate(study_of(result), nsim = %s, seed = %s)`.", format_given(had$nsim),
        shown_value(had$seed)))
  }
  plan <- extended_plan(had, check_count(nsim), threads)
  study <- result$study
  first <- lapply(store_columns(result$store, varying_names(study)), column_at, 1)
  if (!identical(lapply(draw_columns(study, plan, 0, 1), kept_column), first)) {
    stop_ensayo("argument", "`result` must hold the draws that its study makes.",
      "The first run's are others: they were made by another version or changed since.",
      "Simulate the study again, with as many runs as you want.")
  }
  more <- plan$nsim - had$nsim
  draws <- draw_columns(study, plan, had$nsim, more)
  runs <- with_workers(workers, evaluate_draws(study, draws, plan, had$nsim, more, progress))
  columns <- store_columns(result$store, result$store$names)
  old <- list(values = columns[output_order(study$outputs)], failures = result$failures, warnings = result$warnings)
  new_simulation(study, plan, Map(c, columns[varying_names(study)], draws), join_runs(list(old, runs)), result$base,
    started)
}

# The plan of what was run and as many runs more.
extended_plan <- function(had, more, threads, call = rlang::caller_env()) {
  if (had$design %in% c("random", "sobol") && had$replicates == 1) {
    return(draw_plan(had$nsim + more, had$seed, had$design, 1, NULL, threads, call))
  }
  each <- had$nsim / had$replicates
  if (more %% each != 0) {
    stop_argument("nsim", sprintf("a multiple of %s, the runs in each replicate of this design", format(each)), more,
      "Further replicates of that size are added.", call)
  }
  draw_plan(had$nsim + more, had$seed, had$design, had$replicates + more / each, max(had$block, 2), threads, call)
}
