# Measures over equal-probability bands of an input: swing, first-order index, distance of distributions; and what a
# correlation does not see.

fewest_for_bands <- 9  # three of three

# As many bands as leave fifty runs in each, from 3 to 20.
bands_to_use <- function(options, n, most = 20) options$bands %||% min(most, max(3, n %/% 50))

# One-way analysis of variance over bands: the correlation ratio less what an idle input has, and the F test.
band_variance <- function(band, y) {
  read <- cpp_band_variances(list(band), as.double(y))
  list(index = read$index, p_value = band_p_value(read$f, read$count, length(y)))
}

band_p_value <- function(f, count, n) stats::pf(f, count - 1, n - count, lower.tail = FALSE)

first_order_figures <- function(problem, options) {
  if (problem$n < fewest_for_bands) return(no_figures(length(problem$x), "few_for_bands"))
  constant <- constant_findings(problem)
  k <- length(problem$x)
  if (all(lengths(constant))) return(nothing_varies(constant))
  bands <- bands_to_use(options, problem$n)
  all_bands <- lapply(problem$x, bands_of, bands)
  live <- lengths(constant) == 0
  index <- function(all_bands, y) {
    many <- vapply(all_bands, max, 0) > 1
    replace(numeric(length(all_bands)), many, cpp_band_variances(all_bands[many], as.double(y))$index)
  }
  # the bands stay as they are while groups of runs are left out
  part <- list(x = all_bands, y = problem$y, n = problem$n)
  # what an idle input has was taken off: with it the index is a square, and on the root's scale its scatter is even
  count <- vapply(all_bands, function(band) max(compact(band)), 0)
  idle <- (count - 1) / pmax(problem$n - count, 1)
  read <- jackknifed(part, function(x, y) index(lapply(x, compact), y), options,
    function(index) sqrt(pmax(index + idle, 0)), function(root) pmax(root, 0)^2 - idle)
  p <- vapply(all_bands, function(band) if (max(band) < 2) NA_real_ else band_variance(band, problem$y)$p_value, 0)
  c(read, list(p_value = ifelse(live, p, NA), findings = constant))
}

# The statistic in each band of one input.
band_statistics <- function(band, y, options) {
  vapply(split(y, band), statistic_of, 0, options = options, USE.NAMES = FALSE)
}

# The statistic in the last of the bands that are there less that in the first.
band_swing <- function(band, y, options) {
  ends <- range(band)
  statistic_of(y[band == ends[2]], options) - statistic_of(y[band == ends[1]], options)
}

statistic_of <- function(values, options) statistic_reader(length(values), options)(values)

# The statistic of many sets of n values.
statistic_reader <- function(n, options) {
  switch(options$statistic, mean = mean, sd = stats::sd,
    percentile_reader(n, not_exceeded(percentile_of_name(options$statistic), options$sense)))
}

# Last band against first; the range over all bands is told where it is much larger.
swing_figures <- function(problem, options) {
  if (problem$n < fewest_for_bands) return(no_figures(length(problem$x), "few_for_bands"))
  constant <- constant_findings(problem)
  k <- length(problem$x)
  if (all(lengths(constant))) return(nothing_varies(constant))
  all_bands <- lapply(problem$x, bands_of, bands_to_use(options, problem$n, 10))
  part <- list(x = all_bands, y = problem$y, n = problem$n)
  read <- if (is_percentile_name(options$statistic)) percentile_swings(all_bands, problem$y, options)
    else jackknifed(part, function(x, y) vapply(x, band_swing, 0, y = y, options = options, USE.NAMES = FALSE), options)
  p <- if (options$statistic == "mean") vapply(all_bands, function(band) {
    if (max(band) < 2) NA_real_ else band_variance(band, problem$y)$p_value
  }, 0) else swing_test(all_bands, problem$y, options)
  reach <- vapply(all_bands, function(band) diff(range(band_statistics(band, problem$y, options))), 0)
  bent <- p < 1e-3 & reach > 1.5 * abs(read$value)
  c(read, list(p_value = p, findings = findings_or(constant, findings_where(bent, "up_and_down", reach))))
}

