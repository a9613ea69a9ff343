#' PERT law
#'
#' For three figures: the least, the most likely and the most. A smooth law with thin ends, that trusts the middle
#' figure more than [law_triangular()] does.
#'
#' @inheritParams law_triangular
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a figure is not a finite number, or they are out of order.
#' @section Source: Malcolm, Roseboom, Clark and Fazar (1959), Operations Research 7(5): a beta law from `min` to `max`
#'   with mean \eqn{(min + 4 mode + max)/6} and shapes \eqn{1 + 4 (mode - min)/(max - min)} and
#'   \eqn{1 + 4 (max - mode)/(max - min)}.
#' @family laws
#' @examples
#' demand <- law_pert(28, 34, 48)
#' quantile(demand, c(0.1, 0.5, 0.9))
#' @export
law_pert <- function(min, mode, max) new_law("pert", three_figures(min, mode, max))

pert_shapes <- function(par) {
  width <- par$max - par$min
  c(1 + 4 * ((par$mode - par$min) / width), 1 + 4 * ((par$max - par$mode) / width))
}

family_pert <- list(
  title = "PERT",
  about = "Least, most likely and greatest value, trusting the middle one.",
  parameters = c("min", "mode", "max"),
  mode_parameter = "mode",
  # Each half is measured from its own end by the beta law or its mirror image: near the far end a distance from
  # the near one has no digits left.
  quantile = function(par, p, lower) {
    shapes <- pert_shapes(par)
    width <- par$max - par$min
    share_below_middle <- stats::pbeta(0.5, shapes[1], shapes[2])
    left <- if (lower) p <= share_below_middle else p >= 1 - share_below_middle
    left[is.na(left)] <- FALSE
    out <- rep(NA_real_, length(p))
    out[left] <- par$min + width * stats::qbeta(p[left], shapes[1], shapes[2], lower.tail = lower)
    out[!left] <- par$max - width * stats::qbeta(p[!left], shapes[2], shapes[1], lower.tail = !lower)
    out
  },
  cumulative = function(par, x, lower, log) {
    shapes <- pert_shapes(par)
    width <- par$max - par$min
    ifelse(x - par$min <= width / 2,
      stats::pbeta((x - par$min) / width, shapes[1], shapes[2], lower.tail = lower, log.p = log),
      stats::pbeta((par$max - x) / width, shapes[2], shapes[1], lower.tail = !lower, log.p = log))
  },
  density = function(par, x, log) {
    shapes <- pert_shapes(par)
    width <- par$max - par$min
    d <- ifelse(x - par$min <= width / 2,
      stats::dbeta((x - par$min) / width, shapes[1], shapes[2], log = log),
      stats::dbeta((par$max - x) / width, shapes[2], shapes[1], log = log))
    if (log) d - log(width) else d / width
  },
  # the beta law's moments with shapes that add up to 6
  moments = function(par) {
    shapes <- pert_shapes(par)
    product <- prod(shapes)
    c(
      mean = par$min / 6 + par$mode * (2 / 3) + par$max / 6,
      variance = (par$max - par$min)^2 * product / 252,
      skewness = (shapes[2] - shapes[1]) * sqrt(7) / (4 * sqrt(product)),
      excess_kurtosis = 6 * (7 * (shapes[1] - shapes[2])^2 - 8 * product) / (72 * product)
    )
  },
  mode = function(par) par$mode,
  support = function(par) c(par$min, par$max)
)
