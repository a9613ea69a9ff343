# What is won by shortening tasks, and by being rid of events.

#' What is won by shortening a task
#'
#' For each task, or each event that acts on tasks: how many days earlier the project's mean finish and its planning percentile would be, on the
#' same runs, with the simulation error of that difference.
#'
#' @inheritParams percentiles
#' @param of `"shorter"`: each task's own duration is `percent` less in every run; `"least"`: it is the least of any run; `"certain"`: it is its
#'   mean in every run, so that its spread is gone; what events add to it stays. `"events"`: each event is kept from happening. Several at once
#'   are possible.
#' @param percent Number above 0 and up to 100: by how many per cent tasks are shorter.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for each, the largest gain of the percentile first: `name`, `kind`, `label`, `critical` (the share of runs in
#'   which the task is critical; for events that in which it happens), `mean_gain` and `mean_error`, `gain` and `error` (of the percentile; their
#'   standard errors), in days on the wall, `beyond_noise`, `percentile`.
#' @section Method: the schedule is calculated again with the changed work; without an event, and those that need it, every quantity that it
#'   acts on is. Where a task gets shorter only runs in which it is critical can
#'   finish earlier, and the others are left as they are. Gains do not add up: two tasks side by side are each worth little alone.
#' @section Errors: `ensayo_error_argument` where the study has no tasks, or nothing that is asked for is there.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(5, 9, 20)),
#'     lay = task(law_pert(6, 8, 14), after = "dig, order"))
#' schedule_gains(simulate(works, nsim = 1000, seed = 11), of = c("shorter", "certain"))
#' @export
schedule_gains <- function(result, of = "shorter", percent = 10, percentile = NULL) {
  check_schedule(result)
  kinds <- c("shorter", "least", "certain", "events")
  if (!is.character(of) || length(of) == 0 || !all(of %in% kinds)) stop_argument("of", sprintf("one or more of %s", and_list(quoted(kinds))),
    of)
  percent <- check_number(percent, above = 0, at_most = 100)
  readings <- result$study$readings
  percentile <- check_percentiles(percentile %||% readings$planning, "percentile")[1]
  schedule_gain_rows(result, of, percent, percentile)
}

schedule_gain_rows <- function(result, of, percent, percentile) {
  study <- result$study
  at <- not_exceeded(percentile, study$readings$sense)
  candidates <- do.call(c, c(list(list()), lapply(of, function(kind) {
    if (kind == "events") removal_candidates(result, "project_finish", "events") else shorter_tasks(study, kind)
  })))
  if (length(candidates) == 0) stop_argument("of", "something that the schedule has", of)
  places <- vapply(candidates, function(candidate) candidate$place %||% NA_integer_, 0L)
  open <- unique(places[!is.na(places)])
  ready <- ready_schedule(result)
  made <- schedule_pass(result, list(critical = open), ready)
  good <- made$failed == 0
  with <- part_of_gain(made$exact[good], at, NULL)
  replicates <- telling_replicates(result)[good]
  rows <- lapply(seq_along(candidates), function(k) {
    candidate <- candidates[[k]]
    if (!is.na(places[k])) candidate$critical <- made$critical[[match(places[k], open)]]
    gained <- gained_days(with, made$exact, finish_without(result, candidate, made$exact, good, percent, ready), good, at, replicates)
    list2DF(c(list(name = candidate$name, kind = candidate$kind, label = candidate$label,
      critical = if (is.na(places[k])) candidate$happens else mean(candidate$critical[good])), gained))
  })
  table <- stacked(rows)
  table$beyond_noise <- abs(table$gain) > half_interval(table$error, result) & table$gain != 0
  table$percentile <- rep(percentile, nrow(table))
  new_table(as.list(table[order(-abs(table$gain), -abs(table$mean_gain)), ]))
}

# Tasks with work of their own to do, each a candidate as events are (reading-gain.R), at its `place` in the plan.
shorter_tasks <- function(study, kind) {
  plan <- study$models$schedule$plan
  works <- task_part(plan$names, "duration") %in% quantity_names(study)
  lapply(which(is.na(plan$tasks$finished) & works), function(i) {
    list(name = plan$names[i], kind = kind, label = study$tasks[[plan$names[i]]]$label %||% "", place = i)
  })
}

gained_days <- function(with, before, without, good, at, replicates) {
  if (identical(before, without)) return(list(mean_gain = 0, mean_error = 0, gain = 0, error = 0))
  after <- part_of_gain(without[good], at, NULL)
  list(mean_gain = mean(with$values - after$values), mean_error = mean_error(with$values - after$values, replicates),
    gain = with$percentile - after$percentile, error = mean_error(with$influence - after$influence, replicates))
}

# The finish in days from the start with a task's work changed, or without an event; only runs that may change are made again.
finish_without <- function(result, candidate, finish, good, percent, ready) {
  again <- if (is.null(candidate$place)) plan_without(result, candidate, good, ready) else plan_shorter(result, candidate, good, percent, ready)
  if (length(again$rows)) finish[again$rows] <- run_plan(ready$model, again$plan, ready$count, rows = again$rows)$exact
  finish
}

# What events add to a task stays as it is.
plan_shorter <- function(result, candidate, good, percent, ready) {
  own <- task_part(candidate$name, "duration")
  work <- ready$model$plan$tasks$work[[candidate$place]]$name
  known <- ready$plan$tasks$work[[candidate$place]]
  column <- function(name) rep_len(as.double(columns_for(result, name)[[1]]), length(good))
  duration <- if (work == own) rep_len(known, length(good)) else column(own)
  shorter <- switch(candidate$kind, shorter = duration * (1 - percent / 100), least = rep(min(duration[good]), length(duration)),
    certain = rep(mean(duration[good]), length(duration)))
  if (identical(shorter, duration)) return(NULL)
  if (work != own) {
    formula <- result$study$outputs[[work]]$formula
    columns <- stats::setNames(lapply(formula$uses, function(name) if (name == own) shorter else columns_for(result, name)[[1]]), formula$uses)
    shorter <- as.double(new_evaluator(stats::setNames(list(formula), work))(columns, seq_along(good))$values[[work]])
  }
  # work that becomes none no longer waits for the next working hour; and a mean is more than some runs have
  all <- candidate$kind == "certain" || any(shorter == 0 & known > 0, na.rm = TRUE)
  ready$plan$tasks$work[[candidate$place]] <- shorter
  list(rows = which(good & (all | candidate$critical)), plan = ready$plan)
}

# The plan with what the event changes, of which the runs in which it happens are made.
plan_without <- function(result, candidate, good, ready) {
  study <- result$study
  rows <- candidate$rows[good[candidate$rows]]
  if (length(candidate$changed) == 0 || length(rows) == 0) return(NULL)
  reach <- reach_of(study)
  hit <- Filter(function(name) any(names(candidate$changed) %in% reach(name)), intersect(ready$model$uses, names(study$outputs)))
  if (length(hit) == 0) return(NULL)
  for (name in hit) {
    ready$columns[[name]][rows] <- calculated_again(result, name, candidate$changed, rows)
  }
  list(rows = rows, plan = plan_values(ready$model$plan, ready$columns))
}

has_schedule_events <- function(result) length(removal_candidates(result, "project_finish", "events")) > 0
