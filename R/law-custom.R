#' A law of your own
#'
#' `r family_custom$about` Give `quantile`, or `cumulative` and `density`. They are tried out when the law is made.
#'
#' @param quantile A function of probabilities from 0 to 1 (a numeric) that gives values in the input's unit, never
#'   falling.
#' @param cumulative,density Functions of values (a numeric): the probability of at most that value, and its density
#'   per unit.
#' @param min,max Numbers, or `-Inf` and `Inf`: no value lies beyond them.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a function does not give a number for each value, the quantile
#'   falls, the cumulative probability does not rise from 0 to 1, or the density is not its slope.
#' @section Tails: upper tails are read through `1 - p`, so that they end near 1e-16. A tail that falls like a power has
#'   no moments from some order on; which is read off how far the quantiles reach from 1e-6 to 1e-11.
#' @section Values with a probability of their own: they are found where `quantile` stays level for more than a
#'   thousandth; a law by `cumulative` and `density` has none.
#' @section Files: such a law cannot be written to a study file.
#' @family laws
#' @examples
#' law_custom(quantile = function(p) 10 + 4 * p^2)
#' law_custom(cumulative = function(x) x^3, density = function(x) 3 * x^2, min = 0, max = 1)
#' @export
law_custom <- function(quantile, cumulative, density, min = -Inf, max = Inf) {
  make_law("custom", as.list(environment()))
}

family_custom <- list(
  title = "Custom",
  about = "A law of your own, from its quantile function or its cumulative probability and density.",
  kind = "derived",
  parameters = c(quantile = "function", cumulative = "function", density = "function", min = "limit", max = "limit"),
  forms = list("quantile", c("cumulative", "density")),
  check = function(par, call) check_custom(par, call),
  canonical = function(par) {
    if (is.null(par$quantile)) return(c(par, custom_start(par)))
    c(par, custom_levels(par$quantile))
  },
  dear = TRUE,
  composed = function(par) is.null(par$quantile),
  rough = function(par) if (is.null(par$quantile)) par$at + c(-1, 1) * par$reach / 2 else par$quantile(c(0.25, 0.75)),
  quantile = function(par, p, lower) {
    if (!is.null(par$quantile)) {
      # nearer to 1 there is no number to ask for
      return(as.double(par$quantile(if (lower) p else ifelse(p > 0, pmin(1 - p, 1 - 2^-53), 1))))
    }
    composed_quantile(new_ready_law(family_custom, par), p, lower)
  },
  cumulative = function(par, x, lower, log) {
    tail <- if (is.null(par$quantile)) custom_tail(par, x, lower) else inverted_tail(par, x, lower, `<=`)
    if (log) log(tail) else tail
  },
  strict = function(par, x, lower, log) {
    tail <- if (is.null(par$quantile)) custom_tail(par, x, lower) else inverted_tail(par, x, lower, `<`)
    if (log) log(tail) else tail
  },
  atoms = function(par) list(values = as.double(par$levels), shares = as.double(par$level_shares)),
  tail_index = function(par) {
    law <- new_ready_law(family_custom, par)
    c(custom_tail_index(law, TRUE), custom_tail_index(law, FALSE))
  },
  density = function(par, x, log) {
    d <- if (!is.null(par$density)) as.double(par$density(x)) else {
      p <- inverted_tail(par, x, TRUE, `<=`)
      step <- pmin(1e-5, p / 2, (1 - p) / 2)
      2 * step / (as.double(par$quantile(p + step)) - as.double(par$quantile(p - step)))
    }
    ends <- family_custom$support(par)
    d[!is.na(x) & (x < ends[1] | x > ends[2])] <- 0
    d[x %in% par$levels] <- Inf
    if (log) log(d) else d
  },
  support = function(par) {
    if (is.null(par$quantile)) c(par$min, par$max) else as.double(par$quantile(c(0, 1)))
  }
)

custom_tail <- function(par, x, lower) {
  p <- as.double(par$cumulative(pmin(pmax(x, par$min), par$max)))
  p[x <= par$min] <- 0
  p[x >= par$max] <- 1
  if (lower) p else 1 - p
}

