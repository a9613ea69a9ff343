#' Compound sum: a count of independent sizes
#'
#' `r family_compound$about` Each occurrence has a size of its own. It is not the count times one size, which is far too
#' wide: there every occurrence of a run would be as large as the first.
#'
#' @param count A law of whole numbers from 0 on: how many occurrences there are, such as `law_poisson()`.
#' @param size A law of numbers, or a number: how large each of them is, independent of the others and of the count.
#' @param deductible Number of at least 0: what is taken off each occurrence first; one that is no larger counts as nothing.
#' @param limit Number above 0: the most that is left of one occurrence after that.
#' @param limit_in_all Number above 0: the most that all of them add up to.
#' @inherit law_normal return
#' @section Accuracy: the law is calculated, not simulated. No occurrence and one occurrence are exact; the rest is found by
#'   transform on grids of different widths, whose masses keep six moments of each cell. What the widths disagree by is taken for
#'   the error: below 1e-6 in probability, or there is a warning of class `ensayo_warning_inexact`, once a session; against exact
#'   values it was below 1e-8. Sizes that lie on a common grid (1, 2, 5; 0.25, 1.5) are summed on it. Beyond probabilities of about
#'   1e-11 (1e-8 to 1e-9 where there are a hundred thousand occurrences) the upper tail is continued as that of one large
#'   occurrence, or as an exponential where that falls more slowly.
#' @section A law, or single occurrences: as a law it is one number a run: quick, with its percentiles known before any run. Where
#'   single occurrences matter, such as the largest, see [occurrences()].
#' @section Errors: `ensayo_error_argument` where `count` is not a law of whole numbers from 0 on, `size` not of numbers, or a
#'   number not in its range.
#' @section Source: Gruebel and Hermesmeier (1999), Computation of compound distributions I, ASTIN Bulletin 29: the transform
#'   of the generating function at tilted frequencies. Moments by cumulants (Daykin, Pentikainen and Pesonen 1994, chapter 3).
#' @family laws
#' @examples
#' repairs <- law_compound(law_poisson(7.5), law_lognormal(mean = 4, sd = 6))
#' quantile(repairs, c(0.1, 0.5, 0.9))
#' # a contract that pays what is above 2 of each repair, and at most 30 in all
#' law_compound(law_poisson(7.5), law_lognormal(mean = 4, sd = 6), deductible = 2, limit_in_all = 30)
#' @export
law_compound <- function(count, size, deductible = 0, limit = Inf, limit_in_all = Inf) {
  if (!missing(size) && is.numeric(size) && length(size) == 1 && is.finite(size)) size <- law_discrete(size)
  make_law("compound", as.list(environment()))
}

family_compound <- list(
  title = "Compound sum",
  about = "The sum of a count of independent sizes: bursts in a year, each with its own cost.",
  kind = "derived",
  parameters = c(count = "law", size = "law", deductible = "number", limit = "limit", limit_in_all = "limit"),
  check = function(par, call) check_compound(par, call),
  discrete = function(par) !is.null(sizes_on_grid(par)),
  canonical = function(par) compound_of(par),
  dear = TRUE,
  composed = function(par) is.null(par$inverse),
  rough = function(par) {
    two <- pmin(par$table$rough, par$most)
    if (two[1] < two[2]) two else range(par$most * c(0.5, 1))
  },
  quantile = function(par, p, lower) compound_quantile(par, p, lower),
  kept = TRUE,
  table_error = 1e-8,
  quick_mean = function(parameters) {
    if (is.finite(parameters$limit_in_all)) return(mean(new_law("compound", parameters)))
    kept <- kept_part(ready_law(parameters$size), parameters$deductible, parameters$limit)
    if (is.null(kept)) 0 else mean(parameters$count) * kept$share * ask(kept$one, "moments")[["mean"]]
  },
  cumulative = function(par, x, lower, log) compound_tail(par, x, lower, log, "cumulative"),
  strict = function(par, x, lower, log) compound_tail(par, x, lower, log, "strict"),
  density = function(par, x, log) {
    d <- compound_density(par, x)
    d[x %in% par$points$values] <- Inf
    d[!is.na(x) & x > par$most] <- 0
    if (log) base::log(d) else d
  },
  kinks = function(par) {
    own <- c(ask(par$one, "kinks"), ask(par$one, "support"))
    at <- outer(Filter(is.finite, own), par$repeats$each * (seq_along(par$repeats$weights) - 1), `+`)
    Filter(function(x) x < par$most, c(0, at))
  },
  atoms = function(par) par$points,
  tail_index = function(par) {
    index <- pmin(ask(par$one, "tail_index"), ask(par$count, "tail_index")[2])
    if (is.finite(par$most)) c(index[1], Inf) else index
  },
  moments = function(par) {
    if (is.finite(par$most)) return(integrated_moments(new_ready_law(family_compound[names(family_compound) != "moments"], par)))
    summed_moments(par$thinned, ask(par$one, "moments"))
  },
  peaks = function(par) par$table$rough,
  support = function(par) c(par$ends[1], min(par$ends[2], par$most))
)

check_compound <- function(par, call) {
  count <- par$count
  whole <- is_discrete(count) && !is_categorical(count)
  ends <- if (whole) support(count)
  if (whole && family_record(family_name(count))$kind != "discrete" || whole && family_name(count) == "discrete") {
    whole <- all(points_of(count)$values %% 1 == 0)
  }
  if (!whole || ends[[1]] < 0) {
    stop_argument("count", "a law of whole numbers from 0 on", count, "Such as `law_poisson(7.5)`.", call)
  }
  check_of_numbers(list(of = par$size), call)
  if (par$deductible < 0) stop_argument("deductible", "a number of at least 0", par$deductible, call = call)
  for (name in c("limit", "limit_in_all")) {
    if (par[[name]] <= 0) stop_argument(name, "a number above 0, or Inf", par[[name]], call = call)
  }
  if (is.finite(par$limit_in_all) && support(par$size)[[1]] < 0 && par$deductible == 0) {
    stop_ensayo("argument", "With a limit in all, sizes must not be below 0.", sprintf("They run from %s.",
      shown_value(support(par$size)[[1]])), "Cut them first: `law_truncated(size, min = 0)`.", argument = "size", call = call)
  }
}

