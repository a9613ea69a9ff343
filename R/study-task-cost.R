# What tasks cost: for a task `dig` the inputs `dig[fixed cost]` and `dig[cost per day]` where these are laws, or outputs of these names
# where they are formulas; `dig[cost]`, what it costs in all; the same of each group; and `project_cost`, with what the days of
# the project cost besides, `project_cost[days]` at `project_cost[per day]`.

# What a task may cost, by the names of its parts.
cost_parts <- c(cost = "fixed cost", cost_per_day = "cost per day")

has_task_costs <- function(study) length(costed_tasks(study)) > 0 || !is.null(study$schedule$cost_per_day)

costed_tasks <- function(study) names(Filter(function(task) !is.null(task$cost) || !is.null(task$cost_per_day), study$tasks))

cost_part <- function(task, key) task_part(task, cost_parts[[key]])

day_cost_name <- "project_cost[per day]"
days_cost_name <- "project_cost[days]"

# What of it is a law, as inputs.
task_cost_inputs <- function(study) {
  made <- list()
  currency <- study$schedule$currency
  add <- function(name, of, law, label, unit) {
    if (!is_law(law)) return()
    input <- input(law, unit = unit, label = label)
    input[c("task", "aside")] <- list(of, TRUE)
    made[[name]] <<- input
  }
  per_day <- if (!is.null(currency)) paste0(currency, "/day")
  for (name in costed_tasks(study)) {
    task <- study$tasks[[name]]
    label <- task$label %||% name
    add(cost_part(name, "cost"), name, task$cost, sprintf("%s: cost", label), currency)
    add(cost_part(name, "cost_per_day"), name, task$cost_per_day, sprintf("%s: cost per day", label), per_day)
  }
  add(day_cost_name, "schedule", study$schedule$cost_per_day, "Cost of a day of the project", per_day)
  made
}

# Formulas of the parts, of each task's cost, of groups, and of all.
with_task_costs <- function(study, coming, call) {
  if (!has_task_costs(study)) {
    if (is.null(study$schedule$budget)) return(study)
    stop_ensayo("argument", "A schedule with a budget must have costs.", "No task has any.",
      "Such as `task(law_pert(8, 10, 18), cost_per_day = 1.5)`.", argument = ".budget", call = call)
  }
  refuse_taken(study, "project_cost", call)
  costed <- costed_tasks(study)
  made <- list()
  add <- function(name, of, expr, label = NULL, aside = TRUE) {
    output <- new_output(if (is_formula_given(expr)) expr else rlang::new_quosure(expr, baseenv()), list(unit = study$schedule$currency,
      label = label))
    output$task <- of
    if (aside) output$aside <- TRUE
    made[[name]] <<- output
  }
  for (name in costed) {
    task <- study$tasks[[name]]
    for (key in names(cost_parts)) if (is_formula_given(task[[key]])) add(cost_part(name, key), name, task[[key]])
    add(task_part(name, "cost"), name, task_cost_expr(study, name), sprintf("%s: cost", task$label %||% name))
  }
  groups <- lapply(task_groups(study), intersect, costed)
  for (group in names(groups)[lengths(groups) > 0]) {
    add(task_part(group, "cost"), group, sum_of_names(task_part(groups[[group]], "cost")), sprintf("%s: cost", group))
  }
  whole <- sum_of_names(task_part(costed, "cost"))
  per_day <- study$schedule$cost_per_day
  if (!is.null(per_day)) {
    days <- if (is.null(study$schedule$start)) quote(project_finish)
      else call("+", call("-", quote(project_finish), call("date", format(study$schedule$start))), 1)
    add(days_cost_name, "schedule", call("*", if (is_law(per_day)) as.symbol(day_cost_name) else per_day, call("(", days)),
      "Cost of the project's days")
    whole <- sum_of_names(c(task_part(costed, "cost"), days_cost_name))
  }
  add("project_cost", "schedule", whole, "Cost of the project", aside = FALSE)
  v <- quantity_vocabulary(study, unique(c(quantity_names(study), names(made), coming)))
  for (name in names(made)) {
    output <- made[[name]]
    output$formula <- read_formula(output$formula, v, sprintf("Task %s", quoted(output$task)))
    study$outputs[[name]] <- output
    key <- names(cost_parts)[match(name, task_part(output$task, cost_parts))]
    if (!is.na(key)) study <- with_values_written(study, output$task, key, output$formula)
  }
  if (length(study$events)) with_impacts_added(study, call) else study
}

# A task that is not there in a run costs nothing.
task_cost_expr <- function(study, name) {
  task <- study$tasks[[name]]
  of <- function(key) if (is_law(task[[key]]) || is_formula_given(task[[key]])) as.symbol(cost_part(name, key)) else task[[key]]
  fixed <- if (!is.null(task$cost)) of("cost")
  if (length(task$when) && !is.null(fixed)) fixed <- call("if", as.symbol(part_name(task$when, "happened")), fixed, 0)
  work <- work_name(study, name)
  daily <- if (!is.null(task$cost_per_day)) if (is.na(work)) 0 else call("*", of("cost_per_day"), as.symbol(work))
  if (is.null(daily)) fixed else if (is.null(fixed)) daily else call("+", fixed, daily)
}

