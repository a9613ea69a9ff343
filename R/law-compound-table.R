# A compound sum as its law is asked: what is exact, and tables of the rest, from grids of several widths.

# Tables that were made in this session, by what they are of; they are dear, and a law's value holds none.
tables_made <- new.env(parent = emptyenv())

remembered <- function(of, make, most = 4000) {
  key <- paste(of, collapse = " ")
  if (is.null(tables_made[[key]])) {
    if (length(tables_made) >= most) rm(list = ls(tables_made), envir = tables_made)
    assign(key, make(), envir = tables_made)
  }
  tables_made[[key]]
}

compound_tables <- function(law_of_count, count, kept, most) {
  points <- ask(kept$one, "atoms")
  kept$points <- lapply(points, `[`, points$values != 0)
  kept$zero <- sum(points$shares[points$values == 0])
  kept$never <- 1 - kept$share + kept$share * kept$zero
  kept$each <- if (length(kept$points$values) == 1) kept$points$values else Inf
  thinned <- thinned_cumulants(count$cumulants, kept$share)
  kept$often <- thinned[1]
  plan <- grid_plan(thinned, law_of_count, kept)
  repeats <- repeats_of(count, kept, plan)
  rest <- max(1 - sum(repeats$shares) - sum(repeats$weights) * (1 - repeats$own - kept$zero), 0)
  table <- if (rest < 1e-15) list(x = numeric(), rough = range(ask(kept$one, "rough")), error = 0, free = 0)
    else refined_table(count, kept, plan, rest, function(x) {
      max(thinned[1] - sum(repeats$weights), 0) * ask(kept$one, "cumulative", x - mean_beside(thinned, kept$one), FALSE, FALSE)
    })
  if (table$error > 1e-6) {
    warn_ensayo(c("The compound sum may be off by more than 1e-6 in probability.",
      x = sprintf("Two grids differ by %s.", format_given(signif(table$error, 2))),
      i = "Its sizes are spread too unevenly: take `input(occurrences(count, size))`, by runs."), "inexact")
  }
  ends <- outer(c(if (repeats$shares[1] > 0) 0 else count$ends[1], count$ends[2]), ask(kept$one, "support"))
  ends[is.nan(ends)] <- 0
  par <- list(count = law_of_count, one = kept$one, thinned = thinned, most = most, repeats = repeats, table = table, ends = range(ends))
  par$high <- high_end_of(par)
  par$points <- compound_points(par)
  par$inverse <- inverse_of(par)
  par
}

# The mean of all occurrences but one; 0 where there is none.
mean_beside <- function(thinned, one) {
  mean <- (thinned[1] - 1) * ask(one, "moments")[["mean"]]
  if (is.finite(mean)) mean else 0
}

# What is exact: `shares`, the probabilities that 0, 1, 2, ... occurrences are all of the one value that has a probability of its
# own, `each`, which is `own` for one, and nothing for `zero`; and `weights`, those of one other value beside them. Where there is
# no such value, or several (`points`): none, and a single one.
repeats_of <- function(count, kept, plan) {
  if (is.infinite(kept$each)) {
    z <- kept$never
    return(list(each = 0, own = 0, zero = kept$zero, shares = Re(count$value(z)), weights = Re(kept$share * count$slope(z)),
      points = kept$points))
  }
  width <- if (is.null(plan$first)) 2 * plan$top else (abs(plan$first) + plan$n) * plan$h
  n <- 2^ceiling(log2(min(max(width / abs(kept$each), 8), 2^14)))
  z <- kept$never + kept$share * kept$points$shares * exp(-2i * pi * (seq_len(n) - 1) / n)
  coefficients <- function(values) {
    c <- pmax(Re(stats::fft(values, inverse = TRUE)) / n, 0)
    c[seq_len(max(which(c > 1e-14), 1))]
  }
  list(each = kept$each, own = kept$points$shares, zero = kept$zero, shares = coefficients(count$value(z)),
    weights = coefficients(kept$share * count$slope(z)))
}

