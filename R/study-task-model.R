# The formulas of tasks, and the model that a schedule is (model-schedule.R): a list of
#   plan    what the core takes, with names of quantities where a value differs from run to run
#   uses    these quantities; `gives` the outputs

with_task_formulas <- function(study, coming, call) {
  formulas <- c(duration_formulas(study), closure_formulas(study))
  v <- quantity_vocabulary(study, unique(c(quantity_names(study), names(formulas), coming)))
  for (name in names(formulas)) {
    output <- formulas[[name]]
    output$formula <- read_formula(output$formula, v, sprintf("Task %s", quoted(output$task)))
    study$outputs[[name]] <- output
    if (name == task_part(output$task, "duration")) study <- with_values_written(study, output$task, "duration", output$formula)
  }
  if (length(study$events)) with_impacts_added(study, call) else study
}

# A task's formula with the values of the session written in, so that a study holds no environment of it.
with_values_written <- function(study, task, key, formula) {
  if (length(formula$functions)) return(study)
  study$tasks[[task]][[key]] <- rlang::new_quosure(with_constants(formula$expr, formula$constants), baseenv())
  study
}

task_output <- function(formula, of, unit = "days", label = NULL) {
  made <- new_output(if (is_formula_given(formula)) formula else rlang::new_quosure(formula, baseenv()), list(unit = unit, label = label))
  made[c("task", "aside")] <- list(of, TRUE)
  made
}

duration_formulas <- function(study) {
  do.call(c, c(list(list()), unname(Map(function(task, name) {
    own <- task_part(name, "duration")
    work <- worked_after_events(study, name, task, if (is_milestone(task)) 0 else as.symbol(own))
    Filter(Negate(is.null), stats::setNames(list(if (is_formula_given(task$duration)) task_output(task$duration, name, label = task$label),
      if (!is.null(work)) task_output(work, name)), c(own, task_part(name, "work"))))
  }, study$tasks, names(study$tasks)))))
}

# For how long each closure closes, 0 where it does not come.
closure_formulas <- function(study) {
  do.call(c, c(list(list()), lapply(used_calendars(study), function(name) {
    part <- function(key, what) as.symbol(task_part(name, paste(key, what)))
    closures <- study$calendars[[name]]$closures
    made <- Map(function(closed, key) {
      days <- if (is_law(closed$days)) part(key, "days") else closed$days
      likely <- if (is_law(closed$probability)) part(key, "probability") else closed$probability
      task_output(if (identical(likely, 1)) days else call("if", call(">", part(key, "draw"), call("-", 1, likely)), days, 0), name)
    }, closures, names(closures))
    stats::setNames(made, task_part(name, names(closures)))
  })))
}

# A task's days of work with what events do to it; NULL where none does anything.
worked_after_events <- function(study, name, task, own) {
  hit <- Filter(function(event) name %in% event$on, study$events)
  if (length(hit) == 0 && length(task$when) == 0) return(NULL)
  work <- own
  for (event in names(hit)) {
    impact <- as.symbol(impact_name(event, names(hit[[event]]$impacts)[1]))
    work <- if (isTRUE(hit[[event]]$beside)) call("max", work, impact) else call("+", work, impact)
  }
  if (length(task$when)) work <- call("if", as.symbol(part_name(task$when, "happened")), work, 0)
  work
}

lead_days <- 366  # before the start, for what is counted back from it
ahead_days <- 10958  # thirty years

schedule_model <- function(study, coming, call) {
  schedule <- study$schedule
  links <- task_links(study, call)
  named <- used_calendars(study)
  before <- split(links$from, factor(links$to, names(study$tasks)))
  order <- order_of(before, "Tasks", call)
  tasks <- study$tasks[order]
  dated <- !is.null(schedule$start)
  zero <- if (dated) as.double(schedule$start) - lead_days else -lead_days
  calendars <- lapply(c(list(whole_week()), study$calendars[named]), calendar_table, zero, lead_days + ahead_days)
  calendar <- match(vapply(tasks, function(task) task$calendar %||% schedule$calendar %||% "every day", ""), c("every day", named))
  moved <- moved_inputs(study)
  plan <- list(names = order, start = lead_days, status = if (is.null(schedule$status)) 0 else as.double(schedule$status) - zero, dated = dated,
    day_zero = zero, calendars = unname(calendars), tasks = plan_of_tasks(study, tasks, calendar, zero, coming, moved, call),
    links = plan_of_links(moved, links, order, calendar, calendars), closures = plan_of_closures(study, named, zero),
    lost = plan_of_lost_days(study, named, zero))
  uses <- unique(names_in_plan(plan))
  list(kind = "schedule", name = "schedule", plan = plan, uses = stats::setNames(uses, uses))
}

