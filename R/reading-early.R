# What is known while a simulation goes on.

# Told of each step of a simulation, how far it is: `done`, `all`, `rate` (runs a second, NULL where that is not known
# yet) and `left` (seconds).
new_clock <- function() {
  first <- NULL  # runs that were there already say nothing about how fast it is
  function(done, all) {
    now <- proc.time()[["elapsed"]]
    if (is.null(first)) first <<- list(done = done, at = now)
    rate <- if (done > first$done) (done - first$done) / max(now - first$at, 1e-3)
    list(done = done, all = all, rate = rate, left = if (!is.null(rate)) (all - done) / rate)
  }
}

# The runs so far as a result, for readings and figures, with errors as of random ones; the base case is not calculated
# for it.
early_result <- function(study, so_far, all) {
  result <- new_result(study, memory_store(so_far$values, column_kinds(study, so_far$values)), so_far$failures, NULL,
    list(outputs = lapply(study$outputs, function(output) NA_real_)), list(nsim = all, design = "random", replicates = 1),
    tell = FALSE)
  result$provenance$so_far <- run_count(result)
  result
}

# Mean and percentiles of an output so far, each with its error; NULL where two different values are not there yet.
early_figures <- function(result, name) {
  values <- finite_values(result, name)
  if (length(values) < 2 || min(values) == max(values)) return(NULL)
  kind <- output_kind_of(result, name)
  asked <- c(10, 50, 90)
  read <- column_percentiles(values, kind, not_exceeded(asked, result$study$readings$sense), NULL, 0.95, NULL)
  error <- stats::sd(values) / sqrt(length(values))
  list(kind = kind, decimals = output_decimals(result, name), mean = mean(values), within = 1.96 * error,
    percentiles = data.frame(percentile = asked, value = read$value, low = read$low, high = read$high))
}
