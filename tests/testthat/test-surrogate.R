# What surrogates are made of, each against what is known of it.
test_that("polynomials are orthonormal under each law, heavy tails and values with probabilities too", {
  laws <- list(law_uniform(-2, 5), law_normal(1e6, 0.1), law_pert(28, 34, 48), law_lognormal(mean = 1, sd = 4), law_pareto(0, 1, 1.5), law_student(2, 0, 1),
    law_poisson(3), law_bernoulli(0.2), law_truncated(law_normal(0, 1), -1, 0.5), law_exponential(3))
  for (law in laws) {
    one <- number_coordinate("x", law_nodes(law), law)
    u <- (seq_len(200000) - 0.5) / 200000
    t <- coordinate_values(one, quantile(law, u))[, 1]
    degree <- min(3, length(one$a))
    p <- cbind(1, polynomial_values(one, t, degree))
    # of the tails a sum over strata misses a little
    expect_lt(max(abs(crossprod(p) / 200000 - diag(degree + 1))), 0.06, label = format(law))
  }
  expect_identical(number_coordinate("x", law_nodes(law_lognormal(mean = 1, sd = 4)), law_lognormal(mean = 1, sd = 4))$how, "log")
  expect_length(number_coordinate("x", law_nodes(law_bernoulli(0.2)), law_bernoulli(0.2))$a, 1)
  contrasts <- category_coordinates("zone", law_discrete(c("a", "b", "c"), c(0.2, 0.3, 0.5)))
  m <- cbind(1, contrasts[[1]]$contrast, contrasts[[2]]$contrast)
  expect_equal(crossprod(m, c(0.2, 0.3, 0.5) * m), diag(3), tolerance = 1e-12)
})

test_that("pursuit finds the terms that there are, and its held-out errors are those of least squares", {
  set.seed(1)
  x <- matrix(rnorm(80 * 30), 80)
  y <- 2 * x[, 7] - x[, 19] + 0.5 * x[, 3] + 0.01 * rnorm(80)
  held <- rep(c(TRUE, FALSE, FALSE, FALSE), 20)
  made <- cpp_pursue(x, y, held, 5)
  expect_setequal(made$taken[1:3], c(7, 19, 3))
  own <- vapply(0:5, function(k) {
    fit <- lm.fit(cbind(1, x[!held, made$taken[seq_len(k)], drop = FALSE]), y[!held])
    mean((y[held] - cbind(1, x[held, made$taken[seq_len(k)], drop = FALSE]) %*% fit$coefficients)^2)
  }, 0)
  expect_equal(made$held_out, own, tolerance = 1e-10)
  # columns that say the same, or nothing, are not taken twice
  expect_length(cpp_pursue(cbind(x[, 1], 2 * x[, 1], 1), x[, 1], rep(FALSE, 80), 3)$taken, 1)
})

test_that("the kernel's slopes and the likelihood's gradient are right", {
  set.seed(2)
  x <- matrix(runif(60), 20)
  lengths <- c(0.4, 1, 2.5)
  weights <- crossprod(matrix(rnorm(400), 20))
  slopes <- cpp_matern_slopes(x, lengths, weights)
  by_difference <- vapply(1:3, function(k) {
    at <- function(step) sum(weights * cpp_matern(x, x, replace(lengths, k, lengths[k] * exp(step))))
    (at(1e-5) - at(-1e-5)) / 2e-5
  }, 0)
  expect_equal(slopes, by_difference, tolerance = 1e-7)
  k <- cpp_matern(x, x, lengths)
  expect_equal(cpp_matern_sums(x, x, lengths, x[, 1], 2), as.vector(k %*% x[, 1]), tolerance = 1e-12)
  expect_equal(cpp_nearest(x, x, c(1, 1, 1), TRUE, 1), apply(as.matrix(dist(x)) + diag(9, 20), 1, min), tolerance = 1e-12, ignore_attr = TRUE)
  # one step of the search goes down, and from where it ends nothing near is better
  y <- sin(5 * x[, 1]) + x[, 2]
  y <- (y - mean(y)) / sd(y)
  value <- function(theta) gaussian_search(x, y, 1:2, theta, 0)$value
  best <- gaussian_search(x, y, 1:2, log(c(1, 1, 1, 1e-3)), 80)
  for (k in 1:4) for (step in c(-0.05, 0.05)) expect_gte(value(replace(best$par, k, best$par[k] + step)), best$value - 1e-3)
})

test_that("a Gaussian process interpolates, bears repeated and collinear runs, and knows how far it may be off", {
  set.seed(3)
  x <- matrix(runif(80), 40)
  y <- exp(-8 * ((x[, 1] - 0.4)^2 + (x[, 2] - 0.6)^2))
  fit <- surrogate_gaussian$fit(x, y)
  state <- surrogate_gaussian$ready(fit, x, y)
  expect_lt(max(abs(surrogate_gaussian$mean(state, x) - y)), 0.01)
  new <- matrix(runif(400), 200)
  off <- surrogate_gaussian$mean(state, new) - exp(-8 * ((new[, 1] - 0.4)^2 + (new[, 2] - 0.6)^2))
  said <- surrogate_gaussian$error(state, new)
  expect_gt(mean(abs(off) < 3 * said), 0.9)
  far <- surrogate_gaussian$error(state, matrix(c(9, 9), 1))
  expect_gt(far, 10 * median(said))
  twice <- rbind(x, x, x[rep(1, 5), ])
  again <- surrogate_gaussian$ready(surrogate_gaussian$fit(twice, c(y, y, rep(y[1], 5))), twice, c(y, y, rep(y[1], 5)))
  expect_lt(max(abs(surrogate_gaussian$mean(again, x) - y)), 0.02)
  along <- cbind(x, x[, 1])
  expect_true(all(is.finite(surrogate_gaussian$mean(surrogate_gaussian$ready(surrogate_gaussian$fit(along, y), along, y), along))))
})

test_that("a sum of smooth effects is kept by its splines", {
  set.seed(4)
  x <- matrix(runif(300), 100)
  y <- sin(6 * x[, 1]) + x[, 2]^2
  fit <- surrogate_additive$fit(x, y)
  data <- data.frame(x, y = y)
  reference <- mgcv::gam(y ~ s(X1, bs = "cr", k = 10) + s(X2, bs = "cr", k = 10) + s(X3, bs = "cr", k = 10), data = data, method = "REML", select = TRUE)
  state <- surrogate_additive$ready(fit, x, y)
  new <- matrix(runif(60, 0.05, 0.95), 20)
  expect_equal(surrogate_additive$mean(state, new), as.vector(predict(reference, data.frame(new))), tolerance = 1e-4)
})

test_that("predictions do not depend on how many are asked for at a time", {
  res <- simulate(study("s") |> add_inputs(!!!uniform_inputs(3)) |> add_outputs(y = exp(x1) * x2 + x3), 60, 1)
  for (kind in names(surrogate_kinds())) {
    data <- ready_surrogate(surrogate(res, kinds = kind)$data)
    x <- data$runs
    whole <- surrogate_values(data$outputs$y, x)
    alone <- vapply(seq_len(nrow(x)), function(i) surrogate_values(data$outputs$y, x[i, , drop = FALSE]), 0)
    expect_identical(whole, alone, label = kind)
    expect_true(all(surrogate_values(data$outputs$y, x, "error") > 0))
  }
})
