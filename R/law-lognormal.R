#' Lognormal law
#'
#' `r family_lognormal$about` The logarithm is normal. Give `mean` and `sd` of the quantity itself, `meanlog` and
#' `sdlog` of its logarithm, or `median` and `gsd`, its geometric standard deviation.
#'
#' @param mean,sd Numbers, `mean` above `min` and `sd` above 0: mean and standard deviation of the quantity itself, in
#'   the input's unit. With `min`, they still are those of the quantity, shift included.
#' @param meanlog,sdlog Numbers, `sdlog` above 0: mean and standard deviation of the natural logarithm of the quantity
#'   less `min`.
#' @param median,gsd Numbers, `median` above `min` and `gsd` above 1: the median of the quantity, and the factor of
#'   one standard deviation up or down of the quantity less `min`.
#' @param min Number: the smallest possible value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range, or the parameters
#'   are not exactly one of the three pairs.
#' @section Source: with \eqn{m} the mean less `min`, `sdlog`\eqn{^2 = \log(1 + sd^2/m^2)} and `meanlog`\eqn{= \log m
#'   - }`sdlog`\eqn{^2/2} (Johnson, Kotz and Balakrishnan 1994, Continuous Univariate Distributions 1, chapter 14).
#' @family laws
#' @examples
#' friction <- law_lognormal(mean = 0.021, sd = 0.003)
#' quantile(friction, c(0.05, 0.95))
#' law_lognormal(median = 40, gsd = 1.3)
#' law_lognormal(meanlog = 1.2, sdlog = 0.5, min = 10)
#' @export
law_lognormal <- function(mean, sd, meanlog, sdlog, median, gsd, min = 0) {
  make_law("lognormal", as.list(environment()))
}

# How many standard deviations of the logarithm x lies from the median; -Inf at `min` and below.
# Near the median by its distance from it, which a narrow law needs; far below by the ratio, which has the digits there.
lognormal_z <- function(par, x) {
  over <- x - par$min
  over[which(over < 0)] <- 0
  z <- log1p((over - par$median) / par$median)
  far <- which(over < par$median / 2)
  z[far] <- log(over[far] / par$median)
  z / par$sdlog
}

family_lognormal <- list(
  title = "Lognormal",
  about = "Positive quantities whose uncertainty is a factor rather than a difference.",
  kind = "continuous",
  parameters = c(mean = "number", sd = "spread", meanlog = "number", sdlog = "spread", median = "number",
    gsd = "factor", min = "number"),
  forms = list(c("mean", "sd"), c("meanlog", "sdlog"), c("median", "gsd")),
  elementwise = TRUE,
  check = function(par, call) {
    for (name in intersect(c("mean", "median"), names(par))) {
      check_number(par[[name]], name, above = par$min,
        mend = "A lognormal quantity is larger than `min` (0 unless given).", call = call)
    }
  },
  search = c("meanlog", "sdlog"),
  start = function(mean, sd, held) {
    over <- max(mean - (held$min %||% 0), sd / 10)
    list(meanlog = log(over) - log1p((sd / over)^2) / 2, sdlog = sqrt(log1p((sd / over)^2)))
  },
  # Median less `min`, and the standard deviation of the logarithm. Everything is written as the median times a
  # factor: adding to a logarithm instead would lose the digits of a narrow law far from 1.
  canonical = function(par) {
    if (!is.null(par[["meanlog"]])) return(list(median = exp(par$meanlog), sdlog = par$sdlog, min = par$min))
    if (!is.null(par[["median"]])) return(list(median = par$median - par$min, sdlog = log(par$gsd), min = par$min))
    cv2 <- (par$sd / (par$mean - par$min))^2
    list(median = (par$mean - par$min) / sqrt(1 + cv2), sdlog = sqrt(log1p(cv2)), min = par$min)
  },
  recipe = function(par) c(kind = "lognormal", par),
  quantile = function(par, p, lower) par$min + par$median * exp(par$sdlog * stats::qnorm(p, lower.tail = lower)),
  cumulative = function(par, x, lower, log) stats::pnorm(lognormal_z(par, x), lower.tail = lower, log.p = log),
  density = function(par, x, log) {
    d <- stats::dnorm(lognormal_z(par, x), log = TRUE) - base::log(pmax(x - par$min, 0)) - base::log(par$sdlog)
    d[x <= par$min] <- -Inf
    if (log) d else exp(d)
  },
  moments = function(par) {
    v <- par$sdlog^2
    c(
      mean = par$min + par$median * exp(v / 2), variance = par$median^2 * expm1(v) * exp(v),
      skewness = (exp(v) + 2) * sqrt(expm1(v)),
      # w^4 + 2 w^3 + 3 w^2 - 6 with w = exp(v), written so that nothing cancels for a small v
      excess_kurtosis = expm1(4 * v) + 2 * expm1(3 * v) + 3 * expm1(2 * v)
    )
  },
  mode = function(par) par$min + par$median * exp(-par$sdlog^2),
  support = function(par) c(par$min, Inf)
)
