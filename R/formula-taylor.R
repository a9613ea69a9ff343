# Numbers that carry their derivatives: truncated Taylor series of order 3 along several directions at once. With x(t) = x + t d
# for a direction d, a quantity y(t) = c0 + c1 t + c2 t^2 + c3 t^3 is kept as its coefficients: c0 one number, the others one
# for each direction. Operations on them are exact, so that derivatives have all digits; the recurrences are those of
# Griewank and Walther 2008, "Evaluating Derivatives", chapter 13. R's own operators and functions find the methods below, so
# formulas and functions of the user's own go through unchanged.
#
# Where a function has a kink or a jump at the very point, it signals the condition `ensayo_kink` with the directions that
# cross it; where no derivative is known, `ensayo_undifferentiable`.

new_taylor <- function(c0, c1, c2 = 0 * c1, c3 = 0 * c1) {
  structure(list(c0 = c0, c1 = c1, c2 = c2, c3 = c3), class = "ensayo_taylor")
}

is_taylor <- function(x) inherits(x, "ensayo_taylor")

value_of_taylor <- function(x) if (is_taylor(x)) .subset2(x, "c0") else x

# A single plain number as a series that does not move.
as_taylor <- function(x) {
  if (is_taylor(x)) return(unclass(x))
  if (!(is.numeric(x) || is.logical(x)) || length(x) != 1) stop_undifferentiable(sprintf("%s stands beside it", shown_value(x)))
  list(c0 = as.double(x), c1 = 0, c2 = 0, c3 = 0)
}

stop_undifferentiable <- function(why) leave_for("undifferentiable", why)

# `moves` are the directions that cross the kink.
note_kink <- function(words, moves) {
  if (any(moves)) rlang::signal(words, class = "ensayo_kink", moves = moves)
}

# f(x) from f, f', f''/2 and f'''/6 at the point.
composed <- function(x, f0, f1, f2, f3) {
  x <- unclass(x)
  new_taylor(f0, f1 * x$c1, f1 * x$c2 + f2 * x$c1^2, f1 * x$c3 + 2 * f2 * x$c1 * x$c2 + f3 * x$c1^3)
}

#' @export
Ops.ensayo_taylor <- function(e1, e2) {
  if (missing(e2)) {
    x <- unclass(e1)
    return(switch(.Generic, `+` = e1, `-` = new_taylor(-x$c0, -x$c1, -x$c2, -x$c3), `!` = !as.logical(x$c0)))
  }
  if (.Generic %in% c("&", "|")) return(do.call(.Generic, list(as.logical(value_of_taylor(e1)), as.logical(value_of_taylor(e2)))))
  if (.Generic == "^") return(taylor_power(e1, e2))
  a <- as_taylor(e1)
  b <- as_taylor(e2)
  switch(.Generic,
    `+` = new_taylor(a$c0 + b$c0, a$c1 + b$c1, a$c2 + b$c2, a$c3 + b$c3),
    `-` = new_taylor(a$c0 - b$c0, a$c1 - b$c1, a$c2 - b$c2, a$c3 - b$c3),
    `*` = taylor_product(a, b),
    `/` = taylor_quotient(a, b),
    `%/%` = taylor_floor(taylor_quotient(a, b)),
    `%%` = taylor_remainder(e1, e2),
    taylor_comparison(.Generic, a, b))
}

taylor_product <- function(a, b) {
  new_taylor(a$c0 * b$c0, a$c0 * b$c1 + a$c1 * b$c0, a$c0 * b$c2 + a$c1 * b$c1 + a$c2 * b$c0,
    a$c0 * b$c3 + a$c1 * b$c2 + a$c2 * b$c1 + a$c3 * b$c0)
}

taylor_quotient <- function(a, b) {
  c0 <- a$c0 / b$c0
  c1 <- (a$c1 - c0 * b$c1) / b$c0
  c2 <- (a$c2 - c0 * b$c2 - c1 * b$c1) / b$c0
  new_taylor(c0, c1, c2, (a$c3 - c0 * b$c3 - c1 * b$c2 - c2 * b$c1) / b$c0)
}

taylor_remainder <- function(e1, e2) e1 - e2 * taylor_floor(e1 / e2)

