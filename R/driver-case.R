#' One input at a time
#'
#' `one_at_a_time()` moves each input from a low to a high percentile of its law while the others stay at their base
#' values, and reads each output off: the classic range tornado. `two_way_table()` does it for a pair of inputs over
#' a grid. Neither sees what inputs do together beyond that.
#'
#' @param study A study.
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @param low,high Numbers from 0 to 100: the percentiles (not exceeded) of each input.
#' @return `one_at_a_time()`: a data frame with a row for each output and input that varies, the widest swing first:
#'   `output`, `input`, `input_low` and `input_high` (the input's values), `at_low`, `at_high` (the output there),
#'   `base` (the output at all base values), `swing` (at high less at low), `sign`, `rank`, `unit` and `remark` (an
#'   output that failed, or one that bends: its extremes lie within).
#' @details Categories go from the first to the last of their law. An input whose parameters are formulas of others
#'   takes the percentiles of its law at their base values.
#' @section Errors: `ensayo_error_name` for an unknown output or input; `ensayo_error_argument` for percentiles out
#'   of order.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' one_at_a_time(main)
#' two_way_table(main, flow, diameter, velocity)
#' @export
one_at_a_time <- function(study, outputs = NULL, low = 10, high = 90) {
  check_study(study)
  validate_study(study)
  outputs <- resolve_names(rlang::enquo(outputs), scalar_outputs(study), "an output of the study")
  check_number(low, at_least = 0, at_most = 100)
  check_number(high, at_least = 0, at_most = 100)
  if (low >= high) stop_argument("low", sprintf("below `high`, %s", format(high)), low)
  inputs <- varying_names(study)
  grid <- lapply(stats::setNames(nm = inputs), function(name) {
    input_values(study, name, c(low, 25, 50, 75,
      high)[c(TRUE, low < 25 & high > 25, low < 50 & high > 50, low < 75 & high > 75, TRUE)])
  })
  base <- cases_of(study, list())
  moved <- lapply(stats::setNames(nm = inputs), function(name) cases_of(study, grid[name]))
  rows <- lapply(outputs, function(output) {
    parts <- lapply(inputs, function(name) moved_row(study, output, name, grid[[name]], moved[[name]][[output]],
      base[[output]]))
    table <- do.call(rbind, parts)
    table <- table[order(is.na(table$swing), -abs(table$swing)), ]
    table$rank <- seq_len(nrow(table))
    table[c("output", "input", "input_low", "input_high", "at_low", "at_high", "base", "swing", "sign", "rank", "unit",
      "remark")]
  })
  new_table(as.list(do.call(rbind, rows)))
}

moved_row <- function(study, output, name, values, at, base) {
  n <- length(at)
  swing <- at[n] - at[1]
  bent <- all(is.finite(at)) && (max(at) > max(at[c(1, n)]) + 0.01 * abs(swing) ||
    min(at) < min(at[c(1, n)]) - 0.01 * abs(swing))
  number <- function(x) if (is.character(x)) NA_real_ else x
  data.frame(output = output, input = name, input_low = number(values[1]), input_high = number(values[n]),
    at_low = at[1], at_high = at[n], base = base, swing = swing,
    sign = if (!is.finite(swing) || swing == 0) "" else if (swing > 0) "raises" else "lowers",
    unit = quantity_unit(study, output) %||% "",
    remark = if (!is.finite(swing)) "the output failed"
      else if (bent) sprintf("bends: from %s to %s between", format_number(min(at)),
      format_number(max(at))) else "")
}

# Values of an input at percentiles of its law, that of linked parameters at base values.
input_values <- function(study, name, percentiles) {
  law <- study$inputs[[name]]$law
  if (is_linked(law)) law <- linked_law_at(law, base_values(study))
  if (is_categorical(law)) {
    values <- parameters_of(law)$values
    return(values[unique(round(seq(1, length(values), length.out = length(percentiles))))])
  }
  unique(quantile(law, percentiles / 100))
}

# Outputs with some inputs at each of the values given and all others at base: a list of columns.
cases_of <- function(study, values) {
  fixed <- base_values(study)
  n <- max(1, lengths(values))
  if (any(vapply(study$inputs, function(input) is_law(input$law) && is_linked(input$law), TRUE))) {
    cases <- lapply(seq_len(n), function(i) {
      base_values(fix_inputs(study, !!!lapply(values, `[[`, i)))
    })
    columns <- lapply(stats::setNames(nm = names(fixed)), function(name) unlist(lapply(cases, `[[`, name)))
  } else columns <- utils::modifyList(fixed, values)
  evaluator <- study_evaluator(study, run_setting(base_seed))
  on.exit(end_evaluator(evaluator))
  outputs <- scalar_outputs(study)
  if (length(drawing_models(study)) == 0) return(lapply(evaluator(columns, seq_len(n))$values[outputs], as.double))
  # what a model draws itself is the same in every case, or its scatter would pass for an effect
  cases <- lapply(seq_len(n), function(i) {
    lapply(evaluator(lapply(columns, function(column) column[min(i, length(column))]), 1)$values[outputs], as.double)
  })
  joined_columns(cases)
}

#' @rdname one_at_a_time
#' @param a,b Names of two inputs, bare or as text.
#' @param output Name of an output, bare or as text; may be left out where there is one only.
#' @param percentiles Numeric from 0 to 100: of each input.
#' @return `two_way_table()`: a data frame with a row for each pair of values: two columns named after the inputs,
#'   and the output's.
#' @export
two_way_table <- function(study, a, b, output, percentiles = c(10, 30, 50, 70, 90)) {
  check_study(study)
  validate_study(study)
  varying <- varying_names(study)
  a <- resolve_name(rlang::enquo(a), varying, "an input that varies")
  b <- resolve_name(rlang::enquo(b), varying, "an input that varies")
  if (a == b) stop_argument("b", "another input than `a`", b)
  output <- resolve_name(rlang::enquo(output), scalar_outputs(study), "an output of the study")
  percentiles <- check_percentiles(percentiles)
  grid <- expand.grid(input_values(study, a, percentiles), input_values(study, b, percentiles),
    stringsAsFactors = FALSE)
  grid <- stats::setNames(as.list(grid), c(a, b))
  new_table(c(grid, cases_of(study, grid)[output]))
}
