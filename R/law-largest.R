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
  dear = function(par) is_dear(par$of),
  quantile = function(par, p, lower) ask(par$of, "quantile", one_of_k(p, par$k, lower), lower),
  cumulative = function(par, x, lower, log) all_of_k(par, x, TRUE, lower, log),
  density = function(par, x, log) extreme_density(par, x, TRUE, log),
  support = function(par) ask(par$of, "support")
)

family_smallest <- list(
  title = "Smallest of k",
  about = "The smallest of several independent values of one law.",
  kind = "derived",
  parameters = c(of = "law", k = "count"),
  discrete = function(par) is_discrete(par$of),
  check = function(par, call) check_of_numbers(par, call),
  dear = function(par) is_dear(par$of),
  quantile = function(par, p, lower) ask(par$of, "quantile", one_of_k(p, par$k, !lower), lower),
  cumulative = function(par, x, lower, log) all_of_k(par, x, FALSE, !lower, log),
  density = function(par, x, log) extreme_density(par, x, FALSE, log),
  support = function(par) ask(par$of, "support")
)

check_of_numbers <- function(par, call) {
  if (is_categorical(par$of)) stop_argument("of", "a law of numbers", "a law of categories", call = call)
}

# The probability that one must have for all k together to have p, or for any of k.
one_of_k <- function(p, k, all) if (all) exp(log(p) / k) else -expm1(log1p(-p) / k)

# The probability that all k lie on one side of x, or that not all do.
all_of_k <- function(par, x, side, all, log) {
  log_all <- par$k * ask(par$of, "cumulative", x, side, TRUE)
  if (all) if (log) log_all else exp(log_all) else if (log) log(-expm1(log_all)) else -expm1(log_all)
}

extreme_density <- function(par, x, side, log) {
  log_one <- ask(par$of, "cumulative", x, side, TRUE)
  if (is_discrete(par$of)) {
    # all at most x, less all below x; or all at least x, less all above
    mass <- ask(par$of, "density", x, FALSE)
    near <- ask(par$of, "cumulative", x, side, FALSE)
    d <- if (side) near^par$k - pmax(near - mass, 0)^par$k else (near + mass)^par$k - near^par$k
    return(if (log) log(d) else d)
  }
  d <- base::log(par$k) + ask(par$of, "density", x, TRUE) + if (par$k == 1) 0 else (par$k - 1) * log_one
  if (log) d else exp(d)
}
