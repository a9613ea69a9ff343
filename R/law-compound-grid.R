# The sum of a count of sizes by transform, on one grid of values 0, h, 2 h, ...: what is left of it when none and one occurrence
# are taken out.

# Sizes on a grid: each piece of a cell hands its probability to six neighbouring places so that six moments of it are kept; the
# sum's distribution is then off by the sixth power of the step.
stencil_width <- 6

# Lagrange's polynomials at `t`, through the places 0 to 5: a row for each t.
stencil_weights <- function(t) {
  at <- seq_len(stencil_width) - 1
  away <- outer(t, at, `-`)
  before <- after <- matrix(1, length(t), stencil_width)  # products of the distances from the places before each, and after
  for (j in at[-1]) {
    before[, j + 1] <- before[, j] * away[, j]
    after[, stencil_width - j] <- after[, stencil_width - j + 1] * away[, stencil_width - j + 1]
  }
  scale <- vapply(at, function(j) prod(j - setdiff(at, j)), 0)
  before * after / rep(scale, each = length(t))
}

# The masses of a ready law on `n` places, from place 0 on and round to those just below it. `around`: all of the law goes round;
# else what lies beyond the end is left out. Values with a probability of their own are left out, too. `tilt` is a factor from each
# place to the next.
masses_on_grid <- function(law, h, n, around, tilt = 1) {
  reach <- if (around) c(ask(law, "quantile", 1e-18, TRUE), ask(law, "quantile", 1e-18, FALSE)) else c(0, ask(law, "support")[2])
  cell <- seq(floor(reach[1] / h), max(floor(reach[1] / h), min(ceiling(reach[2] / h) - 1, if (around) Inf else n - 4)))
  knots <- knots_of(law)
  steep <- steep_knots(law, knots)
  odd <- cell %in% c(floor(knots / h), ceiling(knots / h) - 1, outer(floor(steep / h), -8:8, `+`))
  mass <- numeric(length(cell) + stencil_width - 1)
  if (!all(odd)) {
    smooth <- which(!odd)
    weights <- crossprod(stencil_weights((four_points$node + 1) / 2 + 2), piece_masses(law, h * cell[smooth], h * (cell[smooth] + 1)))
    for (j in seq_len(stencil_width)) mass[smooth + j - 1] <- mass[smooth + j - 1] + weights[j, ]
  }
  pieces <- graded_pieces(cell[odd], knots, steep, h)
  if (length(pieces$from)) {
    first <- pieces$cell - 2
    place <- points_between(pieces$from, pieces$to, ten_points) / h - rep(first, each = 10)
    weights <- stencil_weights(as.vector(place)) * as.vector(piece_masses(law, pieces$from, pieces$to, ten_points))
    sums <- rowsum(weights, rep(first, each = 10))
    at <- as.numeric(rownames(sums)) - cell[1] + 3
    for (j in seq_len(stencil_width)) mass[at + j - 1] <- mass[at + j - 1] + sums[, j]
  }
  place <- cell[1] - 2 + seq_along(mass) - 1
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
  } else {
    at <- unique(c(from, to))  # neighbours share their ends
    from <- match(from, at)
    to <- match(to, at)
    lower <- ask(law, "cumulative", at, TRUE, FALSE)
    upper <- ask(law, "cumulative", at, FALSE, FALSE)
    below <- lower[to] - lower[from]
    between <- upper[from] - upper[to]
    small <- lower[to] < 0.5
  }
  between[small] <- below[small]
  pmax(between, 0)
}

# Near these a density changes within a cell: ends of the law, and where it is infinite.
steep_knots <- function(law, knots) {
  knots[knots %in% ask(law, "support") | !is.finite(ask(law, "density", knots, FALSE))]
}

# Cells near steep knots in eight pieces; those with a knot are cut there, too, and towards steep ones into halves, quarters, ...
graded_pieces <- function(cells, knots, steep, h) {
  cut <- cells %in% c(floor(knots / h), ceiling(knots / h) - 1)
  plain <- cells[!cut]
  eighths <- outer(0:7, 8 * plain, `+`) / 8 * h
  parts <- c(list(list(from = eighths, to = (outer(1:8, 8 * plain, `+`)) / 8 * h, cell = rep(plain, each = 8))),
    lapply(cells[cut], cut_cell, knots, steep, h))
  all <- function(key) as.vector(unlist(lapply(parts, `[[`, key)))
  list(from = all("from"), to = all("to"), cell = all("cell"))
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
  list(from = places[-length(places)], to = places[-1], cell = rep(cell, length(places) - 1))
}

# What is left of the sum on a grid from 0: masses of the first half of the places, and the sum of what stencils put before the
# first. Tilting by exp(-20) over the whole keeps what goes beyond the grid from coming round.
remainder_masses <- function(count, kept, h, n) {
  tilt <- exp(-20 / n)
  p <- remainder_places(count, kept, h, n, FALSE, tilt)
  before <- seq_len(n / 8)
  head <- seq_len(n / 2 + 3)
  list(p = p[head] / tilt^(head - 1), before = sum(p[n + 1 - before] * tilt^before))
}

# The same on places that go around, of which the one that is `first` stands first.
remainder_around <- function(count, kept, h, n, first) {
  remainder_places(count, kept, h, n, TRUE, 1)[(first + seq_len(n) - 1) %% n + 1]
}

# By the generating function of the count, at what one occurrence is: sums of the one value `each` alone, and those with one other
# value beside it, are taken out.
remainder_places <- function(count, kept, h, n, around, tilt) {
  spread <- stats::fft(masses_on_grid(kept$one, h, n, around, tilt))
  z <- kept$never
  if (length(kept$points$values)) {
    points <- stats::fft(points_on_places(kept$points, h, n, around, tilt))
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
