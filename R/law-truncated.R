#' Truncated law
#'
#' `r family_truncated$about` What is left is renormalised; the print says which share was cut.
#'
#' @param of A law of numbers.
#' @param min,max Numbers, or `-Inf` and `Inf`: the values below `min` and above `max` are cut.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where the limits are out of order, or nothing of the law is left between
#'   them.
#' @section Source: the probability between `min` and x is that of `of`, by difference of the tails
#'   that are small, as logarithms, where it keeps its digits, else by integration of the density (Gauss and
#'   Legendre).
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
      sprintf("The law runs from %s to %s%s.", shown_value(ends[1]), shown_value(ends[2]),
        if (par$min <= ends[2] && par$max >= ends[1]) ", and less than 1e-300 of it lies there" else ""),
      argument = "min", call = call)
  },
  mode_parameter = function(par) {
    mode <- mode_parameter(par$of)
    if (!is.null(mode) && mode >= par$min && mode <= par$max) mode
  },
  canonical = function(par) {
    if (par$of$discrete) {
      points <- points_of(par$of, par$min, par$max)
      return(pointed_law(points$values, points$shares))
    }
    if (identical(par$of$record$title, "Truncated")) {  # cut twice is cut once
      inner <- par$of$par
      par <- list(of = inner$of, min = max(par$min, inner$min), max = min(par$max, inner$max))
    }
    ends <- ask(par$of, "support")
    par$min <- max(par$min, ends[1])
    par$max <- min(par$max, ends[2])
    par[c("min", "max")] <- limits_with_mass(par)
    par$log_kept <- ask(par$of, "between", par$min, par$max, TRUE, TRUE)
    left_points(par) %||% par
  },
  dear = TRUE,
  composed = function(par) TRUE,
  # where the limits lie beyond both values, these move there and stay as far from each other
  rough = function(par) {
    two <- ask(par$of, "rough")
    if (two[2] <= par$min) two <- par$min + c(0, diff(two))
    if (two[1] >= par$max) two <- par$max - c(diff(two), 0)
    pmin(pmax(two, par$min), par$max)
  },
  quantile = function(par, p, lower) composed_quantile(new_ready_law(family_truncated, par), p, lower),
  cumulative = function(par, x, lower, log) truncated_tail(par, x, lower, log, TRUE),
  strict = function(par, x, lower, log) truncated_tail(par, x, lower, log, FALSE),
  between = function(par, from, to, closed_from, closed_to) {
    ask(par$of, "between", pmax(from, par$min), pmin(to, par$max), closed_from | from < par$min,
      closed_to | to > par$max) - par$log_kept
  },
  density = function(par, x, log) {
    d <- ask(par$of, "density", x, TRUE) - par$log_kept
    d[!is.na(x) & (x < par$min | x > par$max)] <- -Inf
    if (log) d else exp(d)
  },
  kinks = function(par) within_limits(ask(par$of, "kinks"), par),
  atoms = function(par) {
    atoms <- ask(par$of, "atoms")
    inside <- atoms$values >= par$min & atoms$values <= par$max
    list(values = atoms$values[inside], shares = exp(log(atoms$shares[inside]) - par$log_kept))
  },
  tail_index = function(par) ifelse(is.finite(c(par$min, par$max)), Inf, ask(par$of, "tail_index")),
  peaks = function(par) within_limits(ask(par$of, "peaks"), par),
  support = function(par) c(par$min, par$max)
)

# Limits inside a gap of the law move to where it goes on.
limits_with_mass <- function(par) {
  knots <- within_limits(knots_of(par$of), par)
  if (length(knots) == 0) return(par[c("min", "max")])
  before <- ask(par$of, "between", par$min, knots, TRUE, FALSE)
  after <- ask(par$of, "between", knots, par$max, FALSE, TRUE)
  list(min = max(par$min, knots[before == -Inf]), max = min(par$max, knots[after == -Inf]))
}

# The law as a list of values, where values with a probability of their own are all that is left.
left_points <- function(par) {
  atoms <- family_truncated$atoms(par)
  if (length(atoms$values) == 0) return(NULL)
  places <- sort(unique(c(par$min, within_limits(knots_of(par$of), par), par$max)))
  gaps <- ask(par$of, "between", places[-length(places)], places[-1], FALSE, FALSE)
  if (all(gaps == -Inf)) pointed_law(atoms$values, atoms$shares)
}

within_limits <- function(x, par) x[x >= par$min & x <= par$max]

# The share of a law that lies between the limits of a truncation.
kept_share <- function(par) {
  of <- ready_law(par$of)
  if (of$discrete) return(sum(points_of(of, par$min, par$max)$shares))
  exp(ask(of, "between", par$min, par$max, TRUE, TRUE))
}

# The probability of at most x, or of more, among what is kept; `with_x` FALSE: of less than x, or of at least x.
truncated_tail <- function(par, x, lower, log, with_x) {
  tail <- function(x, lower) {
    at <- pmin(pmax(x, par$min), par$max)
    out <- (if (lower) ask(par$of, "between", par$min, at, TRUE, with_x)
      else ask(par$of, "between", at, par$max, !with_x, TRUE)) - par$log_kept
    out[which(x < par$min)] <- if (lower) -Inf else 0
    out[which(x > par$max)] <- if (lower) 0 else -Inf
    pmin(out, 0)
  }
  finished_tail(tail(x, lower), function(at) tail(x[at], !lower), log)
}
