# Quantiles from cumulative probabilities, and moments from quantiles, where no closed form is at hand.

# Newton steps on the logarithm of the probability, from values that are nearly right: a relative error in a tail's
# probability stays one. `log_cumulative(x, lower)` and `log_density(x)` are vectorised.
polished <- function(x, p, lower, log_cumulative, log_density, min = -Inf, max = Inf, steps = 3) {
  active <- which(is.finite(x) & p > 0 & p < 1 & x > min & x < max)
  for (step in seq_len(steps)) {
    if (length(active) == 0) break
    at <- x[active]
    # above a half, the other tail's probability has the digits
    far <- p[active] > 0.5
    miss <- numeric(length(at))
    slope <- numeric(length(at))
    for (side in c(FALSE, TRUE)) {
      on <- far == side
      if (!any(on)) next
      tail <- if (side) !lower else lower
      log_p <- log_cumulative(at[on], tail)
      target <- if (side) log1p(-p[active][on]) else log(p[active][on])
      miss[on] <- (log_p - target) * (if (tail) 1 else -1)
      slope[on] <- exp(log_density(at[on]) - log_p)
    }
    moved <- at - miss / slope
    usable <- is.finite(moved) & moved > min & moved < max & abs(miss) < 1
    x[active[usable]] <- moved[usable]
    active <- active[usable & abs(miss) > 1e-8]  # a step from there leaves about its square
  }
  x
}

# Quantiles from nothing but probabilities and densities: brackets that close in by Newton's steps where these stay
# inside, else by halves. `cumulative(x, lower)` and `density(x)` are vectorised; `start` is a finite inner point and
# `reach` a typical distance.
solved_quantile <- function(p, lower, cumulative, density, support, start, reach) {
  x <- rep(NA_real_, length(p))
  low_end <- if (lower) 0 else 1
  x[which(p == low_end)] <- support[1]
  x[which(p == 1 - low_end)] <- support[2]
  open <- which(p > 0 & p < 1)
  # each p is looked for in the tail where it is small; there 1 - p is exact
  far <- p[open] > 0.5
  for (side in c(FALSE, TRUE)) {
    on <- open[far == side]
    if (length(on) == 0) next
    q <- if (side) 1 - p[on] else p[on]
    tail <- if (side) !lower else lower
    x[on] <- solve_in_tail(q, tail, cumulative, density, support, start, reach)
  }
  x
}

solve_in_tail <- function(p, lower, cumulative, density, support, start, reach) {
  sign <- if (lower) 1 else -1
  above <- function(x, p) sign * (cumulative(x, lower) - p) >= 0  # whether x lies at or above the quantile
  bracket <- bracket_quantiles(p, above, support, start, reach)
  # the midpoint; by powers of ten where one end is far nearer to the law's lower end, where a density may be infinite
  between <- function(low, high, end) {
    middle <- low / 2 + high / 2
    far <- is.finite(end) & (high - end) > 1e3 * (low - end) & high - end > 1e-300
    nearer <- end + (high - end) * pmax(sqrt((low - end) / (high - end)), 1e-6)
    ifelse(far & nearer > low & nearer < high, nearer, middle)
  }
  low <- bracket$low
  high <- bracket$high
  x <- low / 2 + high / 2
  active <- seq_along(p)
  for (step in 1:200) {
    at <- x[active]
    value <- cumulative(at, lower)
    up <- sign * (value - p[active]) >= 0
    high[active[up]] <- at[up]
    low[active[!up]] <- at[!up]
    # Newton on the logarithm, for tails are near to exponential there
    newton <- at - sign * (log(value) - log(p[active])) * value / density(at)
    inside <- is.finite(newton) & newton > low[active] & newton < high[active]
    middle <- between(low[active], high[active], support[1])
    following <- ifelse(inside & step %% 8 != 0, newton, middle)
    done <- abs(value / p[active] - 1) < 1e-13 | following == at | middle <= low[active] | middle >= high[active]
    x[active[!done]] <- following[!done]
    active <- active[!done]
    if (length(active) == 0) break
  }
  x
}

bracket_quantiles <- function(p, above, support, start, reach) {
  low <- rep(start, length(p))
  high <- low
  distance <- reach
  left <- which(above(low, p))
  right <- setdiff(seq_along(p), left)
  while (length(left) || length(right)) {
    low[left] <- pmax(start - distance, support[1])
    left <- left[low[left] > support[1] & low[left] > -1e308 & above(low[left], p[left])]
    high[right] <- pmin(start + distance, support[2])
    right <- right[high[right] < support[2] & high[right] < 1e308 & !above(high[right], p[right])]
    distance <- distance * 4
  }
  list(low = low, high = high)
}