taylor_power <- function(base, exponent) {
  x <- value_of_taylor(base)
  p <- value_of_taylor(exponent)
  if (is_taylor(exponent) && any(as_taylor(exponent)$c1 != 0)) {
    # both move: exp(p log x), its value as R has it
    made <- if (is_taylor(base)) exp(exponent * log(base)) else exp(exponent * base::log(base))
    made[["c0"]] <- x^p
    return(made)
  }
  if (!is_taylor(base)) return(new_taylor(x^p, 0 * as_taylor(exponent)$c1))
  # p (p - 1) ... / k! x^(p - k), which is 0 for whole p below k, also at x = 0
  factors <- c(p, p * (p - 1) / 2, p * (p - 1) * (p - 2) / 6)
  terms <- ifelse(factors == 0, 0, factors * x^(p - 1:3))
  composed(base, x^p, terms[1], terms[2], terms[3])
}

taylor_comparison <- function(operator, a, b) {
  if (isTRUE(a$c0 == b$c0)) {
    note_kink(sprintf("two sides of `%s` are equal there", operator), a$c1 != b$c1 | a$c2 != b$c2 | a$c3 != b$c3)
  }
  do.call(operator, list(a$c0, b$c0))
}

taylor_floor <- function(x) stepped_taylor(x, base::floor)

# Functions that stay at a value and jump.
stepped_taylor <- function(x, f, at = function(x) x == base::round(x), name = "floor") {
  parts <- unclass(x)
  if (isTRUE(at(parts$c0))) note_kink(sprintf("`%s()` jumps there", name), parts$c1 != 0)
  new_taylor(f(parts$c0), 0 * parts$c1)
}

#' @export
Math.ensayo_taylor <- function(x, ...) {
  at <- unclass(x)$c0
  if (.Generic %in% names(taylor_steps)) {
    return(stepped_taylor(x, function(value) do.call(.Generic, list(value, ...)), function(value) taylor_steps[[.Generic]](value, ...), .Generic))
  }
  if (.Generic == "abs") return(taylor_abs(x))
  if (.Generic == "log" && ...length()) return(log(x) / log(..1))
  known <- taylor_functions[[.Generic]]
  if (is.null(known)) stop_undifferentiable(sprintf("`%s()` has no derivatives here", .Generic))
  f <- known(at)
  composed(x, do.call(.Generic, list(at)), f[1], f[2], f[3])
}

# Where each of them jumps.
taylor_steps <- list(
  floor = function(x) x == base::round(x), ceiling = function(x) x == base::round(x),
  trunc = function(x) x != 0 && x == base::round(x), sign = function(x) x == 0,
  round = function(x, digits = 0) {
    scaled <- x * 10^digits
    abs(scaled - base::floor(scaled) - 0.5) < 1e-9 * max(1, abs(scaled))
  },
  signif = function(x, digits = 6) x != 0 && taylor_steps$round(x, digits - 1 - base::floor(base::log10(abs(x))))
)

taylor_abs <- function(x) {
  parts <- unclass(x)
  if (isTRUE(parts$c0 == 0)) note_kink("`abs()` has a kink there", parts$c1 != 0)
  if (isTRUE(parts$c0 < 0)) -x else x
}

