# Correlation of the uniform numbers of a connected set of inputs, in order of definition: the first keeps its numbers,
# each later one changes with those before it and no others. Under a Latin hypercube each input's own numbers are put
# into another order, so that every stratum stays filled; else a Gaussian copula changes them run by run.

# The columns of a set for `count` runs after the first `first`. `addresses` are the inputs'.
correlated_uniforms <- function(addresses, rank_correlation, plan, first, count) {
  if (!plan$design %in% c("latin", "midpoints")) {
    u <- lapply(addresses, plan_uniforms, plan, first, count)
    cpp_copula(u, semidefinite_root(score_correlation(rank_correlation)), plan$threads)
    return(u)
  }
  each <- plan$nsim / plan$replicates
  parts <- lapply(seq(first %/% each, (first + count - 1) %/% each), function(replicate) {
    start <- replicate * each
    from <- max(first - start, 0)
    to <- min(first + count - start, each)
    blocks <- cpp_block_range(each, plan$block, from, to)
    u <- lapply(addresses, plan_uniforms, plan, start + blocks[1], blocks[2] - blocks[1])
    cpp_reorder(u, rank_correlation, each, plan$block, blocks[1], plan$threads)
    if (blocks[1] == from && blocks[2] == to) u else lapply(u, `[`, seq(from, to - 1) - blocks[1] + 1)
  })
  if (length(parts) == 1) parts[[1]] else do.call(Map, c(list(c), parts))
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
