within <- function(row, truth) row$low <= truth && truth <= row$high

test_that("rare chances of one place, a curve and twenty inputs are inside their intervals", {
  straight <- study("Straight") |> add_inputs(!!!normal_inputs(2)) |> add_outputs(y = (x1 + x2) / sqrt(2))
  found <- do.call(rbind, lapply(1:4, function(seed) as.data.frame(rare_chance(straight, y > 4, most = 1000, seed = seed, progress = NULL))))
  expect_gte(sum(found$low <= pnorm(-4) & pnorm(-4) <= found$high), 3)
  expect_true(all(found$trusted & found$places == 1 & found$runs == 1000))
  expect_equal(found$distance, rep(4, 4), tolerance = 0.02)
  # and with logarithms no longer than a factor of 1.4
  expect_true(all(found$high / found$low < 1.4^2))
  expect_lte(length(c(rare_missed("parabola", 1:3), rare_missed("two places", 1:3), rare_missed("four branches", 1:2))), 1)
  many <- study("Many") |> add_inputs(!!!normal_inputs(20)) |> add_outputs(y = !!str2lang(paste0("x", 1:20, collapse = " + ")))
  one <- rare_chance(many, y > !!(4.5 * sqrt(20)), most = 1500, seed = 1, progress = NULL)
  expect_true(within(one, pnorm(-4.5)))
  expect_true(one$trusted)
})

test_that("several places are found, joined conditions too, and laws that are not normal", {
  one <- rare_chance(rare_cases()$`two places`$study, y > 4 | y < -4.5, seed = 1, progress = NULL)
  expect_match(one$findings, "several_places")
  expect_identical(one$places, 2L)
  both <- study("Both") |> add_inputs(a = law_exponential(1), b = law_exponential(1)) |> add_outputs(y = a, z = b)
  expect_true(within(rare_chance(both, y > 5 & z > 4, most = 1500, seed = 2, progress = NULL), exp(-9)))
  # correlated inputs: of a sum of two normals with correlation 0.6 in scores
  tied <- study("Tied") |> add_inputs(!!!normal_inputs(2)) |> add_correlation(x1, x2, 0.6, kind = "score") |> add_outputs(y = x1 + x2)
  expect_true(within(rare_chance(tied, y > !!(4 * sqrt(3.2)), most = 1500, seed = 3, progress = NULL), pnorm(-4)))
})

test_that("what cannot be trusted is called so", {
  needle <- study("Needle") |> add_inputs(!!!normal_inputs(2)) |> add_outputs(y = max(abs(x1 - 4) - 0.1, abs(x2) - 0.1))
  one <- rare_chance(needle, y < 0, most = 600, seed = 1, progress = NULL)
  expect_false(one$trusted)
  never <- rare_chance(study("Never") |> add_inputs(a = law_uniform(0, 1)) |> add_outputs(y = a), y > 2, most = 300, seed = 1, progress = NULL)
  expect_identical(c(never$chance, never$low), c(0, 0))
  expect_match(never$findings, "never_met")
  expect_gt(never$high, 0)
  common <- rare_chance(study("Common") |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = a), y > 0.5, most = 400, seed = 1, progress = NULL)
  expect_match(common$findings, "not_rare")
  expect_true(within(common, pnorm(-0.5)))
})

test_that("conditions without a margin, and bad input, are refused; runs that fail have not met it", {
  s <- study("S") |> add_inputs(!!!normal_inputs(2)) |> add_outputs(y = x1 + x2, ok = x1 > 0)
  expect_error(rare_chance(s, ok), "compare numbers", class = "ensayo_error_argument")
  expect_error(rare_chance(s, y == 3), "compare numbers", class = "ensayo_error_argument")
  expect_error(rare_chance(s, z > 3), class = "ensayo_error_name")
  expect_error(rare_chance(s, y > 3, most = 50), class = "ensayo_error_argument")
  fails <- study("Fails") |> add_inputs(!!!normal_inputs(2)) |> add_outputs(y = log(x1 + 3) + x2)
  one <- rare_chance(fails, y > 4, most = 600, seed = 1, progress = NULL)
  expect_gt(one$failed, 0)
  truth <- integrate(function(x) dnorm(x) * pnorm(4 - log(x + 3), lower.tail = FALSE), -3, 12)$value
  expect_true(within(one, truth))
  # the same seed, the same answer
  expect_identical(one, rare_chance(fails, y > 4, most = 600, seed = 1, progress = NULL))
})

test_that("scores give each law's own columns, and both tails with all their digits", {
  s <- study("Scores") |> add_inputs(a = law_normal(3, 2), b = law_lognormal(mean = 1, sd = 1), n = law_poisson(3),
    zone = law_discrete(c("hill", "town"), c(0.4, 0.6)))
  z <- cbind(c(-9, 0, 9), c(0, 1, -1), c(0, 0, 0), c(-1, 0, 1))
  made <- columns_of_scores(s, z)
  expect_equal(made$a, 3 + 2 * z[, 1])
  expect_equal(made$b, quantile(law_lognormal(mean = 1, sd = 1), pnorm(z[, 2])))
  expect_identical(made$zone, c("hill", "town", "town"))
})
