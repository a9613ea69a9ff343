# Published and closed-form values of each family, independent of the code's own formulas.

test_that("normal and lognormal laws are R's own", {
  p <- c(1e-300, 1e-12, 0.2, 0.5, 0.9)
  expect_identical(quantile(law_normal(2, 3), p), qnorm(p, 2, 3))
  expect_identical(quantile(law_normal(2, 3), p, tail = "upper"), qnorm(p, 2, 3, lower.tail = FALSE))
  expect_equal(quantile(law_lognormal(meanlog = 1, sdlog = 0.5, min = 10), p), 10 + qlnorm(p, 1, 0.5))
  expect_equal(cumulative(law_lognormal(meanlog = 1, sdlog = 0.5), 1:5), plnorm(1:5, 1, 0.5), tolerance = 1e-13)
  expect_equal(density_at(law_lognormal(meanlog = 1, sdlog = 0.5), 0:5), dlnorm(0:5, 1, 0.5), tolerance = 1e-13)
})

test_that("a lognormal law has the mean and sd it was given", {
  m <- moments(law_lognormal(mean = 3, sd = 1))
  expect_equal(c(m$mean, m$sd), c(3, 1))
  # by hand: sdlog^2 = log(10/9), median = 3 / sqrt(10/9)
  expect_equal(median(law_lognormal(mean = 3, sd = 1)), 3 / sqrt(10 / 9))
  expect_equal(median(law_lognormal(mean = 13, sd = 1, min = 10)), 10 + 3 / sqrt(10 / 9))
  # Johnson, Kotz and Balakrishnan (1994), eq. 14.9: with w = exp(sdlog^2), g1 = (w + 2) sqrt(w - 1)
  w <- exp(0.25)
  m <- moments(law_lognormal(meanlog = 0, sdlog = 0.5))
  expect_equal(m$skewness, (w + 2) * sqrt(w - 1))
  expect_equal(m$excess_kurtosis, w^4 + 2 * w^3 + 3 * w^2 - 6)
  expect_equal(most_likely(law_lognormal(meanlog = 1, sdlog = 0.5)), exp(0.75))
})

test_that("uniform law", {
  m <- moments(law_uniform(2, 8))
  expect_equal(c(m$mean, m$variance, m$skewness, m$excess_kurtosis), c(5, 3, 0, -1.2))
  expect_identical(most_likely(law_uniform(0, 1)), NA_real_)
})

test_that("triangular law", {
  law <- law_triangular(0, 1, 4)
  # areas of triangles, by hand: F(1) = 1/4, F(2) = 1 - 4/12
  expect_equal(cumulative(law, c(0.5, 1, 2)), c(1 / 16, 1 / 4, 2 / 3))
  expect_equal(density_at(law, c(0, 1, 4)), c(0, 0.5, 0))
  m <- moments(law)
  expect_equal(m$mean, 5 / 3)
  expect_equal(m$variance, (0 + 1 + 16 - 0 - 0 - 4) / 18)  # (a^2 + b^2 + c^2 - ab - ac - bc) / 18
  expect_equal(m$excess_kurtosis, -0.6)
  expect_equal(moments(law_triangular(0, 0, 1))$skewness, 2 * sqrt(2) / 5)
  expect_equal(density_at(law_triangular(0, 1, 1), 1), 2)
})

test_that("PERT law", {
  law <- law_pert(28, 34, 48)
  expect_equal(mean(law), (28 + 4 * 34 + 48) / 6)
  # the beta law with shapes 2.2 and 3.8 over 20 units
  expect_equal(quantile(law, c(0.1, 0.5, 0.9)), 28 + 20 * qbeta(c(0.1, 0.5, 0.9), 2.2, 3.8))
  expect_equal(moments(law)$variance, 400 * 2.2 * 3.8 / (36 * 7))
  # shapes 1 and 5 have closed forms: F(x) = 1 - (1 - x)^5, skewness 2 (5 - 1) sqrt(7) / (8 sqrt(5))
  expect_equal(cumulative(law_pert(0, 0, 1), 0.3), 1 - 0.7^5)
  expect_equal(quantile(law_pert(0, 1, 1), 1e-15, tail = "upper"), 1 - 1e-15 / 5)
  expect_equal(moments(law_pert(0, 0, 1))$skewness, 8 * sqrt(7) / (8 * sqrt(5)))
  # excess kurtosis of beta(1, 5): 6 (16 * 7 - 5 * 8) / (5 * 8 * 9) = 1.2
  expect_equal(moments(law_pert(0, 0, 1))$excess_kurtosis, 1.2)
})

test_that("bad parameters are refused by name", {
  expect_fault(law_normal(3, 0), "argument", "`sd`", "above 0", "You gave 0")
  expect_fault(law_normal(3, -1), "argument", "`sd`")
  expect_fault(law_normal(3, NA), "argument", "`sd`", "NA")
  expect_fault(law_normal(Inf, 1), "argument", "`mean`")
  expect_fault(law_normal("3", 1), "argument", "`mean`", "\"3\"")
  expect_fault(law_normal(1:2, 1), "argument", "2 numbers")
  expect_fault(law_normal(3), "argument", "`sd` must be given")
  expect_fault(law_lognormal(mean = 1, sd = 1, min = 2), "argument", "`mean`", "above 2")
  expect_fault(law_lognormal(mean = 1, sdlog = 1), "argument", "either `mean` and `sd`")
  expect_fault(law_lognormal(), "argument", "none of them")
  expect_fault(law_uniform(2, 1), "argument", "min = 2", "wrong way round")
  expect_fault(law_uniform(2, 2), "argument", "never varies")
  expect_fault(law_uniform(-1.5e308, 1.5e308), "argument", "finite")
  expect_fault(law_triangular(1, 5, 4), "argument", "`mode`", "mode = 5")
  expect_fault(law_pert(1, 0, 4), "argument", "`mode`")
  expect_fault(law_pert(1, 2), "argument", "`max` must be given")
  expect_fault(law_triangular(min = 1, max = 2), "argument", "`mode` must be given")
})
