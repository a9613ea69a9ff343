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

# What the core calls what it gives of tasks, and the quantities that a study calls by it.
task_quantities <- c(start = "start", finish = "finish", total = "float", critical = "critical")

# What a model gives, as the core is asked for it: places of tasks by what is wanted.
asked_of_tasks <- function(model) {
  lapply(task_quantities, function(part) which(task_part(model$plan$names, part) %in% model$gives))
}

# A schedule through runs. `columns` are the quantities that it uses, `asked` places of tasks by what is asked of them: start, finish, total
# and free (floats), longer (how much longer it may take), critical, driver; `limit` the instant to which floats are counted; `ends`, in
# days from the plan's day 0, those of periods, in each of which `paid` is what `payments` come to. What is a quantity of the study comes
# as `columns` by name, too.
run_schedule <- function(model, columns, n, asked = list(), ...) run_plan(model, plan_values(model$plan, columns), n, asked, ...)

# A plan of numbers; `rows` are the places of some runs, which alone are made.
run_plan <- function(model, plan, n, asked = list(), rows = integer(), paths = FALSE, limit = NA_real_, payments = list(), ends = numeric(),
                     threads = threads_to_use()) {
  made <- cpp_run_schedule(c(plan, list(payments = payments)), n, rows, asked, paths, limit, ends, threads)
  given <- intersect(names(asked), names(task_quantities))
  made$columns <- do.call(c, c(list(list()), lapply(given, function(what) {
    stats::setNames(made[[what]], task_part(model$plan$names[asked[[what]]], task_quantities[[what]]))
  })))
  made
}

# The plan with numbers in the place of names.
plan_values <- function(plan, columns) filled_plan(plan, list2env(columns, parent = emptyenv()))

filled_plan <- function(plan, columns) {
  if (!is.list(plan)) return(plan)
  if (is.character(plan[["name"]])) return(taken_values(plan, columns))
  lapply(plan, filled_plan, columns)
}

taken_values <- function(taken, columns) {
  column <- columns[[taken$name]]
  if (!is.null(taken$step)) column <- column[, taken$step]
  column <- as.double(column)
  if (taken$times != 1) column <- column * taken$times
  if (taken$add == 0) column else column + taken$add
}
