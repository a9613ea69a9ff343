#' Gamma law
#'
#' `r family_gamma$about` Give `shape` and `scale`, or `mean` and `sd`.
#'
#' @param shape,scale Numbers above 0: shape, and scale in the input's unit; the mean less `min` is their product.
#' @param mean,sd Numbers, `mean` above `min` and `sd` above 0: mean and standard deviation of the quantity itself, in
#'   the input's unit.
#' @param min Number: the smallest possible value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range, or the parameters
#'   are not exactly one of the two pairs.
#' @section Source: Johnson, Kotz and Balakrishnan (1994), Continuous Univariate Distributions 1, chapter 17.
#' @family laws
#' @examples
#' repair <- law_gamma(mean = 900, sd = 400)
#' quantile(repair, 0.95)
#' @export
law_gamma <- function(shape, scale, mean, sd, min = 0) make_law("gamma", as.list(environment()))

family_gamma <- list(
  title = "Gamma",
  about = "Positive, skewed quantities: rain, costs, waiting times until several events.",
  kind = "continuous",
  parameters = c(shape = "positive", scale = "spread", mean = "number", sd = "spread", min = "number"),
  forms = list(c("shape", "scale"), c("mean", "sd")),
  check = function(par, call) {
    if (!is.null(par[["mean"]])) check_number(par$mean, "mean", above = par$min, call = call)
  },
  start = function(mean, sd, held) {
    over <- max(mean - (held$min %||% 0), sd / 10)
    list(shape = (over / sd)^2, scale = sd^2 / over)
  },
  canonical = function(par) {
    if (is.null(par[["mean"]])) return(par)
    over <- par$mean - par$min
    list(shape = (over / par$sd)^2, scale = par$sd * (par$sd / over), min = par$min)
  },
  dear = TRUE,
  quantile = function(par, p, lower) {
    x <- suppressWarnings(stats::qgamma(p, par$shape, scale = 1, lower.tail = lower))
    x <- polished(x, p, lower, function(x, lower) stats::pgamma(x, par$shape, lower.tail = lower, log.p = TRUE),
      function(x) stats::dgamma(x, par$shape, log = TRUE), 0)
    par$min + par$scale * x
  },
  cumulative = function(par, x, lower, log) {
    stats::pgamma((x - par$min) / par$scale, par$shape, lower.tail = lower, log.p = log)
  },
  density = function(par, x, log) {
    d <- stats::dgamma((x - par$min) / par$scale, par$shape, log = log)
    if (log) d - base::log(par$scale) else d / par$scale
  },
  moments = function(par) {
    c(mean = par$min + par$shape * par$scale, variance = par$shape * par$scale^2, skewness = 2 / sqrt(par$shape),
      excess_kurtosis = 6 / par$shape)
  },
  mode = function(par) par$min + max(par$shape - 1, 0) * par$scale,
  support = function(par) c(par$min, Inf)
)