# f', f''/2 and f'''/6.
taylor_functions <- list(
  sqrt = function(x) c(0.5, -0.125 / x, 0.0625 / x^2) / sqrt(x),
  exp = function(x) exp(x) / c(1, 2, 6),
  expm1 = function(x) exp(x) / c(1, 2, 6),
  log = function(x) c(1 / x, -0.5 / x^2, 1 / (3 * x^3)),
  log2 = function(x) c(1 / x, -0.5 / x^2, 1 / (3 * x^3)) / log(2),
  log10 = function(x) c(1 / x, -0.5 / x^2, 1 / (3 * x^3)) / log(10),
  log1p = function(x) c(1 / (1 + x), -0.5 / (1 + x)^2, 1 / (3 * (1 + x)^3)),
  sin = function(x) c(cos(x), -sin(x) / 2, -cos(x) / 6),
  cos = function(x) c(-sin(x), -cos(x) / 2, sin(x) / 6),
  tan = function(x) { t <- tan(x); c(1 + t^2, t * (1 + t^2), (1 + t^2) * (1 + 3 * t^2) / 3) },
  sinpi = function(x) c(cospi(x), -sinpi(x) / 2, -cospi(x) / 6) * pi^(1:3),
  cospi = function(x) c(-sinpi(x), -cospi(x) / 2, sinpi(x) / 6) * pi^(1:3),
  tanpi = function(x) { t <- tanpi(x); c(1 + t^2, t * (1 + t^2), (1 + t^2) * (1 + 3 * t^2) / 3) * pi^(1:3) },
  asin = function(x) { d <- 1 - x^2; c(d^-0.5, x * d^-1.5 / 2, (1 + 2 * x^2) * d^-2.5 / 6) },
  acos = function(x) { d <- 1 - x^2; -c(d^-0.5, x * d^-1.5 / 2, (1 + 2 * x^2) * d^-2.5 / 6) },
  atan = function(x) { d <- 1 + x^2; c(1 / d, -x / d^2, (3 * x^2 - 1) / (3 * d^3)) },
  sinh = function(x) c(cosh(x), sinh(x) / 2, cosh(x) / 6),
  cosh = function(x) c(sinh(x), cosh(x) / 2, sinh(x) / 6),
  tanh = function(x) { t <- tanh(x); c(1 - t^2, -t * (1 - t^2), (1 - t^2) * (3 * t^2 - 1) / 3) },
  asinh = function(x) { d <- 1 + x^2; c(d^-0.5, -x * d^-1.5 / 2, (2 * x^2 - 1) * d^-2.5 / 6) },
  acosh = function(x) { d <- x^2 - 1; c(d^-0.5, -x * d^-1.5 / 2, (2 * x^2 + 1) * d^-2.5 / 6) },
  atanh = function(x) { d <- 1 - x^2; c(1 / d, x / d^2, (1 + 3 * x^2) / (3 * d^3)) },
  gamma = function(x) {
    psi <- c(digamma(x), trigamma(x), psigamma(x, 2))
    gamma(x) * c(psi[1], (psi[1]^2 + psi[2]) / 2, (psi[1]^3 + 3 * psi[1] * psi[2] + psi[3]) / 6)
  },
  lgamma = function(x) c(digamma(x), trigamma(x) / 2, psigamma(x, 2) / 6),
  digamma = function(x) psigamma(x, 1:3) / c(1, 2, 6),
  trigamma = function(x) psigamma(x, 2:4) / c(1, 2, 6)
)

# The one that is larger, or smaller; at a tie the first, and the directions in which they part cross a kink.
taylor_larger <- function(a, b, sign = 1) {
  if (!is_taylor(a) && !is_taylor(b)) return(if (sign > 0) pmax(a, b) else pmin(a, b))
  left <- as_taylor(a)
  right <- as_taylor(b)
  if (isTRUE(left$c0 == right$c0)) {
    note_kink(sprintf("`%s()` has a tie there", if (sign > 0) "max" else "min"), left$c1 != right$c1)
  }
  if (is.na(left$c0) || isTRUE(sign * left$c0 >= sign * right$c0)) a else b
}

# What R has for several numbers, for these and plain ones together.
taylor_summaries <- list(
  max = function(..., na.rm = FALSE) Reduce(taylor_larger, list(...)),
  min = function(..., na.rm = FALSE) Reduce(function(a, b) taylor_larger(a, b, -1), list(...)),
  sum = function(..., na.rm = FALSE) Reduce(`+`, list(...)),
  prod = function(..., na.rm = FALSE) Reduce(`*`, list(...)),
  any = function(..., na.rm = FALSE) any(vapply(list(...), function(x) as.logical(value_of_taylor(x)), NA)),
  all = function(..., na.rm = FALSE) all(vapply(list(...), function(x) as.logical(value_of_taylor(x)), NA))
)

#' @export
Summary.ensayo_taylor <- function(..., na.rm = FALSE) {
  known <- taylor_summaries[[.Generic]]
  if (is.null(known)) stop_undifferentiable(sprintf("`%s()` has no derivatives here", .Generic))
  known(...)
}

#' @export
mean.ensayo_taylor <- function(x, ...) x

#' @export
length.ensayo_taylor <- function(x) 1L

#' @export
is.na.ensayo_taylor <- function(x) is.na(.subset2(x, "c0"))

#' @export
as.logical.ensayo_taylor <- function(x, ...) as.logical(.subset2(x, "c0"))

# Several of them are a list, with which nothing can be calculated; whatever takes one apart does not know what it holds.
#' @export
c.ensayo_taylor <- function(...) list(...)

#' @export
as.double.ensayo_taylor <- function(x, ...) stop_undifferentiable("its number is taken out")

#' @export
`[.ensayo_taylor` <- function(x, i, ...) if (identical(as.double(i), 1)) x else stop_undifferentiable("`[` picks from it")
