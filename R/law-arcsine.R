#' Arcsine law
#'
#' `r family_arcsine$about` The ends are the most likely, the middle the least (U-shaped).
#'
#' @inheritParams law_uniform
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a limit is not a finite number, or `min` is not below `max`.
#' @section Source: JCGM 101:2008, 6.4.6.
#' @family laws
#' @examples
#' law_arcsine(-0.2, 0.2)
#' @export
law_arcsine <- function(min, max) make_law("arcsine", as.list(environment()))

family_arcsine <- list(
  title = "Arcsine",
  about = "A quantity that swings like a sine between two limits and is met at an unknown moment.",
  kind = "continuous",
  parameters = c(min = "number", max = "number"),
  check = function(par, call) check_limits(par, call),
  elementwise = TRUE,
  start = function(mean, sd, held) list(min = mean - sqrt(2) * sd, max = mean + sqrt(2) * sd),
  quantile = function(par, p, lower) {
    from_min <- if (lower) p else 1 - p
    from_max <- if (lower) 1 - p else p
    width <- par$max - par$min
    ifelse(from_min <= 0.5, par$min + width * sinpi(from_min / 2)^2, par$max - width * sinpi(from_max / 2)^2)
  },
  cumulative = function(par, x, lower, log) {
    x <- pmin(pmax(x, par$min), par$max)
    width <- par$max - par$min
    smaller_tail(2 / pi * asin(sqrt((x - par$min) / width)), 2 / pi * asin(sqrt((par$max - x) / width)), lower, log)
  },
  density = function(par, x, log) {
    inside <- !is.na(x) & x >= par$min & x <= par$max
    d <- x
    d[inside] <- -log(pi) - log(x[inside] - par$min) / 2 - log(par$max - x[inside]) / 2
    d[!inside & !is.na(x)] <- -Inf
    if (log) d else exp(d)
  },
  moments = function(par) {
    c(mean = par$min / 2 + par$max / 2, variance = (par$max - par$min)^2 / 8, skewness = 0, excess_kurtosis = -1.5)
  },
  mode = function(par) NA_real_,
  support = function(par) c(par$min, par$max)
)
