#' Weibull law
#'
#' `r family_weibull$about`
#'
#' @param shape Number above 0: below 1 failures grow rarer with age, above 1 more frequent.
#' @param scale Number above 0: the value, less `min`, that is not exceeded with a chance of 63.2 %, in the input's
#'   unit.
#' @param min Number: the smallest possible value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: Johnson, Kotz and Balakrishnan (1994), Continuous Univariate Distributions 1, chapter 21. Above a
#'   shape of 20 the moments are integrated, for the closed form cancels.
#' @family laws
#' @examples
#' life <- law_weibull(shape = 2.5, scale = 40)
#' cumulative(life, 15)
#' @export
law_weibull <- function(shape, scale, min = 0) make_law("weibull", as.list(environment()))

family_weibull <- list(
  title = "Weibull",
  about = "Lifetimes and strengths: the weakest of many links.",
  kind = "continuous",
  parameters = c(shape = "positive", scale = "spread", min = "number"),
  elementwise = TRUE,
  start = function(mean, sd, held) {
    over <- max(mean - (held$min %||% 0), sd / 10)
    shape <- (over / sd)^1.086
    list(shape = shape, scale = over / gamma(1 + 1 / shape))
  },
  quantile = function(par, p, lower) {
    par$min + par$scale * (-(if (lower) log1p(-p) else log(p)))^(1 / par$shape)
  },
  cumulative = function(par, x, lower, log) {
    stats::pweibull((x - par$min) / par$scale, par$shape, lower.tail = lower, log.p = log)
  },
  density = function(par, x, log) {
    d <- stats::dweibull((x - par$min) / par$scale, par$shape, log = log)
    if (log) d - base::log(par$scale) else d / par$scale
  },
  moments = function(par) {
    if (par$shape > 20) return(narrow_weibull_moments(par))
    # relative to the mean, in logarithms: the gamma function overflows for small shapes
    g <- function(k) lgamma(1 + k / par$shape)
    w <- exp(g(2:4) - 2:4 * g(1))
    variance <- expm1(g(2) - 2 * g(1))
    c(mean = par$min + par$scale * exp(g(1)), variance = (par$scale * exp(g(1)))^2 * variance,
      skewness = (w[2] - 3 * w[1] + 2) / variance^1.5,
      excess_kurtosis = (w[3] - 4 * w[2] + 6 * w[1] - 3) / variance^2 - 3)
  },
  mode = function(par) {
    if (par$shape <= 1) return(par$min)
    par$min + par$scale * ((par$shape - 1) / par$shape)^(1 / par$shape)
  },
  support = function(par) c(par$min, Inf)
)

# (X - min) / scale - 1 = expm1(log(E) / shape) with E exponential.
narrow_weibull_moments <- function(par) {
  over <- function(e) expm1(log(e) / par$shape) * par$shape
  expected <- function(f) {
    lower <- integrate_halves(function(z) f(over(-log1p(-stats::pnorm(z)))) * stats::dnorm(z))
    lower + integrate_halves(function(z) f(over(-stats::pnorm(z, log.p = TRUE))) * stats::dnorm(z))
  }
  mean <- expected(function(x) x)
  variance <- expected(function(x) (x - mean)^2)
  c(mean = par$min + par$scale * (1 + mean / par$shape), variance = (par$scale / par$shape)^2 * variance,
    skewness = expected(function(x) (x - mean)^3) / variance^1.5,
    excess_kurtosis = expected(function(x) (x - mean)^4) / variance^2 - 3)
}
