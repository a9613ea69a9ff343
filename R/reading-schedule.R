# Schedules: dates, floats and criticality of each task.

#' Read a schedule
#'
#' Start and finish of each task and group, its float, how often it is critical, and where delay is born.
#'
#' @inheritParams percentiles
#' @param percentiles Numbers from 0 to 100, in the study's sense; `NULL` for 10, 50 and the planning percentile.
#' @return A data frame with a row for each task, in the order of the work, then for each group and the project: `name`, `label`, `group`,
#'   `row` (`"task"`, `"milestone"`, `"group"` or `"project"`), `base_start`, `base_finish` (of the base case), `base_at` (the percentile at which
#'   the base finish stands), `start_P50`, `finish_P50`, ... for each percentile (dates, else days from the start), `cost` (the mean),
#'   `float` (the mean total float, in days of work), `free_float` (the mean delay that moves no other task), `float_used` (the share of
#'   runs in which no float is left), `critical` (the share of runs in which it is critical: the criticality index of Van Slyke 1963),
#'   `correlation` (the rank correlation of its work with the project's finish), `cruciality` (the product of both: Williams 1992), and `merge_delay` of a task that comes after the finish of several: by how many
#'   days the median of the latest of these finishes is later than the latest of their medians, and `held_back` of a task with a
#'   fixed date: the share of runs in which that, and no link, says when it starts.
#' @section What drives: a long task that is never critical may have a high correlation. Neither says what is won by shortening it:
#'   [schedule_gains()] does.
#' @section Errors: `ensayo_error_argument` where the study has no tasks.
#' @seealso [slip_allowed()], [schedule_gains()], [critical_paths()].
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(5, 9, 20)),
#'     lay = task(law_pert(6, 8, 14), after = "dig, order"), .start = "2027-03-01")
#' schedule_table(simulate(works, nsim = 1000, seed = 11))
#' @export
schedule_table <- function(result, percentiles = NULL) {
  check_schedule(result)
  percentiles <- check_percentiles(percentiles %||% schedule_percentiles(result), "percentiles")
  schedule_rows(result, percentiles)
}

check_schedule <- function(result, call = rlang::caller_env()) {
  check_result(result, call)
  if (has_schedule(result)) return(invisible())
  stop_ensayo("argument", "The study must have tasks.", "It has none.", "Add them with `add_tasks()`.", call = call)
}

has_schedule <- function(result) length(result$study$tasks) > 0

schedule_percentiles <- function(result) sort(unique(c(10, 50, result$study$readings$planning)))

# A result's schedule with the numbers of its runs, for many passes.
ready_schedule <- function(result) {
  model <- result$study$models$schedule
  columns <- columns_for(result, model$uses)
  list(model = model, columns = columns, plan = plan_values(model$plan, columns), count = run_count(result))
}

# The schedule through a result's runs again: what is not kept is a pass away.
schedule_pass <- function(result, asked = list(), ready = ready_schedule(result), ...) {
  run_plan(ready$model, ready$plan, ready$count, asked, ...)
}

schedule_base <- function(result, asked, ...) {
  columns <- c(result$base$inputs, result$base$outputs)
  model <- result$study$models$schedule
  base <- with_series(result$study, columns[intersect(names(columns), model$uses)], 1)
  run_schedule(model, base, 1, asked, ...)
}

# Columns of tasks by their places, of one pass through the runs where memory holds all of them, else of one for each share of tasks.
schedule_columns <- function(result, most = 5e8) {
  plan <- result$study$models$schedule$plan
  n <- length(plan$names)
  share <- max(floor(most / (40 * run_count(result))), 1)
  wanted <- c("start", "finish", "total", "free", "critical", "driver")
  asked <- function(places) stats::setNames(rep(list(places), length(wanted)), wanted)
  ready <- ready_schedule(result)
  whole <- if (share >= n) schedule_pass(result, asked(seq_len(n)), ready)
  list(share = share, ready = ready, of = function(places) {
    if (is.null(whole)) return(schedule_pass(result, asked(places), ready))
    whole[wanted] <- lapply(whole[wanted], `[`, places)
    whole
  }, project = whole %||% schedule_pass(result, list(), ready))
}

