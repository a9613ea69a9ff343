# Plans of schedules, and the core's way through them (src/core/schedule.h).

# What the core calls what it gives of tasks, and the quantities that a study calls by it.
task_quantities <- c(start = "start", finish = "finish", total = "float", critical = "critical")

# A plan of numbers through `n` runs, or those at the places `rows`. `asked` are places of tasks by what is asked of them: start, finish,
# total and free (floats), longer (how much longer it may take), critical, driver; `limit` the instant to which floats are counted; `ends`, in
# days from the plan's day 0, those of periods, in each of which `paid` is what `payments` come to. What is a quantity of the study comes
# as `columns` by name, too.
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
