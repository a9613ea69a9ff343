# Whether a run evaluated among others has the value it has alone. Reading a formula refuses what is known to act across
# runs; this finds what cannot be known from the code.

# Evaluates pieces of models again, alone: in the runs with the extremes of what they use and give, and in others picked
# by the seed. A value that differs is an error. A piece has what it `uses` and `gives`, an `evaluate` function, and how
# many `runs` to pick. `first` runs are not among the columns; `complete` puts series in the place of what stands for them.
check_runs_alone <- function(pieces, columns, values, seed, first = 0, complete = identity) {
  columns <- c(columns, values)
  for (piece in pieces) {
    uses <- columns[piece$uses]
    for (i in runs_to_check(c(uses, values[piece$gives]), column_length(values[[piece$gives[1]]]), seed, piece$runs)) {
      row <- complete(lapply(uses, function(column) if (length(column) == 1) column else column_at(column, i)))
      alone <- piece$evaluate(row, first + i)$values
      for (name in piece$gives) {
        together <- column_at(values[[name]], i)
        if (!same_value(alone[[name]], together)) stop_not_alone(name, first + i, together, alone[[name]])
      }
    }
  }
}

# Those with the extremes, as far as there are no more than asked for beside them, and others.
runs_to_check <- function(columns, n, seed, runs) {
  extremes <- unlist(lapply(columns, function(column) {
    if (length(column) > 1 && !is.character(column) && !is.matrix(column)) cpp_extreme_runs(as.double(column))
  }))
  others <- 1 + floor(n * cpp_check_uniforms(seed, "runs checked alone", runs))
  sort(unique(c(if (runs >= 32) extremes, others)))
}

# Equal up to the rounding that a matrix library may do differently for one row and for many.
same_value <- function(a, b) {
  missing <- is.na(a) | is.na(b)
  if (any(missing)) return(all(is.na(a) == is.na(b)) && same_value(a[!missing], b[!missing]))
  all(a == b | abs(a - b) <= 1e-9 * pmax(abs(a), abs(b)))
}

stop_not_alone <- function(name, run, together, alone) {
  differs <- which(!mapply(same_value, alone, together))[1]
  stop_ensayo("across_runs", sprintf("%s must give each run the value that it has alone.", quoted(name)),
    sprintf("In run %s it is %s among all runs, but %s when that run is evaluated alone.", format(run),
      format(together[differs], digits = 10), format(alone[differs], digits = 10)),
    paste("A function of yours acts across runs, or does not give the same twice. If it takes one run's numbers, say",
      "`vectorised = FALSE`."),
    name = name, run = run, together = together, alone = alone)
}
