#' Gumbel law
#'
#' `r family_gumbel$about`
#'
#' @param location Number: the most likely value, in the input's unit.
#' @param scale Number above 0: the spread, in the input's unit; the standard deviation is 1.28 times as large.
#' @param tail `"largest"`: extremes upwards, such as a year's largest flood; `"smallest"`: downwards, such as a
#'   year's lowest spring flow.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: Johnson, Kotz and Balakrishnan (1995), Continuous Univariate Distributions 2, chapter 22.
#' @family laws
#' @examples
#' law_gumbel(38, 3)
#' law_gumbel(12, 1.5, tail = "smallest")
#' @export
law_gumbel <- function(location, scale, tail = "largest") make_law("gumbel", as.list(environment()))

family_gumbel <- list(
  title = "Gumbel",
  about = "The largest (or smallest) of many like values: a year's flood, load or drought.",
  kind = "continuous",
  parameters = c(location = "number", scale = "spread", tail = "tail"),
  mode_parameter = "location",
  elementwise = TRUE,
  canonical = function(par) list(location = par$location, scale = par$scale, up = if (par$tail == "largest") 1 else -1),
  start = function(mean, sd, held) list(location = mean - 0.45 * sd, scale = sd * sqrt(6) / pi),
  quantile = function(par, p, lower) {
    below <- if (lower == (par$up > 0)) -log(p) else -log1p(-p)
    par$location - par$up * par$scale * log(below)
  },
  cumulative = function(par, x, lower, log) {
    t <- exp(-par$up * (x - par$location) / par$scale)
    near <- lower == (par$up > 0)  # the tail where the probability is exp(-t)
    if (log) if (near) -t else log(-expm1(-t)) else if (near) exp(-t) else -expm1(-t)
  },
  density = function(par, x, log) {
    z <- par$up * (x - par$location) / par$scale
    d <- -z - exp(-z) - base::log(par$scale)
    d[!is.na(z) & is.infinite(z)] <- -Inf
    if (log) d else exp(d)
  },
  # Euler's constant; zeta(3) is Apery's
  moments = function(par) {
    c(mean = par$location + par$up * par$scale * 0.57721566490153286, variance = (pi * par$scale)^2 / 6,
      skewness = par$up * 12 * sqrt(6) * 1.2020569031595943 / pi^3, excess_kurtosis = 12 / 5)
  },
  mode = function(par) par$location,
  support = function(par) c(-Inf, Inf)
)
