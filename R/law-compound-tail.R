# Probabilities and densities of a compound sum, from its parts.

compound_tail <- function(par, x, lower, log, question) {
  tail <- tail_of_parts(par, x, lower, question)
  # all in all no more than the limit
  if (is.finite(par$most)) {
    over <- !is.na(x) & (if (question == "strict") x > par$most else x >= par$most)
    tail[over] <- if (lower) 1 else 0
  }
  if (log) base::log(tail) else tail
}

tail_of_parts <- function(par, x, lower, question) {
  repeats <- par$repeats
  total <- rest_tail(par, x, lower)
  strict <- question == "strict"
  # of one value alone, any number of times
  at <- repeats$each * (seq_along(repeats$shares) - 1)
  sums <- c(0, cumsum(repeats$shares))
  below <- if (repeats$each >= 0) sums[findInterval(x, at, left.open = strict) + 1]
    else sums[length(sums)] - sums[length(sums) - findInterval(x, rev(at), left.open = strict)]
  if (repeats$each == 0) below <- repeats$shares * (if (strict) x > 0 else x >= 0)
  total <- total + (if (lower) below else sum(repeats$shares) - below)
  # one other beside them
  for (m in seq_along(repeats$weights)) {
    one <- ask(par$one, question, x - repeats$each * (m - 1), lower, FALSE)
    past <- x - repeats$each * (m - 1)
    met <- function(value) (if (strict) past > value else past >= value) == lower
    one <- one - repeats$own * met(repeats$each) - repeats$zero * met(0)
    total <- total + repeats$weights[m] * pmax(one, 0)
  }
  pmin(total, 1)
}

# All values with a probability of their own, the limit in all among them.
compound_points <- function(par) {
  repeats <- par$repeats
  values <- c(repeats$each * (seq_along(repeats$shares) - 1), repeats$points$values)
  shares <- c(repeats$shares, repeats$weights[1] * repeats$points$shares)
  at <- sort(unique(values[shares > 0 & values < par$most]))
  found <- vapply(at, function(value) sum(shares[values == value]), 0)
  if (is.infinite(par$most)) return(list(values = at, shares = found))
  list(values = c(at, par$most), shares = c(found, tail_of_parts(par, par$most, FALSE, "strict")))
}

# Two occurrences and more, between values with a probability of their own.
rest_tail <- function(par, x, lower) {
  table <- par$table
  n <- length(table$x)
  out <- 0 * x
  if (n < 2) return(out)
  inside <- which(x >= table$x[1] & x <= table$x[n])
  below <- which(x < table$x[1])
  above <- which(x > table$x[n])
  k <- findInterval(x[inside], table$x, all.inside = TRUE)
  out[inside] <- between_places(x[inside], table, k, if (lower) table$lower else table$upper, if (lower) 1 else -1)$value
  if (length(below)) out[below] <- if (lower) low_end(par, x[below])$value else table$free
  if (length(above)) out[above] <- if (lower) table$free else high_end(par, x[above])$value
  pmax(out, 0)
}

compound_density <- function(par, x) {
  table <- par$table
  n <- length(table$x)
  own <- ask(par$one, "atoms")$values
  out <- 0 * x
  for (m in seq_along(par$repeats$weights)) {
    at <- x - par$repeats$each * (m - 1)
    d <- ask(par$one, "density", at, FALSE)
    d[at %in% own] <- 0
    out <- out + par$repeats$weights[m] * d
  }
  if (n < 2) return(out)
  inside <- which(x >= table$x[1] & x <= table$x[n])
  below <- which(x < table$x[1])
  above <- which(x > table$x[n])
  k <- findInterval(x[inside], table$x, all.inside = TRUE)
  out[inside] <- out[inside] + pmax(between_places(x[inside], table, k, table$lower, 1)$slope, 0)
  if (length(below)) out[below] <- out[below] + low_end(par, x[below])$slope
  if (length(above)) out[above] <- out[above] + high_end(par, x[above])$slope
  out
}

# Below the table: like a power from a finite end, else like an exponential.
low_end <- function(par, x) {
  table <- par$table
  end <- par$ends[1]
  value <- table$lower[1]
  hazard <- table$density[1] / value
  if (value <= 0 || !is.finite(hazard)) return(list(value = 0 * x, slope = 0 * x))
  if (is.finite(end)) {
    reach <- table$x[1] - end
    power <- max(hazard * reach, 1)
    part <- pmax((x - end) / reach, 0)
    return(list(value = value * part^power, slope = value * power / reach * part^(power - 1)))
  }
  falling <- value * exp((x - table$x[1]) * hazard)
  list(value = falling, slope = hazard * falling)
}

