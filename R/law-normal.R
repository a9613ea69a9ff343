#' Normal law
#'
#' `r family_normal$about` It reaches below zero: for a quantity that cannot, take [law_lognormal()] or [law_pert()].
#'
#' @param mean Number: the mean, in the input's unit. Any number that is a parameter of a law may be uncertain itself:
#'   see [linked_parameters].
#' @param sd Number above 0: the standard deviation, in the input's unit.
#' @return A law; see [law_accessors] for what it answers.
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @family laws
#' @examples
#' spring <- law_normal(mean = 61.5, sd = 0.4)
#' quantile(spring, c(0.05, 0.95))
#' @export
law_normal <- function(mean, sd) make_law("normal", as.list(environment()))

family_normal <- list(
  title = "Normal",
  about = "Errors and totals made of many small, independent parts.",
  kind = "continuous",
  parameters = c(mean = "number", sd = "spread"),
  elementwise = TRUE,
  start = function(mean, sd, held) list(mean = mean, sd = sd),
  recipe = function(par) c(kind = "normal", par),
  quantile = function(par, p, lower) stats::qnorm(p, par$mean, par$sd, lower.tail = lower),
  cumulative = function(par, x, lower, log) stats::pnorm(x, par$mean, par$sd, lower.tail = lower, log.p = log),
  density = function(par, x, log) stats::dnorm(x, par$mean, par$sd, log = log),
  moments = function(par) c(mean = par$mean, variance = par$sd^2, skewness = 0, excess_kurtosis = 0),
  mode = function(par) par$mean,
  support = function(par) c(-Inf, Inf)
)
