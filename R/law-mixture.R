#' Mixture of laws
#'
#' `r family_mixture$about`
#'
#' @param of A list of laws, or of numbers for values with a probability of their own; it may be named, as by experts.
#' @param weights Numbers of at least 0, as many as laws: how likely each is; they need not add up to 1. Equal when
#'   left out.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `of` is not a list of laws of numbers, or there is not one weight
#'   for each.
#' @section Density: where a value has a probability of its own among others that have a density, the density there is
#'   infinite.
#' @section Source: raw moments add up by weight; quantiles by Newton's steps between brackets, to the last digits.
#' @family laws
#' @examples
#' opinions <- law_mixture(
#'   list(ana = law_pert(20, 30, 50), ben = law_triangular(25, 28, 35)),
#'   weights = c(2, 1)
#' )
#' quantile(opinions, c(0.1, 0.5, 0.9))
#' # nothing on seven days out of ten
#' law_mixture(list(0, law_gamma(mean = 8, sd = 6)), weights = c(7, 3))
#' @export
law_mixture <- function(of, weights = NULL) {
  if (is.list(of) && !is_law(of)) {
    of <- lapply(of, function(part) if (is.numeric(part) && length(part) == 1) law_discrete(part) else part)
  }
  if (is.null(weights)) weights <- rep(1, length(of))
  make_law("mixture", list(of = of, weights = weights))
}

family_mixture <- list(
  title = "Mixture",
  about = "One of several laws holds, each with its weight: opinions of experts, wet and dry days.",
  kind = "derived",
  discrete = function(par) all(vapply(par$of, is_discrete, TRUE)),
  parameters = c(of = "laws", weights = "numbers"),
  optional = "weights",
  check = function(par, call) check_weights(par$weights, "weights", length(par$of), "laws", call),
  canonical = function(par) {
    kept <- par$weights > 0
    parts <- unname(par$of[kept])
    shares <- as_shares(par$weights[kept])
    discrete <- vapply(parts, is_discrete, TRUE)
    points <- lapply(parts[discrete], points_of)
    values <- sort(unique(unlist(lapply(points, function(part) part$values))))
    own <- numeric(length(values))
    for (i in seq_along(points)) {
      at <- match(points[[i]]$values, values)
      own[at] <- own[at] + shares[discrete][i] * points[[i]]$shares
    }
    if (all(discrete)) return(list(values = values, shares = own))
    list(parts = parts, weights = shares, values = values, own = own)
  },
  dear = TRUE,
  quantile = function(par, p, lower) {
    if (is.null(par$parts)) pointed_quantile(par, p, lower) else mixture_quantile(par, p, lower)
  },
  cumulative = function(par, x, lower, log) {
    if (is.null(par$parts)) return(pointed_cumulative(par, x, lower, log))
    tail <- sum_over_parts(par, "cumulative", x, lower, FALSE)
    # near 1 the other tail has the digits
    if (!log) pmin(tail, 1) else
      ifelse(tail < 0.5, log(tail), log1p(-pmin(sum_over_parts(par, "cumulative", x, !lower, FALSE), 1)))
  },
  density = function(par, x, log) {
    if (is.null(par$parts)) return(family_discrete$density(par, x, log))
    continuous <- !vapply(par$parts, is_discrete, TRUE)
    d <- sum_over_parts(list(parts = par$parts[continuous], weights = par$weights[continuous]), "density", x, FALSE)
    d[x %in% par$values] <- Inf
    if (log) log(d) else d
  },
  moments = function(par) {
    if (is.null(par$parts)) return(weighted_moments(par$values, par$shares))
    m <- vapply(par$parts, ask, numeric(4), question = "moments")
    sd <- sqrt(m["variance", ])
    mean <- sum(par$weights * (m["mean", ] - m[["mean", 1]])) + m[["mean", 1]]
    off <- m["mean", ] - mean
    third <- ifelse(sd == 0, 0, m["skewness", ]) * sd^3
    fourth <- ifelse(sd == 0, 0, m["excess_kurtosis", ] + 3) * sd^4
    variance <- sum(par$weights * (sd^2 + off^2))
    c(
      mean = mean, variance = variance,
      skewness = sum(par$weights * (third + 3 * off * sd^2 + off^3)) / variance^1.5,
      excess_kurtosis = sum(par$weights * (fourth + 4 * off * third + 6 * off^2 * sd^2 + off^4)) / variance^2 - 3
    )
  },
  mode = function(par) {
    if (is.null(par$parts)) return(family_discrete$mode(par))
    if (length(par$values)) par$values[which.max(par$own)] else searched_mode(law_mixture(par$parts, par$weights))
  },
  support = function(par) {
    if (is.null(par$parts)) return(range(par$values))
    ends <- vapply(par$parts, ask, numeric(2), question = "support")
    c(min(ends[1, ]), max(ends[2, ]))
  }
)

sum_over_parts <- function(par, question, x, ...) {
  Reduce(`+`, Map(function(part, weight) weight * ask(part, question, x, ...), par$parts, par$weights))
}

mixture_quantile <- function(par, p, lower) {
  median <- vapply(par$parts, ask, 0, question = "quantile", 0.5, TRUE)
  upper <- vapply(par$parts, ask, 0, question = "quantile", 0.9, TRUE)
  cumulative <- function(x, lower) sum_over_parts(par, "cumulative", x, lower, FALSE)
  x <- rep(NA_real_, length(p))
  # a value with a probability of its own is met exactly; the rest is searched for
  for (i in seq_along(par$values)) {
    at <- cumulative(par$values[i], lower)
    other <- if (lower) c(at - par$own[i], at) else c(at, at + par$own[i])
    x[which(p >= other[1] & p <= other[2])] <- par$values[i]
  }
  open <- which(is.na(x) & !is.na(p))
  start <- sum(par$weights * median)
  x[open] <- solved_quantile(p[open], lower, cumulative, function(x) family_mixture$density(par, x, FALSE),
    family_mixture$support(par), start, max(upper - median, diff(range(median)), abs(start) * 1e-8, 1e-300))
  x
}
