#' Exponential law
#'
#' `r family_exponential$about` Give the `mean` or the `rate`.
#'
#' @param mean Number above `min`: the mean, in the input's unit, shift included.
#' @param rate Number above 0: events per unit; 1 / (mean - min).
#' @param min Number: the smallest possible value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range, or not exactly one
#'   of `mean` and `rate` is given.
#' @family laws
#' @examples
#' law_exponential(mean = 12)
#' @export
law_exponential <- function(mean, rate, min = 0) make_law("exponential", as.list(environment()))

family_exponential <- list(
  title = "Exponential",
  about = "Time between events that come at a steady rate and do not know of each other.",
  kind = "continuous",
  parameters = c(mean = "number", rate = "spread", min = "number"),
  forms = list("mean", "rate"),
  elementwise = TRUE,
  check = function(par, call) {
    if (!is.null(par[["mean"]])) check_number(par$mean, "mean", above = par$min, mend = constant_hint, call = call)
  },
  canonical = function(par) list(scale = if (is.null(par$rate)) par$mean - par$min else 1 / par$rate, min = par$min),
  start = function(mean, sd, held) list(mean = mean),
  quantile = function(par, p, lower) par$min - par$scale * (if (lower) log1p(-p) else log(p)),
  cumulative = function(par, x, lower, log) {
    stats::pexp((x - par$min) / par$scale, lower.tail = lower, log.p = log)
  },
  density = function(par, x, log) {
    d <- stats::dexp((x - par$min) / par$scale, log = log)
    if (log) d - base::log(par$scale) else d / par$scale
  },
  moments = function(par) c(mean = par$min + par$scale, variance = par$scale^2, skewness = 2, excess_kurtosis = 6),
  mode = function(par) par$min,
  support = function(par) c(par$min, Inf)
)
