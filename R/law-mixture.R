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
#' @section Source: raw moments add up by weight; quantiles by Newton's steps between those of the parts, to the last
#'   digits.
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
    if (any(discrete)) {
      points <- gathered_points(lapply(parts[discrete], points_of), shares[discrete])
      together <- pointed_law(points$values, points$shares)
      if (all(discrete)) return(together)
      parts <- c(parts[!discrete], list(together))
      shares <- c(shares[!discrete], sum(shares[discrete]))
    }
    dense <- !vapply(parts, is_discrete, TRUE)
    list(parts = parts, weights = shares, dense = list(parts = parts[dense], weights = shares[dense]),
      atoms = gathered_points(lapply(parts, ask, question = "atoms"), shares))
  },
  dear = TRUE,
  composed = function(par) TRUE,
  rough = function(par) range(vapply(par$parts, ask, numeric(2), question = "rough")),
  quantile = function(par, p, lower) composed_quantile(new_ready_law(family_mixture, par), p, lower),
  cumulative = function(par, x, lower, log) mixture_tail(par, x, lower, log, "cumulative"),
  strict = function(par, x, lower, log) mixture_tail(par, x, lower, log, "strict"),
  between = function(par, ...) log_sum_over_parts(par, function(part) ask(part, "between", ...)),
  density = function(par, x, log) {
    d <- log_sum_over_parts(par$dense, function(part) ask(part, "density", x, TRUE))
    if (length(par$atoms$values)) d[x %in% par$atoms$values] <- Inf
    if (log) d else exp(d)
  },
  kinks = function(par) {
    own <- lapply(par$dense$parts, function(part) c(ask(part, "kinks"), ask(part, "support")))
    Filter(is.finite, unlist(own))
  },
  atoms = function(par) par$atoms,
  tail_index = function(par) {
    index <- vapply(par$parts, ask, numeric(2), question = "tail_index")
    c(min(index[1, ]), min(index[2, ]))
  },
  moments = function(par) {
    m <- vapply(par$parts, ask, numeric(4), question = "moments")
    sd <- sqrt(m["variance", ])
    mean <- sum(par$weights * (m["mean", ] - m[["mean", 1]])) + m[["mean", 1]]
    off <- m["mean", ] - mean
    third <- ifelse(sd == 0, 0, m["skewness", ]) * sd^3
    fourth <- ifelse(sd == 0, 0, m["excess_kurtosis", ] + 3) * sd^4
    variance <- sum(par$weights * (sd^2 + off^2))
    existing_moments(family_mixture$tail_index(par), c(
      mean = mean, variance = variance,
      skewness = sum(par$weights * (third + 3 * off * sd^2 + off^3)) / variance^1.5,
      excess_kurtosis = sum(par$weights * (fourth + 4 * off * third + 6 * off^2 * sd^2 + off^4)) / variance^2 - 3
    ))
  },
  peaks = function(par) unlist(lapply(par$parts, ask, question = "peaks")),
  support = function(par) {
    ends <- vapply(par$parts, ask, numeric(2), question = "support")
    c(min(ends[1, ]), max(ends[2, ]))
  }
)

# The values of several laws with their probabilities, weighted.
gathered_points <- function(points, weights) {
  values <- sort(unique(unlist(lapply(points, function(part) part$values))))
  shares <- numeric(length(values))
  for (i in seq_along(points)) {
    at <- match(points[[i]]$values, values)
    shares[at] <- shares[at] + weights[i] * points[[i]]$shares
  }
  list(values = as.double(values), shares = shares)
}

log_sum_over_parts <- function(par, log_of) {
  logs <- Map(function(part, weight) log(weight) + log_of(part), par$parts, par$weights)
  log_sum(unname(logs))
}

mixture_tail <- function(par, x, lower, log, question) {
  tail <- function(x, lower) log_sum_over_parts(par, function(part) ask(part, question, x, lower, TRUE))
  finished_tail(tail(x, lower), function(at) tail(x[at], !lower), log)
}