plan_of_tasks <- function(study, tasks, calendar, zero, coming, moved, call) {
  known <- c(quantity_names(study), coming)
  # days from day 0 of the plan, NA where there is none; a date that is a quantity by its name
  days <- function(key, add = 0) unname(lapply(tasks, function(task) {
    value <- task[[key]]
    if (is.null(value)) return(NA_real_)
    if (!is.character(value)) return(as.double(value) - zero + add)
    if (!value %in% known) stop_unknown_name(value, known, "a date, or a quantity of the study", call = call)
    taken(value, add - zero, moved = moved)
  }))
  works <- ifelse(task_part(names(tasks), "work") %in% known, task_part(names(tasks), "work"),
    ifelse(task_part(names(tasks), "duration") %in% known, task_part(names(tasks), "duration"), NA))
  list(calendar = unname(calendar), milestone = is.na(works), work = lapply(works, function(work) if (is.na(work)) 0 else taken(work, moved = moved)),
    not_before = Map(function(on, from) if (identical(on, NA_real_)) from else on, days("start_on"), days("not_before")),
    latest_finish = days("not_after", 1), latest_start = days("start_on", 1 - 1 / day_ms), started = unlist(days("started")),
    finished = unlist(days("finished", 1)), left = vapply(tasks, function(task) 1 - (task$done %||% 0), 0, USE.NAMES = FALSE))
}

# A quantity in a plan: its value in each run, times and plus something; an input on which events act with what they add.
taken <- function(name, add = 0, times = 1, moved = character()) {
  list(name = if (name %in% moved) with_events_name(name) else name, add = add, times = times)
}

names_in_plan <- function(plan) {
  if (!is.list(plan)) return(character())
  if (is.character(plan[["name"]])) return(plan[["name"]])
  unlist(lapply(unname(plan), names_in_plan))
}

# Every link between tasks, with those of groups written out: a data frame with `length` a list.
task_links <- function(study, call) {
  groups <- task_groups(study)
  rows <- unlist(lapply(names(study$tasks), function(to) {
    unlist(lapply(study$tasks[[to]]$links, function(link) {
      members <- groups[[link$from]]
      if (!is.null(members) && link$kind %in% c("SS", "SF")) {
        stop_ensayo("argument", sprintf("Task %s must come after the finish of a group.", quoted(to)), sprintf("It reads %s.",
          quoted(link_text(link))), "Name the task of the group that it starts with.", name = to, call = call)
      }
      lapply(members %||% link$from, function(from) c(list(to = to), utils::modifyList(link, list(from = from))))
    }), recursive = FALSE)
  }), recursive = FALSE)
  field <- function(key) vapply(rows, function(row) row[[key]], "")
  made <- data.frame(from = field("from"), to = field("to"), kind = field("kind"), lag = field("lag"), stringsAsFactors = FALSE)
  made$length <- lapply(rows, function(row) row$length)
  made$sign <- vapply(rows, function(row) row$sign %||% 1, 0)
  made$hours <- vapply(rows, function(row) isTRUE(row$hours), NA)
  made
}

plan_of_links <- function(moved, links, order, calendar, calendars) {
  to <- match(links$to, order)
  length <- Map(function(length, sign, hours, to) {
    if (is.character(length)) return(taken(length, times = sign, moved = moved))
    if (hours) length * 3600000 / calendars[[calendar[to]]]$workday else as.double(length)
  }, links$length, links$sign, links$hours, to)
  list(from = match(links$from, order), to = to, from_start = links$kind %in% c("SS", "SF") | links$lag == "share",
    to_finish = links$kind %in% c("FF", "SF"), lag = match(links$lag, c("none", "working", "elapsed", "share")) - 1L, length = unname(length))
}

plan_of_closures <- function(study, named, zero) {
  unlist(lapply(named, function(name) {
    closures <- study$calendars[[name]]$closures
    unname(lapply(names(closures), function(key) {
      from <- as.double(closures[[key]]$from) - zero
      list(calendar = match(name, named) + 1L, days = taken(task_part(name, key)),
        from = if (closures[[key]]$within > 0) taken(task_part(name, paste(key, "begins")), from) else from)
    }))
  }), recursive = FALSE) %||% list()
}

