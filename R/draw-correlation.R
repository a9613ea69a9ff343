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
