#' Discrete law
#'
#' `r family_discrete$about` With texts it is a law of categories, which formulas use by comparison, as in `if (soil
#' == "rock") 40 else 25`.
#'
#' @param values Numbers, in the input's unit, or texts: what may come out, each once.
#' @param probabilities Numbers of at least 0, as many as `values`; counts or shares that need not add up to 1,
#'   though numbers below 1 that do not are warned of. Equal when left out.
#' @inherit law_normal return
#' @section Categories: `quantile()` gives texts in the order of `values`, `cumulative()` and `density_at()` ask for
#'   texts; `mean()` and the other moments are `NA`; the base value is the most likely one.
#' @section Errors: `ensayo_error_argument` where `values` are neither numbers nor texts, one stands twice, or there
#'   is not one probability for each.
#' @family laws
#' @examples
#' pumps <- law_discrete(c(1, 2, 3), c(0.2, 0.5, 0.3))
#' quantile(pumps, c(0.1, 0.5, 0.9))
#' law_discrete(c("rock", "gravel", "clay"), c(10, 60, 30))
#' @export
law_discrete <- function(values, probabilities = NULL) {
  if (missing(probabilities) || is.null(probabilities)) probabilities <- rep(1, length(values))
  make_law("discrete", list(values = values, probabilities = probabilities))
}

family_discrete <- list(
  title = "Discrete",
  about = "One of several values or categories, each with its probability.",
  kind = "discrete",
  parameters = c(values = "values", probabilities = "numbers"),
  optional = "probabilities",
  check = function(par, call) {
    twice <- par$values[duplicated(par$values)]
    if (length(twice)) stop_argument("values", "each given once", twice[1], call = call)
    check_weights(par$probabilities, "probabilities", length(par$values), "values", call)
    total <- sum(par$probabilities)
    if (all(par$probabilities < 1) && abs(total - 1) > 1e-6) {
      warn_ensayo(c(sprintf("The probabilities add up to %s.", format(total, digits = 6)),
        i = "They are taken as shares of that; is one missing?"), "shares")
    }
  },
  # a category or a yes or no is, as a single value, the likeliest
  mode_parameter = function(par) {
    if (is.character(par$values) || all(par$values %in% c(0, 1))) par$values[which.max(par$probabilities)]
  },
  # numbers in order, categories as given
  canonical = function(par) {
    by <- if (is.character(par$values)) seq_along(par$values) else order(par$values)
    list(values = par$values[by], shares = as_shares(par$probabilities[by]))
  },
  quantile = function(par, p, lower) pointed_quantile(par, p, lower),
  cumulative = function(par, x, lower, log) pointed_cumulative(par, x, lower, log),
  strict = function(par, x, lower, log) pointed_cumulative(par, x, lower, log, strict = TRUE),
  atoms = function(par) par[c("values", "shares")],
  density = function(par, x, log) {
    d <- par$shares[match(x, par$values)]
    d[is.na(d) & !is.na(x)] <- 0
    if (log) log(d) else d
  },
  moments = function(par) {
    if (is.character(par$values)) {
      return(c(mean = NA_real_, variance = NA_real_, skewness = NA_real_, excess_kurtosis = NA_real_))
    }
    weighted_moments(par$values, par$shares)
  },
  mode = function(par) {
    likeliest <- which(par$shares == max(par$shares))
    if (length(likeliest) == 1) par$values[likeliest] else if (is.character(par$values)) NA_character_ else NA_real_
  },
  support = function(par) {
    possible <- par$values[par$shares > 0]
    possible[c(1, length(possible))]
  }
)

# Probabilities at or below, and above, each of a few values. Sums from each end are exact where they are small.
pointed_tails <- function(shares) list(below = pmin(cumsum(shares), 1), above = c(rev(cumsum(rev(shares)))[-1], 0))

pointed_quantile <- function(par, p, lower) {
  possible <- par$shares > 0
  tails <- pointed_tails(par$shares[possible])
  k <- sum(possible)
  # the smallest value with at least p at or below it; with at most p above it
  index <- if (lower) findInterval(p, c(-Inf, tails$below[-k]), left.open = TRUE)
    else 1 + k - findInterval(p, rev(tails$above))
  index[which(p == (if (lower) 1 else 0))] <- k
  par$values[possible][pmin(pmax(index, 1), k)]
}

pointed_cumulative <- function(par, x, lower, log, strict = FALSE) {
  tails <- pointed_tails(par$shares)
  index <- if (is.character(par$values)) match(x, par$values) else findInterval(x, par$values, left.open = strict)
  tail <- c(if (lower) 0 else 1, if (lower) tails$below else tails$above)[index + 1]
  if (log) log(tail) else tail
}
