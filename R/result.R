# A result is a value: the study as run, draws, outputs, failures, the base case and where it came from.

# The numbers of the runs a result holds: all of the design, the first of a preview, or those that meet a condition.
run_numbers <- function(result) result$runs %||% seq_len(run_count(result))

run_count <- function(result) result$store$count

# Why a result does not hold all runs of its design, for every print, figure and report; NULL where it does.
partial_words <- function(result) {
  p <- result$provenance
  c(
    if (isTRUE(p$changed)) "CHANGED: these files are not as the simulation wrote them",
    if (length(p$from_start)) p$from_start,
    if (!is.null(p$step)) sprintf("series at step %s", p$step),
    if (!is.null(p$so_far)) sprintf("SO FAR: %s of %s", count_text(p$so_far), count_of(p$nsim, "run")),
    if (!is.null(p$preview)) sprintf("PRELIMINARY: the first %s of %s", format_given(p$preview),
      count_of(p$nsim, "run")),
    if (length(p$given)) sprintf("given %s: %s of %s", paste(p$given, collapse = " and "),
      format(run_count(result), big.mark = " ", trim = TRUE), count_of(p$preview %||% p$nsim, "run"))
  )
}

#' What a result holds
#'
#' @param result,x A result, made by [simulate()][simulate.ensayo_study] or read by [read_result()].
#' @param ... Not used; anything here is an error.
#' @return `as.data.frame()`, and `head()` for the first runs: one row a run, with columns `run`, `failed` (`TRUE`
#'   where any output failed), every input that varies and every output, in their units and unrounded; outputs that are
#'   dates are of class Date, counts whole numbers; a series has a column for each step. `failures()`: a
#'   data frame with a row for each failed run and output: `run`, `output`, `reason`, and where programs left something to
#'   look at, `folder`; and in models that go step by step the `step`. `base_case()`: a data frame with `name`, `kind` (input or
#'   output), `value` and `unit`, and `step` where there are series.
#'   `provenance()`: a list with `seed`, `nsim`, `design`,
#'   `replicates`, `block` (runs within which correlated draws were put in order), `hash` of the study, versions,
#'   `cpu` (the registers used: "plain", "avx2" or "avx512"), start time (UTC) and `seconds` taken. `study_of()`: the
#'   study as run; simulating it with the recorded seed, number of runs and design gives the same numbers again.
#' @section Errors: `ensayo_error_argument` where `result` is not a result.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = flow / 0.049) |>
#'   simulate(nsim = 1000, seed = 11)
#' head(res)
#' provenance(res)$seed
#' @name result_readings
NULL

#' Values of runs
#'
#' One output's or input's value in each run. They are the only way to the runs: where these are kept, in memory or in a
#' folder, does not matter.
#'
#' @param result A result.
#' @param output,input A name, bare or as text.
#' @param step Of a series: a step (number or date), or `"last"`.
#' @return A vector with a value for each run, failed runs as `NA`: numbers, whole numbers of counts, dates of class
#'   Date, `TRUE` and `FALSE` of yes/no outputs, texts of categories. Of a series without `step` a matrix with a row for
#'   each run and a column for each step.
#' @section Errors: `ensayo_error_name` for an unknown name; `ensayo_error_argument` for a step that the series has not.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = flow / 0.049) |>
#'   simulate(nsim = 1000, seed = 11)
#' head(output_values(res, velocity))
#' head(draw_values(res, flow))
#' @export
output_values <- function(result, output, step = NULL) {
  check_result(result)
  series_values(result, resolve_name(rlang::enquo(output), c(output_names(result), series_names(result$study)),
    "an output of the result"), step)
}

#' @rdname output_values
#' @export
draw_values <- function(result, input, step = NULL) {
  check_result(result)
  series_values(result, resolve_name(rlang::enquo(input), draw_names(result), "an input that varies"), step)
}

#' @rdname result_readings
#' @export
as.data.frame.ensayo_result <- function(x, ...) {
  check_no_dots(..., .options = character())
  table <- run_table(x)
  for (name in intersect(x$store$names, names(table))) {
    table[[name]] <- typed_values(table[[name]], x$store$kinds[[name]])
  }
  new_table(table)
}

