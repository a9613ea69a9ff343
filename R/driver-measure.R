# The measures of drivers(), one shape: a function of a problem (driver.R) and options that returns value, low, high
# and p_value (of an idle input) for each column of x, and if it has them r_squared, findings and sign. `shares`: the value
# is a share of variance; `signed`: its sign says which way; `blind`: it does not see curves; `groups`: there is one of
# groups. The first is the one that prints, figures, reports and words use.
driver_measures <- list(
  variance_share = list(about = paste("share of the output's variance by straight effects, which holds when inputs are",
    "correlated; shares add up to R squared"), shares = TRUE, blind = TRUE, groups = TRUE,
    run = function(problem, options) share_figures(problem, options)),
  rank = list(about = "Spearman's rank correlation, which follows any rising or falling relation", signed = TRUE,
    blind = TRUE, groups = TRUE,
    run = function(problem, options) correlation_figures(problem, options, TRUE)),
  pearson = list(about = "Pearson's correlation, which follows straight relations", signed = TRUE, blind = TRUE,
    groups = TRUE, run = function(problem, options) correlation_figures(problem, options, FALSE)),
  partial = list(about = "partial correlation: what is left when the other inputs' straight effects are taken away",
    signed = TRUE, run = function(problem, options) partial_figures(problem, options, FALSE)),
  partial_rank = list(about = "the same of ranks", signed = TRUE,
    run = function(problem, options) partial_figures(problem, options, TRUE)),
  regression = list(about = paste("standardised regression coefficient: standard deviations of output for one of",
    "input, the others held"), signed = TRUE,
    run = function(problem, options) regression_figures(problem, options, FALSE)),
  rank_regression = list(about = "the same of ranks", signed = TRUE,
    run = function(problem, options) regression_figures(problem, options, TRUE)),
  swing = list(about = paste("the output's mean (or another statistic) in the input's highest band less that in its",
    "lowest, in the output's unit"), signed = TRUE, run = function(problem, options) swing_figures(problem, options)),
  first_order = list(about = paste("first-order variance index from the runs: the share of variance that would go if",
    "the input were known; sees curves"), shares = TRUE,
    run = function(problem, options) first_order_figures(problem, options)),
  moment_independent = list(about = paste("how far bands of the input shift the output's whole distribution, from 0",
    "to 1; sees any relation"), run = function(problem, options) distance_figures(problem, options))
)

# Ranks of columns and output, or they themselves.
driver_columns <- function(problem, ranks) {
  if (!ranks) return(problem[c("x", "y")])
  list(x = problem$ranks %||% mid_ranks(problem$x), y = mid_ranks(list(problem$y))[[1]])
}

correlation_figures <- function(problem, options, ranks) {
  r <- problem$r
  if (is.null(r)) {
    columns <- driver_columns(problem, ranks)
    r <- correlations_between(columns$x, list(columns$y), FALSE)[, 1]
  }
  n <- problem$n
  error <- sqrt((1 + if (ranks) r^2 / 2 else 0) / max(n - 3, 1))
  read <- with_fisher_interval(r, error, n - 2, options, problem)
  # the variance of Fisher's z is that of normal quantities; ranks have theirs
  if (!ranks) {
    read <- with_block_interval(read, problem, problem[c("x", "y")], which(is.finite(r)),
      function(r) r[-nrow(r), nrow(r)], options, fisher, tanh)
  }
  if (n >= fewest_to_test) return(read)
  # a few runs fall into any order by chance
  read$p_value[] <- NA
  read$findings <- join_findings(read$findings, findings_where(rep(TRUE, length(r)), "few_to_test"))
  read
}

fewest_to_test <- 5

fisher <- function(r) atanh(pmin(pmax(r, 1e-15 - 1), 1 - 1e-15))

with_fisher_interval <- function(r, error, degrees, options, problem) {
  c(fisher_interval(r, error, degrees, options$confidence), list(findings = constant_findings(problem)))
}

# tanh(atanh(r) -+ z error); the test that r is 0 by Student's t.
fisher_interval <- function(r, error, degrees, confidence) {
  z <- stats::qnorm((1 + confidence) / 2)
  whole <- abs(r) >= 1 - 1e-12
  at <- atanh(pmin(pmax(r, -1), 1))
  t <- r * sqrt(degrees / pmax(1 - r^2, 1e-300))
  list(value = r, low = ifelse(whole %in% TRUE, r, tanh(at - z * error)),
    high = ifelse(whole %in% TRUE, r, tanh(at + z * error)), p_value = 2 * stats::pt(-abs(t), max(degrees, 1)))
}

constant_findings <- function(problem) {
  still <- function(column) all(column[1:2] == column[1]) && min(column) == max(column)
  if (still(problem$y)) return(findings_where(rep(TRUE, length(problem$x)), "still_output"))
  findings_where(vapply(problem$x, still, TRUE), "still")
}

# The figures where nothing varies, which are none.
nothing_varies <- function(constant) no_figures(length(constant), names(constant[[1]]))

