# Schedules: tasks with links and calendars, calculated forward and backward in every run (src/core/schedule.h).

kind_schedule <- list(
  dear = FALSE,
  prepare = function(model, setting) {
    tasks <- model$plan$names
    asked <- asked_of_tasks(model)
    function(values, runs, log) {
      made <- run_schedule(model, mget(unname(model$uses), envir = values), length(runs), asked, threads = setting$threads)
      for (name in model$gives) assign(name, if (name == "project_finish") made$finish_of_all else made$columns[[name]], envir = values)
      failed <- which(made$failed > 0)
      if (length(failed) == 0) return()
      reasons <- broken_reasons(sprintf("the work of task `%s` is not a number of days from 0 on", tasks[made$failed[failed]]), runs[failed],
        unname(model$uses), log)
      for (name in model$gives) {
        value <- values[[name]]
        value[failed] <- NA
        assign(name, value, envir = values)
        log$add(name, runs[failed], reasons)
      }
    }
  },
  alone = function(model, setting) list()
)

# What a model gives, as the core is asked for it: places of tasks by what is wanted.
asked_of_tasks <- function(model) {
  parts <- c(start = "start", finish = "finish", total = "float", critical = "critical")
  lapply(parts, function(part) which(task_part(model$plan$names, part) %in% model$gives))
}

# A schedule through runs. `columns` are the quantities it uses, `asked` places of tasks; `changed` values of work by place, as
# schedule_gains() changes them. What is asked of tasks comes as `columns` by the names of quantities.
run_schedule <- function(model, columns, n, asked = list(), paths = FALSE, limit = NA_real_, threads = threads_to_use(), changed = list()) {
  given <- plan_values(model$plan, columns)
  given$tasks$work[as.integer(names(changed))] <- changed
  made <- cpp_run_schedule(given, n, asked, paths, limit, threads)
  parts <- c(start = "start", finish = "finish", total = "float", critical = "critical")
  made$columns <- list()
  for (what in intersect(names(asked), names(parts))) {
    made$columns[task_part(model$plan$names[asked[[what]]], parts[[what]])] <- made[[what]]
  }
  made
}

# The plan with numbers in the place of names.
plan_values <- function(plan, columns) {
  if (!is.list(plan)) return(plan)
  if (is.character(plan[["name"]])) {
    column <- columns[[plan[["name"]]]]
    if (!is.null(plan$step)) column <- column[, plan$step]
    column <- as.double(column)
    if (!is.null(plan$times)) column <- column * plan$times
    return(if (plan$add == 0) column else column + plan$add)
  }
  lapply(plan, plan_values, columns)
}
