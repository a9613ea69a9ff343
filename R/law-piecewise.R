#' Piecewise linear law
#'
#' `r family_piecewise$about` The cumulative probability is a straight line between each point and the next.
#'
#' @param values Numbers in increasing order, in the input's unit: the percentiles' values.
#' @param percentiles Numbers in increasing order from 0 to 100, as many as `values`: the first is 0, the last 100.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where the points are not numbers, not in order, or do not begin at 0 and
#'   end at 100.
#' @family laws
#' @examples
#' law_piecewise(c(20, 30, 34, 40, 55), percentiles = c(0, 10, 50, 90, 100))
#' @export
law_piecewise <- function(values, percentiles) make_law("piecewise", as.list(environment()))

family_piecewise <- list(
  title = "Piecewise linear",
  about = "Percentiles that someone stated or a report lists, taken as they are.",
  kind = "data",
  parameters = c(values = "numbers", percentiles = "numbers"),
  check = function(par, call) {
    check_increasing(par$values, "values", call)
    check_increasing(par$percentiles, "percentiles", call)
    if (length(par$values) < 2 || length(par$values) != length(par$percentiles)) {
      stop_argument("percentiles", "as many as `values`, and at least 2", par$percentiles, call = call)
    }
    if (par$percentiles[1] != 0 || par$percentiles[length(par$percentiles)] != 100) {
      stop_ensayo("argument", "`percentiles` must run from 0 to 100.",
        sprintf("They run from %s to %s.", shown_value(par$percentiles[1]), shown_value(max(par$percentiles))),
        "Say what the least and the greatest value are; they need not be likely.", argument = "percentiles",
        call = call)
    }
  },
  canonical = function(par) list(breaks = par$values, shares = diff(par$percentiles) / 100),
  kinks = function(par) par$breaks,
  quantile = function(par, p, lower) stepped_quantile(par, p, lower),
  cumulative = function(par, x, lower, log) stepped_cumulative(par, x, lower, log),
  density = function(par, x, log) stepped_density(par, x, log),
  moments = function(par) stepped_moments(par),
  mode = function(par) stepped_mode(par),
  support = function(par) range(par$breaks)
)

#' Histogram law
#'
#' `r family_histogram$about` All values within a class are equally likely.
#'
#' @param breaks Numbers in increasing order, in the input's unit: the classes' ends, one more than classes.
#' @param weights Numbers of at least 0: each class's count or share; they need not add up to 1.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `breaks` are not in order, or there is not one weight for each
#'   class.
#' @family laws
#' @examples
#' law_histogram(breaks = c(0, 10, 20, 50), weights = c(4, 9, 2))
#' @export
law_histogram <- function(breaks, weights) make_law("histogram", as.list(environment()))

family_histogram <- list(
  title = "Histogram",
  about = "Counts or shares in classes, such as a tally or a published histogram.",
  kind = "data",
  parameters = c(breaks = "numbers", weights = "numbers"),
  check = function(par, call) {
    check_increasing(par$breaks, "breaks", call)
    check_weights(par$weights, "weights", length(par$breaks) - 1, "classes", call)
  },
  canonical = function(par) list(breaks = par$breaks, shares = as_shares(par$weights)),
  kinks = function(par) par$breaks,
  quantile = function(par, p, lower) stepped_quantile(par, p, lower),
  cumulative = function(par, x, lower, log) stepped_cumulative(par, x, lower, log),
  density = function(par, x, log) stepped_density(par, x, log),
  moments = function(par) stepped_moments(par),
  mode = function(par) stepped_mode(par),
  support = function(par) range(par$breaks[c(par$shares > 0, FALSE) | c(FALSE, par$shares > 0)])
)

# A density that is level between breaks. Each p is placed from the end where it is small.
stepped_quantile <- function(par, p, lower) {
  full <- par$shares > 0
  from <- par$breaks[-length(par$breaks)][full]
  to <- par$breaks[-1][full]
  shares <- par$shares[full]
  below <- c(0, cumsum(shares))
  above <- rev(c(0, cumsum(rev(shares))))
  p_low <- if (lower) p else 1 - p
  p_high <- if (lower) 1 - p else p
  from_low <- which(p_low <= 0.5)
  from_high <- which(p_low > 0.5)
  out <- rep(NA_real_, length(p))
  class <- pmin(findInterval(p_low[from_low], below), length(shares))
  out[from_low] <- from[class] + (p_low[from_low] - below[class]) / shares[class] * (to - from)[class]
  class <- pmax(length(shares) + 1 - findInterval(p_high[from_high], rev(above)), 1)
  out[from_high] <- to[class] - (p_high[from_high] - above[class + 1]) / shares[class] * (to - from)[class]
  pmin(pmax(out, from[1]), to[length(to)])
}

stepped_cumulative <- function(par, x, lower, log) {
  k <- length(par$shares)
  x <- pmin(pmax(x, par$breaks[1]), par$breaks[k + 1])
  class <- pmin(findInterval(x, par$breaks), k)
  part <- par$shares[class] / diff(par$breaks)[class]
  left <- c(0, cumsum(par$shares))[class] + part * (x - par$breaks[class])
  right <- rev(c(0, cumsum(rev(par$shares))))[class + 1] + part * (par$breaks[class + 1] - x)
  smaller_tail(left, right, lower, log)
}

stepped_density <- function(par, x, log) {
  k <- length(par$shares)
  class <- pmin(pmax(findInterval(x, par$breaks, rightmost.closed = TRUE), 1), k)
  d <- ifelse(x < par$breaks[1] | x > par$breaks[k + 1], 0, (par$shares / diff(par$breaks))[class])
  if (log) log(d) else d
}

stepped_moments <- function(par) {
  heights <- par$shares / diff(par$breaks)
  pieced_moments(par$breaks, function(t, piece) matrix(heights[piece], nrow(t)))
}

# The middle of the highest class.
stepped_mode <- function(par) {
  heights <- par$shares / diff(par$breaks)
  highest <- which(heights >= max(heights) * (1 - 1e-12))
  if (length(highest) > 1) NA_real_ else par$breaks[highest] / 2 + par$breaks[highest + 1] / 2
}
