# What tasks are calculated with: for a task `dig` the input `dig[duration]`, or where that is a formula the output of that name;
# `dig[work]`, what is left of it after events, where there are any; and a model that gives `dig[start]`, `dig[finish]`, `dig[float]`,
# `dig[critical]` and `project_finish`.

task_part <- function(task, part) sprintf("%s[%s]", task, part)

# The study with the quantities of its tasks made anew. `coming` are quantities that a file names later.
with_tasks <- function(study, coming = character(), call = rlang::caller_env()) {
  study <- bare_of_tasks(study)
  if (length(study$tasks) == 0) return(study[setdiff(names(study), c("tasks", "schedule"))] |> structure(class = class(study)))
  check_task_names(study, call)
  study <- with_durations_bound(study, coming, call)
  inputs <- c(task_inputs(study), calendar_inputs(study), task_cost_inputs(study))
  old <- names(Filter(function(input) !is.null(input$task), study$inputs))
  study$inputs[setdiff(old, names(inputs))] <- NULL
  taken <- intersect(setdiff(names(inputs), old), c(quantity_names(study), names(study$tables)))
  if (length(taken)) check_new_names(inputs[taken[1]], "task", taken, call)
  refuse_taken(study, "project_finish", call)
  study$inputs[names(inputs)] <- with_streams(inputs, study$inputs)
  study <- with_task_formulas(bound_inputs(study, call), coming, call)
  model <- schedule_model(study, coming, call)
  outputs <- schedule_outputs(study, model)
  model$gives <- names(outputs)
  study$models$schedule <- model
  study$outputs[names(outputs)] <- lapply(outputs, output_of_model, "schedule", unname(model$uses))
  study <- with_task_costs(with_group_outputs(study, call), coming, call)
  study <- with_task_specs(study, call)
  if (length(coming) == 0) output_order(study$outputs, call)
  study
}

# What a schedule gives by itself has a name that the study's own quantities must not have.
refuse_taken <- function(study, name, call) {
  if (!name %in% c(quantity_names(study), names(study$tables))) return(invisible())
  stop_ensayo("name", sprintf("A study with tasks has an output %s of theirs.", quoted(name)), "It has a quantity of that name.",
    "Give that another name.", name = name, call = call)
}

# Without what was made of tasks; inputs stay, so that they keep their streams.
bare_of_tasks <- function(study) {
  study$outputs[names(Filter(function(output) !is.null(output$task), study$outputs))] <- NULL
  study$specs <- Filter(function(spec) is.null(spec$task), study$specs)
  study$models$schedule <- NULL
  if (length(study$models) == 0) study$models <- NULL
  if (length(study$tasks) == 0) study$inputs[names(Filter(function(input) !is.null(input$task), study$inputs))] <- NULL
  study
}

task_groups <- function(study) {
  groups <- text_of(study$tasks, function(task) task$group)
  split(names(study$tasks)[nzchar(groups)], groups[nzchar(groups)])
}

check_task_names <- function(study, call) {
  known <- names(study$tasks)
  groups <- task_groups(study)
  clash <- intersect(names(groups), c(known, quantity_names(study)))
  if (length(clash)) {
    stop_ensayo("name", sprintf("A group of tasks must have a name of its own; %s is taken.", quoted(clash[1])), name = clash[1], call = call)
  }
  dated <- !is.null(study$schedule$start)
  may_come_before <- set_of(c(known, names(groups)))
  for (i in seq_along(known)) {
    name <- known[i]
    task <- study$tasks[[i]]
    place <- sprintf("Task %s", quoted(name))
    for (link in task$links) {
      if (is.null(may_come_before[[link$from]])) stop_unknown_name(link$from, c(known, names(groups)), sprintf(
        "a task or group that %s may come after", quoted(name)), call = call)
      if (name %in% c(link$from, groups[[link$from]])) {
        stop_ensayo("cycle", sprintf("%s must not come after itself.", place), sprintf("It reads %s.", quoted(link_text(link))), name = name,
          call = call)
      }
    }
    calendar <- task$calendar %||% study$schedule$calendar
    if (!is.null(calendar) && !calendar %in% c("every day", names(study$calendars))) {
      stop_unknown_name(calendar, c(names(study$calendars), "every day"), sprintf("a calendar of the study, for %s", quoted(name)), call = call)
    }
    if (length(task$when) && !task$when %in% names(study$events)) stop_unknown_name(task$when, names(study$events), "an event of the study",
      call = call)
    days <- Filter(function(key) !is.null(task[[key]]), c("not_before", "not_after", "start_on", "started", "finished"))
    if (length(days) && !dated) stop_undated(place, days[1], call)
  }
  needs_start <- Filter(function(key) !is.null(study$schedule[[key]]), c("status", "promised"))
  if (!dated && length(needs_start)) stop_undated("The schedule", needs_start[1], call)
  used <- unique(c(text_of(study$tasks, function(task) task$calendar), study$schedule$calendar))
  if (!dated && length(setdiff(used, c("", "every day")))) stop_undated("The schedule", "calendar", call)
}

