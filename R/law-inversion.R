# Quantiles from cumulative probabilities where no closed form is at hand.

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

# The quantile of a law from its probabilities and its density, exact at kinks and at values with a probability of their
# own. Each p is looked for in the tail where it is small, between the two knots that hold it, and from anchors that
# are the same whatever else is asked: a quantile does not depend on its company.
composed_quantile <- function(law, p, lower) {
  ends <- ask(law, "support")
  x <- rep(NA_real_, length(p))
  x[which(p == (if (lower) 0 else 1))] <- ends[[1]]
  x[which(p == (if (lower) 1 else 0))] <- ends[[2]]
  open <- which(p > 0 & p < 1)
  far <- p[open] > 0.5
  for (side in unique(far)) {
    on <- open[far == side]
    log_q <- log(if (side) 1 - p[on] else p[on])
    tail <- if (side) !lower else lower
    span <- law$par$spans[[if (tail) "lower" else "upper"]] %||% inversion_span(law, tail)
    x[on] <- quantile_in_tail(law, log_q, tail, span, between_anchors(log_q, span$anchors, tail))
  }
  pmin(pmax(x, ends[[1]]), ends[[2]])
}

# Whether a law's quantile must be looked for.
is_composed <- function(law) !is.null(law$record$composed) && law$record$composed(law$par)

# A ready law that will be inverted again and again: what every inversion needs is found once.
ready_to_invert <- function(law) {
  law <- ready_law(law)
  if (!is.null(law$par$spans)) return(law)
  if (is_ready(law$par$of)) law$par$of <- ready_to_invert(law$par$of)
  if (!is_composed(law)) return(law)
  law$par$spans <- list(lower = inversion_span(law, TRUE), upper = inversion_span(law, FALSE))
  law
}

# One tail's knots and anchors. The anchors are looked for between places all over the law, which are asked at once.
inversion_span <- function(law, lower) {
  knots <- knots_of(law)
  rough <- ask(law, "rough")
  ends <- ask(law, "support")
  span <- function(at) {
    c(list(knots = at, ends = ends, middle = mean(rough),
      reach = max(diff(rough), 1e-9 * abs(rough), .Machine$double.xmin)), knot_tails(law, at, lower))
  }
  log_q <- log(anchor_probabilities)
  places <- span(places_over(ends, knots, rough))
  c(span(knots), list(anchors = list(log_q = log_q, x = quantile_in_tail(law, log_q, lower, places, NULL))))
}

# Places that lie densely wherever the law may be: near its ends, its knots and two rough values of it, and further from
# these by powers of ten.
places_over <- function(ends, knots, rough) {
  finite <- ends[is.finite(ends)]
  bases <- unique(c(finite, rough))
  unit <- max(diff(rough), diff(finite), .Machine$double.xmin)
  away <- c(10^seq(-300, -20, by = 10), 2^(-54:40), 10^seq(20, 300, by = 10)) * unit
  next_to <- outer(abs(bases), 2^(-52:-40))
  places <- c(knots, bases, outer(bases, away, `+`), outer(bases, away, `-`), bases + next_to, bases - next_to)
  sort(unique(places[is.finite(places) & places >= ends[1] & places <= ends[2]]))
}

anchor_probabilities <- c(2^-(1:20), 10^-c(8, 11, 15, 20, 30, 45, 70, 100, 150, 220, 300))

# Between which anchors each quantile lies, and where on the line from one to the other.
between_anchors <- function(log_q, anchors, lower) {
  i <- length(anchors$log_q) - findInterval(log_q, rev(anchors$log_q), all.inside = TRUE)
  near <- anchors$x[i]
  far <- anchors$x[i + 1]
  far[which(log_q < anchors$log_q[length(anchors$log_q)])] <- if (lower) -Inf else Inf
  part <- (log_q - anchors$log_q[i]) / (anchors$log_q[i + 1] - anchors$log_q[i])
  list(start = near + (far - near) * part, low = pmin(near, far), high = pmax(near, far))
}

