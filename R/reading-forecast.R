#' Forecast at completion
#'
#' What a total comes to in the end, of something under way: what is spent, what remains, what events may still cost, and whether the
#' reserve that is left is enough.
#'
#' @inheritParams percentiles
#' @param total Name of one output, bare or as text.
#' @param reserve Number or `NULL`: the reserve that is left, in the total's unit.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for each of `"spent"` (items' costs to date, and events that are closed), `"remaining"` (the rest of
#'   the total in the base case, which holds events that are more likely than not), `"ranges"` (what they add to the mean without
#'   events), `"events"` (what those still possible add to the mean, beyond what the base case holds), `"mean"` (the sum of these),
#'   `"reserve needed"` (the planning percentile less spent and remaining, as in [contingency()]), `"percentile"`; with `reserve` also `"reserve left"` and `"chance"` (that spent, remaining and the reserve left are enough): `part`, `value`,
#'   `error` (its standard error for lack of runs), `unit`.
#' @section Errors: `ensayo_error_name` for an unknown output.
#' @examples
#' works <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.1, 80)) |>
#'   add_outputs(cost = output(pipe + sum(events), unit = "kEUR")) |>
#'   close_events(rock = 64)
#' forecast_total(simulate(works, nsim = 1000, seed = 11), cost, reserve = 60)
#' @export
forecast_total <- function(result, total, reserve = NULL, percentile = NULL) {
  check_result(result)
  total <- resolve_single_output(rlang::enquo(total), result)
  if (!is.null(reserve)) check_number(reserve)
  study <- result$study
  readings <- study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  at <- not_exceeded(percentile, readings$sense)
  values <- values_of(result, total)
  good <- is.finite(values)
  replicates <- telling_replicates(result)[good]
  values <- values[good]
  behind <- needed_outputs(study, total)
  spent <- sum(unlist(lapply(study$costs, function(tree) {
    unlist(lapply(tree$items, function(item) if (cost_name(tree, item$code) %in% behind) item$spent))
  }))) + sum(unlist(Map(function(event, name) event$closed[impact_name(name, names(event$impacts)) %in% behind], study$events,
    names(study$events))))
  open <- names(Filter(function(event) is.null(event$closed), study$events))
  none <- do.call(c, c(list(list()), lapply(open, without_event, study = study)))
  without <- if (length(none)) calculated_again(result, total, none)[good] else values
  plan <- as.double(result$base$outputs[[total]])
  bare <- planned_without_events(study, total, none)
  events <- values - without - (plan - bare)
  q <- percentile_values(values, at)
  q_error <- if (diff(range(values)) == 0) 0 else mean_error(percentile_influence(values, at), replicates)
  error <- function(x) if (diff(range(x)) == 0) 0 else mean_error(x, replicates)
  part <- c("spent", "remaining", "ranges", "events", "mean", "reserve needed", "percentile")
  value <- c(spent, plan - spent, mean(without) - bare, mean(events), mean(values), q - plan, q)
  errors <- c(0, 0, error(without), error(events), error(values), q_error, q_error)
  unit <- rep(quantity_unit(study, total) %||% "", length(part))
  if (!is.null(reserve)) {
    enough <- as.double(values <= plan + reserve)
    part <- c(part, "reserve left", "chance")
    value <- c(value, reserve, mean(enough))
    errors <- c(errors, 0, error(enough))
    unit <- c(unit, unit[1], "")
  }
  new_table(list(part = part, value = value, error = errors, unit = unit))
}

# The base case of a total without any event that is still open.
planned_without_events <- function(study, total, none) {
  inputs <- base_values(study)
  inputs[names(none)] <- none
  evaluator <- study_evaluator(study, run_setting(base_seed))
  on.exit(end_evaluator(evaluator))
  as.double(evaluator(inputs, 1)$values[[total]])
}
