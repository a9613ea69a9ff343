# Parts of runs, and runs put together.

# `count` values of a column after the first `first`; a single value is every run's.
part_of <- function(column, first, count) {
  if (length(column) == 1) column
  else if (is.double(column) && !is.matrix(column)) cpp_part(column, first, count)
  else column[first + seq_len(count)]
}

# Evaluations of neighbouring runs as one.
join_runs <- function(parts) {
  values <- joined_columns(lapply(parts, function(part) part$values))
  failures <- do.call(rbind, lapply(parts, function(part) part$failures))
  list(values = values, failures = failures[order(failures$run), , drop = FALSE],
    warnings = unique(do.call(rbind, lapply(parts, function(part) part$warnings))))
}
