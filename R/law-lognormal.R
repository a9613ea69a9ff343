#' Lognormal law
#'
#' For positive quantities whose uncertainty is a factor rather than a difference: the logarithm is normal. Give
#' either `mean` and `sd` of the quantity itself, or `meanlog` and `sdlog` of its logarithm.
#'
#' @param mean,sd Numbers, `mean` above `min` and `sd` above 0: mean and standard deviation of the quantity itself, in
#'   the input's unit. With `min`, they still are those of the quantity, shift included.
#' @param meanlog,sdlog Numbers, `sdlog` above 0: mean and standard deviation of the natural logarithm of the quantity
#'   less `min`.
#' @param min Number: the smallest possible value, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range, or the parameters are
#'   not exactly one of the two pairs.
#' @section Source: with \eqn{m} the mean less `min`, `sdlog`\eqn{^2 = \log(1 + sd^2/m^2)} and
#'   `meanlog`\eqn{= \log m - }`sdlog`\eqn{^2/2} (Johnson, Kotz and Balakrishnan 1994, Continuous Univariate
#'   Distributions 1, chapter 14).
#' @family laws
#' @examples
#' friction <- law_lognormal(mean = 0.021, sd = 0.003)
#' quantile(friction, c(0.05, 0.95))
#' law_lognormal(meanlog = 1.2, sdlog = 0.5, min = 10)
#' @export
law_lognormal <- function(mean, sd, meanlog, sdlog, min = 0) {
  given <- c(mean = !missing(mean), sd = !missing(sd), meanlog = !missing(meanlog), sdlog = !missing(sdlog))
  min <- check_number(min)
  if (identical(names(which(given)), c("mean", "sd"))) {
    mean <- check_number(mean, above = min, mend = "A lognormal quantity is larger than `min` (0 unless given).")
    own <- list(mean = mean, sd = check_number(sd, above = 0, mend = constant_hint))
  } else if (identical(names(which(given)), c("meanlog", "sdlog"))) {
    own <- list(meanlog = check_number(meanlog), sdlog = check_number(sdlog, above = 0, mend = constant_hint))
  } else {
    came <- if (any(given)) paste(quoted(names(which(given))), collapse = ", ") else "none of them"
    stop_ensayo("argument", "A lognormal law needs either `mean` and `sd`, or `meanlog` and `sdlog`.",
      sprintf("You gave %s.", came), argument = "law_lognormal")
  }
  new_law("lognormal", c(own, list(min = min)))
}

# Median less `min`, and the standard deviation of the logarithm, whichever pair was given. Everything is written as
# the median times a factor: adding to a logarithm instead would lose the digits of a narrow law far from 1. (`[[`,
# for `$mean` would find `meanlog` too.)
median_and_sdlog <- function(par) {
  if (!is.null(par$meanlog)) return(list(median = exp(par$meanlog), sdlog = par$sdlog))
  cv2 <- (par$sd / (par$mean - par$min))^2
  list(median = (par$mean - par$min) / sqrt(1 + cv2), sdlog = sqrt(log1p(cv2)))
}

# How many standard deviations of the logarithm x lies from the median; -Inf at `min` and below.
lognormal_z <- function(par, x) {
  ln <- median_and_sdlog(par)
  log1p(pmax((x - par$min - ln$median) / ln$median, -1)) / ln$sdlog
}

family_lognormal <- list(
  title = "Lognormal",
  about = "Positive quantities whose uncertainty is a factor rather than a difference.",
  parameters = c("mean", "sd", "meanlog", "sdlog", "min"),
  quantile = function(par, p, lower) {
    ln <- median_and_sdlog(par)
    par$min + ln$median * exp(ln$sdlog * stats::qnorm(p, lower.tail = lower))
  },
  cumulative = function(par, x, lower, log) stats::pnorm(lognormal_z(par, x), lower.tail = lower, log.p = log),
  density = function(par, x, log) {
    d <- stats::dnorm(lognormal_z(par, x), log = TRUE) - base::log(pmax(x - par$min, 0)) -
      base::log(median_and_sdlog(par)$sdlog)
    d[x <= par$min] <- -Inf
    if (log) d else exp(d)
  },
  moments = function(par) {
    ln <- median_and_sdlog(par)
    v <- ln$sdlog^2
    c(
      mean = if (is.null(par[["mean"]])) par$min + ln$median * exp(v / 2) else par[["mean"]],
      variance = if (is.null(par[["sd"]])) ln$median^2 * expm1(v) * exp(v) else par[["sd"]]^2,
      skewness = (exp(v) + 2) * sqrt(expm1(v)),
      # w^4 + 2 w^3 + 3 w^2 - 6 with w = exp(v), written so that nothing cancels for a small v
      excess_kurtosis = expm1(4 * v) + 2 * expm1(3 * v) + 3 * expm1(2 * v)
    )
  },
  mode = function(par) {
    ln <- median_and_sdlog(par)
    par$min + ln$median * exp(-ln$sdlog^2)
  },
  support = function(par) c(par$min, Inf)
)
