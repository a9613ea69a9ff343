#' Largest or smallest of several
#'
#' `r family_largest$about` `law_smallest()` is the same for the smallest.
#'
#' @param of A law of numbers: that of each.
#' @param k Whole number of at least 1: how many there are, independent of each other.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `of` is not a law of numbers or `k` not a count.
#' @section Source: \eqn{F(x)^k} and \eqn{1 - (1 - F(x))^k}.
#' @family laws
#' @examples
#' law_largest(law_normal(30, 3), k = 12)
#' @export
law_largest <- function(of, k) make_law("largest", as.list(environment()))

#' @rdname law_largest
#' @export
law_smallest <- function(of, k) make_law("smallest", as.list(environment()))

family_largest <- list(
  title = "Largest of k",
  about = "The largest of several independent values of one law.",
  kind = "derived",
  parameters = c(of = "law", k = "count"),
  discrete = function(par) is_discrete(par$of),
  check = function(par, call) check_of_numbers(par, call),
  canonical = function(par) ready_extreme(par$of, par$k, TRUE),
  dear = function(par) is_dear(par$of)
)

family_smallest <- list(
  title = "Smallest of k",
  about = "The smallest of several independent values of one law.",
  kind = "derived",
  parameters = c(of = "law", k = "count"),
  discrete = function(par) is_discrete(par$of),
  check = function(par, call) check_of_numbers(par, call),
  canonical = function(par) ready_extreme(par$of, par$k, FALSE),
  dear = function(par) is_dear(par$of)
)

check_of_numbers <- function(par, call) {
  if (is_categorical(par$of)) stop_argument("of", "a law of numbers", "a law of categories", call = call)
}

# The largest of k ready laws, or the smallest: that of a scaled law is scaled, that of a few values has these values.
ready_extreme <- function(of, k, largest) {
  if (identical(of$record$title, family_scaled$title)) {
    return(ready_scaled(ready_extreme(of$par$of, k, largest == (of$par$times > 0)), of$par$times, of$par$plus))
  }
  extreme <- new_ready_law(extreme_record, list(of = of, k = k, largest = largest), of$discrete)
  if (!is_pointed(of)) return(extreme)
  values <- of$par$values
  pointed_law(values, exp(ask(extreme, "between", values, values, TRUE, TRUE)))
}

# `side` is the tail in which all k must lie: at most x for the largest, above x for the smallest.
extreme_record <- list(
  title = "Extreme of k",
  quantile = function(par, p, lower) {
    all <- lower == par$largest
    # the probability that one must have in that tail, and in the other
    log_all <- if (all) base::log(p) / par$k else log1p(-p) / par$k
    near <- exp(log_all)
    far <- -expm1(log_all)
    x <- ask(par$of, "quantile", near, par$largest)
    other <- which(near > 0.5)
    x[other] <- ask(par$of, "quantile", far[other], !par$largest)
    if (!par$of$discrete) return(x)
    law <- new_ready_law(extreme_record, par, TRUE)
    exact_whole(x, p, lower, function(x, lower) ask(law, "cumulative", x, lower, FALSE), ask(par$of, "support")[[1]])
  },
  cumulative = function(par, x, lower, log) extreme_tail(par, x, lower, log, "cumulative"),
  strict = function(par, x, lower, log) extreme_tail(par, x, lower, log, "strict"),
  # all in the one tail of the farther end, less all in that of the nearer
  between = function(par, from, to, closed_from, closed_to) {
    part <- ask(par$of, "between", from, to, closed_from, closed_to)
    n <- length(part)
    whole <- if (par$largest) log_side(par$of, rep_len(to, n), TRUE, rep_len(!closed_to, n))
      else log_side(par$of, rep_len(from, n), FALSE, rep_len(closed_from, n))
    out <- par$k * whole + log_any_of(pmin(part - whole, 0), par$k)
    out[which(part == -Inf)] <- -Inf
    out
  },
  density = function(par, x, log) {
    if (par$of$discrete) {
      d <- ask(new_ready_law(extreme_record, par, TRUE), "between", x, x, TRUE, TRUE)
    } else {
      d <- base::log(par$k) + ask(par$of, "density", x, TRUE) +
        (if (par$k == 1) 0 else (par$k - 1) * log_tail(par$of, x, par$largest))
      d[which(is.nan(d))] <- -Inf  # no density in the one, no probability in the other
    }
    if (log) d else exp(d)
  },
  kinks = function(par) ask(par$of, "kinks"),
  rough = function(par) {
    two <- extreme_record$quantile(par, c(0.25, 0.75), TRUE)
    if (two[1] < two[2]) two else ask(par$of, "rough")
  },
  atoms = function(par) {
    values <- ask(par$of, "atoms")$values
    law <- new_ready_law(extreme_record, par)
    list(values = values, shares = exp(ask(law, "between", values, values, TRUE, TRUE)))
  },
  tail_index = function(par) ask(par$of, "tail_index") * (if (par$largest) c(par$k, 1) else c(1, par$k)),
  peaks = function(par) ask(par$of, "peaks"),
  support = function(par) ask(par$of, "support")
)

extreme_tail <- function(par, x, lower, log, question) {
  tail <- function(x, lower) {
    if (lower == par$largest) par$k * log_tail(par$of, x, par$largest, question)
    else log_any_of(ask(par$of, question, x, !par$largest, TRUE), par$k)
  }
  finished_tail(tail(x, lower), function(at) tail(x[at], !lower), log)
}

# As log_tail(), strictly or not for each x.
log_side <- function(law, x, lower, strict) {
  out <- rep(NA_real_, length(x))
  if (any(strict)) out[strict] <- log_tail(law, x[strict], lower, "strict")
  if (!all(strict)) out[!strict] <- log_tail(law, x[!strict], lower)
  out
}
