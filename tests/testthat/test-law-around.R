test_that("a law around a value reaches as far as was said", {
  expect_equal(parameters(law_around(34, "10 %", "25 %", shape = "pert"))[1:3], list(min = 30.6, mode = 34, max = 42.5))
  expect_equal(parameters(law_around(-20, "10%", shape = "uniform")), list(min = -22, max = -18))
  expect_equal(parameters(law_around(0.25, "2 %", shape = "normal", k = 2)), list(mean = 0.25, sd = 0.0025))
  expect_equal(support(law_around(5, 1, shape = "normal", k = 2, cut = TRUE)), c(min = 4, max = 6))
  expect_equal(support(law_around(1200, low = 0.9, high = 1.4, shape = "triangular")), c(min = 1080, max = 1680))
  expect_equal(support(law_around(-100, low = 0.9, high = 1.4, shape = "uniform")), c(min = -140, max = -90))
  expect_equal(moments(law_around(900, cv = 0.15, shape = "gamma"))$sd, 135)
  expect_identical(input(law_around(34, 4, 9, shape = "uniform"))$base, 34)
  expect_identical(format(law_around(34, "10 %", shape = "pert")),
    "around(value = 34, below = \"10 %\", shape = \"pert\")")
})

test_that("what a tolerance leaves open is asked for", {
  expect_fault(law_around(34, "10 %"), "argument", "`shape` must be given", "says nothing about the law")
  expect_fault(law_around(34, 2, shape = "normal"), "argument", "`k` must be given")
  expect_fault(law_around(34, 2, 3, shape = "normal", k = 2), "argument", "as far below as above")
  expect_fault(law_around(34, shape = "pert"), "argument", "in one way")
  expect_fault(law_around(34, 2, low = 0.9, high = 1.1, shape = "pert"), "argument", "in one way")
  expect_fault(law_around(34, low = 1.1, high = 1.2, shape = "pert"), "argument", "`low`", "at most 1")
  expect_fault(law_around(34, "ten", shape = "pert"), "argument", "\"10 %\"")
  expect_fault(law_around(0, "10 %", shape = "pert"), "argument", "`below`")
  expect_fault(law_around(34, -2, shape = "pert"), "argument", "at least 0")
  expect_fault(law_around(34, cv = 0.1, shape = "pert"), "argument", "\"lognormal\"")
})

test_that("certificates and observations follow JCGM 101:2008", {
  expect_equal(parameters(law_measured(20.02, expanded = 0.06, k = 2)), list(mean = 20.02, sd = 0.03))
  expect_equal(parameters(law_measured(20, half_width = 0.5)), list(min = 19.5, max = 20.5))
  expect_equal(parameters(law_measured(20, 0.06, k = 2, df = 9)), list(df = 9, location = 20, scale = 0.03))
  data <- c(20.11, 20.04, 20.09, 20.13)
  # 6.4.9: t with n - 1 degrees of freedom, scaled by s / sqrt(n); one more value by s sqrt(1 + 1/n)
  expect_equal(parameters(law_observed(data, of = "mean")), list(df = 3, location = mean(data), scale = sd(data) / 2))
  expect_equal(parameters(law_observed(n = 4, mean = 1, sd = 2, of = "next"))$scale, 2 * sqrt(1.25))
  # the coverage interval of the mean is that of a t test
  expect_equal(unname(quantile(law_observed(data, of = "mean"), c(0.025, 0.975))), as.double(t.test(data)$conf.int))
  expect_fault(law_observed(data), "argument", "`of` must be given")
  expect_fault(law_observed(1, of = "mean"), "argument", "at least 2")
  expect_fault(law_observed(data, n = 4, of = "mean"), "argument", "some of both")
  expect_fault(law_measured(20, expanded = 0.06), "argument", "coverage factor")
  expect_fault(law_measured(20, half_width = 0.5, k = 2), "argument")
})

test_that("opinions mix, and each is shown", {
  both <- law_mixture(list(ana = law_pert(20, 30, 50), ben = law_triangular(25, 28, 35)), c(2, 1))
  expect_equal(mean(both), (2 * mean(law_pert(20, 30, 50)) + mean(law_triangular(25, 28, 35))) / 3)
  expect_output(print(both), "ben (33 %): P10 26.73", fixed = TRUE)
})
