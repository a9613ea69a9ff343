# Laws made of laws, where it hurts: far cuts, values with a probability of their own, kinks, tails without moments.

rain <- function() law_mixture(list(0, law_gamma(mean = 8, sd = 6)), weights = c(7, 3))

test_that("a truncation far from, or far beyond, the middle keeps its moments and its draws", {
  expect_equal(unlist(moments(law_truncated(law_normal(100, 10), min = 0))[1:2]), c(mean = 100, sd = 10))
  cut <- law_truncated(law_normal(0.2, 0.05), 0, 1)
  x <- simulate(study() |> add_inputs(x = cut) |> add_outputs(y = x), 1e6, seed = 1, progress = NULL)$draws$x
  expect_gte(min(x), 0)
  expect_lt(max(x), 0.2 + 6 * 0.05)
  # by plain integrals over the distance from the cut, whose exponents do not underflow
  beyond <- function(cut, reach) {
    power <- function(k) integrate(function(t) t^k * exp(-cut * t - t^2 / 2), 0, reach, rel.tol = 1e-12)$value
    mean <- power(1) / power(0)
    c(mean = cut + mean, sd = sqrt(power(2) / power(0) - mean^2))
  }
  for (ends in list(c(12, 30), c(20, 21), c(37, 38))) {
    expect_equal(unlist(moments(law_truncated(law_normal(0, 1), ends[1], ends[2]))[1:2]), beyond(ends[1], diff(ends)),
      tolerance = 1e-9)
  }
  # closed forms: gamma of shape 2 above a has mean a + (a + 2) / (a + 1); the exponential forgets
  expect_equal(mean(law_truncated(law_gamma(2, 1), min = 60)), 60 + 62 / 61)
  expect_equal(unlist(moments(law_truncated(law_exponential(rate = 1), min = 100))[1:2]), c(mean = 101, sd = 1))
  expect_fault(law_truncated(law_normal(0, 1), min = 40), "argument", "less than 1e-300")
})

test_that("values with a probability of their own are kept by every law made of a law", {
  cut <- law_truncated(rain(), max = 20)
  kept <- 0.7 + 0.3 * pgamma(20, (8 / 6)^2, scale = 36 / 8)
  expect_equal(cumulative(cut, 0), 0.7 / kept)
  expect_equal(mean(cut), 0.3 * 8 * pgamma(20, (8 / 6)^2 + 1, scale = 36 / 8) / kept)
  nested <- law_mixture(list(rain(), law_normal(5, 0.1)))
  expect_equal(cumulative(nested, 0, "upper"), 0.15 + 0.5)
  expect_equal(cumulative(-rain(), 0), 1)
  expect_equal(cumulative(-rain(), -1e-9), 0.3, tolerance = 1e-6)
  driest <- law_smallest(rain(), 3)
  expect_equal(cumulative(driest, 0), 1 - 0.3^3)
  of_smallest <- integrate(function(x) pgamma(x, (8 / 6)^2, scale = 36 / 8, lower.tail = FALSE)^3, 0, Inf,
    rel.tol = 1e-10)$value
  expect_equal(mean(driest), 0.3^3 * of_smallest, tolerance = 1e-8)
  expect_identical(quantile(law_truncated(rain(), -1, 20), c(0.1, 0.7)), c(0, 0))
  tied <- law_empirical(c(1, 1, 1, 2, 5), interpolate = TRUE)
  expect_equal(cumulative(tied, c(0.999, 1, 1.5)), c(0, 0.5, 0.625))
  expect_equal(cumulative(law_truncated(tied, max = 2), 1), 2 / 3)
  # nothing but these is left
  spikes <- law_mixture(list(law_discrete(c(1, 2, 3), c(1, 2, 1)), law_uniform(10, 20)))
  expect_identical(quantile(law_smallest(law_truncated(spikes, 1, 2), 1), c(0.3, 0.4)), c(1, 2))
  expect_equal(unlist(moments(law_truncated(spikes, 2, 5))[1:2]), c(mean = 2 + 1 / 3, sd = sqrt(2) / 3))
  # a limit in a gap is where the law goes on
  gap <- law_mixture(list(law_uniform(0, 1), law_uniform(2, 3)))
  expect_identical(support(law_truncated(gap, 1.3, 2.5)), c(min = 2, max = 2.5))
  half <- law_custom(quantile = function(p) ifelse(p <= 0.5, 1, 2 * p))
  expect_equal(cumulative(half, c(0.9, 1, 1.5)), c(0, 0.5, 0.75))
  expect_equal(mean(law_truncated(half, max = 1.5)), (0.5 * 1 + 0.25 * 1.25) / 0.75, tolerance = 1e-6)
})