schedule_rows <- function(result, percentiles) {
  study <- result$study
  plan <- study$models$schedule$plan
  names <- plan$names
  places <- seq_along(names)
  base <- schedule_base(result, list(start = places, finish = places))
  columns <- schedule_columns(result)
  rows <- stacked(lapply(split(places, (places - 1) %/% columns$share), function(some) {
    task_rows(result, some, percentiles, base, columns)
  }))
  rows <- rows[order(rows$at, match(rows$name, names)), setdiff(names(rows), "at")]
  rows <- stacked(list(rows, group_rows(result, percentiles, base, columns), project_row(result, percentiles, base, columns$project)))
  if (plan$dated) {
    days <- grep("^(base_start|base_finish|start_P|finish_P)", names(rows))
    rows[days] <- lapply(rows[days], as_day)
  }
  rows$sense <- rep(study$readings$sense, nrow(rows))
  new_table(as.list(rows))
}

# Percentiles of days are days that occurred.
day_percentiles <- function(values, at, plan) percentile_values(values, at, type = if (plan$dated) 1 else 7)

percentile_columns <- function(values, what, percentiles, result) {
  at <- not_exceeded(percentiles, result$study$readings$sense)
  stats::setNames(as.list(day_percentiles(values[is.finite(values)], at, result$study$models$schedule$plan)),
    paste0(what, "_", percentile_names(percentiles)))
}

task_rows <- function(result, some, percentiles, base, columns) {
  study <- result$study
  plan <- study$models$schedule$plan
  made <- columns$of(some)
  good <- made$failed == 0
  finish <- made$exact[good]
  merged <- merge_delays(result, some, columns)
  works <- lapply(columns$ready$plan$tasks$work[some], function(work) if (length(work) > 1) work[good])
  correlations <- rep(NA_real_, length(some))
  several <- lengths(works) > 0
  correlations[several] <- correlations_between(works[several], list(finish), TRUE)
  lapply(seq_along(some), function(k) {
    i <- some[k]
    task <- study$tasks[[plan$names[i]]]
    column <- function(what) made[[what]][[k]][good]
    critical <- mean(column("critical"))
    float <- column("total")
    dated <- !is.null(task$not_before) || !is.null(task$start_on)
    c(list(name = plan$names[i], label = task$label %||% "", group = task$group %||% "",
      row = if (plan$tasks$milestone[i]) "milestone" else "task", base_start = base$start[[i]], base_finish = base$finish[[i]],
      base_at = percentile_in_sense(column("finish"), base$finish[[i]], study$readings$sense)),
      percentile_columns(column("start"), "start", percentiles, result), percentile_columns(column("finish"), "finish", percentiles, result),
      list(cost = mean_cost(result, plan$names[i], good), float = mean(float), free_float = mean(column("free")),
        float_used = mean(float <= 0), critical = critical, correlation = correlations[k], cruciality = critical * correlations[k], merge_delay = merged[k],
        held_back = if (dated) mean(column("driver") == 0) else NA_real_, at = base$start[[i]]))
  }) |> lapply(list2DF) |> stacked()
}

# By how much the median of the latest finish is later than the latest median, of the tasks whose finish lets each of some start; NA where
# there are not several.
merge_delays <- function(result, some, columns) {
  links <- result$study$models$schedule$plan$links
  from_finish <- !links$from_start & !links$to_finish
  before <- lapply(some, function(i) links$from[links$to == i & from_finish])
  needed <- unique(unlist(before[lengths(before) > 1]))
  made <- columns$of(as.integer(needed))
  finishes <- lapply(made$finish, `[`, made$failed == 0)
  medians <- vapply(finishes, stats::median, 0)
  vapply(before, function(of) {
    if (length(of) < 2) return(NA_real_)
    at <- match(of, needed)
    stats::median(do.call(pmax, finishes[at])) - max(medians[at])
  }, 0)
}

