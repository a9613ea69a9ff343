# The sum of a count of sizes by transform, on one grid of values 0, h, 2 h, ...: what is left of it when none and one occurrence
# are taken out.

# Sizes on a grid: each piece of a cell hands its probability to six neighbouring places so that six moments of it are kept; the
# sum's distribution is then off by the sixth power of the step.

# A ready law's probabilities as a `mass` at each of some points `x`: four in each cell of width `h`, more near ends and kinks. They
# serve grids of `n` places with that step, and with twice the step. `around`: all of the law goes round; else what lies beyond the
# end is left out. So are values with a probability of their own.
law_cells <- function(law, h, n, around) {
  reach <- if (around) c(ask(law, "quantile", 1e-18, TRUE), ask(law, "quantile", 1e-18, FALSE)) else c(0, ask(law, "support")[2])
  first <- floor(reach[1] / h)
  cell <- seq(first, max(first, min(ceiling(reach[2] / h) - 1, if (around) Inf else n - 4)))
  knots <- knots_of(law)
  steep <- steep_knots(law, knots)
  odd <- cell %in% c(floor(knots / h), ceiling(knots / h) - 1, outer(floor(steep / h), -8:8, `+`))
  smooth <- cell[!odd] * h
  pieces <- graded_pieces(cell[odd], knots, steep, h)
  list(h = h, n = n, around = around, ends = cell[c(1, length(cell))],
    x = c(points_between(smooth, smooth + h, four_points), points_between(pieces$from, pieces$to, ten_points)),
    mass = c(piece_masses(law, smooth, smooth + h), piece_masses(law, pieces$from, pieces$to, ten_points)))
}

# The masses on a grid's places, from place 0 on and round to those just below it; `every`: of how many steps of the cells one of
# its own is. `tilt` is a factor from each place to the next.
masses_on_grid <- function(cells, every = 1, tilt = 1) {
  n <- cells$n / every
  first <- cells$ends[1] %/% every
  mass <- cpp_on_places(cells$x / (every * cells$h), cells$mass, first,
    min(cells$ends[2] %/% every, if (cells$around) Inf else n - 4))
  place <- first - 2 + seq_along(mass) - 1
  folded(mass * tilt^place, place, n)
}

folded <- function(mass, place, n) {
  if (place[1] >= 0 && place[length(place)] < n) return(c(numeric(place[1]), mass, numeric(n - 1 - place[length(place)])))
  out <- numeric(n)
  # places follow each other, so that each round is a stretch of them
  for (turn in seq(place[1] %/% n, place[length(place)] %/% n)) {
    at <- seq(max(1, turn * n - place[1] + 1), min(length(place), (turn + 1) * n - place[1]))
    to <- place[at] %% n + 1
    out[to] <- out[to] + mass[at]
  }
  out
}

# Values with a probability of their own on the same places; one between two places is shared by both.
points_on_places <- function(points, h, n, around, tilt = 1) {
  place <- points$values / h
  below <- floor(place + 1e-9)
  part <- pmax(place - below, 0)
  kept <- around | place < n - 1
  out <- numeric(n)
  for (i in which(kept)) {
    for (up in 0:1) {
      at <- (below[i] + up) %% n + 1
      out[at] <- out[at] + points$shares[i] * (if (up) part[i] else 1 - part[i]) * tilt^(below[i] + up)
    }
  }
  out
}

# The probabilities between two values, at a rule's points of each piece: those of the density, made to add up to the difference of
# the cumulative probability.
piece_masses <- function(law, from, to, rule = four_points) {
  d <- matrix(ask(law, "density", as.vector(points_between(from, to, rule)), FALSE), length(rule$node)) * rule$weight
  known <- colSums(d)
  odd <- !is.finite(known) | known <= 0
  d[, odd] <- rule$weight
  known[odd] <- 2
  d * rep(probabilities_between(law, from, to) / known, each = length(rule$node))
}

points_between <- function(from, to, rule) outer((rule$node + 1) / 2, to - from) + rep(from, each = length(rule$node))

