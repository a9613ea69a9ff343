#' What it is worth to be rid of something
#'
#' For every event, common cause, uncertain input or group: how much lower (or higher) the mean, the planning percentile and the chance of a target
#' would be without it, on the same runs, with the simulation error of that difference; for events with a response, net of what it
#' costs.
#'
#' @inheritParams percentiles
#' @param output Name of one output, bare or as text.
#' @param target A condition such as `cost <= 900`, or `NULL`: its chance is then compared as well.
#' @param of `"events"`: each event is kept from happening; `"causes"`: all events of a common cause are ([add_common_cause()]);
#'   `"inputs"`: each input is held at its base value; `"groups"`: all inputs and cost items of a group, and events of a category, at
#'   once; `"responses"`: each response is taken. Several at once are possible.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for each, the largest gain of the percentile first: `name`, `kind`, `label`, `happens` (in what
#'   share of runs), `mean_gain` and `mean_error`, `gain` and `error` (of the percentile: how much lower it is without; its standard
#'   error), `chance_gain` and `chance_error` (of the target), `cost` (the mean cost of its response, where it has one), `net` (the
#'   gain of the mean less that cost; of responses the gain is net already), `beyond_noise`, and `unit`.
#' @section Method: runs in which an event does not happen stay as they are; the others are made again without it. Where the output is
#'   a plain sum, inputs need no runs. The error is that of paired runs, by the influence of each on the percentile (Hampel 1974). Gains
#'   do not add up: two events that each cause a delay in the same run are each worth little alone.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for what is not of the stated kind, or nothing
#'   of it is in the study.
#' @seealso [respond()] to compare with responses; [allotments()] for parts of a reserve.
#' @examples
#' works <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.02, 400)) |>
#'   add_outputs(cost = output(pipe + sum(events), unit = "kEUR"))
#' res <- simulate(works, nsim = 1000, seed = 11)
#' removal_gain(res, cost, target = cost <= 480)
#' @export
removal_gain <- function(result, output, target = NULL, of = c("events", "inputs"), percentile = NULL) {
  check_result(result)
  output <- resolve_single_output(rlang::enquo(output), result)
  kinds <- c("events", "causes", "inputs", "groups", "responses")
  if (!is.character(of) || length(of) == 0 || !all(of %in% kinds)) stop_argument("of", sprintf("one or more of %s",
    and_list(quoted(kinds))), of)
  readings <- result$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  target <- rlang::enquo(target)
  condition <- if (!rlang::quo_is_null(target)) {
    read_conditions(stats::setNames(rlang::new_quosures(list(target)), ""), quantity_vocabulary(result$study), "Target",
      rlang::caller_env())[[1]]
  }
  if (!is.null(condition) && length(setdiff(condition$uses, output))) {
    stop_argument("target", sprintf("a condition of %s alone", quoted(output)), condition$text)
  }
  gain_table(result, output, condition, of, not_exceeded(percentile, readings$sense), percentile)
}

gain_table <- function(result, output, condition, of, at, percentile) {
  study <- result$study
  values <- values_of(result, output)
  replicates <- telling_replicates(result)
  met <- if (!is.null(condition)) function(values) as.double(evaluate_condition_of(condition, output, values))
  candidates <- do.call(c, c(list(list()), lapply(of, function(kind) removal_candidates(result, output, kind))))
  terms <- plain_terms_of(study, output)
  with <- part_of_gain(values, at, met)
  figures <- vapply(candidates, function(candidate) {
    without <- values_without(result, output, values, candidate, terms)
    good <- is.finite(values) & is.finite(without)
    # the same in every run: nothing is gained, for certain
    if (identical(without[good], values[good])) return(c(0, 0, 0, 0, if (is.null(met)) c(NA, NA) else c(0, 0)))
    before <- if (all(good)) with else part_of_gain(values[good], at, met)
    after <- part_of_gain(without[good], at, met)
    error <- function(d) mean_error(d, replicates[good])
    chances <- if (!is.null(met)) after$met - before$met
    c(mean(before$values - after$values), error(before$values - after$values), before$percentile - after$percentile,
      error(before$influence - after$influence), if (is.null(met)) c(NA, NA) else c(mean(chances), error(chances)))
  }, numeric(6))
  field <- function(key, type) vapply(candidates, function(candidate) candidate[[key]], type)
  table <- data.frame(name = field("name", ""), kind = field("kind", ""), label = field("label", ""), happens = field("happens", 0),
    mean_gain = figures[1, ], mean_error = figures[2, ], gain = figures[3, ], error = figures[4, ], chance_gain = figures[5, ],
    chance_error = figures[6, ], cost = field("cost", 0))
  table$net <- table$mean_gain - ifelse(table$kind == "response", 0, table$cost)
  table$beyond_noise <- abs(table$gain) > half_interval(table$error, result) & table$gain != 0
  table$percentile <- rep(percentile, nrow(table))
  table$unit <- rep(quantity_unit(study, output) %||% "", nrow(table))
  new_table(as.list(table[order(-abs(table$gain), -abs(table$mean_gain)), ]))
}

# What a gain is the difference of.
part_of_gain <- function(values, at, met) {
  list(values = values, percentile = percentile_values(values, at), influence = percentile_influence(values, at),
    met = if (!is.null(met)) met(values))
}

evaluate_condition_of <- function(condition, output, values) {
  columns <- stats::setNames(list(values), output)
  new_evaluator(list(held = condition))(columns, seq_along(values))$values$held
}

