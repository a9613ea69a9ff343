# The search behind a rare chance: a surrogate of the margin in normal scores, the places where it falls below 0, and runs around them.

# Runs that teach the surrogate; gives the places that it knows at last.
rare_places <- function(margin, most) {
  d <- length(margin$inputs)
  first <- min(max(60, 4 * d + 20), most / 2)
  # spread wide, so that the surrogate has seen what is rare
  z <- qnorm_latin(margin, ceiling(first), d) * 1.8
  y <- margin$of(z)
  if (!any(is.finite(y))) stop_ensayo("model", "The model must give values.", "Every run of the first ones failed.", "Try `simulate()`.")
  fit <- NULL
  settled <- 0
  repeat {
    # a run that failed has not met the condition: as far from it as most, so that the search keeps away from its like
    taught <- ifelse(is.finite(y), y, stats::quantile(y, 0.9, na.rm = TRUE, names = FALSE))
    again <- is.null(fit) || nrow(z) < 100 || nrow(z) %% 40 < 10
    if (again) fit <- surrogate_gaussian$fit(z, taught)
    state <- surrogate_gaussian$ready(fit, z, taught)
    sample <- failing_sample(margin, state, d)
    at <- sample$z
    sure <- abs(sample$mean) / pmax(surrogate_gaussian$error(state, at), 1e-300)
    settled <- if (mean(sure < 2) < 0.05) settled + 1 else 0
    if (nrow(z) >= most || settled == 3) break
    # most of them where it seems to fail, some wherever else it might
    wide <- margin$draw(400, d) * 2.2
    seems <- surrogate_gaussian$mean(state, wide) / pmax(surrogate_gaussian$error(state, wide), 1e-300)
    new <- rbind(at[spread_choice(at, sure, 7), , drop = FALSE], wide[spread_choice(wide, abs(seems), 3), , drop = FALSE])
    z <- rbind(z, new)
    y <- c(y, margin$of(new))
  }
  likeliest_points(state, sample$z[sample$mean <= 0, , drop = FALSE])
}

# A Latin hypercube of normal scores.
qnorm_latin <- function(margin, n, d) {
  u <- stats::pnorm(margin$draw(n, d))
  stats::qnorm((apply(u, 2, rank) - 0.5) / n) |> matrix(n)
}

# The least sure of each neighbourhood first.
spread_choice <- function(at, sure, n) {
  chosen <- integer()
  open <- rep(TRUE, nrow(at))
  while (length(chosen) < n && any(open)) {
    i <- which(open)[which.min(sure[open])]
    chosen <- c(chosen, i)
    open[i] <- FALSE
    near <- sqrt(colSums((t(at) - at[i, ])^2))
    open[near < 0.3] <- FALSE
  }
  chosen
}

# Subset simulation on the surrogate: points under the normal law given that the margin is below a level, which falls until it is 0.
# Moves keep the normal law: a step back towards the origin and a new part (Papaioannou, Betz, Zwirglmaier and Straub 2015).
failing_sample <- function(margin, state, d, n = 600, share = 0.15) {
  z <- margin$draw(n, d)
  value <- surrogate_gaussian$mean(state, z)
  kept <- 0.8
  for (level in 1:30) {
    limit <- max(0, stats::quantile(value, share, names = FALSE))
    good <- which(value <= limit)
    if (limit == 0 && length(good) >= share * n) break
    start <- good[rep_len(seq_along(good), n)]
    z <- z[start, , drop = FALSE]
    value <- value[start]
    for (move in 1:6) {
      new <- kept * z + sqrt(1 - kept^2) * margin$draw(n, d)
      there <- surrogate_gaussian$mean(state, new)
      taken <- there <= limit
      z[taken, ] <- new[taken, ]
      value[taken] <- there[taken]
      kept <- min(max(kept + (0.3 - mean(taken)) * 0.1, 0.3), 0.98)
    }
  }
  list(z = z, mean = value)
}

# The points nearest to the origin of the failing points, each of a direction of its own: at most eight.
likeliest_points <- function(state, at) {
  places <- matrix(0, 0, ncol(at))
  while (nrow(at) > 0 && nrow(places) < 8) {
    far <- rowSums(at^2)
    place <- nearer_point(state, at[which.min(far), ])
    known <- nrow(places) > 0 && min(colSums((t(places) - place)^2)) < 1
    if (!known) places <- rbind(places, place, deparse.level = 0)
    # what its own law reaches belongs to it: the half space beyond its tangent, and not much farther aside than runs about it lie
    along <- as.vector(at %*% place) / sum(place^2)
    aside <- sqrt(pmax(rowSums(at^2) - along^2 * sum(place^2), 0))
    own <- along > 0.9 & aside < sqrt(ncol(at) - 1) + 3
    own[which.min(far)] <- TRUE
    at <- at[!own, , drop = FALSE]
  }
  places
}