# `span`: the law's ends and knots, and what knot_tails() says of them.
quantile_in_tail <- function(law, log_q, lower, span, bounds) {
  # how many knots lie below the quantile; the next is it, where its own probability spans q
  below <- if (lower) findInterval(log_q, span$reached, left.open = TRUE)
    else length(span$knots) - findInterval(log_q, rev(span$reached))
  before <- c(span$before, NA)[below + 1]
  met <- which(if (lower) before < log_q else before > log_q)
  x <- c(span$knots, NA)[below + 1]
  rest <- setdiff(seq_along(log_q), met)
  if (length(rest) == 0) return(x)
  low <- c(span$ends[[1]], span$knots)[below + 1][rest]
  high <- c(span$knots, span$ends[[2]])[below + 1][rest]
  if (!is.null(bounds)) {
    low <- pmin(pmax(low, bounds$low[rest]), high)
    high <- pmax(pmin(high, bounds$high[rest]), low)
  }
  x[rest] <- solve_in_tail(log_q[rest], lower, function(x) ask(law, "cumulative", x, lower, TRUE),
    function(x) ask(law, "density", x, TRUE), low, high, bounds$start[rest], span$ends[[if (lower) 1 else 2]],
    span$middle, span$reach)
  x
}

# The logarithms of a tail's probability at each knot, with it and up to it; they never turn back.
knot_tails <- function(law, knots, lower) {
  reached <- ask(law, "cumulative", knots, lower, TRUE)
  before <- ask(law, "strict", knots, lower, TRUE)
  if (lower) list(reached = cummax(reached), before = before)
  else list(reached = rev(cummax(rev(reached))), before = before)
}

# Where a tail's probability is q: steps by Newton on logarithms, kept within brackets that close in by halves. `end` is
# the law's end on the tail's side; where it is finite the steps are taken in the logarithm of the distance from it.
# Where it is not, they are taken in turn in x, in which exponential tails are straight, and in the logarithm of the
# distance from the `middle`, in which tails like powers are.
solve_in_tail <- function(log_q, lower, log_tail, log_density, low, high, start, end, middle, reach) {
  sign <- if (lower) 1 else -1
  scale <- if (is.finite(end)) log_scale(end, sign) else far_scale(middle, reach)
  n <- length(log_q)
  x <- if (is.null(start)) rep(NA_real_, n) else start
  outside <- which(!is.finite(x) | x < low | x > high)  # an end of the bracket may be the place itself
  x[outside] <- between_ends(low, high, scale, reach)[outside]
  stride <- rep_len(reach, n)
  miss_low <- miss_high <- rep(NA_real_, n)
  active <- which(low < high)
  x[low >= high] <- low[low >= high]
  for (step in 1:400) {
    if (length(active) == 0) break
    at <- x[active]
    value <- log_tail(at)
    miss <- log_q[active] - value
    up <- sign * miss <= 0
    high[active[up]] <- at[up]
    low[active[!up]] <- at[!up]
    miss_high[active[up]] <- miss[up]
    miss_low[active[!up]] <- miss[!up]
    from <- low[active]
    to <- high[active]
    by <- sign * miss / exp(log_density(at) - value)
    following <- if (is.finite(end) || step %% 2 == 0) scale$moved(at, by) else at + by
    # no leap into the unknown
    most <- 8 * pmax(stride[active], scale$away(at))
    leap <- which(is.infinite(to) & following > at + most | is.infinite(from) & following < at - most)
    following[leap] <- at[leap] + sign(following[leap] - at[leap]) * most[leap]
    stride[active[leap]] <- stride[active[leap]] * 4
    # a step of Newton's from so near leaves the square of what is missing; it leads out of the bracket only by rounding,
    # but where the curve is level it leads anywhere
    size <- pmax(1, abs(log_q[active]))
    held <- pmin(pmax(following, from), to)
    near <- abs(miss) <= 1e-10 * size & is.finite(following) & abs(held - following) <= 1e-14 * abs(at)
    following[near] <- held[near]
    # nothing is missing but the rounding of the probability
    rounded <- which(!near & abs(miss) <= 16 * .Machine$double.eps * size)
    following[rounded] <- at[rounded]
    near[rounded] <- TRUE
    # a step out of the bracket is taken on the line between its ends, where both were tried
    out <- which(!near & !(following >= from & following <= to) & step %% 3 != 0)
    part <- (miss_low / (miss_low - miss_high))[active[out]]
    following[out] <- from[out] + (to - from)[out] * part
    # back to an end of the bracket, from which it differs by less than doubles can: a little inside
    back <- which(!near & (following == from | following == to))
    inside <- following[back] + sign(at[back] - following[back]) * 4 * .Machine$double.eps * abs(following[back])
    following[back] <- ifelse(abs(inside - following[back]) < abs(at[back] - following[back]), inside, at[back])
    slow <- step %% 6 == 0 & abs(miss) > 1e-6 * size
    bisect <- which(!near & (!is.finite(following) | following < from | following > to | following == at | slow))
    far <- bisect[is.infinite(from[bisect]) | is.infinite(to[bisect])]
    following[bisect] <- between_ends(from[bisect], to[bisect], scale, stride[active[bisect]])
    stride[active[far]] <- stride[active[far]] * 4
    closed <- seq_along(at) %in% bisect & (following <= from | following >= to)
    done <- near | following == at | closed
    x[active[near | !done]] <- following[near | !done]
    active <- active[!done]
  }
  x
}