# Strictly between two values, in the tail where there is more precision.
probabilities_between <- function(law, from, to) {
  if (length(ask(law, "atoms")$values)) {
    below <- ask(law, "strict", to, TRUE, FALSE) - ask(law, "cumulative", from, TRUE, FALSE)
    between <- ask(law, "cumulative", from, FALSE, FALSE) - ask(law, "strict", to, FALSE, FALSE)
    small <- ask(law, "cumulative", to, TRUE, FALSE) < 0.5
    between[small] <- below[small]
  } else {
    small <- to <= ask(law, "quantile", 0.5, TRUE)
    between <- numeric(length(to))
    between[small] <- steps_of_tail(law, from[small], to[small], TRUE)
    between[!small] <- steps_of_tail(law, from[!small], to[!small], FALSE)
  }
  pmax(between, 0)
}

# How much a tail's probability changes; neighbours share their ends.
steps_of_tail <- function(law, from, to, lower) {
  at <- unique(c(from, to))
  p <- ask(law, "cumulative", at, lower, FALSE)
  abs(p[match(to, at)] - p[match(from, at)])
}

# Near these a density changes within a cell: ends of the law, and where it is infinite.
steep_knots <- function(law, knots) {
  knots[knots %in% ask(law, "support") | !is.finite(ask(law, "density", knots, FALSE))]
}

# Cells near steep knots in eight pieces; those with a knot are cut there, too, and towards steep ones into halves, quarters, ...
graded_pieces <- function(cells, knots, steep, h) {
  cut <- cells %in% c(floor(knots / h), ceiling(knots / h) - 1)
  plain <- cells[!cut]
  parts <- c(list(list(from = outer(0:7, 8 * plain, `+`) / 8 * h, to = outer(1:8, 8 * plain, `+`) / 8 * h)),
    lapply(cells[cut], cut_cell, knots, steep, h))
  list(from = unlist(lapply(parts, `[[`, "from")), to = unlist(lapply(parts, `[[`, "to")))
}

cut_cell <- function(cell, knots, steep, h) {
  halves <- 2^-(1:30)
  inside <- knots[knots > cell * h & knots < (cell + 1) * h]
  near <- any(abs(steep / h - cell) < 10)
  ends <- sort(unique(c((cell + if (near) (0:8) / 8 else 0:1) * h, inside)))
  width <- diff(ends)
  up <- which(ends[-length(ends)] %in% steep)
  down <- which(ends[-1] %in% steep)
  places <- c(ends, outer(halves, width[up]) + rep(ends[up], each = 30), rep(ends[down + 1], each = 30) - outer(halves, width[down]))
  places <- sort(unique(places))
  list(from = places[-length(places)], to = places[-1])
}

# What is left of the sum on a grid from 0: masses of the first half of the places, and the sum of what stencils put before the
# first. Tilting by exp(-`tilt`) over the whole keeps what goes beyond the grid from coming round.
remainder_masses <- function(count, kept, cells, every, tilt) {
  n <- cells$n / every
  tilt <- exp(-tilt / n)
  p <- remainder_places(count, kept, cells, every, tilt)
  before <- seq_len(n / 8)
  head <- seq_len(n / 2 + 3)
  list(p = p[head] / tilt^(head - 1), before = sum(p[n + 1 - before] * tilt^before))
}

# The same on places that go around, of which the one that is `first` stands first.
remainder_around <- function(count, kept, cells, every, first) {
  n <- cells$n / every
  remainder_places(count, kept, cells, every, 1)[(first + seq_len(n) - 1) %% n + 1]
}

# By the generating function of the count, at what one occurrence is: sums of the one value `each` alone, and those with one other
# value beside it, are taken out.
remainder_places <- function(count, kept, cells, every, tilt) {
  n <- cells$n / every
  spread <- stats::fft(masses_on_grid(cells, every, tilt))
  # a rounding error of the whole would be multiplied by the count
  whole <- 1 - kept$zero - sum(kept$points$shares)
  if (cells$around && whole > 1e-12) spread <- spread * (whole / Re(spread[1]))
  z <- kept$never
  if (length(kept$points$values)) {
    points <- stats::fft(points_on_places(kept$points, every * cells$h, n, cells$around, tilt))
    if (is.finite(kept$each)) z <- z + kept$share * points else spread <- spread + points
  }
  left <- count$value(no_farther(z + kept$share * spread)) - count$value(z) - kept$share * count$slope(z) * spread
  Re(stats::fft(left, inverse = TRUE)) / n
}

