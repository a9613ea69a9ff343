# A result is a value: the study as run, draws, outputs, failures, the base case and where it came from.

# The numbers of the runs a result holds: all of the design, the first of a preview, or those that meet a condition.
run_numbers <- function(result) result$runs %||% seq_len(run_count(result))

run_count <- function(result) length(result$outputs[[1]])

# Why a result does not hold all runs of its design, for every print, figure and report; NULL where it does.
partial_words <- function(result) {
  p <- result$provenance
  c(
    if (isTRUE(p$changed)) "CHANGED: these files are not as the simulation wrote them",
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
#'   dates are of class Date. `failures()`: a
#'   data frame with a row for each failed run and output: `run`, `output`, `reason`. `base_case()`: a data frame with
#'   `name`, `kind` (input or output), `value` and `unit`. `provenance()`: a list with `seed`, `nsim`, `design`,
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

#' @rdname result_readings
#' @export
as.data.frame.ensayo_result <- function(x, ...) {
  check_no_dots(..., .options = character())
  table <- run_table(x)
  for (name in date_outputs(x$study)) table[[name]] <- structure(table[[name]], class = "Date")
  new_table(table)
}

# Every run, days as numbers.
run_table <- function(result) {
  run <- run_numbers(result)
  unclass_table(new_table(c(list(run = run), replicate_column(result$provenance, run),
    list(failed = run %in% result$failures$run), result$draws, result$outputs)))
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
  new_table(result$failures)
}

#' @rdname result_readings
#' @export
base_case <- function(result) {
  check_result(result)
  values <- c(result$base$inputs, result$base$outputs)
  kind <- rep(c("input", "output"), c(length(result$base$inputs), length(result$base$outputs)))
  units <- vapply(names(values), function(name) quantity_unit(result$study, name) %||% "", "")
  new_table(list(name = names(values), kind = kind, value = values_column(values), unit = unname(units)))
}

#' @rdname result_readings
#' @export
provenance <- function(result) {
  check_result(result)
  result$provenance
}

#' @rdname result_readings
#' @export
study_of <- function(result) {
  check_result(result)
  result$study
}

#' @rdname result_readings
#' @param name Name of an output or input: `res$pressure` is its values, one for each run.
#' @export
`$.ensayo_result` <- function(x, name) {
  if (name %in% names(x)) return(.subset2(x, name))
  if (name %in% c(names(.subset2(x, "outputs")), names(.subset2(x, "draws")))) {
    return(c(.subset2(x, "outputs"), .subset2(x, "draws"))[[name]])
  }
  if (name %in% optional_result_fields) return(NULL)
  known <- c(names(.subset2(x, "outputs")), names(.subset2(x, "draws")))
  stop_unknown_name(name, known, "an output or input of the result")
}

# What only some results have: runs that are a part of a whole, and the like.
optional_result_fields <- c("runs", "given", "records")

#' @export
as.double.ensayo_result <- function(x, ...) {
  stop_ensayo("argument", "A result is not a number.", NULL,
    "`summary(result)` gives mean, sd and percentiles of each output; `result$name` the values of one.")
}

# The columns a formula on a result may use: draws, held inputs and outputs.
result_columns <- function(result) {
  c(result$draws, lapply(Filter(Negate(varies), result$study$inputs), held_value), result$outputs)
}

output_kind_of <- function(result, name) output_kind(result$study, name, result$outputs[[name]])

finite_values <- function(result, output) {
  values <- as.double(result$outputs[[output]])
  values[is.finite(values)]
}

resolve_outputs <- function(quosure, result, call = rlang::caller_env()) {
  resolve_names(quosure, names(result$outputs), "an output of the result", call)
}

# Outputs may be named before another argument or after it: gives both, the other evaluated. `outputs` and `other` are
# quosures.
outputs_and_other <- function(outputs, other, result) {
  swapped <- names_known(other, names(result$outputs))
  value <- if (swapped) outputs else other
  # a bare name that is nothing here was meant for an output
  if (rlang::quo_is_symbol(value)) value <- tryCatch(rlang::eval_tidy(value), error = function(e) {
    stop_unknown_name(rlang::as_label(rlang::quo_get_expr(value)), names(result$outputs), "an output of the result")
  })
  if (rlang::is_quosure(value)) value <- rlang::eval_tidy(value)
  list(outputs = if (swapped) other else outputs, other = value)
}

resolve_single_output <- function(quosure, result, call = rlang::caller_env()) {
  known <- names(result$outputs)
  if (rlang::quo_is_missing(quosure) && length(known) == 1) return(known)
  resolve_name(quosure, known, "an output of the result", call)
}
