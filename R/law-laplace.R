#' Laplace law
#'
#' `r family_laplace$about`
#'
#' @param location Number: the mean and most likely value, in the input's unit.
#' @param scale Number above 0: the mean distance from it, in the input's unit; the standard deviation is 1.41 times
#'   as large.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: Johnson, Kotz and Balakrishnan (1995), Continuous Univariate Distributions 2, chapter 24.
#' @family laws
#' @examples
#' law_laplace(0, 0.4)
#' @export
law_laplace <- function(location, scale) make_law("laplace", as.list(environment()))

family_laplace <- list(
  title = "Laplace",
  about = "Errors that are mostly small and now and then large: a sharp peak with heavy tails.",
  kind = "continuous",
  parameters = c(location = "number", scale = "spread"),
  mode_parameter = "location",
  elementwise = TRUE,
  start = function(mean, sd, held) list(location = mean, scale = sd / sqrt(2)),
  kinks = function(par) par$location,
  quantile = function(par, p, lower) {
    left <- if (lower) p <= 0.5 else p > 0.5
    tail <- ifelse(p <= 0.5, p, 1 - p)
    par$location + ifelse(left, 1, -1) * par$scale * log(2 * tail)
  },
  cumulative = function(par, x, lower, log) {
    z <- (x - par$location) / par$scale
    tail <- exp(-abs(z)) / 2
    near <- (z < 0) == lower
    if (log) ifelse(near, -abs(z) - log(2), log1p(-tail)) else ifelse(near, tail, 1 - tail)
  },
  density = function(par, x, log) {
    d <- -abs(x - par$location) / par$scale - base::log(2 * par$scale)
    if (log) d else exp(d)
  },
  moments = function(par) c(mean = par$location, variance = 2 * par$scale^2, skewness = 0, excess_kurtosis = 3),
  mode = function(par) par$location,
  support = function(par) c(-Inf, Inf)
)