# How it goes on above: as one large occurrence beside the mean of the others where that falls more slowly, else like an
# exponential.
high_end_of <- function(par) {
  table <- par$table
  n <- length(table$x)
  if (n < 2) return(NULL)
  end <- list(value = table$upper[n], x = table$x[n], hazard = table$density[n] / table$upper[n])
  shift <- mean_beside(par$thinned, par$one)
  there <- ask(par$one, "cumulative", end$x - shift, FALSE, FALSE)
  slope <- ask(par$one, "density", end$x - shift, FALSE)
  if (there > 0 && is.finite(slope) && slope / there < end$hazard) end[c("shift", "factor")] <- list(shift, end$value / there)
  end
}

high_end <- function(par, x) {
  end <- par$high
  if (end$value <= 0 || !is.finite(end$hazard)) return(list(value = 0 * x, slope = 0 * x))
  if (!is.null(end$shift)) {
    return(list(value = end$factor * ask(par$one, "cumulative", x - end$shift, FALSE, FALSE),
      slope = end$factor * ask(par$one, "density", x - end$shift, FALSE)))
  }
  falling <- end$value * exp(-(x - end$x) * end$hazard)
  list(value = falling, slope = end$hazard * falling)
}

# Where quantiles are looked for: probabilities at the table's places, where nothing but 0 has a probability of its own.
inverse_of <- function(par) {
  x <- par$table$x[par$table$x > 0]
  if (par$repeats$each != 0 || length(par$repeats$points$values) || length(x) < 2 || par$ends[1] < 0 || is.finite(par$most)) return(NULL)
  # one occurrence may be far smaller, or larger, than two are
  own <- ask(par$one, "quantile", c(2^-(40:2), 1 - 2^-(2:30)), TRUE)
  x <- sort(unique(c(x, own[own > 0 & is.finite(own)], 0)))
  law <- new_ready_law(family_compound, par)
  list(x = x, lower = cummax(ask(law, "cumulative", x, TRUE, FALSE)), upper = rev(cummax(rev(ask(law, "cumulative", x, FALSE, FALSE)))),
    density = compound_density(par, x))
}

# A value between two places of the inverse, where `part` of the probability between them is below: by the cubic with the slopes at
# both, or a line where a slope is too steep for one.
place_between <- function(inverse, k, part, probability) {
  width <- inverse$x[k + 1] - inverse$x[k]
  part <- pmin(pmax(part, 0), 1)
  from <- probability / inverse$density[k] / width
  to <- probability / inverse$density[k + 1] / width
  steep <- is.na(from + to) | from > 3 | to > 3
  from[steep] <- to[steep] <- 1
  inverse$x[k] + width * (part * part * (3 - 2 * part) + part * (1 - part) * (from * (1 - part) - to * part))
}

# Steps by Newton from a cubic between two places; what they do not bring to the last digits is looked for as in any composed law.
compound_quantile <- function(par, p, lower) {
  law <- new_ready_law(family_compound, par)
  inverse <- par$inverse
  if (is.null(inverse)) return(composed_quantile(law, p, lower))
  # the tail in which each is small
  at_most <- if (lower) p else 1 - p
  far <- if (lower) 1 - p else p
  up <- at_most > 0.5
  x <- rep(NA_real_, length(p))
  first <- inverse$lower[1]
  x[which(at_most <= first)] <- 0
  open <- which(at_most > first & p > 0 & p < 1)
  k <- ifelse(up[open], length(inverse$x) - findInterval(far[open], rev(inverse$upper)), findInterval(at_most[open], inverse$lower))
  inside <- k >= 1 & k < length(inverse$x)
  open <- open[inside]
  k <- k[inside]
  side <- up[open]
  between <- ifelse(side, inverse$upper[k] - inverse$upper[k + 1], inverse$lower[k + 1] - inverse$lower[k])
  part <- ifelse(side, inverse$upper[k] - far[open], at_most[open] - inverse$lower[k]) / between
  at <- place_between(inverse, k, part, between)
  good <- logical(length(at))
  for (step in 1:4) {
    for (upper in c(FALSE, TRUE)) {
      on <- which(side == upper & !good)
      if (length(on) == 0) next
      asked <- if (upper) far[open[on]] else at_most[open[on]]
      miss <- (ask(law, "cumulative", at[on], !upper, FALSE) - asked) / asked
      good[on] <- !is.na(miss) & abs(miss) < 1e-13
      left <- on[!good[on]]
      moved <- at[left] + (if (upper) 1 else -1) * (miss * asked)[!good[on]] / compound_density(par, at[left])
      inside <- is.finite(moved) & moved >= inverse$x[k[left]] & moved <= inverse$x[k[left] + 1]
      at[left[inside]] <- moved[inside]
      # so near that a step leaves no more than rounding
      good[left[inside]] <- abs(miss[!good[on]][inside]) < 1e-8
    }
  }
  x[open[good]] <- at[good]
  rest <- which(is.na(x) & !is.na(p))
  if (length(rest)) x[rest] <- composed_quantile(law, p[rest], lower)
  x
}