stop_undated <- function(place, what, call) {
  stop_ensayo("argument", sprintf("%s has `%s`: the schedule must have a start.", place, what), "It has none.",
    "Give the schedule its `start`, such as 2027-03-01 (`add_tasks(.start = \"2027-03-01\")`).", argument = ".start", call = call)
}

# The study with durations as what they give, once and for all: a law, a number, or a formula where they name a quantity of the study.
with_durations_bound <- function(study, coming, call) {
  known <- set_of(c(quantity_names(study), coming))
  for (key in c("duration", names(cost_parts))) {
    study$tasks[] <- Map(function(task, name) {
      if (rlang::is_quosure(task[[key]])) task[[key]] <- task_value_given(task[[key]], key, name, known, call)
      task
    }, study$tasks, names(study$tasks))
  }
  for (name in names(study$tasks)) for (link in study$tasks[[name]]$links) {
    if (is.character(link$length) && is.null(known[[link$length]])) stop_unknown_name(link$length, names(known), sprintf(
      "an input or output of the study: %s waits for it", quoted(name)), call = call)
  }
  study
}

task_value_given <- function(given, key, name, known, call) {
  expr <- rlang::quo_get_expr(given)
  of_study <- vapply(c(names_or_members(expr), free_names(expr)), exists, NA, envir = known, inherits = FALSE)
  if (any(of_study) || any(all.names(expr) %in% task_verbs)) return(given)
  value <- tryCatch(rlang::eval_tidy(given), error = function(e) e)
  if (inherits(value, "error")) {
    unknown <- free_names(expr)
    if (!inherits(value, "ensayo_error") && length(unknown)) stop_unknown_name(unknown[1], names(known), "an input or output of the study", call = call)
    rlang::cnd_signal(value)
  }
  if (key == "duration" && is.numeric(value) && length(value) == 1 && is.finite(value) && value < 0) {
    stop_ensayo("argument", sprintf("Task %s must have a duration from 0 on.", quoted(name)), sprintf("It has %s.", format_given(value)),
      name = name, argument = "duration", call = call)
  }
  check_amount(value, sprintf("%s of %s", gsub("_", " ", key), name), call)
}

task_inputs <- function(study) {
  own <- Filter(function(task) !is_formula_given(task$duration) && !is_milestone(task), study$tasks)
  made <- Map(function(task, name) {
    input <- input(task$duration, unit = if (is_law(task$duration)) "days", label = task$label)
    input[c("task", "aside")] <- list(name, TRUE)
    input
  }, own, names(own))
  stats::setNames(made, task_part(names(own), "duration"))
}

# As it was captured, or the text of a file.
is_formula_given <- function(x) rlang::is_quosure(x) || is.character(x)

is_milestone <- function(task) is.numeric(task$duration) && task$duration == 0

# Days lost in each month, and closures.
calendar_inputs <- function(study) {
  made <- list()
  for (name in used_calendars(study)) {
    calendar <- study$calendars[[name]]
    add <- function(part, law, steps = NULL, what = part) {
      if (!is_law(law)) return()
      input <- input(law, steps = steps, label = sprintf("Calendar %s, %s", name, what))
      input[c("task", "aside")] <- list(name, TRUE)
      made[[task_part(name, part)]] <<- input
    }
    for (i in seq_along(calendar$lost)) {
      lost <- calendar$lost[[i]]
      add(sprintf("lost %d", i), lost$days, lost_months(study, lost), sprintf("days lost in %s", paste(month.abb[lost$months], collapse = " ")))
    }
    if (length(calendar$lost)) add("order", law_uniform(0, 1))
    for (key in names(calendar$closures)) {
      closed <- calendar$closures[[key]]
      add(paste(key, "days"), closed$days)
      if (closed$within > 0) add(paste(key, "begins"), law_uniform(0, closed$within))
      if (!identical(closed$probability, 1)) add(paste(key, "draw"), law_uniform(0, 1))
      add(paste(key, "probability"), closed$probability)
    }
  }
  made
}

# Calendars that tasks have, besides every day.
used_calendars <- function(study) {
  named <- unique(c(text_of(study$tasks, function(task) task$calendar), study$schedule$calendar %||% ""))
  intersect(named, names(study$calendars))
}

# First days of the months in which days may be lost: five years from the start.
lost_months <- function(study, lost) {
  first <- as.POSIXlt(study$schedule$start)
  months <- seq(as.Date(sprintf("%04d-%02d-01", first$year + 1900L, first$mon + 1L)), by = "month", length.out = 60)
  months[(as.POSIXlt(months)$mon + 1) %in% lost$months]
}
