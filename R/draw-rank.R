# Ranks by radix sort, which base R's rank() does not use.

# Ranks 1 to n, ties in order of appearance.
order_ranks <- function(x) {
  ranks <- integer(length(x))
  ranks[order(x, method = "radix")] <- seq_along(x)
  ranks
}

# Ranks with ties sharing their mean rank, as Spearman's rho takes them. `x` has no missing values.
mid_ranks <- function(x) {
  by_size <- order(x, method = "radix")
  sorted <- x[by_size]
  first <- c(TRUE, sorted[-1] != sorted[-length(sorted)])
  ranks <- numeric(length(x))
  if (all(first)) {
    ranks[by_size] <- seq_along(x)
  } else {
    starts <- which(first)
    counts <- diff(c(starts, length(x) + 1))
    ranks[by_size] <- rep(starts + (counts - 1) / 2, counts)
  }
  ranks
}

# Spearman's rho from ranks, or Pearson's r from values; NaN where one of the two is constant.
correlation_of <- function(x, y) {
  if (length(x) < 2 || min(x) == max(x) || min(y) == max(y)) return(NaN)
  stats::cor(x, y)
}
