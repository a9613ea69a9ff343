verdicts <- function(v) as.data.frame(v)$verdict[3:4]

test_that("a linear equation of normal inputs is validated", {
  v <- budget_verdict(budget(of_inputs(a + 2 * b, a = law_normal(20, 0.1), b = law_normal(5, 0.03))), seed = 1)
  expect_identical(verdicts(v), c("validated", "validated"))
  expect_match(format_lines(v), "validated to two digits")
})

test_that("a dominant rectangle is told (JCGM 101, 9.2.4)", {
  half <- sqrt(3)
  s <- of_inputs(a + b + c + d, a = law_uniform(-half, half), b = law_uniform(-half, half), c = law_uniform(-half, half), d = law_uniform(-10 * half, 10 * half))
  v <- budget_verdict(budget(s), seed = 2)
  rows <- as.data.frame(v)
  expect_equal(rows$budget[3:4], c(-19.891462, 19.891462), tolerance = 1e-5)
  expect_true(all(abs(rows$simulated[3:4] - c(-17.0158141, 17.0158141)) <= 1.5 * rows$error[3:4]))
  expect_identical(verdicts(v), c("differs", "differs"))
  expect_identical(v$reasons$dominant, "d")
  expect_match(format_lines(v), "too wide")
})

test_that("four equal rectangles agree but for the second digit (JCGM 101, 9.2.3)", {
  half <- sqrt(3)
  s <- of_inputs(a + b + c + d, a = law_uniform(-half, half), b = law_uniform(-half, half), c = law_uniform(-half, half), d = law_uniform(-half, half))
  v <- budget_verdict(budget(s), simulate(s, 1e5, 3, replicates = 10), digits = 1)
  rows <- as.data.frame(v)
  expect_equal(rows$budget[4], 3.91992797, tolerance = 1e-7)
  expect_true(abs(rows$simulated[4] - 3.87940674) <= 1.5 * rows$error[4])
  expect_identical(verdicts(v), c("validated", "validated"))
})

test_that("curvature at the top and few degrees of freedom are told", {
  v <- budget_verdict(budget(of_inputs(a^2 + b^2, a = law_normal(0.01, 0.005), b = law_normal(0, 0.005))), interval = "shortest", seed = 4)
  rows <- as.data.frame(v)
  expect_true(abs(rows$simulated[3]) <= 1e-6 + 2 * rows$error[3])
  expect_true(abs(rows$simulated[4] - 0.000366005) <= 2 * rows$error[4])
  expect_identical(verdicts(v), c("differs", "differs"))
  expect_false(is.null(v$reasons$curved))
  few <- budget_verdict(budget(of_inputs(a + b, a = law_observed(n = 4, mean = 3, sd = 0.2, of = "mean"), b = law_uniform(0, 0.2))), seed = 5)
  expect_identical(few$reasons$few, "a")
  expect_match(format_lines(few), "few degrees of freedom")
  flat <- budget_verdict(budget(of_inputs(1 - a^2, a = law_normal(0, 0.1))), seed = 6)
  expect_true("differs" %in% verdicts(flat))
})

test_that("gauge blocks of JCGM 101, 9.5, have their published mean, uncertainty and interval", {
  s <- of_inputs(standard + d + d1 + d2 - standard * (da * (t0 + swing) + expansion * dt) - 5e7, standard = law_student(18, 50000623, 25), d = law_student(24, 215, 6),
    d1 = law_student(5, 0, 4), d2 = law_student(8, 0, 7), expansion = law_uniform(9.5e-6, 13.5e-6), t0 = law_normal(-0.1, 0.2), swing = law_arcsine(-0.5, 0.5),
    da = law_curvilinear(-1e-6, 1e-6, within = 0.1e-6), dt = law_curvilinear(-0.05, 0.05, within = 0.025))
  res <- simulate(s, 2e5, 1)
  expect_identical(round(unlist(summary(res)[c("mean", "sd")], use.names = FALSE)), c(838, 36))
  ends <- coverage_interval(res, coverage = 0.99, interval = "shortest")
  expect_lt(max(abs(c(ends$low, ends$high) - c(745, 932))), 2)
})

test_that("runs that cannot tell say so, and others than the study's are refused", {
  s <- of_inputs(a + b, a = law_normal(20, 0.1), b = law_uniform(0, 0.4))
  v <- budget_verdict(budget(s), simulate(s, 1000, 1))
  expect_true("undecided" %in% verdicts(v))
  expect_match(format_lines(v), "cannot tell")
  other <- simulate(of_inputs(a + b, a = law_normal(20, 0.2), b = law_uniform(0, 0.4)), 1000, 1)
  expect_error(budget_verdict(budget(s), other), "of the study", class = "ensayo_error_argument")
  expect_error(budget_verdict(s), class = "ensayo_error_argument")
})
