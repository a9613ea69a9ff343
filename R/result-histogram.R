# Histograms and cumulative curves as numbers, for figures and reports.

# Bars of equal width on round limits (Freedman and Diaconis 1981, between 15 and 60 of them); of whole numbers over a
# short range a bar each; of a constant one bar. `share` is of the values given.
histogram_bars <- function(values) {
  if (length(values) == 0) return(data.frame(from = numeric(), to = numeric(), share = numeric()))
  ends <- range(values)
  if (ends[1] == ends[2]) {
    half <- if (ends[1] == 0) 0.5 else abs(ends[1]) * 0.02
    return(data.frame(from = ends[1] - half, to = ends[1] + half, share = 1))
  }
  breaks <- if (diff(ends) <= 50 && all(values == round(values))) seq(ends[1] - 0.5, ends[2] + 0.5) else {
    width <- 2 * stats::IQR(values) / length(values)^(1 / 3)
    bars <- if (width > 0) diff(ends) / width else 15
    pretty(ends, n = min(60, max(15, bars)))
  }
  counts <- tabulate(findInterval(values, breaks, rightmost.closed = TRUE), length(breaks) - 1)
  data.frame(from = breaks[-length(breaks)], to = breaks[-1], share = counts / length(values))
}

# The share of values not above each point: every step where they are few, else at 501 percentiles.
cumulative_curve <- function(values) {
  if (length(values) == 0) return(data.frame(value = numeric(), cumulative = numeric()))
  shares <- seq(0, 1, length.out = min(501, length(values) + 1))
  data.frame(value = percentile_values(values, 100 * shares), cumulative = shares)
}
