#' Generalised Pareto law
#'
#' `r family_pareto$about`
#'
#' @param location Number: the threshold, in the input's unit; no value lies below it.
#' @param scale Number above 0, in the input's unit.
#' @param shape Number: the weight of the tail. Above 0 the tail is heavy (no mean from 1 on, no variance from 0.5
#'   on), 0 is the exponential law, below 0 there is a largest value, `location - scale / shape`.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: Pickands (1975), Annals of Statistics 3(1).
#' @family laws
#' @examples
#' law_pareto(location = 100, scale = 40, shape = 0.2)
#' @export
law_pareto <- function(location, scale, shape) make_law("pareto", as.list(environment()))

family_pareto <- list(
  title = "Generalised Pareto",
  about = "What lies above a high threshold: large claims, floods, outages.",
  kind = "continuous",
  parameters = c(location = "number", scale = "spread", shape = "number"),
  elementwise = TRUE,
  start = function(mean, sd, held) list(location = mean - sd, scale = sd, shape = 0.05),
  tail_index = function(par) c(Inf, if (par$shape > 0) 1 / par$shape else Inf),
  quantile = function(par, p, lower) {
    log_over <- if (lower) -log1p(-p) else -log(p)
    shape <- rep_len(par$shape, length(p))
    over <- ifelse(abs(shape) < 1e-12, log_over, expm1(shape * log_over) / shape)
    par$location + par$scale * over
  },
  cumulative = function(par, x, lower, log) {
    log_upper <- pareto_log_upper(par, x)
    if (lower) if (log) base::log(-expm1(log_upper)) else -expm1(log_upper) else if (log) log_upper else exp(log_upper)
  },
  density = function(par, x, log) {
    z <- (x - par$location) / par$scale
    d <- pareto_log_upper(par, x) - log1p(pmax(par$shape * z, -1)) - base::log(par$scale)
    d[!is.na(z) & (z < 0 | par$shape * z <= -1)] <- -Inf
    if (log) d else exp(d)
  },
  moments = function(par) {
    s <- par$shape
    below <- function(limit, value, beyond = Inf) if (s < limit) value else beyond
    c(
      mean = below(1, par$location + par$scale / (1 - s)),
      variance = below(1 / 2, par$scale^2 / ((1 - s)^2 * (1 - 2 * s))),
      skewness = below(1 / 3, suppressWarnings(2 * (1 + s) * sqrt(1 - 2 * s)) / (1 - 3 * s), below(1 / 2, Inf, NaN)),
      excess_kurtosis = below(1 / 4, 3 * (1 - 2 * s) * (2 * s^2 + s + 3) / ((1 - 3 * s) * (1 - 4 * s)) - 3,
        below(1 / 2, Inf, NaN))
    )
  },
  mode = function(par) if (par$shape > -1) par$location else if (par$shape == -1) NA_real_ else
    par$location - par$scale / par$shape,
  support = function(par) c(par$location, if (par$shape < 0) par$location - par$scale / par$shape else Inf)
)

pareto_log_upper <- function(par, x) {
  z <- pmax((x - par$location) / par$scale, 0)
  if (abs(par$shape) < 1e-12) -z else -log1p(pmax(par$shape * z, -1)) / par$shape
}
