#' Logistic law
#'
#' `r family_logistic$about`
#'
#' @param location Number: the mean, in the input's unit.
#' @param scale Number above 0: the spread, in the input's unit; the standard deviation is 1.81 times as large.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: Johnson, Kotz and Balakrishnan (1995), Continuous Univariate Distributions 2, chapter 23.
#' @family laws
#' @examples
#' law_logistic(20, 1.5)
#' @export
law_logistic <- function(location, scale) make_law("logistic", as.list(environment()))

family_logistic <- list(
  title = "Logistic",
  about = "Symmetric like the normal law, with somewhat heavier tails.",
  kind = "continuous",
  parameters = c(location = "number", scale = "spread"),
  mode_parameter = "location",
  elementwise = TRUE,
  start = function(mean, sd, held) list(location = mean, scale = sd * sqrt(3) / pi),
  quantile = function(par, p, lower) stats::qlogis(p, par$location, par$scale, lower.tail = lower),
  cumulative = function(par, x, lower, log) {
    stats::plogis(x, par$location, par$scale, lower.tail = lower, log.p = log)
  },
  density = function(par, x, log) stats::dlogis(x, par$location, par$scale, log = log),
  moments = function(par) {
    c(mean = par$location, variance = (pi * par$scale)^2 / 3, skewness = 0, excess_kurtosis = 6 / 5)
  },
  mode = function(par) par$location,
  support = function(par) c(-Inf, Inf)
)
