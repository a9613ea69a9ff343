# Shares of variance, which hold when inputs are correlated: the default measure of drivers. Everything is read off the
# sums and products of columns within blocks of runs, which one pass gives for all inputs and outputs.

# Blocks of runs to leave out in turn for intervals.
share_blocks <- function(n) max(1, min(20, n %/% 10))

products_of <- function(columns) {
  n <- length(columns[[1]])
  blocks <- share_blocks(n)
  found <- cpp_block_products(lapply(columns, as.double), blocks, threads_to_use())
  list(n = diff(floor(n * (0:blocks) / blocks)), sums = found$sums, products = found$products, names = names(columns),
    kept = new.env(parent = emptyenv()))
}

# The correlations of some columns with each other, or of the rows with other columns, over all blocks or all but one.
correlation_of_products <- function(found, rows, columns = rows, without = NULL) {
  kept <- setdiff(seq_along(found$n), without)
  n <- sum(found$n[kept])
  column <- column_totals(found, kept, without)
  total <- rowSums(found$products[rows, columns, kept, drop = FALSE], dims = 2) -
    outer(column$sums[rows], column$sums[columns]) / n
  r <- total / outer(column$size[rows], column$size[columns])
  r[!is.finite(r)] <- 0
  if (identical(rows, columns)) diag(r) <- 1
  r
}

# What is the same for many outputs is found once: `kept` goes along with the products.
kept_with <- function(found, key, value) {
  if (is.null(found$kept[[key]])) assign(key, value, envir = found$kept)
  found$kept[[key]]
}

column_totals <- function(found, kept, without) {
  kept_with(found, paste("totals", without), {
    sums <- rowSums(found$sums[, kept, drop = FALSE])
    squares <- vapply(seq_along(sums), function(i) sum(found$products[i, i, kept]), 0)
    list(sums = sums, size = sqrt(pmax(squares - sums * sums / sum(found$n[kept]), 0)))
  })
}

# The interval of figures by leaving out a block of runs at a time: `of(without)` gives them, NULL for all blocks. On the
# scale `to`, from which `back` leads back.
interval_by_blocks <- function(blocks, of, options, to = identity, back = identity) {
  value <- to(of(NULL))
  if (blocks < 3) return(list(low = value * NA, high = value * NA))
  left <- matrix(vapply(seq_len(blocks), function(without) to(of(without)), value), ncol = blocks)
  error <- sqrt((blocks - 1) / blocks * rowSums((left - rowMeans(left))^2))
  half <- error * stats::qt((1 + options$confidence) / 2, blocks - 1)
  list(low = back(value - half), high = back(value + half))
}

# The same for measures that a theory of normal residuals gave a rough interval, which stays where runs are few.
# `used`: the columns that the figures are of.
with_block_interval <- function(read, problem, columns, used, of, options, to = identity, back = identity) {
  if (problem$n < 30) return(read)
  own <- identical(columns$y, problem$y) && !is.null(problem$products)
  found <- if (own) problem$products else products_of(c(columns$x[used], list(columns$y)))
  at <- if (own) match(c(names(problem$x)[used], problem$output), found$names) else seq_len(length(used) + 1)
  ends <- interval_by_blocks(length(found$n), function(without) {
    of(correlation_of_products(found, at, without = without))
  }, options, to, back)
  read$low[used] <- ends$low
  read$high[used] <- ends$high
  read
}

# Relative weights: inputs are turned into the nearest uncorrelated columns, whose squared correlations with the
# output are shared out again (Johnson 2000). Signs, and the test against noise, are those of the regression.
share_figures <- function(problem, options) {
  constant <- constant_findings(problem)
  k <- length(problem$x)
  if (all(lengths(constant))) return(nothing_varies(constant))
  live <- which(lengths(constant) == 0 & problem$enters)
  needed <- length(live) + 5
  if (problem$n < needed) return(no_figures(k, "few_runs", needed))
  found <- problem$products %||% products_of(c(problem$x, list(problem$y)))
  at <- if (is.null(problem$products)) c(live, k + 1) else match(c(names(problem$x)[live], problem$output), found$names)
  inputs <- at[-length(at)]
  weights <- function(without) {
    roots <- kept_with(found, paste(c("roots", inputs, "without", without), collapse = " "),
      roots_of(correlation_of_products(found, inputs, without = without)))
    with_output <- correlation_of_products(found, inputs, at[length(at)], without)
    replace(rep(0, k), live, relative_weights(roots, as.vector(with_output)))
  }
  value <- weights(NULL)
  # shares near 0 scatter as squares do
  ends <- interval_by_blocks(length(found$n), weights, options, sqrt, function(root) pmax(root, 0)^2)
  r <- correlation_of_products(found, at)
  fit <- regression_of_correlations(r, problem$n)
  place <- function(values, rest) replace(rep(rest, k), live, values)
  sign <- ifelse(fit$p_value < 1 - options$confidence, sign(fit$coefficient), 0)
  p <- place(fit$p_value, 1)
  # what may be idle may have nothing
  low <- ifelse(p < 1 - options$confidence, ends$low, pmin(ends$low, 0))
  list(value = value, low = low, high = pmin(ends$high, 1), p_value = p,
    sign = place(c("lowers", "", "raises")[2 + sign], ""), r_squared = fit$r_squared,
    findings = findings_or(constant, replace(no_findings(k), live, fit$findings)))
}

relative_weights <- function(roots, with_output) as.vector(roots$root^2 %*% (roots$inverse %*% with_output)^2)

# The square root of a correlation matrix, and its inverse where it has one.
roots_of <- function(between) {
  eigen <- eigen(between, symmetric = TRUE)
  list(
    root = eigen$vectors %*% (sqrt(pmax(eigen$values, 0)) * t(eigen$vectors)),
    inverse = eigen$vectors %*%
      (ifelse(eigen$values > 1e-9, 1 / sqrt(pmax(eigen$values, 1e-300)), 0) * t(eigen$vectors))
  )
}

# Least squares of the standardised output, the last column, from correlations; an input that is a combination of those
# before it shares their effect and their test.
regression_of_correlations <- function(r, n) {
  last <- nrow(r)
  k <- last - 1
  decomposed <- qr(r[-last, -last, drop = FALSE], tol = 1e-9)
  used <- sort(decomposed$pivot[seq_len(decomposed$rank)])
  inverse <- solve(r[used, used, drop = FALSE])
  coefficient <- drop(inverse %*% r[used, last])
  # of an exact fit nothing is left but rounding, which must not pass for an effect
  residual <- max(1 - sum(coefficient * r[used, last]), 1e-12)
  left <- max(n - 1 - length(used), 1)
  p <- 2 * stats::pt(-abs(coefficient / sqrt(diag(inverse) * residual / left)), left)
  p[abs(coefficient) < 1e-9] <- 1
  twin <- function(i) which.max(abs(r[used, i]))
  place <- function(values) vapply(seq_len(k), function(i) values[if (i %in% used) match(i, used) else twin(i)], 0)
  copied <- vapply(seq_len(k), function(i) !i %in% used, TRUE)
  copied[used] <- vapply(used, function(i) any(abs(r[i, setdiff(seq_len(k), used)]) > 0.999), TRUE)
  list(coefficient = place(coefficient), p_value = place(p), r_squared = 1 - residual,
    findings = findings_where(copied, "not_told_apart"))
}