# Differences of a percentile between the last and the first band, by the errors of both.
percentile_swings <- function(all_bands, y, options) {
  p <- not_exceeded(percentile_of_name(options$statistic), options$sense) / 100
  z <- stats::qnorm((1 + options$confidence) / 2)
  figures <- vapply(all_bands, function(band) {
    band <- compact(band)
    value <- band_swing(band, y, options)
    half <- z * sqrt(percentile_error(y[band == 1], p)^2 + percentile_error(y[band == max(band)], p)^2)
    c(value, value - half, value + half)
  }, numeric(3))
  list(value = figures[1, ], low = figures[2, ], high = figures[3, ])
}

# The standard error of a percentile: that of the order statistic there, with the values' own steps as its law.
percentile_error <- function(values, p) {
  n <- length(values)
  share <- diff(stats::pbeta(0:n / n, p * (n + 1), (1 - p) * (n + 1)))
  x <- sort(values)
  sqrt(sum(share * (x - sum(share * x))^2))
}

# Whether a statistic differs between the lowest and the highest band: against the same with the runs of the two bands
# in another order, 199 times over. Bands of one size share the orders.
swing_test <- function(all_bands, y, options, repeats = 199) {
  orders <- list()
  vapply(all_bands, function(band) {
    band <- compact(band)
    if (max(band) < 2) return(NA_real_)
    low <- y[band == 1]
    high <- y[band == max(band)]
    # of each band measured from its own middle, so that a shift is not taken for a change of spread
    if (options$statistic == "sd") {
      low <- low - mean(low)
      high <- high - mean(high)
    }
    both <- c(low, high)
    size <- as.character(length(both))
    if (is.null(orders[[size]])) {
      orders[[size]] <<- lapply(seq_len(repeats), function(seed) {
        order(stream_uniforms("swing", seed, "random", length(both)))
      })
    }
    first <- seq_along(low)
    of_low <- statistic_reader(length(low), options)
    of_high <- statistic_reader(length(high), options)
    gap <- function(values) abs(of_high(values[-first]) - of_low(values[first]))
    seen <- gap(both)
    others <- vapply(orders[[size]], function(order) gap(both[order]), 0)
    (1 + sum(others >= seen * (1 - 1e-12))) / (1 + repeats)
  }, 0)
}

# The mean over bands of the distance of the band's distribution from that of all runs. The largest distance in the runs
# themselves is too large by what chance adds, the one taken from runs that it was not looked for in is too small by
# about as much: the value lies half-way, and at the second where the first is what dummies have, the runs' bands in
# another order. Its interval is as wide as both scatter.
distance_figures <- function(problem, options) {
  if (problem$n < fewest_for_bands) return(no_figures(length(problem$x), "few_for_bands"))
  constant <- constant_findings(problem)
  if (all(lengths(constant))) return(nothing_varies(constant))
  bands <- options$bands %||% min(20, max(3, problem$n %/% 200))
  all_bands <- lapply(problem$x, function(column) compact(bands_of(column, bands)))
  y <- as.double(problem$y)
  order <- order(y)
  seen <- jackknifed(list(x = all_bands, y = y, n = length(y)), function(x, y) {
    order <- order(y)
    vapply(x, function(band) {
      band <- compact(band)
      sum(tabulate(band, max(band)) / length(band) * cpp_band_distances(band, y, order, max(band)))
    }, 0, USE.NAMES = FALSE)
  }, options)
  held <- vapply(all_bands, held_out_distance, c(value = 0, half = 0), y, order, options$confidence)
  dummy <- dummy_distances(all_bands, y)
  p <- vapply(seq_along(all_bands), function(j) {
    (1 + sum(dummy[[j]] >= seen$value[j])) / (1 + length(dummy[[j]]))
  }, 0)
  real <- pmax(1 - (vapply(dummy, mean, 0) / seen$value)^2, 0)
  value <- held["value", ] + ifelse(seen$value > 0, real, 0) * (seen$value - held["value", ]) / 2
  half <- sqrt(held["half", ]^2 + (seen$high - seen$value)^2)
  # what may be idle may have nothing
  low <- ifelse(p < 1 - options$confidence, pmax(value - half, 0), 0)
  list(value = pmax(value, 0), low = low, high = pmax(pmin(value + half, 1), 0),
    p_value = ifelse(lengths(constant), NA, p), findings = constant)
}

