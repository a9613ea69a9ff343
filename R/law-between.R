# Probabilities to the last digits: in logarithms, which no tail is too far out for, and by the density where the
# difference of two probabilities would have lost its digits.

# log(exp(a) - exp(b)) for a at least b.
log_difference <- function(a, b) {
  apart <- pmax(a - b, 0)
  out <- a + ifelse(apart < log(2), log(-expm1(-apart)), log1p(-exp(-apart)))
  out[which(a == -Inf)] <- -Inf
  out
}

# log(1 - (1 - q)^k), also where q is too small for a double.
log_any_of <- function(log_q, k) {
  ifelse(log_q < -600, log_q + log(k), log(-expm1(k * log1p(-exp(pmin(log_q, 0))))))
}

# The logarithm of the sum of exponentials, of a list of terms.
log_sum <- function(logs) {
  if (length(logs) == 1) return(logs[[1]])
  top <- do.call(pmax, logs)
  held <- top
  held[is.infinite(top)] <- 0
  held + log(Reduce(`+`, lapply(logs, function(term) exp(term - held))))
}

# A tail's probability from its logarithm. Near 1 the other tail has the digits: `other(at)` gives its logarithm at some
# places.
finished_tail <- function(asked, other, log) {
  out <- if (log) asked else exp(asked)
  near_one <- which(asked > -0.7)
  if (length(near_one) == 0) return(out)
  rest <- pmin(exp(other(near_one)), 1)
  out[near_one] <- if (log) log1p(-rest) else 1 - rest
  out
}

# The logarithm of a tail's probability with its digits near 1, too. `question` is "cumulative" or "strict".
log_tail <- function(law, x, lower, question = "cumulative") {
  finished_tail(ask(law, question, x, lower, TRUE), function(at) ask(law, question, x[at], !lower, TRUE), TRUE)
}

# The same strictly below (or at least) x where `strict` says so, for each x.
log_tail_at <- function(law, x, lower, strict) {
  out <- rep(NA_real_, length(x))
  if (any(strict)) out[strict] <- ask(law, "strict", x[strict], lower, TRUE)
  if (!all(strict)) out[!strict] <- ask(law, "cumulative", x[!strict], lower, TRUE)
  out
}

# The logarithm of the probability from one value to another, either of which may belong to it or not.
difference_between <- function(law, from, to, closed_from, closed_to) {
  n <- if (length(from) && length(to)) max(length(from), length(to)) else 0
  from <- rep_len(from, n)
  to <- rep_len(to, n)
  closed_from <- rep_len(closed_from, n)
  closed_to <- rep_len(closed_to, n)
  below <- log_tail_at(law, from, TRUE, closed_from)
  above <- log_tail_at(law, to, FALSE, !closed_to)
  upper <- which(below > log(0.5))
  large <- log_tail_at(law, to, TRUE, !closed_to)
  large[upper] <- log_tail_at(law, from[upper], FALSE, closed_from[upper])
  small <- below
  small[upper] <- above[upper]
  out <- log_difference(large, pmin(small, large))
  out[which(from > to)] <- -Inf
  # so near to each other that the digits are gone
  thin <- which(from <= to & is.finite(from) & is.finite(to) & small > large - 0.02)
  if (length(thin)) {
    out[thin] <- if (law$discrete) {
      mapply(log_mass_between, from[thin], to[thin], closed_from[thin], closed_to[thin], MoreArgs = list(law = law))
    } else log_density_between(law, from[thin], to[thin])
  }
  out
}

log_mass_between <- function(law, from, to, closed_from, closed_to) {
  points <- points_of(law, from, to)
  kept <- (closed_from | points$values > from) & (closed_to | points$values < to)
  log(sum(points$shares[kept]))
}

log_density_between <- function(law, from, to) {
  kinks <- ask(law, "kinks")
  out <- log_smooth_integral(law, from, to)
  kinks <- sort(kinks)
  for (i in which(findInterval(to, kinks, left.open = TRUE) > findInterval(from, kinks))) {
    ends <- sort(unique(c(from[i], kinks[kinks > from[i] & kinks < to[i]], to[i])))
    out[i] <- log_sum(as.list(log_smooth_integral(law, ends[-length(ends)], ends[-1])))
  }
  out
}

# Ten points of Gauss and Legendre: exact for what is smooth over so short a way.
log_smooth_integral <- function(law, from, to) {
  rule <- ten_points
  half <- to / 2 - from / 2
  middle <- from / 2 + to / 2
  log_sum(lapply(1:10, function(i) {
    log(rule$weight[i]) + ask(law, "density", middle + rule$node[i] * half, TRUE)
  })) + log(half)
}

# Nodes and weights on -1 to 1, by the eigenvalues of the recurrence's matrix (Golub and Welsch 1969, Mathematics of
# Computation 23).
gauss_legendre <- function(n) {
  k <- seq_len(n - 1)
  matrix <- diag(0, n)
  matrix[cbind(k, k + 1)] <- matrix[cbind(k + 1, k)] <- k / sqrt(4 * k^2 - 1)
  found <- eigen(matrix, symmetric = TRUE)
  list(node = rev(found$values), weight = rev(2 * found$vectors[1, ]^2))
}

ten_points <- gauss_legendre(10)
seven_points <- gauss_legendre(7)
four_points <- gauss_legendre(4)