plan_of_lost_days <- function(study, named, zero) {
  unlist(lapply(named, function(name) {
    lost <- study$calendars[[name]]$lost
    unlist(lapply(seq_along(lost), function(i) {
      months <- lost_months(study, lost[[i]])
      lapply(seq_along(months), function(j) {
        last <- seq(months[j], by = "month", length.out = 2)[2] - 1
        list(calendar = match(name, named) + 1L, first = as.integer(as.double(months[j]) - zero) + 1L,
          last = as.integer(as.double(last) - zero) + 1L,
          lost = if (is_law(lost[[i]]$days)) c(taken(task_part(name, sprintf("lost %d", i))), step = j) else lost[[i]]$days,
          order = taken(task_part(name, "order")))
      })
    }), recursive = FALSE)
  }), recursive = FALSE) %||% list()
}

# Tasks whose dates are quantities: those asked for, and those that have a spec.
kept_tasks <- function(study) {
  asked <- study$schedule$keep %||% if (length(study$tasks) <= 500) names(study$tasks)
  promised <- names(Filter(function(task) !is.null(task$not_after), study$tasks))
  intersect(names(study$tasks), c(asked, promised))
}

schedule_outputs <- function(study, model) {
  dated <- model$plan$dated
  made <- list()
  add <- function(name, of, label, kind = NULL, unit = NULL, aside = TRUE) {
    output <- new_output(NULL, list(label = label, unit = unit), kind)
    output$task <- of
    if (aside) output$aside <- TRUE
    made[[name]] <<- output
  }
  day <- if (dated) "date"
  unit <- if (!dated) "days"
  for (name in kept_tasks(study)) {
    label <- study$tasks[[name]]$label %||% name
    add(task_part(name, "start"), name, sprintf("%s: start", label), day, unit)
    add(task_part(name, "finish"), name, sprintf("%s: finish", label), day, unit)
    add(task_part(name, "float"), name, sprintf("%s: float", label), NULL, "days")
    add(task_part(name, "critical"), name, sprintf("%s: critical", label))
  }
  add("project_finish", "schedule", "Finish of the project", day, unit, aside = FALSE)
  made
}

# The first start and the last finish of each group.
with_group_outputs <- function(study, call) {
  groups <- task_groups(study)
  for (group in names(groups)) {
    if (!all(groups[[group]] %in% kept_tasks(study))) next
    for (part in c("start", "finish")) {
      members <- lapply(task_part(groups[[group]], part), as.symbol)
      expr <- if (length(members) == 1) members[[1]] else as.call(c(as.symbol(if (part == "start") "min" else "max"), members))
      made <- new_output(rlang::new_quosure(expr, baseenv()), list(label = sprintf("%s: %s", group, part),
        unit = study$outputs[[as.character(members[[1]])]]$unit), study$outputs[[as.character(members[[1]])]]$kind)
      made[c("task", "aside")] <- list(group, TRUE)
      made$formula <- read_formula(made$formula, quantity_vocabulary(study), sprintf("Group %s", quoted(group)))
      study$outputs[[task_part(group, part)]] <- made
    }
  }
  study
}

# What should be finished in time is a spec, which is checked and holds nothing back.
with_task_specs <- function(study, call) {
  late <- Filter(Negate(is.null), lapply(study$tasks, function(task) task$not_after))
  days <- c(list(on_time = study$schedule$promised), stats::setNames(late, sprintf("%s_in_time", names(late))))
  finishes <- c("project_finish", task_part(names(late), "finish"))
  v <- quantity_vocabulary(study)
  for (i in which(lengths(days) > 0)) {
    limit <- if (is.character(days[[i]])) as.symbol(days[[i]]) else call("date", format(days[[i]]))
    study <- with_own_spec(study, names(days)[i], call("<=", as.symbol(finishes[i]), limit), v, call)
  }
  if (is.null(study$schedule$budget)) return(study)
  with_own_spec(study, "in_budget", call("<=", quote(project_cost), study$schedule$budget), v, call)
}

with_own_spec <- function(study, name, condition, v, call) {
  if (name %in% names(study$specs)) {
    stop_ensayo("name", sprintf("The spec of the schedule is called %s; the study has one of that name.", quoted(name)), NULL,
      "Give that another name.", name = name, call = call)
  }
  condition <- rlang::new_quosure(condition, baseenv())
  study$specs[name] <- read_conditions(stats::setNames(list(condition), name), v, "Spec")
  study$specs[[name]]$task <- TRUE
  study
}
