# Laws of whole numbers.

#' Whole numbers between two
#'
#' `r family_integers$about`
#'
#' @param min,max Whole numbers, `min` below `max`: the least and the greatest.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a limit is not a whole number, or `min` is not below `max`.
#' @family laws
#' @examples
#' law_integers(1, 6)
#' @export
law_integers <- function(min, max) make_law("integers", as.list(environment()))

family_integers <- list(
  title = "Integers",
  about = "Whole numbers from one to another, all equally likely.",
  kind = "discrete",
  parameters = c(min = "whole", max = "whole"),
  check = function(par, call) check_limits(par, call),
  quantile = function(par, p, lower) {
    count <- par$max - par$min + 1
    x <- if (lower) par$min + ceiling(p * count) - 1 else par$max - floor(p * count)
    exact_whole(pmin(pmax(x, par$min), par$max), p, lower, function(x, lower) {
      family_integers$cumulative(par, x, lower, FALSE)
    }, par$min)
  },
  cumulative = function(par, x, lower, log) {
    count <- par$max - par$min + 1
    at_most <- pmin(pmax(floor(x) - par$min + 1, 0), count)
    tail <- (if (lower) at_most else count - at_most) / count
    if (log) log(tail) else tail
  },
  density = function(par, x, log) {
    d <- ifelse(x == floor(x) & x >= par$min & x <= par$max, 1 / (par$max - par$min + 1), 0)
    if (log) log(d) else d
  },
  moments = function(par) {
    n2 <- (par$max - par$min + 1)^2
    c(mean = par$min / 2 + par$max / 2, variance = (n2 - 1) / 12, skewness = 0,
      excess_kurtosis = -6 / 5 * (n2 + 1) / (n2 - 1))
  },
  mode = function(par) NA_real_,
  support = function(par) c(par$min, par$max)
)

#' Bernoulli law
#'
#' `r family_bernoulli$about`
#'
#' @param probability Number above 0 and below 1: the chance of 1.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `probability` is not between 0 and 1.
#' @family laws
#' @examples
#' law_bernoulli(0.15)
#' @export
law_bernoulli <- function(probability) make_law("bernoulli", as.list(environment()))

family_bernoulli <- list(
  title = "Bernoulli",
  about = "Something that happens (1) or not (0).",
  kind = "discrete",
  parameters = c(probability = "share"),
  mode_parameter = function(par) as.double(par$probability > 0.5),  # a yes or no, as a single number, is what is likelier
  elementwise = TRUE,
  quantile = function(par, p, lower) as.double(if (lower) 1 - p < par$probability & p > 0 else p < par$probability),
  cumulative = function(par, x, lower, log) {
    below <- ifelse(x < 0, 0, ifelse(x < 1, 1 - par$probability, 1))
    above <- ifelse(x < 0, 1, ifelse(x < 1, par$probability, 0))
    tail <- if (lower) below else above
    if (log) log(tail) else tail
  },
  density = function(par, x, log) {
    d <- ifelse(x == 1, par$probability, ifelse(x == 0, 1 - par$probability, 0))
    if (log) log(d) else d
  },
  moments = function(par) {
    p <- par$probability
    pq <- p * (1 - p)
    c(mean = p, variance = pq, skewness = (1 - 2 * p) / sqrt(pq), excess_kurtosis = (1 - 6 * pq) / pq)
  },
  mode = function(par) if (par$probability == 0.5) NA_real_ else as.double(par$probability > 0.5),
  support = function(par) c(0, 1)
)

# What binomial, Poisson and their kin share: R's probabilities, quantiles set right to the last count, and no mass
# between whole numbers. `name` is R's suffix, `arguments` what its functions want.
counted_cumulative <- function(name, arguments, x, lower, log) {
  fun <- getExportedValue("stats", paste0("p", name))
  # beyond all counts R's functions lose their way
  do.call(fun, c(list(pmin(floor(x), 1e15)), arguments, list(lower.tail = lower, log.p = log)))
}

counted_quantile <- function(name, arguments, p, lower, min) {
  fun <- getExportedValue("stats", paste0("q", name))
  x <- do.call(fun, c(list(p), arguments, list(lower.tail = lower)))
  exact_whole(x, p, lower, function(x, lower) counted_cumulative(name, arguments, x, lower, FALSE), min)
}

