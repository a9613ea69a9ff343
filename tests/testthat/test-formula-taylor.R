# Taylor numbers: derivatives against symbolic ones, and against R's own values.

# First to third derivative along x of an expression in x, at a point, by our arithmetic.
along_x <- function(expr, at) {
  formula <- ensayo:::read_formula(rlang::new_quosure(expr, globalenv()), c("x", "y"), "y")
  columns <- list(x = ensayo:::new_taylor(at, 1), y = 0.7)
  unclass(ensayo:::evaluate_taylor(formula, columns, ensayo:::taylor_language()))
}

symbolic <- function(expr, at) {
  env <- list(x = at, y = 0.7)
  first <- D(expr, "x")
  second <- D(first, "x")
  c(eval(expr, env), eval(first, env), eval(second, env), eval(D(second, "x"), env))
}

test_that("derivatives of all functions are those of symbolic differentiation", {
  cases <- list(quote(exp(x)), quote(log(x)), quote(sqrt(x)), quote(sin(x)), quote(cos(x)), quote(tan(x)), quote(asin(x)), quote(acos(x)), quote(atan(x)),
    quote(sinh(x)), quote(cosh(x)), quote(log1p(x)), quote(expm1(x)), quote(log2(x)), quote(log10(x)), quote(x^3), quote(x^2.5), quote(2^x), quote(x^x),
    quote(1 / x), quote((1 + x) / (2 - x^2)), quote(pnorm(x)), quote(dnorm(x)), quote(gamma(x + 1)), quote(lgamma(x + 2)), quote(digamma(x + 1)),
    quote(sinpi(x)), quote(cospi(x)), quote(tanpi(x)), quote(exp(-x^2) * sin(3 * x) / (1 + x)), quote(-x + x * y - (+x)), quote(sqrt(1 + x^2)^3))
  for (expr in cases) for (at in c(0.31, 0.62)) {
    # differentiation of gamma functions goes no further than psigamma
    ours <- along_x(expr, at)
    theirs <- symbolic(expr, at)
    expect_equal(c(ours$c0, ours$c1, 2 * ours$c2, 6 * ours$c3), theirs, tolerance = 1e-12, label = deparse1(expr))
  }
  # what D() does not know: against functions that it does
  expect_equal(unlist(along_x(quote(tanh(x)), 0.4)), unlist(along_x(quote(sinh(x) / cosh(x)), 0.4)), tolerance = 1e-13)
  expect_equal(unlist(along_x(quote(asinh(x)), 0.4)), unlist(along_x(quote(log(x + sqrt(x^2 + 1))), 0.4)), tolerance = 1e-13)
  expect_equal(unlist(along_x(quote(acosh(x)), 1.4)), unlist(along_x(quote(log(x + sqrt(x^2 - 1))), 1.4)), tolerance = 1e-12)
  expect_equal(unlist(along_x(quote(atanh(x)), 0.4)), unlist(along_x(quote(log((1 + x) / (1 - x)) / 2), 0.4)), tolerance = 1e-13)
  expect_equal(unlist(along_x(quote(atan2(x, y)), 0.4)), unlist(along_x(quote(atan(x / y)), 0.4)), tolerance = 1e-13)
  expect_equal(unlist(along_x(quote(beta(x, 2)), 0.4)), unlist(along_x(quote(gamma(x) * gamma(2) / gamma(x + 2)), 0.4)), tolerance = 1e-12)
  expect_equal(unlist(along_x(quote(choose(x, 2)), 5.4)), unlist(along_x(quote(x * (x - 1) / 2), 5.4)), tolerance = 1e-12)
  expect_equal(along_x(quote(qnorm(pnorm(x, 1, 2), 1, 2)), 0.4)[c("c1", "c2", "c3")], list(c1 = 1, c2 = 0, c3 = 0), tolerance = 1e-11)
  expect_equal(along_x(quote(log(x, 3)), 0.4)$c1, 1 / 0.4 / log(3), tolerance = 1e-14)
})

test_that("values are those of R, to the last bit, and powers hold at 0 and below", {
  for (expr in list(quote(x^3), quote(x %% 0.3), quote(x %/% 0.3), quote(round(x, 1)), quote(min(x, y, 3)), quote(mean(x, y)), quote(if (x > 0.1) x else -x))) {
    expect_identical(along_x(expr, 0.431)$c0, as.double(ensayo:::new_evaluator(list(y = ensayo:::read_formula(rlang::new_quosure(expr, globalenv()),
      c("x", "y"), "y")))(list(x = 0.431, y = 0.7), 1)$values$y))
  }
  expect_equal(unname(unlist(along_x(quote(x^2), 0))), c(0, 0, 1, 0))
  expect_equal(unname(unlist(along_x(quote(x^3), -2))), c(-8, 12, -6, 1))
  expect_equal(unname(unlist(along_x(quote((x - 2)^0), 2))), c(1, 0, 0, 0))
})

budget_of <- function(f, ...) {
  inputs <- list(...)
  study("t") |> add_inputs(!!!inputs) |> add_outputs(y = !!f) |> budget()
}