# The quantity that is a task's days of work in each run; NA of a milestone.
work_name <- function(study, task) {
  names <- task_part(task, c("work", "duration"))
  names[names %in% quantity_names(study)][1]
}

# When a cost is paid: list(when, lag), `lag` elapsed days later.
read_paid <- function(text, arg = "paid", call = rlang::caller_env()) {
  if (is.null(text)) return(NULL)
  found <- regmatches(text, regexec("^\\s*(spread|start|finish)\\s*([+]\\s*([0-9]+([.][0-9]+)?)\\s*days?)?\\s*$", text))[[1]]
  if (length(found) == 0) {
    stop_ensayo("argument", sprintf("`%s` must be spread, start or finish, and by how many days later it is paid.", arg),
      sprintf("You gave %s.", quoted(text)), "Such as \"spread\", \"start\", \"finish + 30 days\".", argument = arg, call = call)
  }
  list(when = found[2], lag = if (nzchar(found[4])) as.double(found[4]) else 0)
}

checked_paid <- function(paid, cost, call = rlang::caller_env()) {
  if (!is.null(paid) && is.null(cost)) {
    stop_ensayo("argument", "`paid` must be given with `cost`.", "The task has none.", "What costs a day is spread over the days.",
      argument = "paid", call = call)
  }
  paid
}

paid_text <- function(paid) {
  if (is.null(paid)) return(NULL)
  paste0(paid$when, if (paid$lag > 0) sprintf(" + %s", count_of(paid$lag, "day")))
}

# Which payments there are: of each the place of its task in the plan, 0 for the project's days, when and how much later it is paid,
# and its `amount`, a function of columns by name. What costs a day is spread over the days, whatever is said of the rest.
payments_of <- function(study) {
  plan <- study$models$schedule$plan
  at_once <- list(when = "spread", lag = 0)
  whens <- c(spread = 0L, start = 1L, finish = 2L)
  of_tasks <- lapply(costed_tasks(study), function(name) {
    task <- study$tasks[[name]]
    paid <- task$paid %||% at_once
    total <- task_part(name, "cost")
    work <- work_name(study, name)
    several <- !is.null(task[["cost"]]) && !is.null(task$cost_per_day) && !identical(paid, at_once) && !is.na(work)
    daily <- if (several) daily_cost(study, name, work)
    made <- function(paid, uses, amount) list(task = match(name, plan$names), when = whens[[paid$when]], lag = paid$lag, uses = uses,
      amount = amount)
    if (!several) return(list(made(paid, total, function(columns) columns[[total]])))
    list(made(at_once, daily$uses, daily$amount), made(paid, c(total, daily$uses), function(columns) {
      columns[[total]] - daily$amount(columns)
    }))
  })
  tasks <- unlist(of_tasks, recursive = FALSE)
  totals <- c(task_part(costed_tasks(study), "cost"), if (!is.null(study$schedule$cost_per_day)) days_cost_name)
  # what the project costs beyond its tasks and days: events that have no task
  rest <- function(columns) columns$project_cost - Reduce(`+`, columns[totals], 0)
  own <- study$schedule$cost_per_day
  acted_on <- length(study$outputs$project_cost$own) > 0
  if (is.null(own) && !acted_on) return(tasks)
  of_project <- function(when, uses, amount) list(list(task = 0L, when = whens[[when]], lag = 0, uses = uses, amount = amount))
  c(tasks, if (!is.null(own)) of_project("spread", days_cost_name, function(columns) columns[[days_cost_name]]),
    if (acted_on) of_project("finish", c("project_cost", totals), rest))
}

daily_cost <- function(study, name, work) {
  given <- study$tasks[[name]]$cost_per_day
  rate <- if (!is.numeric(given)) now_called(study, cost_part(name, "cost_per_day"))
  list(uses = c(rate, work), amount = function(columns) (if (is.null(rate)) given else columns[[rate]]) * columns[[work]])
}

# An input with what events add to it, where they do.
now_called <- function(study, name) if (name %in% moved_inputs(study)) with_events_name(name) else name

# The inputs that are what tasks were given.
task_value_names <- function(study) {
  c(unlist(lapply(c("duration", cost_parts), task_part, task = names(study$tasks)), use.names = FALSE), if (length(study$tasks)) day_cost_name)
}

# The study in which such an input has another law, so that the task is described by it.
with_task_value <- function(study, name, law) {
  task <- study$inputs[[name]]$task
  if (identical(name, day_cost_name)) study$schedule$cost_per_day <- law
  if (is.null(task) || is.null(study$tasks[[task]])) return(study)
  key <- c("duration", names(cost_parts))[match(name, task_part(task, c("duration", cost_parts)))]
  if (!is.na(key)) study$tasks[[task]][[key]] <- law
  study
}
