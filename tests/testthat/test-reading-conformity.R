# Conformity against JCGM 106's figures, closed forms, and integrals in two dimensions.

test_that("risks are those of JCGM 106 and of a plain integral in two dimensions", {
  prior <- law_normal(0, 0.5)
  at_limits <- decision_risks(prior, 0.1, -1, 1)
  expect_equal(c(at_limits$consumer, at_limits$producer), c(0.006775723, 0.011135663), tolerance = 1e-7)
  guarded <- decision_risks(prior, 0.1, -1, 1, accept_from = -0.9, accept_to = 0.9)
  expect_equal(c(guarded$consumer, guarded$producer), c(0.001511132, 0.033567035), tolerance = 1e-6)
  # items of a lopsided law: over a grid of items and of measured values, by their middles
  skewed <- law_gamma(shape = 3, scale = 0.2)
  r <- decision_risks(skewed, 0.08, lower = 0.2, upper = 1.2, accept_from = 0.25, accept_to = 1.15)
  item <- (seq_len(3000) - 0.5) * 0.001
  value <- 0.25 + (seq_len(1800) - 0.5) * 0.0005
  both <- outer(item, value, function(item, value) dgamma(item, 3, scale = 0.2) * dnorm(value, item, 0.08)) * 0.001 * 0.0005
  out <- item < 0.2 | item > 1.2
  expect_lt(abs(r$consumer - sum(both[out, ])), 1e-6)
  expect_lt(abs(r$producer - (r$conforming - sum(both[!out, ]))), 1e-6)
  expect_equal(r$conforming, pgamma(1.2, 3, scale = 0.2) - pgamma(0.2, 3, scale = 0.2))
  expect_equal(r$accepted + r$wrong_if_rejected * (1 - r$accepted) - r$producer, r$accepted)
  # a tiny uncertainty decides as the items are; a prior that is one of a few values
  expect_equal(decision_risks(prior, 1e-6, -1, 1)$consumer, 0, tolerance = 1e-6)
  few <- decision_risks(law_discrete(c(0, 1.1), probabilities = c(0.9, 0.1)), 0.1, -1, 1)
  expect_equal(few$consumer, 0.1 * (pnorm(-1) - pnorm(-21)), tolerance = 1e-9)
  # results with few degrees of freedom scatter farther
  expect_true(decision_risks(prior, 0.1, -1, 1, df = 3)$consumer > at_limits$consumer)
})

test_that("guard bands hold the risk they are for", {
  expect_equal(acceptance_limits(upper = 1, uncertainty = 1, rule = "guarded", risk = 0.05)$factor, 1.64485363, tolerance = 1e-8)
  expect_equal(acceptance_limits(upper = 1, uncertainty = 1, rule = "guarded", risk = 0.02)$factor, 2.05374891, tolerance = 1e-8)
  wide <- acceptance_limits(-1, 1, uncertainty = 0.1, rule = "guarded")
  expect_equal(wide$accept_to, 1 - 0.1 * qnorm(0.95), tolerance = 1e-9)
  tight <- acceptance_limits(-1, 1, uncertainty = 0.5, rule = "guarded")
  y <- tight$accept_to
  expect_equal(pnorm(-1, y, 0.5) + pnorm(1, y, 0.5, lower.tail = FALSE), 0.05, tolerance = 1e-9)
  relaxed <- acceptance_limits(-1, 1, uncertainty = 0.5, rule = "relaxed")
  y <- relaxed$accept_to
  expect_equal(pnorm(1, y, 0.5) - pnorm(-1, y, 0.5), 0.05, tolerance = 1e-9)
  expect_identical(acceptance_limits(-1, 1, uncertainty = 0.5)$guard, 0)
  expect_equal(acceptance_limits(upper = 1, uncertainty = 1, rule = "guarded", df = 5)$factor, qt(0.95, 5))
  expect_error(acceptance_limits(-1, 1, uncertainty = 0.8, rule = "guarded"), "small enough", class = "ensayo_error_argument")
})

test_that("the conformance probability is that of what is known", {
  s <- of_inputs(a + b, a = law_observed(n = 8, mean = 0.2, sd = 0.2, of = "mean"), b = law_uniform(-0.1, 0.1))
  b <- budget(s)
  r <- budget_result(b)
  df <- floor(r$df)
  known <- conformity(b, -0.3, 0.4)
  expect_equal(known$conforms, pt((0.4 - 0.2) / r$standard, df) - pt((-0.3 - 0.2) / r$standard, df))
  expect_equal(known$below + known$conforms + known$above, 1)
  res <- simulate(s, 1000, 1)
  expect_equal(conformity(res, upper = 0.4)$conforms, chance(res, y <= 0.4)$chance)
  expect_identical(conformity(b, -0.3, 0.4, rule = "guarded", risk = 0.2)$decision, "accept")
  expect_identical(conformity(b, -0.3, 0.25, rule = "guarded", risk = 0.1)$decision, "reject")
  # with a prior: normal with normal is normal (JCGM 106, 6.2)
  post <- conformity(law_normal(0.9, 0.1), -1, 1, prior = law_normal(0, 0.5))
  v <- 1 / (1 / 0.25 + 1 / 0.01)
  expect_equal(post$conforms, diff(pnorm(c(-1, 1), v * 0.9 / 0.01, sqrt(v))), tolerance = 1e-9)
  expect_equal(post$above, pnorm(1, v * 90, sqrt(v), lower.tail = FALSE), tolerance = 1e-8)
  expect_error(conformity(b), "limit must be given", class = "ensayo_error_argument")
  expect_error(conformity(b, 1, -1), "below `upper`", class = "ensayo_error_argument")
  expect_error(conformity(budget(of_inputs(a^2, a = law_normal(0, 1))), upper = 1), "state an uncertainty", class = "ensayo_error_argument")
})
