test_that("reweighted runs say what a new simulation says", {
  res <- quietly(gravity_main(), 20000, 11)
  changed <- reweight_runs(res, demand = law_pert(30, 34, 44), friction = law_lognormal(mean = 0.0205, sd = 0.0027))
  again <- quietly(gravity_main() |> replace_inputs(demand = law_pert(30, 34, 44),
    friction = law_lognormal(mean = 0.0205, sd = 0.0027)), 20000, 12)
  of <- function(statistic, about = "pressure") {
    unlist(changed[changed$about == about & changed$statistic == statistic, c("becomes", "error")])
  }
  row <- summary(again, outputs = pressure)
  expect_lt(abs(of("mean")[1] - row$mean), 4 * of("mean")[2])
  expect_lt(abs(of("sd")[1] - row$sd), 4 * of("sd")[2])
  expect_lt(abs(of("P5")[1] - row$P5), 4 * of("P5")[2])
  expect_lt(abs(of("pass rate", "pressure >= 38")[1] - pass_rate(again)$pass_rate[1]),
    4 * of("pass rate", "pressure >= 38")[2])
  expect_equal(changed$was[1:2], c(mean(res$outputs$velocity), sd(res$outputs$velocity)))
})

test_that("weights are ratios of densities, and too few effective runs are refused", {
  s <- three_normals() |> add_outputs(y = a)
  res <- quietly(s, 4000)
  w <- dnorm(res$draws$a, 0.5, 0.8) / dnorm(res$draws$a)
  table <- reweight_runs(res, a = law_normal(0.5, 0.8))
  expect_equal(table$becomes[1], weighted.mean(res$outputs$y, w))
  expect_equal(table$effective_runs[1], sum(w)^2 / sum(w^2))
  expect_equal(reweight_runs(res, a = law_normal(0, 1))$change, rep(0, 8), tolerance = 1e-12)
  expect_fault(reweight_runs(res, a = law_normal(5, 0.1)), "argument", "worth at least 100 runs", "replace_inputs")
  expect_fault(reweight_runs(res), "argument", "at least one input")
  expect_fault(reweight_runs(res, d = law_normal(0, 1)), "name", "`d`")
  expect_fault(reweight_runs(res, a = 3), "argument", "a law")
  bounded <- quietly(study() |> add_inputs(u = law_uniform(0, 1), k = law_poisson(3),
    fixed = 2) |> add_outputs(y = u + k))
  expect_fault(reweight_runs(bounded, u = law_uniform(0, 2)), "argument", "within the old one's support")
  expect_fault(reweight_runs(quietly(study() |> add_inputs(k = law_integers(2, 6)) |> add_outputs(y = k)),
    k = law_integers(1, 6)),
    "argument", "within the old one's support")
  expect_fault(reweight_runs(bounded, k = law_normal(3, 1)), "argument", "discrete or continuous")
  expect_fault(reweight_runs(bounded, fixed = law_normal(3, 1)), "argument", "does not vary")
  # a discrete law by its masses
  w <- dpois(bounded$draws$k, 2.5) / dpois(bounded$draws$k, 3)
  expect_equal(reweight_runs(bounded, k = law_poisson(2.5), .least = 10)$becomes[1],
    weighted.mean(bounded$outputs$y, w))
})

test_that("values with a probability of their own are weighted by it, and what was never drawn is refused", {
  rain <- function(dry) law_mixture(list(0, law_exponential(mean = 4)), c(dry, 1 - dry))
  res <- quietly(study() |> add_inputs(x = rain(0.5)) |> add_outputs(y = x), 20000)
  table <- reweight_runs(res, x = rain(0.75))
  expect_equal(table$was[1], 2, tolerance = 0.01)
  expect_equal(table$becomes[1], 1, tolerance = 0.03)
  expect_fault(reweight_runs(res, x = law_mixture(list(1, law_exponential(mean = 4)), c(1, 1))), "argument", "support")
  counts <- quietly(study() |> add_inputs(n = law_discrete(1:2)) |> add_outputs(y = n), 200)
  expect_fault(reweight_runs(counts, n = law_discrete(1:3)), "argument", "support")
  gap <- quietly(study() |> add_inputs(h = law_histogram(0:3, c(1, 0, 1))) |> add_outputs(y = h), 200)
  expect_fault(reweight_runs(gap, h = law_uniform(0, 3)), "argument", "support")
  expect_equal(reweight_runs(gap, h = law_histogram(0:3, c(3, 0, 1)))$becomes[1], 0.75 * 0.5 + 0.25 * 2.5, tolerance = 0.05)
})