# Scales on which steps and middles are taken: `away(x)` is the distance from where they begin, `moved(x, by)` goes as
# far as a step `by` of x would at first, and `between(low, high)` is half-way.
log_scale <- function(end, sign) {
  list(
    away = function(x) abs(x - end),
    moved = function(x, by) {
      distance <- abs(x - end)
      part <- sign * by / distance
      ifelse(abs(part) < 1e-6, x + by, end + sign * distance * exp(pmin(pmax(part, -700), 700)))
    },
    between = function(low, high) {
      near <- pmin(abs(low - end), abs(high - end))
      far <- pmax(abs(low - end), abs(high - end))
      uneven <- far > 1e3 * near
      middle <- ifelse(uneven, end + sign * far * pmax(sqrt(near / far), 1e-6), low / 2 + high / 2)
      ifelse(middle > low & middle < high, middle, low / 2 + high / 2)
    }
  )
}

far_scale <- function(middle, reach) {
  there <- function(x) asinh((x - middle) / reach)
  back <- function(t) middle + reach * sinh(pmin(pmax(t, -700), 700))
  list(
    away = function(x) abs(x - middle),
    moved = function(x, by) {
      away <- (x - middle) / reach
      part <- by / (reach * pmax(abs(away), sqrt(1 + pmin(abs(away), 1e100)^2)))
      ifelse(abs(part) < 1e-6, x + by, back(there(x) + part))
    },
    between = function(low, high) {
      half <- back(there(low) / 2 + there(high) / 2)
      ifelse(half > low & half < high, half, low / 2 + high / 2)
    }
  )
}

# A point between two ends, and beyond the other where one is not finite: by a stride or as far again as it is away.
between_ends <- function(low, high, scale, stride) {
  middle <- suppressWarnings(scale$between(low, high))
  open_above <- which(is.infinite(high) & is.finite(low))
  open_below <- which(is.infinite(low) & is.finite(high))
  middle[open_above] <- (low + pmax(stride, scale$away(low)))[open_above]
  middle[open_below] <- (high - pmax(stride, scale$away(high)))[open_below]
  middle[is.infinite(low) & is.infinite(high)] <- 0
  pmin(pmax(middle, -.Machine$double.xmax), .Machine$double.xmax)
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
