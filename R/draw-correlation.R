# Inducing rank correlation on the uniform numbers of a connected set of inputs, in order of definition: the first keeps
# its numbers, each later one changes with those before it and no others.

# Under `"random"`: a Gaussian copula, run by run. `u` is a list of columns.
correlate_random <- function(u, rank_correlation) {
  lower <- semidefinite_root(score_correlation(rank_correlation))
  z <- vapply(u, stats::qnorm, numeric(length(u[[1]])))
  dim(z) <- c(length(u[[1]]), length(u))
  out <- u
  for (j in seq_along(u)[-1]) {
    copied <- copied_column(lower, j)
    out[[j]] <- if (is.null(copied)) stats::pnorm(drop(z %*% lower[j, ]))
      else if (copied$sign > 0) out[[copied$from]] else 1 - out[[copied$from]]
  }
  out
}

# Under `"latin"`: each column's own numbers are put into another order, so that every stratum stays filled. After
# Iman and Conover (1982, Communications in Statistics B11(3)), one column at a time: its normal scores are mixed with
# those of the columns before it, in the proportions that give the target within this very sample, and its numbers
# take the mixture's order. What the ordering misses is fed back into the target, twice.
correlate_latin <- function(u, rank_correlation, feedbacks = 2) {
  n <- length(u[[1]])
  if (n < 2) return(u)
  scores <- unit_length(stats::qnorm(seq_len(n) / (n + 1)))  # of ranks 1 to n
  ranks <- unit_length(seq_len(n) - (n + 1) / 2)
  place <- order_ranks(u[[1]])
  basis <- list(q = cbind(scores[place]), r = matrix(1), columns = 1L)
  placed <- cbind(ranks[place])
  for (j in seq_along(u)[-1]) {
    own <- scores[order_ranks(u[[j]])]
    asked <- rank_correlation[j, seq_len(j - 1)]
    target <- asked
    best <- list(miss = Inf)
    for (round in 0:feedbacks) {
      place <- order_ranks(mixture(basis, own, score_correlation(target)))
      achieved <- drop(crossprod(placed, ranks[place]))
      miss <- max(abs(achieved - asked))
      if (miss < best$miss) best <- list(miss = miss, place = place)
      target <- pmax(pmin(target + asked - achieved, 1), -1)
    }
    u[[j]] <- sort(u[[j]])[best$place]
    placed <- cbind(placed, ranks[best$place])
    basis <- extended(basis, scores[best$place], j)
  }
  u
}

# Scores that have the given correlations with the columns placed so far: part within their span, the rest from the
# column's own scores at a right angle to it.
mixture <- function(basis, own, correlations) {
  within <- backsolve(basis$r, correlations[basis$columns], transpose = TRUE)
  rest <- 1 - sum(within^2)
  mixed <- basis$q %*% (if (rest < 0) within / sqrt(sum(within^2)) else within)
  if (rest > 1e-9) mixed <- mixed + sqrt(rest) * unit_length(own - basis$q %*% crossprod(basis$q, own))
  drop(mixed)
}

# The orthonormal basis of the placed scores with one more; a copy of an earlier column adds nothing to it.
extended <- function(basis, scores, j) {
  along <- crossprod(basis$q, scores)
  across <- scores - basis$q %*% along
  length <- sqrt(sum(across^2))
  if (length < 1e-6) return(basis)
  list(q = cbind(basis$q, across / length), r = rbind(cbind(basis$r, along), c(rep(0, ncol(basis$r)), length)),
    columns = c(basis$columns, j))
}

unit_length <- function(x) {
  length <- sqrt(sum(x^2))
  if (length < 1e-12) x else x / length
}

# Lower triangular root of a positive semi-definite correlation matrix (check_correlation_set() has seen to that); a
# column that the earlier ones determine has a zero on the diagonal, where a plain Cholesky factorisation fails.
semidefinite_root <- function(m, tolerance = 1e-7) {
  k <- nrow(m)
  diag(m) <- 1
  lower <- matrix(0, k, k)
  for (j in seq_len(k)) {
    before <- seq_len(j - 1)
    left <- m[j, j] - sum(lower[j, before]^2)
    if (left < tolerance) next
    lower[j, j] <- sqrt(left)
    for (i in seq_len(k)[-seq_len(j)]) {
      lower[i, j] <- (m[i, j] - sum(lower[i, before] * lower[j, before])) / lower[j, j]
    }
  }
  lower
}

# Which earlier column a column with correlation 1 or -1 copies or mirrors, if any.
copied_column <- function(lower, j) {
  r <- drop(lower[seq_len(j - 1), , drop = FALSE] %*% lower[j, ])
  from <- which(abs(r) > 1 - 1e-9)
  if (length(from)) list(from = from[1], sign = sign(r[from[1]]))
}
