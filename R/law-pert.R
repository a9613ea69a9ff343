#' PERT law
#'
#' `r family_pert$about` A smooth law with thin ends, that trusts the middle figure more than [law_triangular()] does.
#'
#' @inheritParams law_triangular
#' @param weight Number above 0: how much the middle figure weighs beside each end in the mean; 4 is the usual. The
#'   larger it is, the narrower the law.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a figure is not a finite number, or they are out of order.
#' @section Source: Malcolm, Roseboom, Clark and Fazar (1959), Operations Research 7(5): a beta law from `min` to
#'   `max` with mean \eqn{(min + w\,mode + max)/(w + 2)}, \eqn{w} = 4, and shapes \eqn{1 + w (mode - min)/(max - min)}
#'   and \eqn{1 + w (max - mode)/(max - min)}.
#' @family laws
#' @examples
#' demand <- law_pert(28, 34, 48)
#' quantile(demand, c(0.1, 0.5, 0.9))
#' law_pert(28, 34, 48, weight = 8)
#' @export
law_pert <- function(min, mode, max, weight = 4) make_law("pert", as.list(environment()))

family_pert <- list(
  title = "PERT",
  about = "Least, most likely and greatest value, trusting the middle one.",
  kind = "continuous",
  parameters = c(min = "number", mode = "number", max = "number", weight = "positive"),
  check = function(par, call) check_limits(par, call),
  mode_parameter = "mode",
  canonical = function(par) {
    width <- par$max - par$min
    c(par, shape1 = 1 + par$weight * ((par$mode - par$min) / width),
      shape2 = 1 + par$weight * ((par$max - par$mode) / width))
  },
  start = function(mean, sd, held) list(min = mean - sqrt(7) * sd, mode = mean, max = mean + sqrt(7) * sd),
  dear = TRUE,
  quantile = function(par, p, lower) beta_quantile(par, p, lower),
  cumulative = function(par, x, lower, log) beta_cumulative(par, x, lower, log),
  density = function(par, x, log) family_beta$density(par, x, log),
  moments = function(par) family_beta$moments(par),
  mode = function(par) par$mode,
  support = function(par) c(par$min, par$max)
)
