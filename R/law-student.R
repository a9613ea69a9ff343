#' Student t law
#'
#' `r family_student$about` See [law_measured()] for the law of a mean from its observations.
#'
#' @param df Number above 0: degrees of freedom. The mean is infinite up to 1, the variance up to 2.
#' @param location Number: the middle, in the input's unit.
#' @param scale Number above 0: the spread, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: scaled and shifted as in JCGM 101:2008, 6.4.9.
#' @family laws
#' @examples
#' law_student(df = 9, location = 20.1, scale = 0.04)
#' @export
law_student <- function(df, location = 0, scale = 1) make_law("student", as.list(environment()))

family_student <- list(
  title = "Student t",
  about = "A mean known from few observations: like the normal law, with tails the heavier the fewer they were.",
  kind = "continuous",
  parameters = c(df = "positive", location = "number", scale = "spread"),
  mode_parameter = "location",
  search = c("df", "location", "scale"),
  start = function(mean, sd, held) list(df = 5, location = mean, scale = sd * 0.77),
  dear = TRUE,
  tail_index = function(par) c(par$df, par$df),
  symmetric_about = function(par) par$location,
  # R's upper tails lose their way far out for few degrees of freedom: the lower ones are asked, mirrored
  quantile = function(par, p, lower) {
    x <- suppressWarnings(stats::qt(p, par$df))
    x <- polished(x, p, TRUE, function(x, lower) stats::pt(if (lower) x else -x, par$df, log.p = TRUE),
      function(x) stats::dt(x, par$df, log = TRUE))
    par$location + par$scale * (if (lower) x else -x)
  },
  cumulative = function(par, x, lower, log) {
    z <- (x - par$location) / par$scale
    stats::pt(if (lower) z else -z, par$df, log.p = log)
  },
  density = function(par, x, log) {
    d <- stats::dt((x - par$location) / par$scale, par$df, log = log)
    if (log) d - base::log(par$scale) else d / par$scale
  },
  moments = function(par) {
    df <- par$df
    c(mean = if (df > 1) par$location else NaN,
      variance = if (df > 2) par$scale^2 * (df / (df - 2)) else if (df > 1) Inf else NaN,
      skewness = if (df > 3) 0 else NaN, excess_kurtosis = if (df > 4) 6 / (df - 4) else if (df > 2) Inf else NaN)
  },
  mode = function(par) par$location,
  support = function(par) c(-Inf, Inf)
)
