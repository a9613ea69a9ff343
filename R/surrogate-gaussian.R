# A Gaussian process: a linear trend and what deviates from it, correlated by the Matern kernel of order 5/2 with a length for each
# coordinate, and a nugget for what no smooth function of the inputs is. Lengths and nugget have the highest restricted likelihood, with a
# weak prior that keeps lengths from running away (Santner, Williams and Notz 2018, The Design and Analysis of Computer Experiments,
# sections 3.2 and 3.3; Rasmussen and Williams 2006, Gaussian Processes for Machine Learning, sections 2.7 and 5.4).

gaussian_most <- 2000L

surrogate_gaussian <- list(
  title = "Gaussian process",
  fit = function(x, y, coordinates, from = NULL) {
    scale <- stats::sd(y)
    if (!is.finite(scale) || scale == 0) scale <- 1
    y <- (y - mean(y)) / scale
    trend <- trend_columns(x)
    some <- leading_parts(length(y), 250)
    starts <- if (!is.null(from)) list(log(c(from$lengths, from$nugget)))
      else lapply(c(1, 4), function(times) log(c(rep(times * sqrt(ncol(x)), ncol(x)), 1e-3)))
    search <- function(start, at, steps) gaussian_search(x[at, , drop = FALSE], y[at], trend, start, steps)
    if (is.null(from)) {
      tried <- lapply(starts, search, some, 60)
      starts <- list(tried[[which.min(vapply(tried, `[[`, 0, "value"))]]$par)
    }
    # from the lengths of all runs those of nine tenths of them are a few steps away; of many runs they are the same
    steps <- if (!is.null(from)) if (length(y) <= 250) 6 else 0 else if (length(y) > length(some)) 15 else 0
    best <- if (steps > 0) search(starts[[1]], seq_along(y), steps)$par else starts[[1]]
    list(kind = "gaussian", lengths = exp(best[-length(best)]), nugget = exp(best[length(best)]), trend = trend)
  },
  ready = function(fit, x, y, coordinates) {
    made <- gaussian_parts(x, y, fit$trend, fit$lengths, fit$nugget)
    c(list(fit = fit, x = x), made[c("root", "beta", "alpha", "basis", "inner", "variance")])
  },
  mean = function(state, x) {
    trend <- state$beta[1]
    for (j in seq_along(state$fit$trend)) trend <- trend + state$beta[j + 1] * x[, state$fit$trend[j]]
    trend + cpp_matern_sums(x, state$x, state$fit$lengths, state$alpha, threads_to_use())
  },
  error = function(state, x) in_pieces(x, function(x) {
    k <- backsolve(state$root, cpp_matern(state$x, x, state$fit$lengths), transpose = TRUE)
    short <- t(trend_values(x, state$fit$trend)) - crossprod(state$basis, k)
    lack <- colSums(backsolve(state$inner, short, transpose = TRUE)^2)
    sqrt(state$variance * pmax(1 + state$fit$nugget - colSums(k^2) + lack, state$fit$nugget))
  }),
  whole = function(fit, k, coordinates) {
    numbers_of(fit$lengths, k) && all(fit$lengths > 0) && numbers_of(fit$nugget, 1) && fit$nugget >= 0 && places_in(fit$trend, k)
  }
)

# Rows in turn, so that what is worked on stays small.
in_pieces <- function(x, of, rows = 2000) {
  unlist(lapply(split(seq_len(nrow(x)), (seq_len(nrow(x)) - 1) %/% rows), function(at) of(x[at, , drop = FALSE])), use.names = FALSE)
}

# Coordinates of a linear trend: those that the runs tell apart, where there are runs enough.
trend_columns <- function(x) {
  if (nrow(x) < 3 * (ncol(x) + 1)) return(integer())
  made <- qr(cbind(1, x), tol = 1e-6)
  sort(setdiff(made$pivot[seq_len(made$rank)], 1)) - 1L
}

trend_values <- function(x, trend) cbind(rep(1, nrow(x)), x[, trend, drop = FALSE])

# Every so manieth of n.
leading_parts <- function(n, most) unique(round(seq(1, n, length.out = min(n, most))))

# Everything at given lengths: the factor of the correlation matrix, the trend's coefficients and the likelihood's parts.
gaussian_parts <- function(x, y, trend, lengths, nugget) {
  n <- length(y)
  kernel <- cpp_matern(x, x, lengths)
  root <- sturdy_root(kernel, nugget)
  basis <- backsolve(root, trend_values(x, trend), transpose = TRUE)
  inner <- chol(crossprod(basis) + diag(1e-12 * max(colSums(basis^2)), ncol(basis)))
  bent <- backsolve(root, y, transpose = TRUE)
  beta <- backsolve(inner, backsolve(inner, crossprod(basis, bent), transpose = TRUE))
  left <- bent - basis %*% beta
  list(root = root, basis = basis, inner = inner, beta = beta, alpha = backsolve(root, left),
    variance = max(sum(left^2) / max(n - ncol(basis), 1), 1e-30))
}

# Cholesky's factor of a matrix whose diagonal is about 1; where what it holds lies upon itself, with the smallest addition that does.
sturdy_root <- function(m, addition) {
  extra <- 0
  repeat {
    root <- tryCatch(chol(m + diag(addition + extra, nrow(m))), error = function(e) NULL)
    if (!is.null(root)) return(root)
    if (extra > 1) stop_ensayo("model", "Runs must be finite to be fitted.", "Some are not.")
    extra <- if (extra == 0) 1e-10 else 10 * extra
  }
}

gaussian_search <- function(x, y, trend, start, steps) {
  q <- ncol(x)
  n <- length(y)
  last <- NULL
  middle <- c(rep(log(2 * sqrt(q)), q), log(1e-4))
  width <- c(rep(1.5, q), 6)
  both <- function(theta) {
    if (identical(theta, last$theta)) return(last)
    lengths <- exp(theta[seq_len(q)])
    nugget <- exp(theta[q + 1])
    parts <- gaussian_parts(x, y, trend, lengths, nugget)
    free <- max(n - ncol(parts$basis), 1)
    value <- free * log(parts$variance) / 2 + sum(log(diag(parts$root))) + sum(log(diag(parts$inner)))
    flat <- backsolve(parts$root, parts$basis)
    weights <- chol2inv(parts$root) - tcrossprod(t(backsolve(parts$inner, t(flat), transpose = TRUE))) - tcrossprod(parts$alpha) / parts$variance
    slope <- c(cpp_matern_slopes(x, lengths, weights / 2), nugget * sum(diag(weights)) / 2)
    from <- (theta - middle) / width
    last <<- list(theta = theta, value = value + sum(from^2) / 2, slope = slope + from / width)
    last
  }
  lower <- log(c(rep(0.02, q), 1e-9))
  upper <- log(c(rep(200, q), 100))
  found <- stats::optim(pmin(pmax(start, lower), upper), function(theta) both(theta)$value, function(theta) both(theta)$slope,
    method = "L-BFGS-B", lower = lower, upper = upper, control = list(maxit = steps, factr = 1e8))
  found[c("par", "value")]
}