# None is farther out than at frequency 0; where a stencil's are, the step is wider than sizes spread.
no_farther <- function(z) {
  far <- Mod(z) > Mod(z[1])
  z[far] <- z[far] / Mod(z[far]) * Mod(z[1])
  z
}

# The probability up to each place, of masses that are a density's: by the rule of Euler and Maclaurin.
summed_masses <- function(p, before = 0) {
  n <- length(p)
  wide <- c(0, 0, p, 0, 0)
  at <- function(k) wide[seq_len(n) + 2 + k]
  before + cumsum(p) - p / 2 - (at(1) - at(-1)) / 24 + 11 * (at(2) - 2 * at(1) + 2 * at(-1) - at(-2)) / 1440
}

# Sizes that lie on a common grid: their places, shares and step; NULL where there is none, or it has too many places.
points_on_grid <- function(size, most = 2^16) {
  if (!size$discrete) return(NULL)
  points <- points_of(size)
  kept <- points$shares > 0
  values <- points$values[kept]
  step <- common_step(values, most)
  if (is.null(step)) return(NULL)
  list(place = round(values / step), shares = points$shares[kept], step = step)
}

# Euclid's algorithm on numbers that were rounded.
common_step <- function(values, most) {
  values <- abs(values[values != 0])
  if (length(values) == 0) return(1)
  top <- max(values)
  step <- values[1]
  for (value in values[-1]) {
    rest <- value
    while (rest > 1e-9 * top) {
      left <- step %% rest
      if (rest - left < 1e-9 * top) left <- 0
      step <- rest
      rest <- left
    }
    if (top / step > most) return(NULL)
  }
  # the step that the values are whole multiples of to the last digits
  times <- round(top / step)
  if (any(abs(values / (top / times) - round(values / (top / times))) > 1e-6)) NULL else top / times
}

sizes_on_grid <- function(par) {
  if (!is_discrete(par$size)) return(NULL)
  kept <- kept_part(ready_law(par$size), par$deductible, par$limit)
  if (is.null(kept)) list() else points_on_grid(kept$one)
}

# The sum of sizes on a grid, exact but for rounding: places as far as 1e-16 of it reach.
pointed_compound <- function(count, kept, grid, most) {
  spread <- grid$place
  low <- min(0, spread)
  m <- weighted_moments(grid$place, grid$shares)
  sum <- summed_moments(thinned_cumulants(count$cumulants, kept$share), m)
  lowest <- if (low < 0) floor(sum[["mean"]] - 40 * sqrt(sum[["variance"]]) + min(spread)) else 0
  # as far as a count that hardly ever is exceeded reaches
  most_often <- max(count$far, 1)
  highest <- min(count$ends[2] * max(spread), ceiling(most_often * max(m[["mean"]], 0) + 12 * sqrt(most_often * m[["variance"]]) +
    40 * max(spread)))
  n <- 2^ceiling(log2(highest - lowest + 2 + max(spread)))
  if (n > 2^23) {
    stop_ensayo("argument", "The sum must have at most 8 million possible values.", sprintf("It has about %s.", format_given(n)),
      "Give the sizes in a coarser unit, or as a law with a density.", argument = "size")
  }
  tilt <- if (low < 0) 1 else exp(-10 * (seq_len(n) - 1) / n)
  mass <- numeric(n)
  mass[grid$place %% n + 1] <- grid$shares
  z <- 1 - kept$share + kept$share * stats::fft(mass * tilt)
  p <- Re(stats::fft(count$value(z), inverse = TRUE)) / n / tilt
  place <- seq(lowest, highest)
  p <- p[place %% n + 1]
  values <- place * grid$step
  p[p < 1e-16] <- 0
  if (is.finite(most)) {
    over <- values >= most
    values <- c(values[!over], most)
    p <- c(p[!over], sum(p[over]))
  }
  pointed_law(values[p > 0], p[p > 0])
}