counted_density <- function(name, arguments, x, log) {
  fun <- getExportedValue("stats", paste0("d", name))
  whole <- !is.na(x) & x == floor(x)
  d <- ifelse(is.na(x), NA_real_, if (log) -Inf else 0)
  d[whole] <- do.call(fun, c(list(x[whole]), arguments, list(log = log)))
  d
}

#' Binomial law
#'
#' `r family_binomial$about`
#'
#' @param size Whole number of at least 1: how many tries.
#' @param probability Number above 0 and below 1: the chance of each.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not in its range.
#' @family laws
#' @examples
#' law_binomial(size = 40, probability = 0.05)
#' @export
law_binomial <- function(size, probability) make_law("binomial", as.list(environment()))

family_binomial <- list(
  title = "Binomial",
  about = "How many of a number of tries succeed, each with the same chance.",
  kind = "discrete",
  parameters = c(size = "count", probability = "share"),
  quantile = function(par, p, lower) counted_quantile("binom", list(par$size, par$probability), p, lower, 0),
  cumulative = function(par, x, lower, log) counted_cumulative("binom", list(par$size, par$probability), x, lower, log),
  density = function(par, x, log) counted_density("binom", list(par$size, par$probability), x, log),
  moments = function(par) {
    p <- par$probability
    pq <- p * (1 - p)
    c(mean = par$size * p, variance = par$size * pq, skewness = (1 - 2 * p) / sqrt(par$size * pq),
      excess_kurtosis = (1 - 6 * pq) / (par$size * pq))
  },
  mode = function(par) min(floor((par$size + 1) * par$probability), par$size),
  support = function(par) c(0, par$size)
)

#' Poisson law
#'
#' `r family_poisson$about`
#'
#' @param mean Number above 0: the expected count.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `mean` is not above 0.
#' @family laws
#' @examples
#' bursts <- law_poisson(mean = 7.5)
#' cumulative(bursts, 12, tail = "upper")
#' @export
law_poisson <- function(mean) make_law("poisson", as.list(environment()))

family_poisson <- list(
  title = "Poisson",
  about = "How many events happen in a given time when they come at a steady rate and do not know of each other.",
  kind = "discrete",
  parameters = c(mean = "spread"),
  quantile = function(par, p, lower) counted_quantile("pois", list(par$mean), p, lower, 0),
  cumulative = function(par, x, lower, log) counted_cumulative("pois", list(par$mean), x, lower, log),
  density = function(par, x, log) counted_density("pois", list(par$mean), x, log),
  moments = function(par) {
    c(mean = par$mean, variance = par$mean, skewness = 1 / sqrt(par$mean), excess_kurtosis = 1 / par$mean)
  },
  mode = function(par) floor(par$mean),
  support = function(par) c(0, Inf)
)

#' Negative binomial law
#'
#' `r family_negative_binomial$about` Give `size` and `probability`, or the mean with `size` or `sd`.
#'
#' @param size Number above 0: with whole numbers, the successes waited for; the smaller, the wider the law.
#' @param probability Number above 0 and below 1: the chance of a success; the law is that of the failures before.
#' @param mean,sd Numbers above 0: mean and standard deviation; `sd` above the root of `mean`.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not in its range, or not one of the pairs is given.
#' @section Source: with mean \eqn{m} the variance is \eqn{m + m^2/size} (Johnson, Kemp and Kotz 2005, Univariate
#'   Discrete Distributions, chapter 5).
#' @family laws
#' @examples
#' law_negative_binomial(mean = 7.5, sd = 4)
#' @export
law_negative_binomial <- function(size, probability, mean, sd) make_law("negative_binomial", as.list(environment()))

