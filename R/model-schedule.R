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
  lapply(task_quantities, function(part) which(task_part(model$plan$names, part) %in% model$gives))
}

# A schedule through runs, with columns of what it uses; `asked` and the rest as run_plan() has them.
run_schedule <- function(model, columns, n, asked = list(), ...) run_plan(model, plan_values(model$plan, columns), n, asked, ...)
