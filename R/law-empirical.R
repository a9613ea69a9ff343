#' Empirical law
#'
#' `r family_empirical$about`
#'
#' @param data Numbers: the observations, in the input's unit; `NA` is an error.
#' @param interpolate `FALSE`: values that occurred, each with its share; `TRUE`: values between them too, along a
#'   straight line from each observation to the next, and none outside them.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where `data` are not finite numbers, or all of them are equal.
#' @section Source: interpolated, the cumulative probability rises from 0 at the smallest to 1 at the largest of n
#'   different values in equal steps of 1 / (n - 1) (JCGM 101:2008, 6.4.10 and D); a value that occurred k times keeps
#'   k - 1 of these steps for itself.
#' @family laws
#' @examples
#' readings <- c(61.2, 61.9, 61.4, 61.5, 61.1, 61.8)
#' law_empirical(readings)
#' law_empirical(readings, interpolate = TRUE)
#' @export
law_empirical <- function(data, interpolate = FALSE) make_law("empirical", as.list(environment()))

family_empirical <- list(
  title = "Empirical",
  about = "Observations, taken as they are.",
  kind = "data",
  discrete = function(par) !par$interpolate,
  parameters = c(data = "numbers", interpolate = "flag"),
  check = function(par, call) {
    if (min(par$data) == max(par$data)) stop_argument("data", "of more than one value", par$data[1], constant_hint,
      call)
  },
  canonical = function(par) {
    if (par$interpolate) return(list(sorted = sort(par$data)))
    values <- sort(unique(par$data))
    pointed_law(values, tabulate(match(par$data, values), length(values)))
  },
  atoms = function(par) {
    runs <- rle(par$sorted)
    often <- runs$lengths > 1
    list(values = runs$values[often], shares = (runs$lengths[often] - 1) / (length(par$sorted) - 1))
  },
  kinks = function(par) unique(par$sorted),
  quantile = function(par, p, lower) {
    n <- length(par$sorted)
    from_low <- (n - 1) * (if (lower) p else 1 - p)
    i <- pmin(floor(from_low), n - 2)
    low <- par$sorted[i + 1]
    low + (from_low - i) * (par$sorted[i + 2] - low)
  },
  cumulative = function(par, x, lower, log) interpolated_tail(par$sorted, x, lower, log),
  # turned round, below x is above -x
  strict = function(par, x, lower, log) interpolated_tail(rev(-par$sorted), -x, !lower, log),
  density = function(par, x, log) {
    n <- length(par$sorted)
    gaps <- diff(par$sorted)
    i <- pmin(pmax(findInterval(x, par$sorted, rightmost.closed = TRUE), 1), n - 1)
    d <- ifelse(x < par$sorted[1] | x > par$sorted[n], 0, 1 / (n - 1) / gaps[i])
    d[x %in% family_empirical$atoms(par)$values] <- Inf
    if (log) log(d) else d
  },
  # each step is a uniform law between two observations
  moments = function(par) {
    n <- length(par$sorted)
    centre <- par$sorted[1]
    middle <- (par$sorted[-1] - centre) / 2 + (par$sorted[-n] - centre) / 2
    half2 <- (diff(par$sorted) / 2)^2
    mean <- mean(middle)
    off <- middle - mean
    variance <- mean(off^2 + half2 / 3)
    c(mean = centre + mean, variance = variance, skewness = mean(off^3 + off * half2) / variance^1.5,
      excess_kurtosis = mean(off^4 + 2 * off^2 * half2 + half2^2 / 5) / variance^2 - 3)
  },
  mode = function(par) {
    atoms <- family_empirical$atoms(par)
    if (length(atoms$values)) only_highest(atoms$values, atoms$shares) else NA_real_
  },
  support = function(par) range(par$sorted)
)

# At most x: the steps up to the last observation that is not above it, and part of the next.
interpolated_tail <- function(sorted, x, lower, log) {
  n <- length(sorted)
  outside <- which(x < sorted[1])
  x <- pmin(pmax(x, sorted[1]), sorted[n])
  i <- pmin(findInterval(x, sorted), n - 1)
  gap <- sorted[i + 1] - sorted[i]
  part <- ifelse(gap > 0, (x - sorted[i]) / gap, 1)
  part[x == sorted[n]] <- 1
  part[outside] <- 0
  i[outside] <- 1
  smaller_tail((i - 1 + part) / (n - 1), (n - i - part) / (n - 1), lower, log)
}
