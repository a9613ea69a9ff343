# Which surrogate an output has: the candidate whose predictions of runs that it was not fitted to are best, of those inputs that its
# predictions are worse without.

surrogate_kinds <- function() {
  list(polynomial = surrogate_polynomial, additive = surrogate_additive, gaussian = surrogate_gaussian)
}

surrogate_kind <- function(kind) surrogate_kinds()[[kind]]

# `counts`, below: the runs by which it is judged, of those that it is fitted to. Suggested runs lie where it is difficult.

# Runs of the same inputs stay together: the model of some of them would be told the answer of the others.
surrogate_folds <- function(x) {
  alike <- match(row_keys(x), unique(row_keys(x)))
  groups <- max(alike)
  fold_numbers(groups, if (groups <= 60) 20 else if (groups <= 500) 10 else 5)[alike]
}

row_keys <- function(x) do.call(paste, c(list(""), lapply(seq_len(ncol(x)), function(j) sprintf("%a", x[, j]))))

# What each part of the runs is predicted to be by a fit to the others: `state` of each part, `mean` and `error` of each run.
cross_validated <- function(kind, x, y, coordinates, folds, from) {
  record <- surrogate_kind(kind)
  states <- lapply(seq_len(max(folds)), function(i) {
    taught <- folds != i
    fit <- record$fit(x[taught, , drop = FALSE], y[taught], coordinates, from)
    record$ready(fit, x[taught, , drop = FALSE], y[taught], coordinates)
  })
  of <- function(question) {
    out <- numeric(length(y))
    for (i in seq_along(states)) out[folds == i] <- record[[question]](states[[i]], x[folds == i, , drop = FALSE])
    out
  }
  list(states = states, mean = of("mean"), error = of("error"))
}

# Predictive R squared with an interval: by the scatter of the parts' own and of the runs, on the logarithm of what is unexplained,
# which has no upper end; no narrower than 0.1 over the number of runs to each side. The fit to all runs may be better than those to
# most of them: up to what the better quarter of the parts have, and as if errors fell with the sixth power of the number of runs.
predictive_score <- function(y, predicted, folds, counts = rep(TRUE, length(folds)), confidence = 0.95) {
  y <- as.matrix(y)
  sums <- rowsum(y, factor(folds, seq_len(max(folds))))
  others <- (rep(colSums(y), each = nrow(y)) - sums[folds, , drop = FALSE]) / (nrow(y) - tabulate(folds)[folds])
  missed <- rowSums((y - predicted)^2)[counts]
  spread <- rowSums((y - others)^2)[counts]
  folds <- folds[counts]
  if (sum(spread) == 0) return(list(r_squared = NA_real_, low = NA_real_, high = NA_real_, total = 0))
  value <- sum(missed) / sum(spread)
  sums <- rowsum(cbind(missed, spread), folds)
  k <- nrow(sums)
  error <- stats::sd(sums[, 1] - value * sums[, 2]) * sqrt(k) / sum(missed)
  # of the runs themselves, where there are few parts
  by_run <- stats::sd(missed - value * spread) * sqrt(length(missed)) / sum(missed)
  half <- stats::qt((1 + confidence) / 2, k - 1) * sqrt(error^2 + by_run^2)
  better <- stats::quantile(sums[, 1], 0.25, names = FALSE) * k / sum(spread)
  least <- 0.1 / length(missed)
  list(r_squared = 1 - value, low = 1 - max(value * exp(half), value + least),
    high = min(1, 1 - min(value * exp(-half) * (1 - 1 / k)^6, value - least, better)), total = sum(spread))
}

# All candidates for one output, the best first.
surrogate_candidates <- function(x, y, coordinates, kinds, counts) {
  folds <- surrogate_folds(x)
  made <- lapply(stats::setNames(nm = kinds), function(kind) {
    fit <- tryCatch(surrogate_kind(kind)$fit(x, y, coordinates), error = function(e) NULL)
    if (is.null(fit)) return(NULL)
    held <- tryCatch(cross_validated(kind, x, y, coordinates, folds, fit), error = function(e) NULL)
    if (is.null(held) || !all(is.finite(held$mean))) return(NULL)
    c(list(kind = kind, fit = fit, held = held, folds = folds), predictive_score(y, held$mean, folds, counts))
  })
  made <- Filter(Negate(is.null), made)
  if (length(made) == 0) stop_ensayo("model", "A surrogate must fit the runs.", sprintf("%s cannot.", and_list(quoted(kinds))), "Try other `kinds`.")
  made[order(-vapply(made, `[[`, 0, "r_squared"))]
}

# How much predictive R squared is lost where an input is not known: held-out runs are predicted once more, with values that other runs
# have of it, and the mean of those taken. An input is idle where they are no worse for it: where
# the interval of 99 % of what is lost holds 0.
part_errors <- 2.576  # standard errors to each side of an interval of 99 %

surrogate_parts <- function(best, x, y, coordinates, counts) {
  inputs <- unique(coordinate_inputs(coordinates))
  record <- surrogate_kind(best$kind)
  missed <- (y - best$held$mean)^2
  n <- length(y)
  times <- if (n > 300) 8 else 16
  total <- best$total
  new_table(stacked(lapply(inputs, function(name) {
    own <- which(coordinate_inputs(coordinates) == name)
    without <- numeric(n)
    for (i in seq_along(best$held$states)) {
      rows <- which(best$folds == i)
      others <- which(best$folds != i)
      # values from end to end of the input
      given <- others[order(x[others, own[1]])][round((seq_len(times) - 0.5) / times * length(others) + 0.5)]
      asked <- x[rep(rows, each = times), , drop = FALSE]
      asked[, own] <- x[rep(given, length(rows)), own]
      without[rows] <- colMeans(matrix(record$mean(best$held$states[[i]], asked), times))
    }
    lost <- ((y - without)^2 - missed)[counts]
    part <- sum(lost) / total
    error <- stats::sd(lost) * sqrt(length(lost)) / total
    rows_of(input = name, part = part, error = error, idle = !isTRUE(part > part_errors * error))
  })))
}

# One output: the candidates with all inputs; then without those that are idle, where that is no worse.
surrogate_of_output <- function(x, y, coordinates, kinds, counts = rep(TRUE, length(y))) {
  if (all(y == y[1])) kinds <- "polynomial"
  best <- surrogate_candidates(x, y, coordinates, kinds, counts)
  parts <- surrogate_parts(best[[1]], x, y, coordinates, counts)
  idle <- parts$input[parts$idle]
  made <- list(used = seq_along(coordinates), best = best, parts = parts)
  if (length(idle) == 0 || length(idle) == nrow(parts)) return(made)
  used <- which(!coordinate_inputs(coordinates) %in% idle)
  again <- surrogate_candidates(x[, used, drop = FALSE], y, coordinates[used], kinds, counts)
  if (again[[1]]$r_squared < best[[1]]$r_squared - 0.002 * (1 - best[[1]]$r_squared)) return(made)
  list(used = used, best = again, parts = parts)
}
