# The most likely value where a family has no formula for it: the highest place of the density, looked for between
# knots and around the peaks of what the law is made of.

# A value with a probability of its own comes before any density. NA where several places are equally high, or all are.
searched_mode <- function(law) {
  law <- ready_law(law)
  atoms <- ask(law, "atoms")
  if (length(atoms$values)) return(only_highest(atoms$values, atoms$shares))
  law <- ready_to_invert(law)
  knots <- knots_of(law)
  ends <- ask(law, "support")
  peaks <- ask(law, "peaks")
  reach <- range(ask(law, "quantile", c(0.001, 0.999), TRUE), peaks)
  reach[is.finite(ends)] <- ends[is.finite(ends)]
  cuts <- sort(unique(c(reach, knots)))
  cuts <- cuts[cuts >= reach[1] & cuts <= reach[2]]
  places <- sort(unique(c(ask(law, "quantile", stats::ppoints(300), TRUE), peaks)))
  found <- lapply(seq_len(length(cuts) - 1), function(i) {
    highest_between(law, cuts[i], cuts[i + 1], places[places > cuts[i] & places < cuts[i + 1]])
  })
  whole_level <- length(found) == 1 && found[[1]]$level
  if (whole_level) return(NA_real_)
  merged <- merged_levels(found)
  only_highest(vapply(merged, function(one) one$at, 0), vapply(merged, function(one) one$height, 0), log = TRUE)
}

# The value of the greatest height, NA where another is as high.
only_highest <- function(values, heights, log = FALSE) {
  best <- which.max(heights)
  same <- if (log) heights >= heights[best] - 1e-9 else heights >= heights[best] * (1 - 1e-12)
  same[best] <- TRUE
  apart <- abs(values[same] - values[best]) > 1e-6 * max(diff(range(values)), abs(values[best]) * 1e-9)
  if (any(apart)) NA_real_ else values[best]
}

# The highest place of the density inside a piece, as a logarithm; the middle of a piece that is level.
highest_between <- function(law, from, to, places) {
  width <- to - from
  height <- function(x) ask(law, "density", x, TRUE)
  edge <- 1e-7 * min(diff(c(from, places, to)), 1e-3 * width)
  edges <- c(from + edge, to - edge)
  at <- sort(unique(c(edges, from + width * (1:15) / 16, places)))
  heights <- height(at)
  if (all(heights == -Inf)) return(list(at = from, height = -Inf, level = FALSE, from = from, to = to))
  if (diff(range(heights)) < 1e-9) return(list(at = from / 2 + to / 2, height = heights[1], level = TRUE, from = from,
    to = to))
  at <- c(at, from, to)
  heights <- c(heights, height(c(from, to)))
  at_end <- length(at) - 1:0
  # at a knot the density of the next piece may be given: only an infinite one is taken from there
  heights[at_end[is.finite(heights[at_end])]] <- -Inf
  candidates <- utils::head(order(-heights), 5)
  best <- list(at = at[candidates[1]], height = heights[candidates[1]])
  if (is.finite(best$height)) {
    for (i in candidates[is.finite(heights[candidates])]) {
      climbed <- climb(height, at[i], from, to, min(abs(at[-i] - at[i])))
      if (climbed$height > best$height) best <- climbed
    }
  }
  # at the very edge it is the end that is meant
  if (best$at - from <= 2 * edge) best$at <- from
  if (to - best$at <= 2 * edge) best$at <- to
  c(best, level = FALSE, from = from, to = to)
}

# Up the hill around a place, in a stretch that is short beside the hill.
climb <- function(height, at, from, to, step) {
  top <- height(at)
  step <- max(step, 1e-9 * (to - from)) * 2
  for (shrink in 1:60) {
    sides <- c(max(at - step, from), min(at + step, to))
    inner <- sides[sides > from & sides < to]
    if (length(inner) == 0 || all(top - height(inner) < 1)) break
    step <- step / 2
  }
  if (!(sides[1] < sides[2])) return(list(at = at, height = top))
  found <- stats::optimize(height, sides, maximum = TRUE, tol = 1e-9 * max(diff(sides), .Machine$double.xmin))
  list(at = found$maximum, height = found$objective)
}

# Level pieces of one height that touch are one.
merged_levels <- function(found) {
  out <- list()
  for (piece in found) {
    last <- if (length(out)) out[[length(out)]]
    same <- !is.null(last) && last$level && piece$level && abs(last$height - piece$height) < 1e-9
    if (same && last$to == piece$from) {
      piece$from <- last$from
      piece$at <- piece$from / 2 + piece$to / 2
      out[[length(out)]] <- piece
    } else out <- c(out, list(piece))
  }
  out
}
