# The loop of models that make one run at a time.

# Values of each output over `runs`. `evaluate(i)` makes one of them: `parts`, as checked_parts() gives them, a text where
# all of it failed; and `folder`, where the run left something to look at. Runs of which something that is needed failed
# before, or that have a fault in `faults`, are not tried.
run_each <- function(model, columns, runs, log, evaluate, faults = rep(NA_character_, length(runs))) {
  n <- length(runs)
  values <- lapply(model$steps, function(steps) {
    if (is.null(steps)) rep(NA, n) else matrix(NA, n, length(steps), dimnames = list(NULL, step_keys(steps)))
  })
  before <- faults_before(columns, n, runs, log)
  faults[!is.na(before)] <- before[!is.na(before)]
  folders <- rep("", n)
  for (i in which(is.na(faults))) {
    done <- evaluate(i)
    folders[i] <- done$folder %||% ""
    if (is.character(done$parts)) faults[i] <- done$parts
    else for (name in model$gives) {
      part <- done$parts[[name]]
      fault <- attr(part, "fault")
      if (!is.null(fault)) log$add(name, runs[i], fault, folders[i])
      else if (is.null(model$steps[[name]])) values[[name]][i] <- part
      else values[[name]][i, ] <- part
    }
  }
  failed <- which(!is.na(faults))
  for (name in model$gives) {
    if (length(failed)) log$add(name, runs[failed], faults[failed], folders[failed])
    if (!is.logical(values[[name]])) storage.mode(values[[name]]) <- "double"
  }
  values
}

# Why a run is not tried: something that it needs failed before.
faults_before <- function(columns, n, runs, log) {
  faults <- rep(NA_character_, n)
  for (name in rev(names(columns))) {
    column <- columns[[name]]
    bad <- runs %in% log$failed_runs(name) | rep_len(is.na(if (is.matrix(column)) rowSums(column) else column), n)
    faults[bad] <- sprintf("`%s` failed", name)
  }
  faults
}