# How wide a grid must be and how fine: `top`, the half of its width that is used, and `n`, its places; or where it goes around,
# `h`, the step, `n`, and `first`, its first place.
grid_plan <- function(thinned, law_of_count, kept) {
  one <- kept$one
  often <- max(thinned[1], 1)
  low <- ask(one, "quantile", 1e-13 / often, TRUE)
  far <- ask(one, "quantile", min(1e-13 / often, 0.01), FALSE)
  # most of one, without the largest of so many
  p <- (seq_len(400) - 0.5) / 400 * (1 - 0.5 / often)
  q <- ask(one, "quantile", p, TRUE)
  centre <- thinned[1] * mean(q)
  spread <- sqrt(max(thinned[1], 2) * stats::var(q) + thinned[2] * mean(q)^2)
  top <- max(centre + 9 * spread, ask(one, "quantile", min(0.01, 0.01 / often), FALSE), if (is.finite(kept$each)) 4 * kept$each)
  least <- max(2, ask(law_of_count, "quantile", 1e-10, TRUE) * kept$share)
  narrow <- diff(ask(one, "rough")) * sqrt(least)
  places <- function(width) 2^ceiling(log2(max(1024, 16 * width / max(narrow, width / 2^13), 60 * width / spread)))
  if (low >= 0 && (places(top) < 2^14 || far >= 40 * spread)) return(list(top = top, n = min(places(top), 2^16)))
  from <- min(centre - 10 * spread, centre + 2 * low)
  to <- max(centre + 10 * spread, centre + 2 * far)
  n <- min(places(to - from), 2^18)
  h <- whole_part((to - from) / n, kept$each)
  list(h = h, n = n, first = floor(from / h))
}

# A step of which a value with a probability of its own is a whole multiple.
whole_part <- function(h, each) if (is.finite(each) && h < abs(each)) abs(each) / ceiling(abs(each) / h) else h

# Grids of twice as many places, until two agree from one value to another; of the finer one the error is a part of what they differ
# by. The first two are made of the same cells. `make(cells, every)` makes one; `h` is the coarsest one's step.
refined_grid <- function(law, h, n, around, make, from, to) {
  cells <- law_cells(law, h / 2, n, around)
  coarse <- make(cells, 2)
  repeat {
    fine <- make(cells, 1)
    inside <- coarse$x >= from & coarse$x <= to
    fine$error <- max(abs(table_lower(fine, coarse$x[inside]) - coarse$lower[inside]), 0)
    if (fine$error < (if (cells$n < 2^14) 1e-7 else 1e-6) || cells$n >= 2^17) return(fine)
    coarse <- fine
    cells <- law_cells(law, cells$h / 2, 2 * cells$n, around)
  }
}

# `large(x)`: about how probable more than x is, where that takes one large occurrence beside the mean of the others.
refined_table <- function(count, kept, plan, rest, large) {
  if (is.null(plan$first)) return(graded_table(count, kept, plan, rest, large))
  from <- plan$h * plan$first
  to <- from + plan$h * plan$n
  around <- refined_grid(kept$one, whole_part(2 * (to - from) / plan$n, kept$each), plan$n, TRUE, function(cells, every) {
    h <- every * cells$h
    first <- floor(from / h)
    p <- remainder_around(count, kept, cells, every, first)
    list(x = h * (first + seq_along(p) - 1), lower = summed_masses(p), density = p / h)
  }, from, to)
  # at one end at least there is nothing else
  some <- seq_len(length(around$x) %/% 16)
  noise <- min(max(abs(around$lower[some])), max(abs(rest - rev(around$lower)[some])))
  finished_table(around, rest, around$error, c(noise, noise))
}