# The quantile of a discrete law, exactly: the smallest x with F(x) >= p, or P(X > x) <= p. `x` is nearly right.
# `cumulative(x, lower)` is vectorised; values are whole numbers from `min` on.
exact_whole <- function(x, p, lower, cumulative, min) {
  enough <- function(x, p) if (lower) cumulative(x, TRUE) >= p else cumulative(x, FALSE) <= p
  certain <- p == (if (lower) 1 else 0)  # the last value, though its probability may be lost before
  active <- which(is.finite(x) & x > min & !certain)
  while (length(active <- active[x[active] > min & enough(x[active] - 1, p[active])])) x[active] <- x[active] - 1
  active <- which(is.finite(x))
  while (length(active <- active[!enough(x[active], p[active])])) x[active] <- x[active] + 1
  x
}

# Moments of a continuous law by adaptive integration over the normal scale, x = Q(Phi(z)): smooth in both tails, and a
# far place or a tiny spread costs no digits, for the law is measured from its median in its own quartile range.
integrated_moments <- function(law) {
  if (is_discrete(law)) {
    points <- points_of(law)
    return(weighted_moments(points$values, points$shares))
  }
  centre <- ask(law, "quantile", 0.5, TRUE)
  scale <- diff(ask(law, "quantile", c(0.25, 0.75), TRUE))
  if (scale == 0) scale <- max(abs(ask(law, "quantile", 0.9, TRUE) - centre), .Machine$double.xmin)
  at <- function(z, lower) (ask(law, "quantile", stats::pnorm(z), lower) - centre) / scale
  expected <- function(f) {
    part <- function(lower) integrate_halves(function(z) f(at(z, lower)) * stats::dnorm(z))
    part(TRUE) + part(FALSE)
  }
  mean <- expected(function(x) x)
  variance <- expected(function(x) (x - mean)^2)
  standard <- function(power) expected(function(x) ((x - mean) / sqrt(variance))^power)
  c(mean = centre + scale * mean, variance = scale^2 * variance, skewness = standard(3),
    excess_kurtosis = standard(4) - 3)
}

# From -37.5 to 0 in pieces, so that no narrow feature is stepped over.
integrate_halves <- function(f) {
  ends <- c(-37.5, -20, -10, -6, -4, -3, -2, -1.5, -1, -0.5, 0)
  sum(mapply(function(from, to) {
    tryCatch(stats::integrate(f, from, to, rel.tol = 1e-11, abs.tol = 1e-14, subdivisions = 400,
      stop.on.error = FALSE)$value, error = function(e) NaN)
  }, ends[-length(ends)], ends[-1]))
}

# Moments of a density that is a polynomial of low degree between knots: Gauss and Legendre's five points a piece are
# exact up to degree 9. Measured in units of the whole width, from the first knot.
pieced_moments <- function(knots, density) {
  width <- knots[length(knots)] - knots[1]
  t <- (knots - knots[1]) / width
  node <- c(-1, 1, -1, 1, 0) * c(rep(sqrt(5 + 2 * sqrt(10 / 7)), 2), rep(sqrt(5 - 2 * sqrt(10 / 7)), 2), 0) / 3
  weight <- c(rep(322 - 13 * sqrt(70), 2), rep(322 + 13 * sqrt(70), 2), 512) / 900
  half <- diff(t) / 2
  middle <- t[-1] / 2 + t[-length(t)] / 2
  at <- outer(middle, rep(1, 5)) + outer(half, node)
  share <- outer(half, weight) * width * density(at, row(at))
  share[half == 0, ] <- 0
  mean <- sum(share * at)
  variance <- sum(share * (at - mean)^2)
  c(mean = knots[1] + width * mean, variance = width^2 * variance, skewness = sum(share * (at - mean)^3) / variance^1.5,
    excess_kurtosis = sum(share * (at - mean)^4) / variance^2 - 3)
}

# The most likely value, looked for among many quantiles and then between the neighbours of the best.
searched_mode <- function(law) {
  p <- stats::ppoints(400)
  x <- unique(ask(law, "quantile", p, TRUE))
  heights <- ask(law, "density", x, TRUE)
  if (diff(range(heights)) < 1e-9) return(NA_real_)
  best <- which.max(heights)
  if (is_discrete(law)) return(x[best])
  around <- x[c(max(best - 1, 1), min(best + 1, length(x)))]
  stats::optimize(function(x) ask(law, "density", x, TRUE), around, maximum = TRUE, tol = 1e-10 * diff(around))$maximum
}
