# Histograms and cumulative curves as numbers, for figures and reports.

# The part of the values' range that a figure shows: all of it, unless the outer half per cent at an end would take more
# room than the rest.
central_view <- function(values) {
  if (length(values) == 0) return(c(-Inf, Inf))
  ends <- range(values)
  inner <- percentile_values(values, c(0.5, 99.5))
  width <- diff(inner)
  if (width == 0) return(ends)
  c(if (inner[1] - ends[1] > width) inner[1] - 0.1 * width else ends[1],
    if (ends[2] - inner[2] > width) inner[2] + 0.1 * width else ends[2])
}

# Bars of equal width on round limits (Freedman and Diaconis 1981, between 15 and 60 of them); of counts, dates and
# whole numbers over a short range a bar for each; of a constant one bar. `share` is of all values given, in the view
# or not.
histogram_bars <- function(values, kind = "number", view = central_view(values)) {
  n <- length(values)
  if (n == 0) return(data.frame(from = numeric(), to = numeric(), share = numeric()))
  shown <- values[values >= view[1] & values <= view[2]]
  if (kind == "date") shown <- floor(shown)
  ends <- range(shown)
  if (ends[1] == ends[2]) {
    half <- if (kind != "number") 0.4 else if (ends[1] == 0) 0.5 else abs(ends[1]) * 0.02
    return(data.frame(from = ends[1] - half, to = ends[1] + half, share = length(shown) / n))
  }
  if (kind %in% c("whole", "date", "yes/no") && diff(ends) <= if (kind == "date") 120 else 50) {
    at <- seq(ends[1], ends[2])
    share <- tabulate(shown - ends[1] + 1, length(at)) / n
    return(data.frame(from = at - 0.4, to = at + 0.4, share = share)[share > 0, ])
  }
  breaks <- bar_limits(shown, kind, ends)
  counts <- tabulate(findInterval(shown, breaks, rightmost.closed = TRUE), length(breaks) - 1)
  data.frame(from = breaks[-length(breaks)], to = breaks[-1], share = counts / n)
}

bar_limits <- function(values, kind, ends) {
  if (kind == "date") return(seq(ends[1], ends[2] + 7, by = 7))  # weeks
  width <- 2 * diff(percentile_values(values, c(25, 75))) / length(values)^(1 / 3)
  bars <- if (width > 0) diff(ends) / width else 15
  pretty(ends, n = min(60, max(15, bars)))
}

# The share of values not above each point: every step where they are few, else at 501 percentiles. Of counts and days: where it rises.
cumulative_curve <- function(values, view = c(-Inf, Inf), kind = "number") {
  if (length(values) == 0) return(data.frame(value = numeric(), cumulative = numeric()))
  if (kind != "number") return(stepped_curve(floor(values), floor(view)))
  shares <- seq(0, 1, length.out = min(501, length(values) + 1))
  curve <- data.frame(value = percentile_values(values, 100 * shares), cumulative = shares)
  curve[curve$value >= view[1] & curve$value <= view[2], ]
}

# From what lies before the first value in view to half a step beyond the last; of very many values 501.
stepped_curve <- function(values, view) {
  values <- sort(values)
  last <- which(c(diff(values) > 0, TRUE))  # of each value
  before <- c(0, last)[seq_along(last)]
  seen <- which(values[last] >= view[1] & values[last] <= view[2])
  seen <- seen[unique(round(seq(1, length(seen), length.out = min(501, length(seen)))))]
  at <- values[last[seen]]
  count <- c(before[seen[1]], last[seen], last[seen[length(seen)]])
  data.frame(value = c(at[1] - 0.5, at, at[length(at)] + 0.5), cumulative = count / length(values))
}