# The probability up to which a quantile function is at most x, or below it, by halves.
inverted_tail <- function(par, x, lower, compare) {
  low <- rep(0, length(x))
  high <- rep(1, length(x))
  for (step in 1:60) {
    middle <- (low + high) / 2
    below <- compare(as.double(par$quantile(middle)), x)
    low[which(below)] <- middle[which(below)]
    high[which(!below)] <- middle[which(!below)]
  }
  p <- (low + high) / 2
  p[is.na(x)] <- NA
  ends <- as.double(par$quantile(c(0, 1)))
  p[which(!compare(ends[1], x) | x == ends[1] & p < 1e-15)] <- 0
  p[which(compare(ends[2], x) | x == ends[2] & p > 1 - 1e-15)] <- 1
  if (lower) p else 1 - p
}

# The values at which a quantile function stays level, with how long it does: they have a probability of their own.
custom_levels <- function(quantile) {
  x <- as.double(quantile((0:1024) / 1024))
  levels <- unique(x[-1][diff(x) == 0 & is.finite(x[-1])])
  par <- list(quantile = quantile)
  shares <- inverted_tail(par, levels, TRUE, `<=`) - inverted_tail(par, levels, TRUE, `<`)
  list(levels = levels, level_shares = shares)
}

# The order of the moments that a tail takes away, seen from how it grows: a power of p makes equal steps of the
# logarithm, and lighter tails make shorter and shorter ones.
custom_tail_index <- function(law, lower) {
  p <- 10^-(6:11)
  x <- ask(law, "quantile", p, lower)
  far <- abs(x - ask(law, "quantile", 0.5, TRUE))
  if (any(!is.finite(far)) || any(far == 0)) return(Inf)
  steps <- diff(log(far))
  if (any(steps <= 0) || steps[5] < 0.97 * steps[1]) return(Inf)
  # to a thousandth, so that a tail of order 1 is not taken for a little lighter
  round(log(10) / mean(steps), 3)
}

# A point with some probability on either side.
custom_start <- function(par) {
  if (is.finite(par$min) &&
    is.finite(par$max)) return(list(at = par$min / 2 + par$max / 2, reach = (par$max - par$min) / 4))
  from <- if (is.finite(par$min)) par$min else if (is.finite(par$max)) par$max else 0
  steps <- c(0, 4^(-30:30))
  x <- sort(unique(c(from + steps, from - steps)))
  x <- x[x > par$min & x < par$max]
  tail <- custom_tail(par, x, TRUE)
  best <- which.min(abs(tail - 0.5))
  list(at = x[best], reach = max(abs(x[best] - from), 1e-6))
}

check_custom <- function(par, call) {
  if (par$min >= par$max) check_limits(par[c("min", "max")], call)
  p <- seq(0.01, 0.99, 0.01)
  if (!is.null(par$quantile)) {
    x <- called_safely(par$quantile, p, "quantile", call)
    if (any(diff(x) < 0) || x[1] == x[99]) {
      stop_argument("quantile", "a function that grows with the probability", NULL, "It falls, or is constant.", call)
    }
    return(invisible())
  }
  ends <- family_custom$quantile(family_custom$canonical(par), c(0.01, 0.99), TRUE)
  x <- seq(ends[1], ends[2], length.out = 401)
  tail <- called_safely(par$cumulative, x, "cumulative", call)
  slope <- called_safely(par$density, x, "density", call)
  rises <- all(is.finite(ends)) && all(diff(tail) >= -1e-12) && abs(tail[1] - 0.01) < 1e-3 &&
    abs(tail[401] - 0.99) < 1e-3
  if (!rises) stop_argument("cumulative", "a function that rises from 0 to 1", NULL,
    "Check `min` and `max`, and that it gives probabilities.", call)
  area <- sum((slope[-1] + slope[-401]) / 2 * diff(x))
  if (any(slope < 0) || abs(area - 0.98) > 0.01) {
    stop_ensayo("argument", "`density` must be the slope of `cumulative`.",
      sprintf("Between the 1st and the 99th percentile it adds up to %s instead of 0.98.", format(area, digits = 3)),
      argument = "density", call = call)
  }
}

called_safely <- function(fun, x, name, call) {
  value <- rethrow_as(fun(x), "argument", sprintf("%s must be a function of a numeric.", quoted(name)))
  if (!is.numeric(value) || length(value) != length(x) || anyNA(value)) {
    stop_argument(name, "a function that gives one number for each value", value, call = call)
  }
  as.double(value)
}
