# Results in other units.

#' Outputs in another unit
#'
#' Gives the result with some of its outputs in other units of the same dimension: every reading, figure and report of it shows them so.
#'
#' @param .result A result.
#' @param ... Outputs with units: `pressure = "bar"`. Units are those of [add_units()].
#' @return A result. Specs and chances that compare such an output with a number keep their meaning: the number is converted with it. It
#'   cannot be written as a folder or go on with more runs.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for an output without a unit, a unit that is not
#'   known (with the nearest one), or of another dimension.
#' @examples
#' res <- study("Pipe") |>
#'   add_inputs(flow = input(law_pert(0.028, 0.034, 0.048), unit = "m3/s")) |>
#'   add_outputs(drop = output(4200 * flow^2, unit = "kPa"), half = output(flow / 2, unit = "m3/s")) |>
#'   add_specs(drop <= 8) |>
#'   simulate(nsim = 1000, seed = 11)
#' in_unit(res, drop = "bar", half = "L/s")
#' @export
in_unit <- function(.result, ...) {
  check_result(.result)
  given <- rlang::dots_list(..., .homonyms = "error")
  study <- .result$study
  own <- own_units(study)
  call <- rlang::current_env()
  rules <- lapply(stats::setNames(nm = names_of(given)), function(name) {
    if (!name %in% names(study$outputs)) stop_unknown_name(name, names(study$outputs), "an output of the result")
    unit_rule(study, name, check_string(given[[name]], name), own, call)
  })
  converted <- .result
  for (name in names(rules)) {
    converted$study$outputs[[name]]$unit <- given[[name]]
    if (identical(study$outputs[[name]]$kind, "whole")) converted$study$outputs[[name]]["kind"] <- list(NULL)
    base <- converted$base$outputs[[name]]
    converted$base$outputs[[name]] <- as.double(base) * rules[[name]]$times + rules[[name]]$plus
  }
  converted$study$specs[] <- lapply(converted$study$specs, in_converted_units, rules)
  converted$study$readings$chances[] <- lapply(converted$study$readings$chances, in_converted_units, rules)
  specs <- converted$study$specs
  unnamed <- vapply(seq_along(specs), function(i) identical(names(specs)[i], study$specs[[i]]$text), NA)
  names(converted$study$specs)[unnamed] <- vapply(specs[unnamed], function(spec) spec$text, "")
  converted$store <- store_converted(.result$store, rules)
  converted$provenance$in_unit <- c(.result$provenance$in_unit, rules)
  converted
}

# A condition about converted outputs: numbers that they are compared with are converted, else the output is converted back.
in_converted_units <- function(formula, rules) {
  if (!any(formula$uses %in% names(rules))) return(formula)
  change <- function(expr) {
    if (is.symbol(expr)) {
      rule <- rules[[as.character(expr)]]
      if (is.null(rule)) return(expr)
      return(converted_expr(expr, list(times = 1 / rule$times, plus = -rule$plus / rule$times)))
    }
    if (!is.call(expr)) return(expr)
    if (call_head(expr) %in% c("<", "<=", ">", ">=", "==", "!=")) {
      sides <- as.list(expr)[-1]
      named <- vapply(sides, function(side) is.symbol(side) && as.character(side) %in% names(rules), NA)
      number <- vapply(sides, function(side) is.numeric(side) || rlang::is_call(side, "-", 1) && is.numeric(side[[2]]), NA)
      if (sum(named) == 1 && sum(number) == 1) {
        rule <- rules[[as.character(sides[[which(named)]])]]
        expr[[1 + which(number)]] <- signif(eval(sides[[which(number)]], baseenv()) * rule$times + rule$plus, 15)
        return(expr)
      }
    }
    for (i in seq_along(expr)[-1]) if (!rlang::is_missing(expr[[i]])) expr[[i]] <- change(expr[[i]])
    expr
  }
  with_expr(formula, change(formula$expr))
}

# Values that were calculated again, in the unit that was asked for.
in_asked_unit <- function(result, name, values) {
  rule <- result$provenance$in_unit[[name]]
  if (is.null(rule)) values else values * rule$times + rule$plus
}
