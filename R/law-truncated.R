#' Truncated law
#'
#' `r family_truncated$about` What is left is renormalised; the print says which share was cut.
#'
#' @param of A law of numbers.
#' @param min,max Numbers, or `-Inf` and `Inf`: the values below `min` and above `max` are cut.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where the limits are out of order, or nothing of the law is left between
#'   them.
#' @section Source: the probability between `min` and x is that of `of`, by difference where it keeps its digits, else
#'   by integration of the density (Gauss and Legendre).
#' @family laws
#' @examples
#' law_truncated(law_normal(2, 1), min = 0)
#' @export
law_truncated <- function(of, min = -Inf, max = Inf) make_law("truncated", as.list(environment()))

family_truncated <- list(
  title = "Truncated",
  about = "Another law that cannot go beyond a limit.",
  kind = "derived",
  discrete = function(par) is_discrete(par$of),
  parameters = c(of = "law", min = "limit", max = "limit"),
  check = function(par, call) {
    if (is_categorical(par$of)) stop_argument("of", "a law of numbers", "a law of categories", call = call)
    if (par$min >= par$max) check_limits(par[c("min", "max")], call)
    if (kept_share(par) > 0) return(invisible())
    ends <- ask(par$of, "support")
    stop_ensayo("argument", "Something of the law must be left between `min` and `max`.",
      sprintf("The law runs from %s to %s.", shown_value(ends[1]), shown_value(ends[2])), argument = "min", call = call)
  },
  mode_parameter = function(par) {
    mode <- mode_parameter(par$of)
    if (!is.null(mode) && mode >= par$min && mode <= par$max) mode
  },
  canonical = function(par) {
    if (is_discrete(par$of)) {
      points <- points_of(par$of)
      inside <- points$values >= par$min & points$values <= par$max
      return(list(values = points$values[inside], shares = as_shares(points$shares[inside])))
    }
    ends <- ask(par$of, "support")
    par$min <- max(par$min, ends[1])
    par$max <- min(par$max, ends[2])
    c(par, kept = kept_share(par), below = ask(par$of, "cumulative", par$min, TRUE, FALSE),
      above = ask(par$of, "cumulative", par$max, FALSE, FALSE))
  },
  dear = TRUE,
  quantile = function(par, p, lower) {
    if (is.null(par$of)) pointed_quantile(par, p, lower) else truncated_quantile(par, p, lower)
  },
  cumulative = function(par, x, lower, log) {
    if (is.null(par$of)) return(pointed_cumulative(par, x, lower, log))
    x <- pmin(pmax(x, par$min), par$max)
    left <- probability_between(par$of, par$min, x) / par$kept
    right <- probability_between(par$of, x, par$max) / par$kept
    smaller_tail(pmin(left, 1), pmin(right, 1), lower, log)
  },
  density = function(par, x, log) {
    if (is.null(par$of)) return(family_discrete$density(par, x, log))
    d <- ask(par$of, "density", x, TRUE) - base::log(par$kept)
    d[!is.na(x) & (x < par$min | x > par$max)] <- -Inf
    if (log) d else exp(d)
  },
  mode = function(par) {
    if (is.null(par$of)) return(family_discrete$mode(par))
    inner <- ask(par$of, "mode")
    if (is.na(inner)) inner else min(max(inner, par$min), par$max)
  },
  support = function(par) if (is.null(par$of)) range(par$values) else c(par$min, par$max)
)

# The share of a law that lies between the limits of a truncation.
kept_share <- function(par) {
  if (!is_discrete(par$of)) return(probability_between(par$of, par$min, par$max))
  points <- points_of(par$of)
  sum(points$shares[points$values >= par$min & points$values <= par$max])
}

# The values of a discrete law with their probabilities, as far out as doubles hold them.
points_of <- function(law) {
  par <- parameters_of(law)
  record <- family_of(law)
  if (!is.null(record$canonical)) par <- record$canonical(par)
  if (!is.null(par$shares)) return(par[c("values", "shares")])
  if (is_law(par$of)) {
    # a law made of another has its values, scaled or as they are
    values <- points_of(par$of)$values
    if (family_name(law) == "scaled") values <- sort(par$times * values + par$plus)
    return(list(values = values, shares = ask(law, "density", values, FALSE)))
  }
  from <- ask(law, "quantile", 1e-300, TRUE)
  to <- ask(law, "quantile", 1e-300, FALSE)
  if (to - from > 1e7) {
    stop_argument("of", "a law of at most 10 million values", law, "Give the limits to the law itself.")
  }
  values <- seq(from, to)
  list(values = as.double(values), shares = ask(law, "density", values, FALSE))
}

# The probability between two values, from the tail in which both are small, or by the density between them where
# their difference would have lost its digits.
probability_between <- function(law, from, to) {
  n <- if (length(from) && length(to)) max(length(from), length(to)) else 0
  from <- rep_len(from, n)
  to <- rep_len(to, n)
  tail <- function(x, lower) ask(law, "cumulative", x, lower, FALSE)
  upper <- tail(from, TRUE) > 0.5
  small <- ifelse(upper, tail(to, FALSE), tail(from, TRUE))
  difference <- ifelse(upper, tail(from, FALSE), tail(to, TRUE)) - small
  thin <- which(is.finite(from) & is.finite(to) & from < to & difference < 0.02 * small)
  if (length(thin)) difference[thin] <- integrated_density(law, from[thin], to[thin])
  difference
}

# Ten points of Gauss and Legendre: exact for what is smooth over so short a way.
integrated_density <- function(law, from, to) {
  node <- c(0.1488743389816312, 0.4333953941292472, 0.6794095682990244, 0.8650633666889845, 0.9739065285171717)
  weight <- c(0.2955242247147529, 0.2692667193099964, 0.2190863625159820, 0.1494513491505806, 0.0666713443086881)
  half <- (to - from) / 2
  density <- function(x) ask(law, "density", x, FALSE)
  total <- 0
  for (i in 1:5) {
    total <- total + weight[i] * (density(from + half * (1 - node[i])) + density(to - half * (1 - node[i])))
  }
  total * half
}

truncated_quantile <- function(par, p, lower) {
  from_below <- if (lower) p else 1 - p
  from_above <- if (lower) 1 - p else p
  # the probability at which `of` has the quantile, in the tail that has the digits
  below <- par$below + from_below * par$kept
  above <- par$above + from_above * par$kept
  x <- ask(par$of, "quantile", pmin(below, 1), TRUE)
  upper <- which(below > 0.5)
  x[upper] <- ask(par$of, "quantile", pmin(above[upper], 1), FALSE)
  # so near to a limit that the probabilities have lost it, it is as far off as the density there says
  x <- pmin(pmax(x, nearest_inside(par, from_below, 1)), nearest_inside(par, from_above, -1))
  polished(x, p, lower, function(x, lower) family_truncated$cumulative(par, x, lower, TRUE),
    function(x) family_truncated$density(par, x, TRUE), par$min, par$max)
}

# A lower bound of the distance to the limit on one side, where the density at the limit is finite and not 0.
nearest_inside <- function(par, p, side) {
  limit <- if (side > 0) par$min else par$max
  far <- if (side > 0) -Inf else Inf
  height <- if (is.finite(limit)) family_truncated$density(par, limit, FALSE) else 0
  if (!is.finite(height) || height == 0) return(rep(far, length(p)))
  ifelse(p < 1e-6, limit + side * p / height * (1 - 1e-4), far)
}
