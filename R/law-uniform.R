#' Uniform law
#'
#' `r family_uniform$about`
#'
#' @param min,max Numbers, `min` below `max`: the limits, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a limit is not a finite number, or `min` is not below `max`.
#' @family laws
#' @examples
#' quantile(law_uniform(-0.5, 0.5), c(0.05, 0.95))
#' @export
law_uniform <- function(min, max) make_law("uniform", as.list(environment()))

family_uniform <- list(
  title = "Uniform",
  about = "A quantity known to lie between two limits, of which nothing more is known.",
  kind = "continuous",
  parameters = c(min = "number", max = "number"),
  check = function(par, call) check_limits(par, call),
  elementwise = TRUE,
  # from the nearer end, so that neither end loses digits
  start = function(mean, sd, held) list(min = mean - sqrt(3) * sd, max = mean + sqrt(3) * sd),
  recipe = function(par) c(kind = "uniform", par),
  quantile = function(par, p, lower) {
    from_min <- if (lower) p else 1 - p
    from_max <- if (lower) 1 - p else p
    ifelse(from_min <= 0.5, par$min + from_min * (par$max - par$min), par$max - from_max * (par$max - par$min))
  },
  cumulative = function(par, x, lower, log) stats::punif(x, par$min, par$max, lower.tail = lower, log.p = log),
  density = function(par, x, log) stats::dunif(x, par$min, par$max, log = log),
  moments = function(par) {
    c(mean = par$min / 2 + par$max / 2, variance = (par$max - par$min)^2 / 12, skewness = 0, excess_kurtosis = -6 / 5)
  },
  mode = function(par) NA_real_,
  support = function(par) c(par$min, par$max)
)
