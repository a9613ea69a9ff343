#' Costs of a breakdown, code by code
#'
#' Each code of a cost tree with its own percentiles; beside those of a total the sum of the percentiles of what stands right under it,
#' which is no percentile of anything; and what of the total's contingency belongs to it.
#'
#' @inheritParams percentiles
#' @param tree Text: which cost tree, where a study has several.
#' @return A data frame with a row for the total and one for each code, in the order of the tree: `code`, `level`, `label`, `base`,
#'   `mean`, `sd`, a column for each percentile, `sum_of_parts` (the sum of the planning percentiles of the codes right under it),
#'   `allotment` and its standard `error` ([allotments()]), `unit`, `quantity` (the output), and `leaf`.
#' @section Why they differ: means add up. Percentiles add up only if all parts are high in the same runs; the less they hang together,
#'   the more the sum of their P80 exceeds the total's P80.
#' @section Errors: `ensayo_error_argument` where the study has no costs.
#' @examples
#' example(add_costs)
#' @export
cost_table <- function(result, tree = NULL, percentiles = NULL) {
  check_result(result)
  tree <- cost_tree_asked(result, tree)
  readings <- result$study$readings
  stated <- if (is.null(percentiles)) sort(unique(c(readings$percentiles, readings$planning))) else check_percentiles(percentiles)
  cost_table_of(result, tree, stated, readings$planning)
}

cost_tree_asked <- function(result, tree, call = rlang::caller_env()) {
  known <- names(result$study$costs)
  if (length(known) == 0) stop_ensayo("argument", "The study must have costs.", "It has none.", "Add them with `add_costs()`.",
    call = call)
  if (is.null(tree)) return(result$study$costs[[1]])
  if (!tree %in% known) stop_unknown_name(tree, known, "a cost tree of the study", call = call)
  result$study$costs[[tree]]
}

cost_table_of <- function(result, tree, percentiles, planning) {
  study <- result$study
  levels <- cost_levels(tree)
  rows <- data.frame(code = c("", levels$code), level = c(0, levels$level), leaf = c(FALSE, levels$leaf),
    name = c(tree$name, cost_name(tree, levels$code)))
  rows$label <- c("", vapply(tree$items[levels$code], function(item) item$label %||% "", ""))
  statistics <- statistics_table(result, rows$name, unique(c(percentiles, planning)))
  value <- function(p) statistics[[percentile_names(p)]]
  table <- list(code = rows$code, level = rows$level, label = rows$label, base = unlist(statistics$base), mean = statistics$mean,
    sd = statistics$sd)
  table[percentile_names(percentiles)] <- lapply(percentiles, value)
  plan <- value(planning)
  table$sum_of_parts <- vapply(seq_len(nrow(rows)), function(i) {
    under <- if (i == 1) rows$level == 1 else rows$code %in% levels$code[levels$parent == rows$code[i]]
    if (any(under)) sum(plan[under]) else NA_real_
  }, 0)
  # codes in the order of the tree, as its sums have them
  parts <- data.frame(name = rows$name[-1], sign = 1, level = rows$level[-1])
  allotted <- if (nrow(parts)) allotment_table(result, tree$name, parts, planning)
  at <- match(rows$name, allotted$name)
  table$allotment <- allotted$allotment[at]
  table$error <- allotted$error[at]
  table$unit <- rep(tree$currency %||% "", nrow(rows))
  table$quantity <- rows$name
  table$leaf <- rows$leaf
  new_table(table)
}

#' Plan, ranges and events
#'
#' What of a total is the plan, what the ranges of its inputs add, and what the events: the same total in the base case, with ranges
#' alone, with events alone, and with both, on the same runs.
#'
#' @inheritParams percentiles
#' @param total Name of one output, bare or as text.
#' @return A data frame with a row for each of `"plan"` (the base case), `"ranges alone"` (no event happens), `"events alone"` (all
#'   other inputs at their base values) and `"both"`: `part`, `mean`, `sd`, a column for each percentile, `error` (the standard
#'   error of the planning percentile), and `unit`. Percentiles of the parts do not add up to those of both.
#' @section Errors: `ensayo_error_argument` where the study has no events.
#' @examples
#' works <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120))) |>
#'   add_outputs(cost = output(pipe + sum(events), unit = "kEUR"))
#' split_total(simulate(works, nsim = 1000, seed = 11), cost)
#' @export
split_total <- function(result, total, percentiles = NULL) {
  check_result(result)
  total <- resolve_single_output(rlang::enquo(total), result)
  study <- result$study
  if (length(study$events) == 0) stop_ensayo("argument", "The study must have events for its total to be split.", "It has none.",
    "Add them with `add_events()`.")
  readings <- study$readings
  percentiles <- if (is.null(percentiles)) sort(unique(c(readings$percentiles, readings$planning))) else check_percentiles(percentiles)
  columns <- parts_of_risk(result, total)
  at <- not_exceeded(percentiles, readings$sense)
  planning <- not_exceeded(readings$planning, readings$sense)
  replicates <- telling_replicates(result)
  table <- list(part = names(columns), mean = vapply(columns, mean, 0, na.rm = TRUE, USE.NAMES = FALSE),
    sd = vapply(columns, stats::sd, 0, na.rm = TRUE, USE.NAMES = FALSE))
  read <- vapply(columns, function(x) percentile_values(x[is.finite(x)], at), numeric(length(at)))
  table[percentile_names(percentiles)] <- asplit(matrix(read, length(at)), 1)
  table[percentile_names(percentiles)] <- lapply(table[percentile_names(percentiles)], as.double)
  table$error <- vapply(columns, function(x) {
    good <- is.finite(x)
    if (diff(range(x[good])) == 0) 0 else mean_error(percentile_influence(x[good], planning), replicates[good])
  }, 0, USE.NAMES = FALSE)
  table$unit <- rep(quantity_unit(study, total) %||% "", length(columns))
  new_table(table)
}

# The total's runs as plan, with ranges alone, with events alone and with both.
parts_of_risk <- function(result, total) {
  study <- result$study
  of_events <- unlist(lapply(names(study$events), event_input_names, study = study))
  own <- setdiff(varying_names(study), of_events)
  both <- values_of(result, total)
  none <- do.call(c, c(list(list()), lapply(names(study$events), without_event, study = study)))
  plan <- as.double(result$base$outputs[[total]])
  list(plan = rep(plan, length(both)), `ranges alone` = calculated_again(result, total, none),
    `events alone` = calculated_again(result, total, base_values(study)[own]), both = both)
}
