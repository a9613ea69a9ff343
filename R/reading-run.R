# Single runs of a result: made again, alone and here.

#' @rdname try_run
#' @export
run_details <- function(result, run, .folder = NULL) {
  at <- run_place(result, run)
  columns <- columns_of_run(result, at)
  study <- result$study
  trial <- trial_of(study, columns[names(study$inputs)], run_numbers(result)[at], result$provenance$seed,
    check_string(.folder, null = TRUE))
  trial$of <- result$provenance$hash
  asked <- intersect(names(trial$outputs), names(result$provenance$in_unit))
  trial$outputs[asked] <- lapply(asked, function(name) in_asked_unit(result, name, trial$outputs[[name]]))
  trial$recorded <- vapply(names(trial$outputs), function(name) same_words(columns[[name]], trial$outputs[[name]]), "")
  trial
}

run_place <- function(result, run, call = rlang::caller_env()) {
  check_result(result, call = call)
  numbers <- run_numbers(result)
  check_count(run, "run", call = call)
  at <- match(run, numbers)
  if (is.na(at)) {
    stop_argument("run", sprintf("the number of a run of the result, from %s to %s", format_given(numbers[1]),
      format_given(numbers[length(numbers)])), run, call = call)
  }
  at
}

# All inputs and outputs of one run.
columns_of_run <- function(result, at) {
  study <- result$study
  held <- lapply(Filter(Negate(varies), study$inputs), held_value)
  kept <- lapply(store_columns(result$store, result$store$names), column_at, at)
  for (name in Filter(function(name) is_drawn_series(result, name), names(kept))) kept[[name]] <- drawn_series(result, name, kept[[name]])
  c(held, kept)
}

# Series come as a row of a matrix from both.
same_words <- function(recorded, repeated) {
  if (same_value(as.double(recorded), as.double(repeated))) return("")
  sprintf("another value than in the result: %s", paste(format(as.double(recorded)[1], digits = 10), collapse = " "))
}

#' Repeat runs of a result
#'
#' Makes chosen runs again, alone and in this session, with the inputs and the random numbers that they had: to see whether a
#' failure stands, or whether a changed program gives other values.
#'
#' @param result A result.
#' @param runs Whole numbers: the runs. Those that failed when left out.
#' @param ... Not used; anything here is an error.
#' @param study A study to repeat them in: the result's own when left out, or one whose model was mended since. It must have
#'   the same inputs.
#' @return A data frame with a row for each run and output of one value a run: `run`, `output`, `recorded`, `repeated` (both
#'   numbers), `same`, and `reason`, why it failed this time.
#' @section Errors: `ensayo_error_argument` where the result has no such run, or `study` has other inputs.
#' @seealso [run_details()] to see all of one run.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500)) |>
#'   add_outputs(root = sqrt(volume - 320)) |>
#'   simulate(nsim = 100, seed = 11)
#' repeat_runs(res)
#' @export
repeat_runs <- function(result, runs = NULL, ..., study = NULL) {
  check_result(result)
  check_no_dots(..., .options = "study")
  runs <- if (is.null(runs)) unique(result$failures$run) else runs
  study <- study %||% result$study
  check_study(study)
  absent <- setdiff(names(result$study$inputs), names(study$inputs))
  new <- setdiff(names(study$inputs), names(result$study$inputs))
  if (length(absent) || length(new)) {
    stop_ensayo("argument", "`study` must have the inputs of the result.",
      sprintf(if (length(absent)) "%s is missing." else "%s is new.", quoted(c(absent, new)[1])), argument = "study")
  }
  names <- setdiff(intersect(names(study$outputs), result$store$names), series_names(study))
  rows <- lapply(runs, function(run) {
    columns <- columns_of_run(result, run_place(result, run))
    trial <- trial_of(study, columns[names(study$inputs)], run, result$provenance$seed)
    recorded <- vapply(names, function(name) as.double(columns[[name]]), 0)
    repeated <- vapply(names, function(name) as.double(trial$outputs[[name]]), 0)
    reason <- trial$failures$reason[match(names, trial$failures$output)]
    rows_of(run = run, output = names, recorded = recorded, repeated = repeated,
      same = unlist(Map(same_value, recorded, repeated)), reason = ifelse(is.na(reason), "", reason))
  })
  none <- rows_of(run = numeric(), output = character(), recorded = numeric(), repeated = numeric(), same = logical(),
    reason = character())
  new_table(stacked(c(list(none), rows)))
}
