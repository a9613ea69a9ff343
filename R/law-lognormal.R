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

# Mean and standard deviation of the logarithm, whichever pair was given.
log_scale <- function(par) {
  if (!is.null(par$meanlog)) return(list(mean = par$meanlog, sd = par$sdlog))
  variance <- log1p((par$sd / (par$mean - par$min))^2)
  list(mean = log(par$mean - par$min) - variance / 2, sd = sqrt(variance))
}

family_lognormal <- list(
  title = "Lognormal",
  about = "Positive quantities whose uncertainty is a factor rather than a difference.",
  parameters = c("mean", "sd", "meanlog", "sdlog", "min"),
  quantile = function(par, p, lower) {
    ln <- log_scale(par)
    par$min + stats::qlnorm(p, ln$mean, ln$sd, lower.tail = lower)
  },
  cumulative = function(par, x, lower, log) {
    ln <- log_scale(par)
    stats::plnorm(x - par$min, ln$mean, ln$sd, lower.tail = lower, log.p = log)
  },
  density = function(par, x, log) {
    ln <- log_scale(par)
    stats::dlnorm(x - par$min, ln$mean, ln$sd, log = log)
  },
  moments = function(par) {
    ln <- log_scale(par)
    w <- exp(ln$sd^2)
    c(
      mean = if (is.null(par$mean)) par$min + exp(ln$mean + ln$sd^2 / 2) else par$mean,
      variance = if (is.null(par$sd)) expm1(ln$sd^2) * exp(2 * ln$mean + ln$sd^2) else par$sd^2,
      skewness = (w + 2) * sqrt(expm1(ln$sd^2)),
      # w^4 + 2 w^3 + 3 w^2 - 6, written so that nothing cancels for a small sdlog
      excess_kurtosis = expm1(4 * ln$sd^2) + 2 * expm1(3 * ln$sd^2) + 3 * expm1(2 * ln$sd^2)
    )
  },
  mode = function(par) {
    ln <- log_scale(par)
    par$min + exp(ln$mean - ln$sd^2)
  },
  support = function(par) c(par$min, Inf)
)
