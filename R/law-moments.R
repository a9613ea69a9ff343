# Moments where no closed form is at hand: by integration over quantiles, piece by piece, each tail by itself.

# Which moments there are follows from how far the tails reach; the four are mean, variance, skewness and excess
# kurtosis, as they would be if all existed.
existing_moments <- function(index, m) {
  # the value of a moment of odd order that only one tail takes away
  odd <- function(order) if (all(index <= order)) NaN else if (index[2] <= order) Inf else -Inf
  reach <- min(index)
  if (reach <= 1) {
    m[["mean"]] <- odd(1)
    m[["variance"]] <- if (is.nan(odd(1))) NaN else Inf
  } else if (reach <= 2) m[["variance"]] <- Inf
  if (reach <= 3) m[["skewness"]] <- if (reach <= 2) NaN else odd(3)
  if (reach <= 4) m[["excess_kurtosis"]] <- if (reach <= 2) NaN else Inf
  m
}

# Over the normal scale, x = Q(Phi(z)), which is smooth in both tails between the law's knots; values with a
# probability of their own are added. Measured from the median in the law's own spread, so that a far place or a tiny
# spread costs no digits.
integrated_moments <- function(law) {
  law <- ready_law(law)
  if (law$discrete) {
    points <- points_of(law)
    return(weighted_moments(points$values, points$shares))
  }
  law <- ready_to_invert(law)
  index <- ask(law, "tail_index")
  nodes <- quantile_nodes(law)
  centre <- ask(law, "quantile", 0.5, TRUE)
  scale <- sum(nodes$weight * pmin(abs(nodes$x - centre), 1e100))
  if (index[1] <= 1 || index[2] <= 1 || !is.finite(scale) || scale == 0) {
    scale <- max(abs(ask(law, "quantile", c(0.1, 0.9), TRUE) - centre), .Machine$double.xmin)
  }
  at <- (nodes$x - centre) / scale
  expected <- function(from, power) {
    if (min(index) <= power) return(NaN)
    sum(nodes$weight * (at - from)^power) + sum(beyond_nodes(law, index, centre + scale * from, scale, power))
  }
  mean <- expected(0, 1)
  variance <- expected(mean, 2)
  existing_moments(index, c(mean = centre + scale * mean, variance = scale^2 * variance,
    skewness = expected(mean, 3) / variance^1.5, excess_kurtosis = expected(mean, 4) / variance^2 - 3))
}

farthest_score <- 37.5

# What a tail that falls like a power still holds beyond the last node: the integral of its leading term.
beyond_nodes <- function(law, index, from, scale, power) {
  p <- stats::pnorm(-farthest_score)
  vapply(which(is.finite(index)), function(side) {
    x <- (ask(law, "quantile", p, side == 1) - from) / scale
    x^power * p / (1 - power / index[side])
  }, 0)
}

# Quantiles with weights that integrate powers of the quantity: by pieces between knots, each halved until its halves
# agree with it, for between two parts of a mixture a quantile may leap though it is smooth.
quantile_nodes <- function(law) {
  knots <- knots_of(law)
  left <- knot_scores(law, knots, "strict")
  right <- knot_scores(law, knots, "cumulative")
  grid <- c(seq(-farthest_score, -10, by = 2.5), seq(-9, 9), seq(10, farthest_score, by = 2.5))
  ends <- sort(unique(c(grid, left, right)))
  ends <- ends[abs(ends) <= farthest_score]
  from <- ends[-length(ends)]
  to <- ends[-1]
  owned <- which(right > left)
  holder <- findInterval(from / 2 + to / 2, left[owned])
  taken <- holder > 0 & to <= c(-Inf, right[owned])[holder + 1]
  knotted <- c(left, right)
  centre <- ask(law, "quantile", 0.5, TRUE)
  unit <- max(diff(ask(law, "rough")), .Machine$double.xmin)
  pieces <- list(from = from[!taken], to = to[!taken])
  whole <- piece_integrals(law, pieces, knotted, centre, unit)
  found <- list()
  # nothing but values with a probability of their own may be left
  for (level in seq_len(if (length(pieces$from)) 30 else 0)) {
    middle <- pieces$from / 2 + pieces$to / 2
    halves <- list(from = as.vector(rbind(pieces$from, middle)), to = as.vector(rbind(middle, pieces$to)))
    parts <- piece_integrals(law, halves, knotted, centre, unit)
    both <- parts$sums[, c(TRUE, FALSE), drop = FALSE] + parts$sums[, c(FALSE, TRUE), drop = FALSE]
    if (level == 1) size <- pmax(rowSums(abs(both)), 1e-300)
    agree <- colSums(abs(both - whole$sums) > 1e-11 * size, na.rm = TRUE) == 0 | length(middle) > 2000 | level == 30
    kept <- rep(agree, each = 2)
    found[[level]] <- list(x = as.vector(parts$x[, kept]), weight = as.vector(parts$weight[, kept]))
    if (all(agree)) break
    pieces <- list(from = halves$from[!kept], to = halves$to[!kept])
    whole <- list(sums = parts$sums[, !kept, drop = FALSE])
  }
  atoms <- ask(law, "atoms")
  list(x = c(unlist(lapply(found, `[[`, "x")), atoms$values),
    weight = c(unlist(lapply(found, `[[`, "weight")), atoms$shares))
}

# Each piece's nodes, and its integrals of the first four powers, a column a piece.
piece_integrals <- function(law, pieces, knots, centre, unit) {
  z <- piece_nodes(pieces$from, pieces$to, knots)
  lower <- z$at < 0
  x <- z$at
  x[lower] <- ask(law, "quantile", stats::pnorm(z$at[lower]), TRUE)
  x[!lower] <- ask(law, "quantile", stats::pnorm(-z$at[!lower]), FALSE)
  weight <- z$weight * stats::dnorm(z$at)
  at <- (x - centre) / unit
  list(x = x, weight = weight, sums = do.call(rbind, lapply(1:4, function(power) colSums(weight * at^power))))
}

# Where a knot lies on the normal scale.
knot_scores <- function(law, knots, question) {
  below <- ask(law, question, knots, TRUE, TRUE)
  above <- ask(law, question, knots, FALSE, TRUE)
  ifelse(below < log(0.5), stats::qnorm(below, log.p = TRUE), -stats::qnorm(above, log.p = TRUE))
}

# Gauss and Legendre's points of each piece, a column a piece. At a knot a quantile may rise like a root: the ends of
# pieces there are smoothed by t^3 (10 - 15 t + 6 t^2), which makes it smooth.
piece_nodes <- function(from, to, knots) {
  t <- (seven_points$node + 1) / 2
  smooth <- from %in% knots | to %in% knots
  place <- outer(t, !smooth) + outer(t^3 * (10 - 15 * t + 6 * t^2), smooth)
  slope <- outer(rep(1, length(t)), !smooth) + outer(30 * t^2 * (1 - t)^2, smooth)
  width <- rep(to - from, each = length(t))
  list(at = rep(from, each = length(t)) + place * width, weight = seven_points$weight / 2 * slope * width)
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

weighted_moments <- function(values, shares) {
  centre <- values[which.max(shares)]
  mean <- sum(shares * (values - centre))
  from_mean <- values - centre - mean
  variance <- sum(shares * from_mean^2)
  if (variance == 0) return(c(mean = centre + mean, variance = 0, skewness = NaN, excess_kurtosis = NaN))
  c(mean = centre + mean, variance = variance, skewness = sum(shares * from_mean^3) / variance^1.5,
    excess_kurtosis = sum(shares * from_mean^4) / variance^2 - 3)
}