# Grids from 0, each eight times as wide as the one before and used from where that ends, from where nothing is to where all is. The
# more a grid tilts, the less comes round of what goes `beyond` its end, and the more rounding errors grow.
graded_table <- function(count, kept, plan, rest, large) {
  grid <- function(top, beyond) {
    tilt <- min(max(30 + log(beyond), 9), 20)
    refined_grid(kept$one, whole_part(4 * top / plan$n, kept$each), plan$n, FALSE, function(cells, every) {
      h <- every * cells$h
      made <- remainder_masses(count, kept, cells, every, tilt)
      at <- seq_len(cells$n / every / 2 + 1)
      list(x = h * (at - 1), lower = summed_masses(made$p, made$before)[at], density = made$p[at] / h)
    }, top / 8, top)
  }
  last <- function(x) x[[length(x)]]
  above <- function(part, x = last(part$x)) max(rest - table_lower(part, x), 1e-300)
  # twice as far out: what takes one large occurrence, or else falls as an exponential does
  farther <- function(part, top) max(large(2 * top), above(part)^2)
  top <- plan$top
  parts <- list(grid(top, 1))
  # each occurrence adds a rounding error
  if (kept$often > 200) parts <- list(grid(top, farther(parts[[1]], top)))
  while (top > plan$top * 1e-6 && table_lower(parts[[1]], top / 8) > 1e-11) {
    top <- top / 8
    parts <- c(list(grid(top, above(parts[[1]], 2 * top))), parts)
  }
  top <- plan$top
  gain <- 1
  while (rest - last(last(parts)$lower) > 1e-11 && gain > 1e-11 && top < plan$top * 1e12) {
    top <- top * 8
    part <- grid(top, farther(last(parts), top))
    gain <- last(part$lower) - table_lower(part, top / 8)
    parts[[length(parts) + 1]] <- part
  }
  error <- max(vapply(parts, function(part) part$error, 0))
  whole <- parts[[1]]
  for (part in parts[-1]) {
    beyond <- part$x > last(whole$x)
    whole <- Map(function(known, new) c(known, new[beyond]), whole[c("x", "lower", "density")], part[c("x", "lower", "density")])
  }
  finished_table(whole, rest, error, c(0, abs(rest - last(whole$lower) - large(last(whole$x)))))
}

# Where both tails are still calculated, and stand out from the `noise` below and above: beyond, they are continued.
finished_table <- function(table, free, error, noise) {
  table$upper <- free - table$lower
  good <- which(table$lower > max(1e-12, 30 * noise[1]) & table$upper > max(1e-11, 30 * noise[2]) & table$density > 0)
  at <- if (length(good)) seq(max(1, min(good) - 1), max(good)) else integer()
  table <- lapply(table[c("x", "lower", "upper", "density")], `[`, at)
  table$lower <- pmax(cummax(table$lower), 0)
  table$upper <- rev(pmax(cummax(rev(table$upper)), 0))
  table$density <- pmax(table$density, 0)
  quarters <- c(max(1, sum(table$lower < free / 4)), min(length(at), 1 + sum(table$lower < 3 * free / 4)))
  c(table, list(free = free, error = error, rough = if (length(at)) table$x[quarters] else c(0, 1)))
}

# A cubic between two places through the probabilities and densities there, and its slope.
between_places <- function(x, table, k, values, sign) {
  h <- table$x[k + 1] - table$x[k]
  t <- (x - table$x[k]) / h
  d0 <- sign * table$density[k] * h
  d1 <- sign * table$density[k + 1] * h
  list(value = values[k] * (1 + 2 * t) * (1 - t)^2 + d0 * t * (1 - t)^2 + values[k + 1] * t^2 * (3 - 2 * t) + d1 * t^2 * (t - 1),
    slope = sign * ((values[k + 1] - values[k]) * 6 * t * (1 - t) + d0 * (1 - t) * (1 - 3 * t) + d1 * t * (3 * t - 2)) / h)
}

table_lower <- function(table, x) {
  k <- findInterval(x, table$x, all.inside = TRUE)
  between_places(x, table, k, table$lower, 1)$value
}