typed_column <- function(result, name) typed_values(run_column(result, name), output_kind_of(result, name))

# Every run, days as numbers.
run_table <- function(result) {
  runs_frame(result, run_numbers(result), run_columns(result))
}

# Some runs as one table; a series has a column for each step.
runs_frame <- function(result, run, columns) {
  flat <- flat_columns(columns, function(name) {
    vapply(as.list(quantity_steps(result$study, name)), step_words, "")
  })
  unclass_table(new_table(c(list(run = run), replicate_column(result$provenance, run),
    list(failed = run %in% result$failures$run), flat)))
}

#' @rdname result_readings
#' @param n Whole number: how many of the first runs.
#' @export
head.ensayo_result <- function(x, n = 6L, ...) {
  check_no_dots(..., .options = "n")
  utils::head(as.data.frame(x), check_count(n))
}

#' @rdname result_readings
#' @export
failures <- function(result) {
  check_result(result)
  table <- result$failures
  for (name in c("folder", "step")) if (!any(nzchar(table[[name]]))) table[[name]] <- NULL
  new_table(table)
}

#' @rdname result_readings
#' @export
base_case <- function(result) {
  check_result(result)
  values <- c(result$base$inputs, result$base$outputs)
  kind <- rep(c("input", "output"), c(length(result$base$inputs), length(result$base$outputs)))
  rows <- rep(seq_along(values), lengths(values))
  units <- text_of(names(values), function(name) quantity_unit(result$study, name))
  table <- list(name = names(values)[rows], kind = kind[rows], value = values_column(unlist(lapply(unname(values), as.list),
    recursive = FALSE)), unit = units[rows])
  series <- intersect(series_names(result$study), names(values))
  if (length(series)) {
    table$step <- unlist(lapply(names(values), function(name) {
      steps <- result$study$outputs[[name]]$steps
      if (is.null(steps)) "" else vapply(as.list(steps), step_words, "")
    }))
  }
  new_table(table)
}

#' @rdname result_readings
#' @export
provenance <- function(result) {
  check_result(result)
  result$provenance
}

#' @rdname result_readings
#' @export
study_of <- function(result) UseMethod("study_of")

#' @export
study_of.default <- function(result) check_result(result)

#' @export
study_of.ensayo_result <- function(result) {
  result$study
}

#' @rdname result_readings
#' @param name Name of an output or input: `res$pressure` is its values, one for each run, as [output_values()] gives
#'   them; `res$draws` and `res$outputs` are lists of all of them, as they are kept (days as numbers).
#' @export
`$.ensayo_result` <- function(x, name) {
  if (name %in% names(x)) return(.subset2(x, name))
  if (name %in% .subset2(x, "store")$names) return(typed_column(x, name))
  if (name == "draws") return(run_columns(x, draw_names(x)))
  if (name == "outputs") return(run_columns(x, output_names(x)))
  if (name %in% optional_result_fields) return(NULL)
  stop_unknown_name(name, .subset2(x, "store")$names, "an output or input of the result")
}

# What only some results have: runs that are a part of a whole, and the like.
optional_result_fields <- c("runs", "given", "records", "until")

#' @export
as.double.ensayo_result <- function(x, ...) {
  stop_ensayo("argument", "A result is not a number.", NULL,
    "`summary(result)` gives mean, sd and percentiles of each output; `result$name` the values of one.")
}

# The columns of the quantities that something uses: draws, outputs, and all inputs that are held.
columns_for <- function(result, uses, first = 0, count = run_count(result)) {
  columns <- store_piece(result$store, intersect(unique(uses), result$store$names), first, count)
  for (name in Filter(function(name) is_drawn_series(result, name), names(columns))) {
    columns[[name]] <- drawn_series(result, name, columns[[name]])
  }
  held <- lapply(Filter(Negate(varies), result$study$inputs), held_value)
  c(columns, with_series(result$study, held[intersect(names(held), uses)], count))
}

# What takes whole columns of many quantities at once, such as correlations and drivers, reads at most so many of the first
# runs.
leading_runs_at_most <- 1e7

with_leading_runs <- function(result) {
  if (run_count(result) > leading_runs_at_most) result$store <- leading_store(result$store, leading_runs_at_most)
  result
}

