# Whether a run evaluated among others has the value it has alone. Reading a formula refuses what is known to act across
# runs; this finds what cannot be known from the code.

# Evaluates again, alone, each formula that gives whole columns to functions of the user's: in the runs with the
# extremes of what it uses and gives, and in 32 others picked by the seed. A value that differs is an error. `first`
# runs are not among the columns.
check_runs_alone <- function(formulas, columns, values, seed, first = 0) {
  columns <- c(columns, values)
  for (name in names(Filter(takes_columns, formulas))) {
    uses <- columns[formulas[[name]]$uses]
    evaluator <- new_evaluator(formulas[name])
    for (i in runs_to_check(c(uses, values[name]), length(values[[name]]), seed)) {
      row <- lapply(uses, function(column) if (length(column) == 1) column else column[i])
      alone <- evaluator(row, first + i)$values[[name]]
      if (!same_value(alone, values[[name]][i])) stop_not_alone(name, first + i, values[[name]][i], alone)
    }
  }
}

takes_columns <- function(formula) any(!vapply(formula$functions, function(bound) bound$each, TRUE))

runs_to_check <- function(columns, n, seed) {
  extremes <- unlist(lapply(columns, function(column) {
    if (length(column) > 1 && !is.character(column)) cpp_extreme_runs(as.double(column))
  }))
  others <- 1 + floor(n * cpp_check_uniforms(seed, "runs checked alone", 32))
  sort(unique(c(extremes, others)))
}

# Equal up to the rounding that a matrix library may do differently for one row and for many.
same_value <- function(a, b) {
  if (is.na(a) || is.na(b)) return(is.na(a) && is.na(b))
  a == b || abs(a - b) <= 1e-9 * max(abs(a), abs(b))
}

stop_not_alone <- function(name, run, together, alone) {
  stop_ensayo("across_runs", sprintf("%s must give each run the value that it has alone.", quoted(name)),
    sprintf("In run %s it is %s among all runs, but %s when that run is evaluated alone.", format(run),
      format(together, digits = 10), format(alone, digits = 10)),
    "A function in its formula acts across runs. If it takes one run's numbers, say `output(..., vectorised = FALSE)`.",
    name = name, run = run, together = together, alone = alone)
}
