#' Curvilinear trapezoidal law
#'
#' `r family_curvilinear$about`
#'
#' @param min,max Numbers, `min` below `max`: the limits as stated, in the input's unit.
#' @param within Number above 0 and below half of `max - min`: each limit may be off by so much, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not a finite number in its range.
#' @section Source: JCGM 101:2008, 6.4.3: the half-width is uniform from \eqn{w - d} to \eqn{w + d}, the quantity
#'   uniform given the half-width. Its mean is the middle, its variance \eqn{w^2/3 + d^2/9}.
#' @family laws
#' @examples
#' law_curvilinear(9.5, 10.5, within = 0.1)
#' @export
law_curvilinear <- function(min, max, within) make_law("curvilinear", as.list(environment()))

family_curvilinear <- list(
  title = "Curvilinear trapezoidal",
  about = "Limits that are known only within a margin, as on a certificate that says 0.5 without more digits.",
  kind = "continuous",
  parameters = c(min = "number", max = "number", within = "spread"),
  check = function(par, call) {
    check_limits(par[c("min", "max")], call)
    check_number(par$within, "within", below = (par$max - par$min) / 2, call = call)
  },
  canonical = function(par) {
    half <- (par$max - par$min) / 2
    list(middle = par$min / 2 + par$max / 2, inner = half - par$within, outer = half + par$within, d = par$within)
  },
  start = function(mean, sd, held) list(min = mean - 1.7 * sd, max = mean + 1.7 * sd, within = sd / 4),
  dear = TRUE,
  kinks = function(par) par$middle + c(-1, 1) * par$inner,
  quantile = function(par, p, lower) {
    other <- p > 0.5
    tail <- ifelse(other, 1 - p, p)
    side <- ifelse(xor(other, lower), -1, 1)
    par$middle + side * curvilinear_distance(par, tail)
  },
  cumulative = function(par, x, lower, log) {
    tail <- curvilinear_tail(par, abs(x - par$middle))
    on_left <- x < par$middle
    smaller_tail(ifelse(on_left, tail, 1 - tail), ifelse(on_left, 1 - tail, tail), lower, log)
  },
  density = function(par, x, log) {
    distance <- pmin(abs(x - par$middle), par$outer)
    d <- -log1p((distance - par$outer) / par$outer) / (4 * par$d)
    # on the level part the distance of the two ends would have lost its digits
    d[which(distance <= par$inner)] <- -log1p(-2 * par$d / par$outer) / (4 * par$d)
    if (log) log(d) else d
  },
  moments = function(par) {
    half <- par$outer - par$d
    variance <- half^2 / 3 + par$d^2 / 9
    fourth <- (half^4 + 2 * half^2 * par$d^2 + par$d^4 / 5) / 5
    c(mean = par$middle, variance = variance, skewness = 0, excess_kurtosis = fourth / variance^2 - 3)
  },
  mode = function(par) NA_real_,
  support = function(par) par$middle + c(-1, 1) * par$outer
)

# The probability of lying farther than `distance` to one side of the middle. With e the distance from the outer end as
# a share of it, the integral of the logarithm is e + (1 - e) log(1 - e), a series where it cancels.
curvilinear_tail <- function(par, distance) {
  inner_height <- -log1p(-2 * par$d / par$outer) / (4 * par$d)
  e <- pmin(pmax((par$outer - distance) / par$outer, 0), 2 * par$d / par$outer)
  curved <- par$outer * ifelse(e < 0.01, e^2 / 2 + e^3 / 6 + e^4 / 12 + e^5 / 20 + e^6 / 30 + e^7 / 42,
    e + (1 - e) * log1p(-e)) / (4 * par$d)
  curved + pmax(par$inner - distance, 0) * inner_height
}

curvilinear_distance <- function(par, tail) {
  out <- rep(NA_real_, length(tail))
  corner <- curvilinear_tail(par, par$inner)
  inner_height <- -log1p(-2 * par$d / par$outer) / (4 * par$d)
  flat <- which(tail >= corner)
  # measured from the middle, where the tail is a half, or from the corner
  out[flat] <- (0.5 - tail[flat]) / inner_height
  curved <- which(tail < corner)
  # distance from the outer end as a share of it; the probabilities are those given that the quantity lies there
  widest <- 2 * par$d / par$outer
  e <- solve_in_tail(log(tail[curved] / corner), TRUE,
    function(e) log(curvilinear_tail(par, par$outer * (1 - e)) / corner),
    function(e) log(-log1p(-e) * par$outer / (4 * par$d) / corner),
    rep(0, length(curved)), rep(widest, length(curved)), widest * sqrt(tail[curved] / corner), 0, 0, widest)
  out[curved] <- par$outer - par$outer * e
  out
}