# The law as it is calculated with: occurrences that leave something (`thinned`: the cumulants of their number), what one leaves
# (`one`), the probabilities of none and of a single one, values with a probability of their own, and a table of the rest.
compound_of <- function(par) {
  ends <- ask(par$size, "support")
  if (ends[2] <= 0 && par$deductible == 0) return(if (ends[1] == 0) pointed_law(0, 1) else compound_of_returns(par))
  kept <- kept_part(par$size, par$deductible, par$limit)
  if (is.null(kept)) return(pointed_law(0, 1))
  grid <- points_on_grid(kept$one)
  count <- generating_function(par$count)
  if (!is.null(grid)) return(pointed_compound(count, kept, grid, par$limit_in_all))
  compound_tables(par$count, count, kept, par$limit_in_all)
}

# What is paid back is the sum of sizes above 0 with its sign turned; no limit stands in its way.
compound_of_returns <- function(par) {
  par$size <- ready_scaled(par$size, -1, 0)
  par$limit <- Inf
  sum <- compound_of(par)
  ready_scaled(if (is_ready(sum)) sum else new_ready_law(family_compound, sum), -1, 0)
}

# What one occurrence leaves, of those that leave something, and how likely it is to.
kept_part <- function(size, deductible, limit) {
  if (deductible == 0 && limit == Inf) return(list(one = size, share = 1))
  share <- ask(size, "cumulative", deductible, FALSE, FALSE)
  if (share <= 0) return(NULL)
  if (size$discrete) {
    points <- points_of(size, min = deductible)
    left <- pmin(points$values - deductible, limit)
    at <- left > 0
    values <- sort(unique(left[at]))
    one <- pointed_law(values, vapply(values, function(value) sum(points$shares[at & left == value]), 0))
    return(list(one = one, share = share))
  }
  all_cut <- ask(size, "strict", deductible + limit, FALSE, FALSE) >= share * (1 - 1e-15)
  if (all_cut) return(list(one = pointed_law(limit, 1), share = share))
  list(one = new_ready_law(kept_size, list(of = size, from = deductible, most = limit, share = share)), share = share)
}

# What is left of a size above a deductible, at most a limit, where something is left.
kept_size <- list(
  title = "Kept size",
  quantile = function(par, p, lower) {
    pmin(pmax(ask(par$of, "quantile", par$share * (if (lower) 1 - p else p), FALSE) - par$from, 0), par$most)
  },
  cumulative = function(par, x, lower, log) kept_tail(par, x, lower, log, "cumulative"),
  strict = function(par, x, lower, log) kept_tail(par, x, lower, log, "strict"),
  density = function(par, x, log) {
    d <- ask(par$of, "density", x + par$from, FALSE) / par$share
    d[!is.na(x) & (x < 0 | x > par$most)] <- 0
    if (is.finite(par$most)) d[x == par$most] <- Inf
    if (log) base::log(d) else d
  },
  kinks = function(par) {
    at <- c(ask(par$of, "kinks"), ask(par$of, "support")) - par$from
    Filter(function(x) is.finite(x) && x > 0 && x < par$most, at)
  },
  atoms = function(par) {
    atoms <- ask(par$of, "atoms")
    inside <- atoms$values > par$from & atoms$values < par$from + par$most
    points <- list(values = atoms$values[inside] - par$from, shares = atoms$shares[inside] / par$share)
    if (is.infinite(par$most)) return(points)
    list(values = c(points$values, par$most), shares = c(points$shares, kept_tail(par, par$most, FALSE, FALSE, "strict")))
  },
  tail_index = function(par) c(Inf, if (is.finite(par$most)) Inf else ask(par$of, "tail_index")[2]),
  support = function(par) pmin(pmax(ask(par$of, "support") - par$from, 0), par$most)
)

kept_tail <- function(par, x, lower, log, question) {
  at <- pmax(x, 0) + par$from
  tail <- if (!lower) ask(par$of, question, at, FALSE, FALSE)
    else pmax(ask(par$of, question, at, TRUE, FALSE) - ask(par$of, "cumulative", par$from, TRUE, FALSE), 0)
  tail <- pmin(tail / par$share, 1)
  strict <- question == "strict"
  tail[which(if (strict) x <= 0 else x < 0)] <- if (lower) 0 else 1
  tail[which(if (strict) x > par$most else x >= par$most)] <- if (lower) 1 else 0
  if (log) base::log(tail) else tail
}

# Mean, variance, skewness and excess kurtosis of a sum, from the cumulants of how many there are and the moments of one.
summed_moments <- function(count, one) {
  m <- one[["mean"]]
  v <- one[["variance"]]
  third <- if (v == 0) 0 else one[["skewness"]] * v^1.5
  fourth <- if (v == 0) 0 else one[["excess_kurtosis"]] * v^2
  variance <- count[1] * v + count[2] * m^2
  c(mean = count[1] * m, variance = variance,
    skewness = (count[1] * third + 3 * count[2] * v * m + count[3] * m^3) / variance^1.5,
    excess_kurtosis = (count[1] * fourth + count[2] * (4 * third * m + 3 * v^2) + 6 * count[3] * v * m^2 + count[4] * m^4) / variance^2)
}
