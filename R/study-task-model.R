# The formulas of tasks, and the model that a schedule is (model-schedule.R): a list of
#   plan    what the core takes, with names of quantities where a value differs from run to run
#   uses    these quantities; `gives` the outputs

with_task_formulas <- function(study, coming, call) {
  formulas <- list()
  add <- function(name, of, formula, unit, label = NULL) {
    made <- if (is_formula_duration(formula)) new_output(formula, list(unit = unit, label = label))
      else new_output(rlang::new_quosure(formula, baseenv()), list(unit = unit, label = label))
    made[c("task", "aside")] <- list(of, TRUE)
    formulas[[name]] <<- made
  }
  for (name in names(study$tasks)) {
    task <- study$tasks[[name]]
    own <- task_part(name, "duration")
    duration <- duration_of(study, name, coming, call)
    if (is_formula_duration(duration)) add(own, name, duration, "days", task$label)
    work <- worked_after_events(study, name, if (is_milestone_duration(duration)) 0 else as.symbol(own))
    if (!is.null(work)) add(task_part(name, "work"), name, work, "days")
  }
  for (name in used_calendars(study)) {
    closures <- study$calendars[[name]]$closures
    for (key in names(closures)) {
      days <- if (is_law(closures[[key]]$days)) as.symbol(task_part(name, paste(key, "days"))) else closures[[key]]$days
      likely <- closures[[key]]$probability
      if (!identical(likely, 1)) {
        likely <- if (is_law(likely)) as.symbol(task_part(name, paste(key, "probability"))) else likely
        days <- call("if", call(">", as.symbol(task_part(name, paste(key, "draw"))), call("-", 1, likely)), days, 0)
      }
      add(task_part(name, key), name, days, "days")
    }
  }
  v <- quantity_vocabulary(study, unique(c(quantity_names(study), names(formulas), coming)))
  for (name in names(formulas)) {
    output <- formulas[[name]]
    output$formula <- read_formula(output$formula, v, sprintf("Task %s", quoted(output$task)))
    study$outputs[[name]] <- output
    # values of the session are written in, so that a study holds no environment of it
    bound <- output$formula
    if (name == task_part(output$task, "duration") && length(bound$functions) == 0) {
      study$tasks[[output$task]]$duration <- rlang::new_quosure(with_constants(bound$expr, bound$constants), baseenv())
    }
  }
  study
}