family_negative_binomial <- list(
  title = "Negative binomial",
  about = "Counts that spread more than a Poisson law lets them, because the rate itself varies.",
  kind = "discrete",
  parameters = c(size = "positive", probability = "share", mean = "positive", sd = "positive"),
  forms = list(c("size", "probability"), c("mean", "size"), c("mean", "sd")),
  check = function(par, call) {
    if (is.null(par[["sd"]])) return(invisible())
    check_number(par$sd, "sd", above = sqrt(par$mean), call = call,
      mend = "Counts that spread less than that are not negative binomial; `law_poisson()` has sd = sqrt(mean).")
  },
  start = function(mean, sd, held) {
    size <- mean^2 / max(sd^2 - mean, mean / 100)
    list(size = size, probability = size / (size + mean))
  },
  canonical = function(par) {
    if (is.null(par[["mean"]])) return(par)
    size <- par[["size"]] %||% (par$mean / ((par$sd - sqrt(par$mean)) * (par$sd + sqrt(par$mean)) / par$mean))
    list(size = size, probability = size / (size + par$mean))
  },
  quantile = function(par, p, lower) counted_quantile("nbinom", list(par$size, par$probability), p, lower, 0),
  cumulative = function(par, x, lower, log) counted_cumulative("nbinom", list(par$size, par$probability), x, lower,
    log),
  density = function(par, x, log) counted_density("nbinom", list(par$size, par$probability), x, log),
  moments = function(par) {
    p <- par$probability
    over <- par$size * (1 - p)
    c(mean = over / p, variance = over / p^2, skewness = (2 - p) / sqrt(over), excess_kurtosis = 6 / par$size +
      p^2 / over)
  },
  mode = function(par) if (par$size <= 1) 0 else floor((par$size - 1) * (1 - par$probability) / par$probability),
  support = function(par) c(0, Inf)
)

#' Geometric law
#'
#' `r family_geometric$about`
#'
#' @inheritParams law_bernoulli
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `probability` is not between 0 and 1.
#' @family laws
#' @examples
#' law_geometric(0.2)
#' @export
law_geometric <- function(probability) make_law("geometric", as.list(environment()))

family_geometric <- list(
  title = "Geometric",
  about = "How many tries fail before the first success.",
  kind = "discrete",
  parameters = c(probability = "share"),
  quantile = function(par, p, lower) counted_quantile("geom", list(par$probability), p, lower, 0),
  cumulative = function(par, x, lower, log) counted_cumulative("geom", list(par$probability), x, lower, log),
  density = function(par, x, log) counted_density("geom", list(par$probability), x, log),
  moments = function(par) family_negative_binomial$moments(list(size = 1, probability = par$probability)),
  mode = function(par) 0,
  support = function(par) c(0, Inf)
)

#' Hypergeometric law
#'
#' `r family_hypergeometric$about`
#'
#' @param marked,unmarked Whole numbers of at least 1: how many of each kind there are.
#' @param drawn Whole number of at least 1, below their sum: how many are drawn without putting back.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a parameter is not in its range.
#' @section Source: Johnson, Kemp and Kotz (2005), Univariate Discrete Distributions, chapter 6.
#' @family laws
#' @examples
#' law_hypergeometric(marked = 6, unmarked = 44, drawn = 10)
#' @export
law_hypergeometric <- function(marked, unmarked, drawn) make_law("hypergeometric", as.list(environment()))

family_hypergeometric <- list(
  title = "Hypergeometric",
  about = "How many marked pieces turn up in a sample drawn without putting back.",
  kind = "discrete",
  parameters = c(marked = "count", unmarked = "count", drawn = "count"),
  check = function(par, call) {
    check_count(par$drawn, "drawn", at_most = par$marked + par$unmarked - 1, call = call)
  },
  quantile = function(par, p, lower) counted_quantile("hyper", list(par$marked, par$unmarked, par$drawn), p, lower,
    max(0, par$drawn - par$unmarked)),
  cumulative = function(par, x, lower, log) counted_cumulative("hyper", list(par$marked, par$unmarked, par$drawn), x,
    lower, log),
  density = function(par, x, log) counted_density("hyper", list(par$marked, par$unmarked, par$drawn), x, log),
  moments = function(par) {
    k <- par$marked
    n <- par$drawn
    total <- k + par$unmarked
    spread <- n * k * par$unmarked * (total - n)
    c(
      mean = n * (k / total), variance = n * (k / total) * (par$unmarked / total) * ((total - n) / (total - 1)),
      skewness = if (total == 2) 0 else (total - 2 * k) * sqrt(total - 1) * (total - 2 * n) / (sqrt(spread) * (total - 2)),
      excess_kurtosis = if (total <= 3) weighted_moments(0:n,
        stats::dhyper(0:n, k, par$unmarked, n))[["excess_kurtosis"]]
      else ((total - 1) * total^2 * (total * (total + 1) - 6 * k * par$unmarked - 6 * n * (total - n)) +
        6 * spread * (5 * total - 6)) / (spread * (total - 2) * (total - 3))
    )
  },
  mode = function(par) floor((par$drawn + 1) * ((par$marked + 1) / (par$marked + par$unmarked + 2))),
  support = function(par) c(max(0, par$drawn - par$unmarked), min(par$drawn, par$marked))
)