# Down to the surface, towards the origin and along it: a few steps of the fixed point of the first-order reliability method (Rackwitz and
# Fiessler 1978, Computers and Structures 9(5)), each kept where it is nearer and still fails.
nearer_point <- function(state, z) {
  mean_at <- function(points) surrogate_gaussian$mean(state, points)
  d <- length(z)
  for (step in 1:15) {
    h <- 1e-3
    around <- rbind(z, sweep(diag(h, d), 2, z, `+`))
    values <- mean_at(around)
    slope <- (values[-1] - values[1]) / h
    if (sum(slope^2) == 0) break
    target <- (sum(slope * z) - values[1]) / sum(slope^2) * slope
    parts <- 2^-(0:5)
    tried <- t(vapply(parts, function(part) z + part * (target - z), numeric(d))) |> matrix(length(parts))
    good <- mean_at(tried) <= 1e-6 * abs(values[1]) + 1e-9 & rowSums(tried^2) < sum(z^2) * (1 - 1e-4)
    if (!any(good)) break
    z <- tried[which(good)[which.min(rowSums(tried[good, , drop = FALSE]^2))], ]
  }
  # straight back to where it begins to fail
  back <- seq(1, 0.7, length.out = 31)
  line <- outer(back, z)
  failing <- mean_at(line) <= 0
  if (any(failing)) line[max(which(cumprod(failing) == 1), 1), ] else z
}

# Runs of the model around the places. Where a first third shows another place, that joins, and the later runs alone count.
rare_runs <- function(margin, places, most) {
  left <- most - margin$runs
  first <- drawn_around(margin, places, ceiling(left / 3))
  new <- unknown_places(first, places)
  if (nrow(new)) places <- rbind(places, new)
  second <- drawn_around(margin, places, left - ceiling(left / 3))
  used <- if (nrow(new)) second else Map(function(a, b) if (is.matrix(a)) rbind(a, b) else c(a, b), first, second)
  weighted <- used$weights * used$met
  alone <- far_from_places(used$z, places)
  c(used, list(places = places, surprise = if (sum(weighted) > 0) sum(weighted[alone]) / sum(weighted) else 0))
}

defensive_share <- 0.1
defensive_width <- 1.5

drawn_around <- function(margin, places, n) {
  d <- length(margin$inputs)
  k <- nrow(places)
  wide <- if (k == 0) n else max(1, round(defensive_share * n))
  each <- if (k > 0) tabulate(rep_len(seq_len(k), n - wide), k) else integer()
  z <- margin$draw(n, d)
  z[seq_len(wide), ] <- z[seq_len(wide), ] * defensive_width
  if (k > 0) z[-seq_len(wide), ] <- z[-seq_len(wide), , drop = FALSE] + places[rep(seq_len(k), each), , drop = FALSE]
  y <- margin$of(z)
  list(z = z, met = is.finite(y) & y <= 0, weights = likelihood_ratios(z, places, c(wide, each) / n))
}

# The normal density over that of the mixture that runs were drawn from.
likelihood_ratios <- function(z, places, shares) {
  d <- ncol(z)
  own <- -rowSums(z^2) / 2
  terms <- cbind(log(shares[1]) - rowSums(z^2) / (2 * defensive_width^2) - d * log(defensive_width),
    vapply(seq_len(nrow(places)), function(k) log(shares[k + 1]) - colSums((t(z) - places[k, ])^2) / 2, numeric(nrow(z))) |> matrix(nrow(z)))
  top <- do.call(pmax, as.data.frame(terms))
  exp(own - top - log(rowSums(exp(terms - top))))
}

# Runs that the law about no place would have brought.
far_from_places <- function(z, places) {
  if (nrow(places) == 0) return(rep(TRUE, nrow(z)))
  d <- ncol(z)
  nearest <- do.call(pmin, as.data.frame(vapply(seq_len(nrow(places)), function(k) colSums((t(z) - places[k, ])^2), numeric(nrow(z))) |> matrix(nrow(z))))
  nearest > stats::qchisq(0.999, d)
}

unknown_places <- function(drawn, places) {
  weighted <- drawn$weights * drawn$met
  alone <- which(far_from_places(drawn$z, places) & drawn$met)
  if (length(alone) == 0 || sum(weighted[alone]) < 0.005 * sum(weighted)) return(places[0, , drop = FALSE])
  z <- drawn$z[alone, , drop = FALSE]
  z <- z[order(rowSums(z^2)), , drop = FALSE]
  new <- z[1, , drop = FALSE]
  for (i in seq_len(nrow(z))[-1]) {
    if (nrow(new) < 4 && far_from_places(z[i, , drop = FALSE], new)) new <- rbind(new, z[i, ])
  }
  new
}