# A column as it is kept: days are numbers, categories texts. An input with steps is drawn again; `step` is a place.
run_column <- function(result, name, step = NULL) {
  if (!is_drawn_series(result, name)) return(store_column(.subset2(result, "store"), name, step))
  series <- drawn_series(result, name, store_column(.subset2(result, "store"), name))
  if (is.null(step)) series else unname(series[, step])
}

run_columns <- function(result, names = result$store$names) {
  lapply(stats::setNames(nm = as.character(names)), run_column, result = result)
}

# Outputs that have one value a run, in the order in which they are calculated.
output_names <- function(result) {
  study <- .subset2(result, "study")
  with_aside(setdiff(intersect(.subset2(result, "store")$names, names(study$outputs)), series_names(study)), study)
}

# Those that are shown where none are asked for.
main_outputs <- function(result) shown_names(output_names(result))

draw_names <- function(result) setdiff(.subset2(result, "store")$names, names(.subset2(result, "study")$outputs))

# A column as numbers, one for each run: categories by their place in their law, inputs with steps by their mean over them,
# of a result at a step those up to it.
values_of <- function(result, name) {
  if (is_drawn_series(result, name)) {
    return(series_means(result$study, plan_again(result$provenance), name, store_column(result$store, name), result$until[[name]]))
  }
  column <- run_column(result, name)
  if (is.character(column)) as.double(match(column, parameters_of(result$study$inputs[[name]]$law)$values))
  else if (is.double(column)) column else as.double(column)
}

# The same, or where that would be too long for memory what answers for it (store-long.R).
column_of <- function(result, name) {
  if (is_long_store(result$store) && !is_drawn_series(result, name)) long_column(result$store, name) else values_of(result, name)
}

good_values <- function(x) if (is_long(x)) x else good_numbers(x)

numeric_columns <- function(result, names) {
  lapply(stats::setNames(nm = as.character(names)), values_of, result = result)
}

output_kind_of <- function(result, name) .subset2(result, "store")$kinds[[name]]

finite_values <- function(result, output) {
  good_values(values_of(result, output))
}

resolve_outputs <- function(quosure, result, call = rlang::caller_env()) {
  refuse_series(quosure, result, call)
  if (length(output_names(result)) == 0) {
    stop_ensayo("argument", "An output with one value a run is needed.", "All outputs are series.",
      "Ask `at_step(result, \"last\")`, or add an output such as `max(...)` of one.", call = call)
  }
  resolve_names(quosure, output_names(result), "an output of the result", call)
}

# A series is read at a step, or by an output that makes one value of it.
refuse_series <- function(quosure, result, call) {
  series <- series_names(result$study)
  if (length(series) == 0 || rlang::quo_is_missing(quosure) || !names_known(quosure, series)) return(invisible())
  name <- rlang::as_label(rlang::quo_get_expr(quosure))
  stop_ensayo("argument", "A series must be read at a step.", sprintf("%s has a value at each step.", quoted(name)),
    "Ask `at_step(result, \"last\")`, or `percentiles(result, ..., step = )`; or add an output such as `max(...)` of it.",
    name = name, call = call)
}

# Outputs may be named before another argument or after it: gives both, the other evaluated. `outputs` and `other` are
# quosures.
outputs_and_other <- function(outputs, other, result, series = FALSE) {
  if (!series) refuse_series(other, result, rlang::caller_env())
  swapped <- names_known(other, c(output_names(result), if (series) c(series_names(result$study), stepped_names(result$study))))
  value <- if (swapped) outputs else other
  # a bare name that is nothing here was meant for an output
  if (rlang::quo_is_symbol(value)) value <- tryCatch(rlang::eval_tidy(value), error = function(e) {
    stop_unknown_name(rlang::as_label(rlang::quo_get_expr(value)), output_names(result), "an output of the result")
  })
  if (rlang::is_quosure(value)) value <- rlang::eval_tidy(value)
  list(outputs = if (swapped) other else outputs, other = value)
}

# May be left out where there is one only.
resolve_single_output <- function(quosure, result, call = rlang::caller_env()) {
  refuse_series(quosure, result, call)
  resolve_name(quosure, output_names(result), "an output of the result", call)
}
