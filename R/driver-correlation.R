#' What drives each output
#'
#' One row for each input that varies and each output: how strongly the two move together over the runs.
#'
#' @param result A result.
#' @param measure `"rank"`: Spearman's rank correlation, which follows any rising or falling relation; `"pearson"`:
#'   Pearson's, which follows straight ones. Both are blind to a relation that goes down and up.
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @return A data frame, sorted by output and then from the strongest driver to the weakest: `output`, `input`,
#'   `measure`, `value` (the correlation, from -1 to 1), `share` (its square, as a share of the squares of all inputs
#'   that enter the output: an approximate share of variance, adding up to 1), `rank`, and `remark`: which inputs do
#'   not enter the output and at most move with one that does; their share is 0. Where an output does not vary,
#'   `value` is `NaN`.
#' @details Shares hold where inputs are not correlated with each other and outputs rise or fall steadily with each
#'   input. Under correlation an input is credited with what its companions do. Failed runs are left out.
#' @section Errors: `ensayo_error_argument` for an unknown measure; `ensayo_error_name` for an unknown output.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' drivers(res)
#' @export
drivers <- function(result, measure = "rank", outputs = NULL) {
  check_result(result)
  measure <- check_choice(measure, c("rank", "pearson"))
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  values <- driver_values(result, outputs, measure)
  parts <- lapply(outputs, function(name) drivers_of(result, name, measure, values[[name]]))
  empty <- data.frame(output = character(), input = character(), measure = character(), value = numeric(),
    share = numeric(), rank = integer(), remark = character())
  new_table(do.call(rbind, c(list(empty), parts)))
}

# The measure of every input on some outputs: a named list of them. Outputs with failed runs are looked at one by one,
# over their other runs.
driver_values <- function(result, outputs, measure = "rank") {
  inputs <- numeric_draws(result$study, result$draws)
  effects <- lapply(result$outputs[outputs], as.double)
  whole <- vapply(effects, all_finite, TRUE)
  values <- as.list(outputs)
  names(values) <- outputs
  at_once <- correlations_between(inputs, effects[whole], measure == "rank")
  values[whole] <- lapply(seq_len(sum(whole)), function(k) at_once[, k])
  values[!whole] <- lapply(outputs[!whole], function(name) {
    good <- is.finite(effects[[name]])
    kept <- lapply(c(effects[name], inputs), function(column) column[good])
    correlations_between(kept[-1], kept[1], measure == "rank")[, 1]
  })
  lapply(values, stats::setNames, names(inputs))
}

drivers_of <- function(result, output, measure = "rank", value = driver_values(result, output, measure)[[1]]) {
  enters <- names(value) %in% inputs_behind(result$study, output)
  weight <- ifelse(enters & is.finite(value), value^2, 0)
  order <- order(!enters, -abs(value))
  table <- data.frame(output = rep(output, length(value)), input = names(value), measure = rep(measure, length(value)),
    value = unname(value), share = weight / sum(weight), rank = rep(NA_integer_, length(value)),
    remark = ifelse(enters, "", "does not enter this output"))[order, ]
  table$rank <- seq_along(value)
  table
}

# The inputs an output needs, by way of other outputs and of parameters of other inputs too.
inputs_behind <- function(study, output) {
  uses <- study$outputs[[output]]$formula$uses
  outputs <- intersect(uses, names(study$outputs))
  found <- unique(c(intersect(uses, names(study$inputs)), unlist(lapply(outputs, inputs_behind, study = study))))
  repeat {
    linked <- unlist(lapply(study$inputs[found], function(input) links_of(input$law)))
    if (all(linked %in% found)) return(found)
    found <- unique(c(found, linked))
  }
}
