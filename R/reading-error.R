# How far a figure may be off for lack of runs: standard errors and confidence intervals. Within one Latin hypercube
# runs are not independent and these are conservative; from five replicates on, the replicates tell.

replicates_to_tell <- 5

# Which replicate each run is of, where replicates tell the error better than the runs do; else NULL.
telling_replicates <- function(result) {
  p <- result$provenance
  if (p$design == "random" || p$replicates < replicates_to_tell || is_long_store(result$store)) return(NULL)
  replicate <- (run_numbers(result) - 1) %/% (p$nsim / p$replicates) + 1
  # runs given a condition may be left of a few replicates only
  if (length(p$given) && length(unique(replicate)) < replicates_to_tell) NULL else replicate
}

# The standard error of a statistic that is a mean of replicates' own, or nearly: `of` takes values, returns numbers.
replicate_errors <- function(values, replicates, of) {
  parts <- vapply(split(values, replicates), of, of(values[1]))
  parts <- matrix(parts, ncol = length(unique(replicates)))
  apply(parts, 1, stats::sd) / sqrt(ncol(parts))
}

# Wherever a print says "plus or minus" it means 95 %; errors that replicates tell are known from few of them.
half_interval <- function(error, result) {
  replicates <- telling_replicates(result)
  ifelse(is.nan(error), NA, error) * if (is.null(replicates)) stats::qnorm(0.975) else stats::qt(0.975, length(unique(replicates)) - 1)
}

# The runs from which on the interval of a mean by its standard error holds, by the skewness of the values (Cochran 1977,
# Sampling Techniques, section 2.15).
runs_for_mean <- function(skewness) ceiling(25 * skewness^2)

mean_error <- function(values, replicates) {
  if (!is.null(replicates)) return(replicate_errors(values, replicates, mean))
  m <- cpp_moments(values)
  sqrt(m$m2 / (m$count - 1)) * m$scale
}

# Ranks whose values enclose a percentile with the confidence, each tail for itself, whatever the law: 0 or n + 1 where
# the runs do not bound it (Conover 1999, section 3.2).
enclosing_ranks <- function(n, percentiles, confidence) {
  tail <- (1 - confidence) / 2
  p <- percentiles / 100
  list(low = binomial_quantile(tail, n, p), high = binomial_quantile(1 - tail, n, p) + 1)
}

# R 4.2's own can be off by two where p is near 1 (qbinom(0.025, 6072, 0.9999) is 6072, not 6070): it is asked where
# p is small, and the count of the others taken.
binomial_quantile <- function(q, n, p) {
  mirrored <- p > 0.5
  x <- stats::qbinom(ifelse(mirrored, 1 - q, q), n, pmin(p, 1 - p))
  ifelse(mirrored, n - x, x)
}

# The runs it takes to bound a percentile from both sides.
runs_to_bound <- function(percentile, confidence = 0.95) {
  p <- percentile / 100
  ceiling(log((1 - confidence) / 2) / log(pmax(p, 1 - p)))
}

# Values, low and high ends of percentiles (not exceeded), and what is to be said of them.
percentile_estimates <- function(values, percentiles, type, confidence, replicates = NULL) {
  n <- length(values)
  if (n == 0) return(unbounded(rep(NA_real_, length(percentiles)), rep("every run failed", length(percentiles))))
  if (!is.null(replicates)) return(replicate_estimates(values, percentiles, type, confidence, replicates))
  ranks <- enclosing_ranks(n, percentiles, confidence)
  places <- type_places(n, percentiles / 100, type)
  at <- ranks_known(values, c(places$low, places$high, ranks$low, ranks$high))
  out <- list(value = place_values(at(places$low), at(places$high), places$along), low = at(ranks$low),
    high = at(ranks$high))
  out$low[ranks$low < 1] <- NA
  out$high[ranks$high > n] <- NA
  # the ends of what may occur cannot be enclosed by any number of runs
  needed <- ifelse(percentiles %in% c(0, 100), Inf, runs_to_bound(percentiles, confidence))
  side <- ifelse(is.na(out$low) & is.na(out$high), "", ifelse(is.na(out$low), " below", " above"))
  open <- is.na(out$low) | is.na(out$high)
  out$remark <- ifelse(!open, "", ifelse(is.finite(needed),
    sprintf("not bounded%s by these runs: takes %s", side, needed), "the runs' own extreme: more runs move it"))
  out
}

replicate_estimates <- function(values, percentiles, type, confidence, replicates) {
  value <- percentile_values(values, percentiles, type)
  error <- replicate_errors(values, replicates, function(x) percentile_values(x, percentiles, type))
  half <- error * stats::qt((1 + confidence) / 2, length(unique(replicates)) - 1)
  list(value = value, low = value - half, high = value + half, remark = rep("", length(value)))
}

unbounded <- function(value, remark) list(value = value, low = value, high = value, remark = remark)

# Clopper and Pearson (1934), Biometrika 26(4): never below the stated confidence, also near 0 and 1.
proportion_interval <- function(met, n, confidence = 0.95) {
  tail <- (1 - confidence) / 2
  list(
    low = ifelse(met <= 0, 0, stats::qbeta(tail, met, n - met + 1)),
    high = ifelse(met >= n, 1, stats::qbeta(tail, met + 1, n - met, lower.tail = FALSE))
  )
}

# The same with the number of runs that the replicates' scatter is worth (Korn and Graubard 1998, Survey Methodology
# 24(2)): it is 0 and 1 that a symmetric interval would get wrong.
# `met`: how many runs of each replicate; `sizes`: of how many.
replicate_proportion <- function(met, sizes, confidence = 0.95) {
  n <- sum(sizes)
  p <- sum(met) / n
  error <- stats::sd(met / sizes) / sqrt(length(sizes))
  tail <- (1 - confidence) / 2
  ratio <- (stats::qnorm(tail) / stats::qt(tail, length(sizes) - 1))^2
  worth <- if (error > 0) p * (1 - p) / error^2 * ratio else n
  c(lapply(proportion_interval(p * worth, worth, confidence), c), list(error = error))
}