test_that("first, second and mixed derivatives of a budget are exact", {
  at <- c(a = 1.3, b = -0.4, c = 2.2)
  f <- quote(a^2 * exp(b) / c + sin(a * b * c))
  laws <- lapply(at, law_normal, sd = 0.01)
  b <- rlang::exec(budget_of, f, !!!laws)
  d <- b$derivatives
  env <- as.list(at)
  names <- names(at)
  second <- outer(names, names, Vectorize(function(i, j) eval(D(D(f, i), j), env)))
  third <- outer(names, names, Vectorize(function(i, j) eval(D(D(D(f, i), j), j), env)))
  expect_true(d$exact)
  expect_equal(d$first, 0.01 * vapply(names, function(i) eval(D(f, i), env), 0), ignore_attr = TRUE, tolerance = 1e-13)
  expect_equal(d$second, 1e-4 * second, tolerance = 1e-12)
  expect_equal(d$third, 1e-6 * third, tolerance = 1e-11)
  # scales that differ by many orders
  wide <- budget_of(quote(a * b^2), a = law_normal(1e8, 1e3), b = law_normal(1e-6, 1e-9))
  expect_equal(wide$derivatives$second[1, 2], 1e3 * 1e-9 * 2e-6, tolerance = 1e-9)
})

test_that("functions of the user's own are differentiated, or found by differences where they take numbers apart", {
  newton <- function(a) {
    x <- a
    for (i in 1:30) x <- x - (x^3 - a) / (3 * x^2)
    x
  }
  helper <- function(x, y) if (x > y) x * y else x + y
  through <- function(x) helper(x, 2) + max(x, 1) + ifelse(x > 0, x^2, 0)
  s <- study("f") |> add_inputs(a = law_normal(8, 0.1)) |> add_outputs(y = newton(a), z = through(a))
  b <- budget(s, y)
  expect_true(b$derivatives$exact)
  expect_equal(as.data.frame(b)$sensitivity, 8^(-2 / 3) / 3, tolerance = 1e-12)
  expect_equal(as.data.frame(budget(s, z))$sensitivity, 2 + 1 + 16, tolerance = 1e-13)
  silent <- function(x) {
    y <- numeric(2)
    y[1] <- x
    as.numeric(y[1])^2
  }
  apart <- budget(study("f") |> add_inputs(a = law_normal(3, 0.1)) |> add_outputs(y = output(silent(a), vectorised = FALSE)))
  expect_false(apart$derivatives$exact)
  expect_equal(as.data.frame(apart)$sensitivity, 6, tolerance = 1e-9)
  expect_match(format_lines(apart), "differences of runs")
  # a function that loses the number without an error is caught by small differences
  losing <- function(x) x + 5 * unlist(unclass(x))[[1]]
  lost <- budget(study("f") |> add_inputs(a = law_normal(3, 0.1)) |> add_outputs(y = output(losing(a), vectorised = FALSE)))
  expect_false(lost$derivatives$exact)
  expect_equal(as.data.frame(lost)$sensitivity, 6, tolerance = 1e-9)
  # whole models
  m <- study("m") |> add_inputs(a = law_normal(3, 0.1), b = law_uniform(1, 2)) |> add_model(function(a, b) c(p = a * b, q = a^b)) |> add_outputs(r = p + q)
  expect_true(budget(m, r)$derivatives$exact)
  expect_equal(budget(m, r)$value, 4.5 + 3^1.5)
})

test_that("at a kink there is no derivative across it, and the rest keeps its own", {
  b <- budget_of(quote(abs(a) + 3 * b), a = law_normal(0, 1), b = law_normal(0, 1))
  rows <- as.data.frame(b)
  expect_true(is.nan(rows$sensitivity[rows$input == "a"]))
  expect_equal(rows$sensitivity[rows$input == "b"], 3)
  expect_match(format_lines(b), "kink")
  expect_true(is.nan(as.data.frame(budget_of(quote(max(a, b)), a = law_normal(1, 1), b = law_normal(1, 2)))$sensitivity[1]))
  expect_true(is.nan(as.data.frame(budget_of(quote(if (a > 1) a else 2 * a), a = law_normal(1, 1)))$sensitivity[1]))
  expect_true(is.nan(as.data.frame(budget_of(quote(floor(a)), a = law_normal(1, 1)))$sensitivity[1]))
  expect_true(is.nan(as.data.frame(budget_of(quote(signif(a, 2)), a = law_normal(0.125, 1)))$sensitivity[1]))
  expect_equal(as.data.frame(budget_of(quote(signif(a, 2) + a), a = law_normal(0.127, 1)))$sensitivity, 1)
  expect_equal(as.data.frame(budget_of(quote(floor(a) + a), a = law_normal(1.5, 1)))$sensitivity, 1)
  curve <- data.frame(x = c(0, 1, 3), y = c(0, 2, 3))
  s <- study("l") |> add_inputs(x = law_normal(0.5, 0.1)) |> add_tables(curve = curve) |> add_outputs(y = lookup(curve, x))
  expect_equal(as.data.frame(budget(s))$sensitivity, 2)
  expect_true(is.nan(as.data.frame(budget(s |> replace_inputs(x = law_normal(1, 0.1))))$sensitivity))
})
