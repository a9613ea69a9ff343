#' Triangular law
#'
#' `r family_triangular$about` The sides give the ends more weight than those of [law_pert()] do.
#'
#' @param min,mode,max Numbers, `min` at most `mode`, `mode` at most `max`, `min` below `max`: least, most likely and
#'   greatest value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a figure is not a finite number, or they are out of order.
#' @section Source: Johnson, Kotz and Balakrishnan (1995), Continuous Univariate Distributions 2, section 26.9.
#' @family laws
#' @examples
#' diameter <- law_triangular(0.246, 0.250, 0.252)
#' mean(diameter)
#' cumulative(diameter, 0.250)
#' @export
law_triangular <- function(min, mode, max) make_law("triangular", as.list(environment()))

family_triangular <- list(
  title = "Triangular",
  about = "Least, most likely and greatest value, with straight sides.",
  kind = "continuous",
  parameters = c(min = "number", mode = "number", max = "number"),
  check = function(par, call) check_limits(par, call),
  mode_parameter = "mode",
  elementwise = TRUE,
  start = function(mean, sd, held) list(min = mean - sqrt(6) * sd, mode = mean, max = mean + sqrt(6) * sd),
  recipe = function(par) c(kind = "triangular", par),
  kinks = function(par) par$mode,
  quantile = function(par, p, lower) {
    sloped_quantile(triangle_sides(par), if (lower) p else 1 - p, if (lower) 1 - p else p)
  },
  cumulative = function(par, x, lower, log) sloped_cumulative(triangle_sides(par), x, lower, log),
  density = function(par, x, log) {
    width <- par$max - par$min
    inside <- x >= par$min & x <= par$max
    height <- ifelse(x < par$mode, (x - par$min) / (par$mode - par$min), (par$max - x) / (par$max - par$mode))
    height[!is.na(x) & x == par$mode] <- 1
    d <- ifelse(inside, 2 / width * height, 0)
    if (log) log(d) else d
  },
  moments = function(par) {
    width <- par$max - par$min
    m <- (par$mode - par$min) / width
    shape <- 1 - m + m^2
    c(
      mean = par$min / 3 + par$mode / 3 + par$max / 3,
      variance = width^2 * shape / 18,
      skewness = sqrt(2) * (1 - 2 * m) * (1 + m) * (2 - m) / (5 * shape^1.5),
      excess_kurtosis = -3 / 5
    )
  },
  mode = function(par) par$mode,
  support = function(par) c(par$min, par$max)
)

triangle_sides <- function(par) {
  list(min = par$min, from = par$mode, to = par$mode, max = par$max, height = 2 / (par$max - par$min))
}
