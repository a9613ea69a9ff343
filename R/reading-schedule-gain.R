# What is won by shortening tasks, and by being rid of events.

#' What is won by shortening a task
#'
#' For each task, or each event that acts on tasks: how many days earlier the project's mean finish and its planning percentile would be, on the
#' same runs, with the simulation error of that difference.
#'
#' @inheritParams percentiles
#' @param of `"shorter"`: each task takes `percent` less time in every run; `"least"`: each takes the least that it takes in any run;
#'   `"certain"`: each takes its mean in every run, so that its spread is gone; `"events"`: each event is kept from happening. Several at once
#'   are possible.
#' @param percent Number above 0 and up to 100: by how many per cent tasks are shorter.
#' @param percentile Number from 0 to 100, in the study's sense; `NULL` for its planning percentile.
#' @return A data frame with a row for each, the largest gain of the percentile first: `name`, `kind`, `label`, `critical` (the share of runs in
#'   which the task is critical; for events that in which it happens), `mean_gain` and `mean_error`, `gain` and `error` (of the percentile; their
#'   standard errors), in days on the wall, `beyond_noise`, `percentile`.
#' @section Method: the schedule is calculated again with the changed work. Where a task gets shorter only runs in which it is critical can
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
  plan <- study$models$schedule$plan
  at <- not_exceeded(percentile, study$readings$sense)
  columns <- columns_for(result, study$models$schedule$uses)
  open <- which(is.na(plan$tasks$finished) & !plan$tasks$milestone)
  made <- schedule_pass(result, list(critical = open))
  good <- made$failed == 0
  with <- part_of_gain(made$exact[good], at, NULL)
  replicates <- telling_replicates(result)[good]
  row <- function(name, kind, label, critical, finish) {
    after <- part_of_gain(finish[good], at, NULL)
    same <- identical(after$values, with$values)
    list2DF(list(name = name, kind = kind, label = label, critical = critical, mean_gain = mean(with$values - after$values),
      mean_error = if (same) 0 else mean_error(with$values - after$values, replicates), gain = with$percentile - after$percentile,
      error = if (same) 0 else mean_error(with$influence - after$influence, replicates)))
  }
  changed_finish <- function(changed, rows) {
    finish <- made$exact
    if (length(rows) == 0) return(finish)
    finish[rows] <- schedule_pass(result, rows = rows, changed = changed)$exact
    finish
  }
  of_tasks <- function(kind) lapply(seq_along(open), function(k) {
    i <- open[k]
    work <- plan_values(plan$tasks$work[[i]], columns)
    shorter <- switch(kind, shorter = work * (1 - percent / 100), least = rep(min(work[is.finite(work)]), length(work)),
      certain = rep(mean(work[is.finite(work)]), length(work)))
    # work that becomes none no longer waits for the next working hour; and a mean is more than some runs have
    all <- kind == "certain" || any(shorter == 0 & work > 0)
    rows <- which(good & (all | made$critical[[k]]))
    if (length(shorter) > 1) shorter <- shorter[rows]
    finish <- if (identical(shorter, work)) made$exact else changed_finish(stats::setNames(list(as.double(shorter)), i), rows)
    row(plan$names[i], kind, study$tasks[[plan$names[i]]]$label %||% "", mean(made$critical[[k]][good]), finish)
  })
  of_events <- function() lapply(events_of_tasks(study), function(event) {
    happened <- run_column(result, part_name(event, "happened")) %in% TRUE
    rows <- which(good & happened)
    row(event, "event", study$events[[event]]$label %||% "", mean(happened[good]), changed_finish(work_without_event(result, event, rows), rows))
  })
  rows <- unlist(lapply(of, function(kind) if (kind == "events") of_events() else of_tasks(kind)), recursive = FALSE)
  if (length(rows) == 0) stop_argument("of", "something that the schedule has", of)
  table <- stacked(rows)
  table$beyond_noise <- abs(table$gain) > half_interval(table$error, result) & table$gain != 0
  table$percentile <- rep(percentile, nrow(table))
  new_table(as.list(table[order(-abs(table$gain), -abs(table$mean_gain)), ]))
}

events_of_tasks <- function(study) {
  tasks <- names(study$tasks)
  whens <- unlist(lapply(study$tasks, function(task) task$when))
  names(Filter(function(event) is.null(event$closed) && any(event$on %in% tasks), study$events)) |> union(intersect(whens, names(study$events)))
}

# The work of the tasks on which an event acts, in some runs without it: by place.
work_without_event <- function(result, event, rows) {
  study <- result$study
  names <- study$models$schedule$plan$names
  hit <- Filter(function(name) name %in% study$events[[event]]$on || event %in% study$tasks[[name]]$when, names)
  formulas <- lapply(study$outputs[task_part(hit, "work")], function(output) output$formula)
  uses <- unique(unlist(lapply(formulas, function(formula) formula$uses)))
  columns <- lapply(columns_for(result, uses), function(column) if (length(column) > 1) column[rows] else column)
  gone <- c(impact_name(event, names(study$events[[event]]$impacts)), part_name(event, "happened"))
  for (name in intersect(gone, uses)) columns[[name]] <- if (name == part_name(event, "happened")) rep(FALSE, length(rows)) else rep(0, length(rows))
  values <- new_evaluator(formulas)(columns, seq_along(rows))$values
  stats::setNames(lapply(values[task_part(hit, "work")], as.double), match(hit, names))
}
