# Parts of runs, and runs put together.

# `count` values of a column after the first `first`; a single value is every run's.
part_of <- function(column, first, count) {
  if (length(column) == 1 || first == 0 && count == column_length(column)) column
  else if (is.double(column) && !is.matrix(column) && !is.object(column)) cpp_part(column, first, count)
  else column[first + seq_len(count)]
}

# Evaluations of neighbouring runs as one.
join_runs <- function(parts) {
  joined <- if (length(parts) == 1) parts[[1]] else list(
    values = joined_columns(lapply(parts, function(part) part$values)),
    failures = do.call(rbind, lapply(parts, function(part) part$failures)),
    warnings = unique(do.call(rbind, lapply(parts, function(part) part$warnings))))
  if (nrow(joined$failures)) joined$failures <- joined$failures[order(joined$failures$run), , drop = FALSE]
  joined
}

# Parts with the places of their first runs, put together; how many runs they hold, and what is missing between them: where
# each gap begins and ends.
runs_in_order <- function(parts) {
  join_runs(lapply(parts[order(vapply(parts, function(part) part$first, 0))], function(part) part$runs))
}

runs_of_part <- function(part) column_length(part$runs$values[[1]])

runs_in <- function(parts) sum(vapply(parts, runs_of_part, 0))

gaps_between <- function(parts, count) {
  begins <- c(0, vapply(parts, function(part) part$first + runs_of_part(part), 0))
  ends <- c(vapply(parts, function(part) part$first, 0), count)
  Map(c, begins, ends)[begins < ends]
}

# Whether too many of the runs so far have failed to go on: at least 20 are made first.
fails_too_often <- function(parts, setting) {
  if (setting$most_failed >= 1) return(FALSE)
  # workers may bring the first ones later
  if (!any(vapply(parts, function(part) part$first == 0, NA))) return(FALSE)
  done <- runs_in(parts)
  failed <- sum(vapply(parts, function(part) length(unique(part$runs$failures$run)), 0L))
  done >= 20 && failed / done > setting$most_failed
}

# The runs up to the first gap, of a simulation that was stopped.
runs_without_gap <- function(parts) {
  parts <- parts[order(vapply(parts, function(part) part$first, 0))]
  ends <- vapply(parts, function(part) part$first + runs_of_part(part), 0)
  starts <- vapply(parts, function(part) part$first, 0)
  c(runs_in_order(parts[cumprod(starts == c(0, ends[-length(ends)])) == 1]), list(stopped = TRUE))
}

# Says how far a simulation is: a function of two numbers, or of three, whose third gives what was calculated so far.
tell_progress <- function(progress, done, count, parts) {
  call_progress(progress, done, count, function() {
    list(values = joined_columns(lapply(parts, function(part) part$runs$values)),
      failures = do.call(rbind, lapply(parts, function(part) part$runs$failures)))
  })
}

call_progress <- function(progress, done, count, so_far) {
  if (is.null(progress)) return(invisible())
  if (length(formals(args(progress))) < 3) progress(done, count) else progress(done, count, so_far)
}

# The same as a part of a longer one, after `first` runs.
progress_after <- function(progress, first, all) {
  if (is.null(progress)) return(NULL)
  function(done, count, so_far) call_progress(progress, first + done, all, so_far)
}