test_that("laws of which hardly anything but values is left, or whose density is nil over a part, have moments and modes", {
  counts <- law_mixture(list(10000 * law_poisson(2.1) + 10000, law_gamma(0.3, 1)), c(0.99, 0.01))
  cut <- law_truncated(counts, 20000, 90000)
  expect_equal(mean(cut), 10000 + 10000 * sum(1:8 * dpois(1:8, 2.1)) / sum(dpois(1:8, 2.1)))
  gap <- law_mixture(list(law_uniform(1e7, 10010000), -0.001 * law_histogram(c(1, 2, 2.5, 2.501, 4), c(2, 0, 1e-3, 1))),
    c(0.99, 0.01))
  expect_true(most_likely(gap) >= -0.002 && most_likely(gap) <= -0.001)
})

test_that("kinks are met exactly", {
  law <- law_truncated(law_histogram(c(0, 1, 1.001, 2), c(1, 1e-4, 1)), 0.999, 1.003)
  expect_equal(cumulative(law, 1), 1e-3 / (1e-3 + 1e-4 + 0.002 / 0.999))
  expect_equal(cumulative(law_trapezoidal(0, 0, 0.2, 1), c(0.1, 0.25)), c(1 / 6, 0.4140625))
  expect_equal(cumulative(law_trapezoidal(0, 0.8, 1, 1), 0.75, "upper"), 0.4140625)
  expect_equal(quantile(law_triangular(0, 0, 1), 1e-20), 5e-21)
  expect_equal(quantile(law_triangular(-1, 0, 0), 1e-20, "upper"), -5e-21)
  expect_equal(draw_from(law_triangular(0, 0, 1), 1e-20), 5e-21)
})

test_that("moments that do not exist are said not to", {
  none <- function(law) unlist(moments(law))
  expect_identical(none(law_largest(law_student(1), 5))[["mean"]], Inf)
  expect_identical(none(law_smallest(law_student(1), 5))[["mean"]], -Inf)
  expect_identical(none(law_custom(quantile = qcauchy))[["mean"]], NaN)
  expect_identical(none(law_custom(cumulative = pcauchy, density = dcauchy))[["mean"]], NaN)
  expect_identical(none(law_mixture(list(law_pareto(0, 1, 1.2), law_normal(0, 1))))[["mean"]], Inf)
  expect_identical(none(-law_pareto(0, 1, 1.2))[["mean"]], -Inf)
  expect_identical(none(law_smallest(law_pareto(0, 1, 0.6), 2))[["variance"]] < Inf, TRUE)
  expect_true(is.finite(none(law_truncated(law_student(1), -5, 5))[["excess_kurtosis"]]))
  # the mean of the smallest of two Pareto laws of shape 0.6 is that of one of shape 0.3 and half the scale
  expect_equal(mean(law_smallest(law_pareto(0, 1, 0.6), 2)), 0.5 / 0.7, tolerance = 1e-8)
  light <- law_custom(quantile = function(p) qlnorm(p, 0, 2))
  expect_true(is.finite(none(light)[["mean"]]))
})

test_that("the most likely value is the highest, wherever it lies", {
  two <- law_mixture(list(law_normal(4, 2), law_normal(10, 0.5)), c(1, 1))
  expect_equal(most_likely(law_truncated(two, 8, 12)), 10, tolerance = 1e-3)
  expect_equal(most_likely(law_truncated(law_beta(0.5, 0.5), 0.6, 0.9)), 0.9)
  expect_identical(most_likely(law_beta(0.5, 0.5) * 2), NA_real_)
  expect_equal(most_likely(law_smallest(law_exponential(rate = 1), 3)), 0)
  expect_equal(most_likely(law_truncated(law_histogram(c(0, 10, 20, 50), c(4, 9, 2)), 5, 18)), 14)
  expect_equal(most_likely(law_mixture(list(law_normal(0, 1), law_normal(5, 1e-3)), c(99, 1))), 5, tolerance = 1e-6)
  expect_identical(most_likely(rain()), 0)
})

test_that("the largest of many keeps both tails", {
  law <- law_largest(law_normal(0, 1), 1e6)
  u <- c(1e-9, 0.3, 0.999, 1 - 1e-12)
  expect_equal(cumulative(law, draw_from(law, u)), u, tolerance = 1e-13)
  expect_equal(cumulative(law, quantile(law, 1e-12, "upper"), "upper"), 1e-12, tolerance = 1e-9)
  pareto <- law_largest(law_pareto(1, 1, 0.5), 5)
  # far out the chance of any is five times that of one, 5 (1 + z / 2)^-2
  expect_equal(quantile(pareto, 1e-200, "upper"), 2 * sqrt(5e200), tolerance = 1e-9)
  expect_equal(quantile(law_student(0.9), 1e-100, "upper"), -quantile(law_student(0.9), 1e-100))
})

test_that("no draw of a law lies outside it", {
  expect_fault(inside_support(law_uniform(0, 1), c(0.5, 1.1)), "draw", "from 0 to 1", "report it")
})

test_that("laws composed at random agree with plain R", {
  expect_identical(faulty_compositions(1:60), NULL)
})

test_that("the farthest of many draws is no farther out than so many reach", {
  expect_identical(faults_of_extremes(law_grid()[c(1, 5, 20, 40, 60, 80)], 1e6, 1:6), NULL)
  expect_identical(faulty_extremes(1:20, 1e5), NULL)
})