# Least squares of the standardised output on standardised inputs; columns that are combinations of others get NA.
driver_regression <- function(problem, ranks, call = rlang::caller_env(3)) {
  columns <- driver_columns(problem, ranks)
  n <- problem$n
  k <- length(columns$x)
  if (n < k + 2) {
    stop_ensayo("argument", "A regression needs more runs than inputs.",
      sprintf("You have %s and %s.", count_of(n, "good run"), count_of(k, "input")),
      "Simulate more runs, or take the measure \"rank\", which looks at one input at a time.", call = call)
  }
  y <- scaled_column(columns$y)
  x <- matrix(vapply(columns$x, scaled_column, numeric(n)), n)
  decomposed <- qr(x, tol = 1e-9)
  used <- decomposed$pivot[seq_len(decomposed$rank)]
  effects <- qr.qty(decomposed, y)[seq_len(decomposed$rank)]
  root <- qr.R(decomposed)[seq_len(decomposed$rank), seq_len(decomposed$rank), drop = FALSE]
  coefficient <- backsolve(root, effects)
  left <- n - 1 - decomposed$rank
  # of an exact fit nothing is left but rounding, which must not pass for an effect
  residual <- max(sum(y^2) - sum(effects^2), 1e-15 * sum(y^2))
  error <- sqrt(rowSums(backsolve(root, diag(decomposed$rank))^2) * residual / left)
  place <- function(values) replace(rep(NA_real_, k), used, values)
  list(columns = columns, used = sort(used), coefficient = place(coefficient), error = place(error), left = left, r_squared = 1 - residual / sum(y^2),
    findings = findings_where(!seq_len(k) %in% used, "not_told_apart"))
}

# Mean 0, standard deviation 1; a constant column is all 0.
scaled_column <- function(x) {
  d <- x - mean(x)
  size <- sqrt(sum(d^2) / (length(x) - 1))
  if (size <= 1e-14 * max(abs(x), 1e-300)) 0 * d else d / size
}

regression_figures <- function(problem, options, ranks) {
  fit <- driver_regression(problem, ranks)
  constant <- constant_findings(problem)
  if (all(lengths(constant))) return(nothing_varies(constant))
  half <- fit$error * stats::qt((1 + options$confidence) / 2, fit$left)
  read <- list(value = fit$coefficient, low = fit$coefficient - half, high = fit$coefficient + half,
    p_value = 2 * stats::pt(-abs(fit$coefficient / fit$error), fit$left), r_squared = fit$r_squared,
    findings = findings_or(constant, fit$findings))
  with_block_interval(read, problem, fit$columns, fit$used, function(r) {
    last <- nrow(r)
    drop(solve(r[-last, -last, drop = FALSE], r[-last, last]))
  }, options)
}

# From the regression's t: r = t / sqrt(t^2 + degrees of freedom).
partial_figures <- function(problem, options, ranks) {
  fit <- driver_regression(problem, ranks)
  constant <- constant_findings(problem)
  if (all(lengths(constant))) return(nothing_varies(constant))
  t <- fit$coefficient / fit$error
  r <- ifelse(is.finite(t), t / sqrt(t^2 + fit$left), sign(fit$coefficient))
  error <- sqrt((1 + if (ranks) r^2 / 2 else 0) / max(fit$left - 1, 1))
  read <- with_fisher_interval(r, error, fit$left, options, problem)
  read$r_squared <- fit$r_squared
  read$findings <- findings_or(constant, fit$findings)
  if (fit$r_squared > 1 - 1e-12) return(read)  # nothing is left to scatter
  with_block_interval(read, problem, fit$columns, fit$used, function(r) {
    inverse <- solve(r)
    last <- nrow(r)
    -inverse[-last, last] / sqrt(diag(inverse)[-last] * inverse[last, last])
  }, options, fisher, tanh)
}

multiple_correlation <- function(problem, members, ranks) {
  part <- problem
  part$x <- problem$x[members]
  part$ranks <- problem$ranks[members]
  sqrt(driver_regression(part, ranks)$r_squared)
}

# A statistic of the runs with its interval, by leaving out one of twenty groups of runs at a time; on the scale `to`,
# from which `back` leads back.
jackknifed <- function(problem, of, options, to = identity, back = identity) {
  groups <- min(20, problem$n %/% 10)
  value <- of(problem$x, problem$y)
  if (groups < 3) return(list(value = value, low = value * NA, high = value * NA))
  group <- (seq_len(problem$n) - 1) %% groups
  without <- vapply(seq_len(groups) - 1, function(g) {
    kept <- group != g
    to(of(lapply(problem$x, `[`, kept), problem$y[kept]))
  }, value)
  without <- matrix(without, ncol = groups)
  error <- sqrt((groups - 1) / groups * rowSums((without - rowMeans(without))^2))
  half <- error * stats::qt((1 + options$confidence) / 2, groups - 1)
  list(value = value, low = back(to(value) - half), high = back(to(value) + half))
}
