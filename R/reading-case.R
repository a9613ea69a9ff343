#' Single cases without uncertainty
#'
#' The outputs for stated values of the inputs: what a spreadsheet would say. Inputs that are not named are at their
#' base values. Of a result each figure comes with the percentile at which it sits among the runs.
#'
#' @param x A study or a result.
#' @param ... Inputs as `name = value` for one case; or named cases, each a list of such: `low = list(demand = 28),
#'   high = list(demand = 48)`. With nothing, the base case.
#' @param .cases A data frame with a row for each case: a column `case` if wanted, and one for each input that is set.
#' @return A data frame with a row for each case and output: `case`, `output`, `value`, `unit`, `kind`; of a result
#'   `at`, the percentile (0 to 100, in the study's sense) at which the value sits in the simulated output; and
#'   `remark`: why an output failed. Specs have rows after the outputs, 1 where they are met.
#' @section Errors: `ensayo_error_name` for an unknown input (with the nearest one); `ensayo_error_argument` for what is
#'   no value.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' evaluate(main, flow = 0.04)
#' evaluate(simulate(main, 1000, 11), low = list(flow = 0.03), high = list(flow = 0.045))
#' @export
evaluate <- function(x, ..., .cases = NULL) {
  result <- if (inherits(x, "ensayo_result")) x
  study <- if (is.null(result)) check_study(x) else result$study
  validate_study(study)
  given <- rlang::dots_list(..., .homonyms = "error")
  cases <- c(cases_of_dots(given), cases_of_table(.cases))
  if (length(cases) == 0) cases <- list(base = list())
  rows <- lapply(names(cases), function(case) case_rows(study, result, case, cases[[case]]))
  table <- do.call(rbind, rows)
  if (is.null(result)) table$at <- NULL
  new_table(as.list(table))
}

cases_of_dots <- function(given) {
  if (length(given) == 0) return(list())
  is_case <- vapply(given, is.list, TRUE)
  if (all(is_case)) return(stats::setNames(given, names_of(given)))
  if (any(is_case)) {
    stop_ensayo("argument", "Give the inputs of one case, or named cases, each a list.",
      sprintf("%s is a value beside a case.", quoted(names(given)[!is_case][1])),
      "Such as `evaluate(study, low = list(demand = 28), high = list(demand = 48))`.")
  }
  list(case = given)
}

cases_of_table <- function(table) {
  if (is.null(table)) return(list())
  check_class(table, "data.frame", "a data frame with a row for each case", ".cases")
  names <- if (is.null(table$case)) sprintf("case %d", seq_len(nrow(table))) else as.character(table$case)
  inputs <- table[setdiff(names(table), "case")]
  rows <- lapply(seq_len(nrow(table)), function(i) Filter(Negate(is.na), as.list(inputs[i, , drop = FALSE])))
  stats::setNames(rows, names)
}

case_rows <- function(study, result, case, values) {
  for (name in names_of(values)) check_known_input(study, name)
  fixed <- fix_inputs(study, !!!lapply(values, function(value) if (is.factor(value)) as.character(value) else value))
  outcome <- base_case_of(fixed)
  found <- vapply(outcome$outputs[scalar_outputs(study)], as.double, 0)
  if (!is.null(result)) found[] <- mapply(function(name, value) in_asked_unit(result, name, value), names(found), found)
  met <- new_evaluator(study$specs)(case_columns(outcome, study), 1)$values
  names <- names(found)
  reason <- outcome$failures$reason[match(names, outcome$failures$output)]
  sense <- study$readings$sense
  data.frame(
    case = case, output = c(names, names(met)), value = c(unname(found), as.double(unlist(met))),
    unit = c(text_of(names, function(name) quantity_unit(study, name)), rep("", length(met))),
    kind = c(text_of(names, function(name) study$outputs[[name]]$kind %||% "number"), rep("yes/no", length(met))),
    at = c(vapply(names, function(name) {
      if (is.null(result)) NA_real_ else percentile_in_sense(finite_values(result, name), found[[name]], sense)
    }, 0, USE.NAMES = FALSE), rep(NA_real_, length(met))),
    remark = c(ifelse(is.na(reason), "", paste("failed:", reason)), rep("", length(met)))
  )
}