group_rows <- function(result, percentiles, base, columns) {
  study <- result$study
  plan <- study$models$schedule$plan
  groups <- task_groups(study)
  stacked(lapply(names(groups), function(group) {
    at <- match(groups[[group]], plan$names)
    made <- columns$of(at)
    good <- made$failed == 0
    starts <- do.call(pmin, made$start)[good]
    finishes <- do.call(pmax, made$finish)[good]
    ends <- list(start = min(unlist(base$start[at])), finish = max(unlist(base$finish[at])))
    list2DF(summary_row(result, group, "group", starts, finishes, ends, percentiles, mean_cost(result, group, good),
      mean(Reduce(`|`, made$critical)[good])))
  }))
}

project_row <- function(result, percentiles, base, made) {
  good <- made$failed == 0
  start <- as.double(result$study$schedule$start %||% 0)
  ends <- list(start = min(unlist(base$start)), finish = base$finish_of_all)
  list2DF(summary_row(result, "project", "project", rep(start, sum(good)), made$finish_of_all[good], ends, percentiles,
    mean_cost(result, "project", good), NA_real_))
}

# NA where it costs nothing.
mean_cost <- function(result, task, good) {
  name <- if (task == "project") "project_cost" else task_part(task, "cost")
  if (name %in% names(result$study$outputs)) mean(values_of(result, name)[good]) else NA_real_
}

summary_row <- function(result, name, row, starts, finishes, base, percentiles, cost, critical) {
  c(list(name = name, label = "", group = "", row = row, base_start = base$start, base_finish = base$finish,
      base_at = percentile_in_sense(finishes, base$finish, result$study$readings$sense)),
    percentile_columns(starts, "start", percentiles, result), percentile_columns(finishes, "finish", percentiles, result),
    list(cost = cost, float = NA_real_, free_float = NA_real_, float_used = NA_real_, critical = critical, correlation = NA_real_,
      cruciality = NA_real_, merge_delay = NA_real_, held_back = NA_real_))
}

#' Critical paths
#'
#' Which chains of tasks were critical, and in how many runs.
#'
#' @inheritParams percentiles
#' @param most Whole number: how many of them to give, the most frequent first.
#' @return A data frame: `path` (the tasks from first to last), `share` (of the runs), `runs`, `tasks` (how many), `paths` (how many different
#'   paths there were in all). Where several links set a start in the same moment the path goes over the task that is named first.
#' @section Errors: `ensayo_error_argument` where the study has no tasks.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(5, 9, 20)),
#'     lay = task(law_pert(6, 8, 14), after = "dig, order"))
#' critical_paths(simulate(works, nsim = 1000, seed = 11))
#' @export
critical_paths <- function(result, most = 10) {
  check_schedule(result)
  most <- check_count(most)
  made <- schedule_pass(result, paths = TRUE)
  names <- result$study$models$schedule$plan$names
  keys <- vapply(made$paths[made$failed == 0], paste, "", collapse = " ")
  counts <- sort(table(keys), decreasing = TRUE)
  shown <- utils::head(counts, most)
  places <- strsplit(names(shown), " ", fixed = TRUE)
  new_table(list(path = vapply(places, function(at) paste(names[as.integer(at)], collapse = " > "), ""),
    share = as.double(shown) / sum(counts), runs = as.integer(shown), tasks = lengths(places), paths = rep(length(counts), length(shown))))
}

# In what share of runs all is finished on the promised day.
promise_kept <- function(result) {
  rates <- pass_rate(result)
  rates$pass_rate[rates$spec == "on_time"]
}

reading_schedule <- list(
  title = function(result, asked) sprintf("Schedule (%s)", sense_words(asked$sense)),
  places = c("print", "show", "json", "report"),
  there = function(result) has_schedule(result),
  table = function(result, asked) schedule_rows(result, sort(unique(c(10, 50, asked$planning))))
)