# One input's distance, each band's looked for without one of the groups of runs and taken from that group, in turn.
held_out_distance <- function(band, y, order, confidence) {
  bands <- max(band)
  groups <- max(3L, min(20L, length(y) %/% 10L))
  found <- cpp_held_out_distances(band, (seq_along(y) - 1L) %% groups, y, order, bands, groups)
  each <- groups * colSums(found$distance * found$count) / length(y)
  half <- stats::qt((1 + confidence) / 2, groups - 1) * stats::sd(each) / sqrt(groups)
  c(value = mean(each), half = half)
}

# Distances of dummy inputs with the same bands: the output's values, ties and all, in a keyed order. Of many runs some
# are enough, for the distance shrinks as the root of their number.
dummy_distances <- function(all_bands, y, repeats = 199) {
  n <- length(y)
  some <- min(n, 2000)
  values <- sort(y[unique(round(seq(1, n, length.out = some)))])
  orders <- lapply(seq_len(repeats), function(seed) order(stream_uniforms("dummy input", seed, "random", some)))
  sizes <- vapply(all_bands, function(band) paste(tabulate(band), collapse = " "), "")
  by_size <- lapply(stats::setNames(nm = unique(sizes)), function(size) {
    weight <- as.double(strsplit(size, " ")[[1]]) / n
    band <- findInterval((seq_len(some) - 0.5) / some, cumsum(weight), rightmost.closed = TRUE) + 1L
    band <- compact(pmin(band, length(weight)))
    share <- tabulate(band) / some
    vapply(orders, function(order) {
      dealt <- values
      dealt[order] <- values
      sum(share * cpp_band_distances(band, dealt, order, max(band)))
    }, 0) *
      sqrt(some / n)
  })
  by_size[sizes]
}

# What straight and rising effects do not show of inputs that enter: a curve (the index over bands is well above the
# square of the rank correlation) and an effect through others (the output's spread goes with the input, its mean does
# not; of a yes or no the spread follows from the mean). Over the first runs, which are enough to see it.
shape_findings <- function(problem, value) {
  n <- min(problem$n, shape_runs)
  y <- problem$y[seq_len(n)]
  if (min(y) == max(y)) return(no_findings(length(problem$x)))
  two_values <- all(y == min(y) | y == max(y))
  seen <- problem$shapes %||% shapes_between(problem$x, list(problem$y))[[1]]
  told <- problem$enters & is.finite(value) & is.finite(seen$square) & seen$bands >= 3
  curved <- told & band_p_value(seen$f, seen$bands, n) < 1e-4 & seen$index > pmax(2 * seen$square, seen$square + 0.05)
  interacts <- told & !two_values & band_p_value(seen$spread_f, seen$bands, n) < 1e-4 & seen$spread_index > 0.05 &
    seen$spread_index > seen$index
  findings_or(findings_where(curved, "curved", seen$index), findings_where(interacts, "interacts"))
}

shape_runs <- 5000

# Of each of `y` a frame with a row for each of `x`: in how many bands it lies, the square of the rank correlation, and what lies
# between bands of the output and of its spread.
shapes_between <- function(x, y) {
  n <- min(length(x[[1]]), shape_runs)
  seen <- cpp_shapes(lapply(x, as.double), lapply(y, as.double), n, max(5, min(20, n %/% 50)), threads_to_use())
  lapply(seq_along(y), function(j) as_frame(c(seen["bands"], lapply(seen[-1], function(told) told[, j]))))
}
