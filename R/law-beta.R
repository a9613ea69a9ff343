#' Beta law
#'
#' `r family_beta$about` Give the two shapes, or `mean` and `sd`.
#'
#' @param shape1,shape2 Numbers above 0: the shapes; the larger the first beside the second, the nearer to `max`.
#' @param mean,sd Numbers: mean and standard deviation of the quantity itself, in the input's unit. `sd` must be below
#'   the root of `(mean - min) * (max - mean)`.
#' @param min,max Numbers, `min` below `max`: the limits, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range, or the parameters
#'   are not exactly one of the two pairs.
#' @section Source: Johnson, Kotz and Balakrishnan (1995), Continuous Univariate Distributions 2, chapter 25.
#' @family laws
#' @examples
#' leakage <- law_beta(mean = 0.22, sd = 0.05)
#' quantile(leakage, c(0.1, 0.9))
#' law_beta(2, 5, min = 10, max = 30)
#' @export
law_beta <- function(shape1, shape2, mean, sd, min = 0, max = 1) make_law("beta", as.list(environment()))

family_beta <- list(
  title = "Beta",
  about = "A share, or any quantity between two limits, of a shape that can be chosen.",
  kind = "continuous",
  parameters = c(shape1 = "positive", shape2 = "positive", mean = "number", sd = "spread", min = "number",
    max = "number"),
  forms = list(c("shape1", "shape2"), c("mean", "sd")),
  check = function(par, call) {
    check_limits(par[c("min", "max")], call)
    if (is.null(par[["mean"]])) return(invisible())
    check_number(par$mean, "mean", above = par$min, below = par$max, call = call)
    most <- sqrt((par$mean - par$min) * (par$max - par$mean))
    check_number(par$sd, "sd", below = most, call = call,
      mend = "No quantity between these limits with this mean can spread more.")
  },
  start = function(mean, sd, held) {
    min <- held$min %||% 0
    max <- held$max %||% 1
    share <- base::min(base::max((mean - min) / (max - min), 0.02), 0.98)
    total <- base::max(share * (1 - share) / (sd / (max - min))^2 - 1, 0.5)
    list(shape1 = share * total, shape2 = (1 - share) * total)
  },
  canonical = function(par) {
    if (is.null(par[["mean"]])) return(par)
    share <- (par$mean - par$min) / (par$max - par$min)
    total <- (par$mean - par$min) * (par$max - par$mean) / par$sd^2 - 1
    list(shape1 = share * total, shape2 = (par$max - par$mean) / (par$max - par$min) * total, min = par$min,
      max = par$max)
  },
  dear = TRUE,
  quantile = function(par, p, lower) beta_quantile(par, p, lower),
  cumulative = function(par, x, lower, log) beta_cumulative(par, x, lower, log),
  density = function(par, x, log) {
    width <- par$max - par$min
    d <- ifelse(x - par$min <= width / 2,
      stats::dbeta((x - par$min) / width, par$shape1, par$shape2, log = log),
      stats::dbeta((par$max - x) / width, par$shape2, par$shape1, log = log))
    if (log) d - base::log(width) else d / width
  },
  moments = function(par) {
    a <- par$shape1
    b <- par$shape2
    width <- par$max - par$min
    c(
      mean = if (a < b) par$min + width * (a / (a + b)) else par$max - width * (b / (a + b)),
      variance = (width / (a + b))^2 * (a / (a + b + 1)) * b,
      skewness = 2 * (b - a) / (a + b + 2) * sqrt((a + b + 1) / a / b),
      excess_kurtosis = 6 * ((a - b)^2 * ((a + b + 1) / a / b / (a + b + 2)) - 1) / (a + b + 3)
    )
  },
  mode = function(par) {
    a <- par$shape1
    b <- par$shape2
    if (a == 1 && b == 1 || a < 1 && b < 1) return(NA_real_)
    if (a <= 1 && b >= 1) return(par$min)
    if (b <= 1) return(par$max)
    par$min + (par$max - par$min) * ((a - 1) / (a + b - 2))
  },
  support = function(par) c(par$min, par$max)
)

# Each half is measured from its own end by the beta law or its mirror image: near the far end a distance from the near
# one has no digits left.
beta_quantile <- function(par, p, lower) {
  below_middle <- stats::pbeta(0.5, par$shape1, par$shape2)
  above_middle <- stats::pbeta(0.5, par$shape2, par$shape1)
  left <- if (lower) p <= below_middle else p >= above_middle
  left[is.na(left)] <- FALSE
  out <- rep(NA_real_, length(p))
  width <- par$max - par$min
  out[left] <- par$min + width * unit_beta_quantile(p[left], par$shape1, par$shape2, lower)
  out[!left] <- par$max - width * unit_beta_quantile(p[!left], par$shape2, par$shape1, !lower)
  out
}

unit_beta_quantile <- function(p, a, b, lower) {
  x <- suppressWarnings(stats::qbeta(p, a, b, lower.tail = lower))  # it warns where it is not sure; see below
  polished(x, p, lower, function(x, lower) stats::pbeta(x, a, b, lower.tail = lower, log.p = TRUE),
    function(x) stats::dbeta(x, a, b, log = TRUE), 0, 1)
}

beta_cumulative <- function(par, x, lower, log) {
  width <- par$max - par$min
  ifelse(x - par$min <= width / 2,
    stats::pbeta((x - par$min) / width, par$shape1, par$shape2, lower.tail = lower, log.p = log),
    stats::pbeta((par$max - x) / width, par$shape2, par$shape1, lower.tail = !lower, log.p = log))
}