# What may be taken away: `changed` are other values of inputs, in runs `rows` (NULL for all).
removal_candidates <- function(result, output, kind) {
  study <- result$study
  behind <- reach_of(study)(output)
  candidate <- function(name, changed, label = "", happens = NA_real_, rows = NULL, cost = NA_real_) {
    list(name = name, kind = sub("s$", "", kind), changed = changed, label = label, happens = happens, rows = rows, cost = cost)
  }
  if (kind %in% c("events", "responses")) {
    events <- Filter(function(name) any(event_input_names(study, name) %in% behind), names(study$events))
    if (kind == "responses") events <- Filter(function(name) !is.null(study$events[[name]]$response) &&
      !isTRUE(study$events[[name]]$responded), events)
    return(lapply(events, function(name) {
      event <- study$events[[name]]
      rows <- which(run_column(result, part_name(name, "happened")) %in% TRUE)
      found <- candidate(name, without_event(study, name), event$label %||% "", length(rows) / run_count(result), rows,
        response_cost(result, name, rows))
      if (kind == "responses") found$study <- name
      found
    }))
  }
  if (kind == "causes") {
    causes <- Filter(function(events) any(unlist(lapply(events, event_input_names, study = study)) %in% behind), common_causes(study))
    return(lapply(causes, function(events) {
      rows <- which(Reduce(`|`, lapply(part_name(events, "happened"), function(name) run_column(result, name) %in% TRUE)))
      candidate(paste(events, collapse = " + "), do.call(c, lapply(events, without_event, study = study)),
        happens = length(rows) / run_count(result), rows = rows)
    }))
  }
  own <- setdiff(intersect(varying_names(study), behind), unlist(lapply(names(study$events), event_input_names, study = study)))
  base <- base_values(study)
  if (kind == "inputs") return(lapply(own, function(name) candidate(name, base[name], study$inputs[[name]]$label %||% "")))
  groups <- text_of(study$inputs[own], function(input) input$group %||% input$item_group)
  categories <- text_of(study$events, function(event) event$category)
  lapply(setdiff(unique(c(groups, categories)), ""), function(group) {
    events <- names(study$events)[categories == group]
    candidate(group, c(base[own[groups == group]], do.call(c, lapply(events, without_event, study = study))))
  })
}

event_input_names <- function(study, name) {
  intersect(c(part_name(name, c("draw", "probability", "response cost")), part_name(name, "impact", names(study$events[[name]]$impacts))),
    names(study$inputs))
}

# Other values of an event's inputs with which it does not happen.
without_event <- function(study, name) {
  event <- study$events[[name]]
  if (!is.null(event$closed)) return(list())
  if (!is.null(event$probability)) return(stats::setNames(list(0), part_name(name, "draw")))
  stats::setNames(rep(list(0), length(event$impacts)), part_name(name, "impact", names(event$impacts)))
}

response_cost <- function(result, name, rows) {
  response <- result$study$events[[name]]$response
  if (is.null(response)) return(NA_real_)
  mean <- if (is_law(response$cost)) mean(response$cost) else response$cost
  if (response$when == "occurs") mean * length(rows) / run_count(result) else mean
}

# `terms` are what the output is a plain sum of: of these the runs at hand say what is left without.
values_without <- function(result, output, values, candidate, terms) {
  if (!is.null(candidate$study)) return(values_after_response(result, output, candidate))
  if (candidate$kind == "input" && candidate$name %in% names(terms)) {
    return(values - terms[[candidate$name]] * (as.double(values_of(result, candidate$name)) - candidate$changed[[1]]))
  }
  if (candidate$kind == "event" && candidate$name %in% names(terms)) {
    return(values - terms[[candidate$name]] * values_of(result, candidate$name))
  }
  if (is.null(candidate$rows)) return(calculated_again(result, output, candidate$changed))
  if (length(candidate$rows)) values[candidate$rows] <- calculated_again(result, output, candidate$changed, candidate$rows)
  values
}

# The study with one more response taken, on the same draws.
values_after_response <- function(result, output, candidate) {
  taken <- names(Filter(function(event) isTRUE(event$responded), result$study$events))
  after <- result
  after$study <- do.call(respond, list(result$study, c(taken, candidate$study)))
  # of laws that changed the draws are made again at the same addresses
  changed <- Filter(function(name) !identical(after$study$inputs[[name]]$law, result$study$inputs[[name]]$law),
    varying_names(after$study))
  if (length(changed) == 0) return(calculated_again(after, output, list()))
  runs <- run_numbers(result)
  first <- min(runs) - 1
  drawn <- draw_columns(after$study, plan_again(result$provenance), first, max(runs) - first)[changed]
  calculated_again(after, output, lapply(drawn, column_at, runs - first))
}

# By what inputs, and impacts of events, enter an output that is a plain sum; of those that enter it in no other way.
plain_terms_of <- function(study, output) {
  tree <- sum_tree(study, output)
  if (nrow(tree) == 0) return(NULL)
  impacts <- names(Filter(function(event) identical(names(event$impacts), ""), study$events))
  leaves <- tree[is_lowest(tree), ]
  # what is calculated from others has these behind it
  calculated <- setdiff(leaves$name, c(names(study$inputs), impacts))
  leaves <- leaves[leaves$name %in% c(names(study$inputs), impacts), ]
  reach <- reach_of(study)
  behind <- if (length(calculated)) reach(calculated) else character()
  # what another event's occurrence depends on is no plain term
  used <- c(behind, unlist(lapply(impacts, function(name) {
    setdiff(reach(name), event_input_names(study, name))
  })))
  plain <- vapply(leaves$name, function(name) {
    !any((if (name %in% impacts) event_input_names(study, name) else name) %in% used)
  }, NA)
  leaves <- leaves[plain, ]
  as.list(tapply(leaves$sign, leaves$name, sum))
}