# A task's days of work with what events do to it; NULL where none does anything.
worked_after_events <- function(study, name, own) {
  task <- study$tasks[[name]]
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

# Which quantity a task's work is, or the number.
work_of <- function(study, name) {
  for (part in c("work", "duration")) if (task_part(name, part) %in% quantity_names(study)) return(task_part(name, part))
  0
}

lead_days <- 366  # before the start, for what is counted back from it
ahead_days <- 3660

schedule_model <- function(study, call) {
  schedule <- study$schedule
  links <- task_links(study, call)
  order <- order_of(lapply(stats::setNames(nm = names(study$tasks)), function(name) links$from[links$to == name]), "Tasks", call)
  dated <- !is.null(schedule$start)
  zero <- if (dated) schedule$start - lead_days else 0
  named <- used_calendars(study)
  if (!dated) zero <- -lead_days
  calendars <- lapply(c(list(whole_week()), study$calendars[named]), calendar_table, if (dated) zero else as.Date(0, origin = "1970-01-01"),
    lead_days + ahead_days)
  place_of_calendar <- function(task) match(task$calendar %||% schedule$calendar %||% "every day", c("every day", named))
  tasks <- study$tasks[order]
  day <- function(key, add = 0) unname(lapply(tasks, function(task) {
    value <- task[[key]]
    if (is.null(value)) NA_real_ else if (is.character(value)) list(name = check_day_name(study, value, call), add = add - as.double(zero))
    else as.double(value) - as.double(zero) + add
  }))
  later <- function(a, b) Map(function(x, y) if (identical(x, NA_real_)) y else x, a, b)
  happened <- function(key, add) vapply(tasks, function(task) if (is.null(task[[key]])) NA_real_ else as.double(task[[key]]) - as.double(zero) +
    add, 0, USE.NAMES = FALSE)
  calendar <- vapply(tasks, place_of_calendar, 0L, USE.NAMES = FALSE)
  work <- lapply(order, function(name) work_of(study, name))
  plan <- list(names = order, start = lead_days, status = if (is.null(schedule$status)) 0 else as.double(schedule$status) - as.double(zero),
    dated = dated, day_zero = as.double(zero), calendars = unname(calendars),
    tasks = list(calendar = calendar, milestone = vapply(work, identical, NA, 0), work = lapply(work, function(x) {
      if (is.character(x)) list(name = x, add = 0) else x
    }), not_before = later(day("start_on"), day("not_before")), finish_not_before = rep(list(NA_real_), length(order)),
    latest_finish = day("not_after", 1), latest_start = day("start_on", 1 - 1 / day_ms), started = happened("started", 0),
    finished = happened("finished", 1), left = vapply(tasks, function(task) 1 - (task$done %||% 0), 0, USE.NAMES = FALSE)),
    links = plan_of_links(links, order, calendar, calendars), closures = plan_of_closures(study, named, zero),
    lost = plan_of_lost_days(study, named, zero))
  uses <- unique(names_in_plan(plan))
  list(kind = "schedule", name = "schedule", plan = plan, uses = stats::setNames(uses, uses))
}

check_day_name <- function(study, name, call) {
  if (!name %in% quantity_names(study)) stop_unknown_name(name, quantity_names(study), "a date, or a quantity of the study", call = call)
  name
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

plan_of_links <- function(links, order, calendar, calendars) {
  to <- match(links$to, order)
  length <- Map(function(length, sign, hours, to) {
    if (is.character(length)) return(list(name = length, add = 0, times = sign))
    if (hours) length * 3600000 / calendars[[calendar[to]]]$workday else as.double(length)
  }, links$length, links$sign, links$hours, to)
  list(from = match(links$from, order), to = to, from_start = links$kind %in% c("SS", "SF") | links$lag == "share",
    to_finish = links$kind %in% c("FF", "SF"), lag = match(links$lag, c("none", "working", "elapsed", "share")) - 1L, length = unname(length))
}

plan_of_closures <- function(study, named, zero) {
  unlist(lapply(named, function(name) {
    closures <- study$calendars[[name]]$closures
    unname(lapply(names(closures), function(key) {
      from <- as.double(closures[[key]]$from) - as.double(zero)
      list(calendar = match(name, named) + 1L, days = list(name = task_part(name, key), add = 0),
        from = if (closures[[key]]$within > 0) list(name = task_part(name, paste(key, "begins")), add = from) else from)
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
        list(calendar = match(name, named) + 1L, first = as.integer(max(as.double(months[j]) - as.double(zero), 0)) + 1L,
          last = as.integer(as.double(last) - as.double(zero)) + 1L,
          lost = if (is_law(lost[[i]]$days)) list(name = task_part(name, sprintf("lost %d", i)), add = 0, step = j) else lost[[i]]$days,
          order = list(name = task_part(name, "order"), add = 0))
      })
    }), recursive = FALSE)
  }), recursive = FALSE) %||% list()
}

# Tasks whose dates are quantities.
kept_tasks <- function(study) {
  study$schedule$keep %||% if (length(study$tasks) <= 500) names(study$tasks) else character()
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
  for (name in intersect(names(study$tasks), kept_tasks(study))) {
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
  add <- function(study, name, finish, day) {
    if (name %in% names(study$specs) || !finish %in% names(study$outputs)) return(study)
    limit <- if (is.character(day)) as.symbol(day) else call("date", format(day))
    spec <- read_conditions(list(rlang::new_quosure(call("<=", as.symbol(finish), limit), baseenv())) |> stats::setNames(name),
      quantity_vocabulary(study), "Spec")[[1]]
    spec$task <- TRUE
    study$specs[[name]] <- spec
    study
  }
  if (!is.null(study$schedule$promised)) study <- add(study, "on_time", "project_finish", study$schedule$promised)
  for (name in names(study$tasks)) {
    if (!is.null(study$tasks[[name]]$not_after)) study <- add(study, sprintf("%s_in_time", name), task_part(name, "finish"),
      study$tasks[[name]]$not_after)
  }
  study
}
