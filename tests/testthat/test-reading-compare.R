test_that("a small difference is called where runs share their random numbers, and not where they do not", {
  base <- study() |> add_inputs(a = law_lognormal(mean = 100, sd = 20), b = law_normal(0, 1)) |> add_outputs(y = a + b)
  more <- replace_outputs(base, y = 1.001 * a + b)
  one <- quietly(base, 10000, 1, design = "random")
  two <- quietly(more, 10000, 1, design = "random")
  paired <- as.data.frame(compare_results(one, two, .better = "high"))
  expect_identical(paired$verdict, "higher")
  expect_identical(paired$better, "yes")
  d <- two$outputs$y - one$outputs$y
  expect_equal(unlist(paired[c("difference", "low", "high")]), c(mean(d), t.test(d)$conf.int), ignore_attr = TRUE)
  expect_equal(paired$chance_higher, mean(d > 0))
  expect_equal(paired$P50, median(d))
  unpaired <- as.data.frame(compare_results(one, quietly(more, 10000, 2, design = "random")))
  expect_identical(unpaired$verdict, "not told apart")
  expect_match(unpaired$remark, "seeds differ: 1 and 2")
  expect_gt(unpaired$error, 50 * paired$error)
  expect_equal(unpaired$unpaired_error, unpaired$error)
  expect_lt(paired$noise, 1)
  expect_gt(unpaired$noise, 1)
  same <- as.data.frame(compare_results(one, quietly(base, 10000, 1, design = "random")))
  expect_identical(same$verdict, "equal in every run")
  expect_identical(c(same$difference, same$error, same$low, same$high), c(0, 0, 0, 0))
  expect_identical(same$dominance, "equal")
})

test_that("runs are paired only where they share their random numbers", {
  s <- three_normals() |> add_outputs(y = a + b)
  res <- quietly(s, 100, 1)
  fault <- function(other) expect_fault(compare_results(res, other, .paired = TRUE), "argument",
    "share their random numbers", "same seed")
  expect_match(conditionMessage(fault(quietly(s, 100, 2))), "seeds differ")
  expect_match(conditionMessage(fault(quietly(s, 200, 1))), "numbers of runs differ: 100 and 200")
  expect_match(conditionMessage(fault(quietly(s, 100, 1, design = "random"))), "designs differ")
  expect_match(conditionMessage(fault(given(res, y > 0))), "different runs")
  swapped <- three_normals() |> rename_inputs(spare = a) |> rename_inputs(a = b) |> add_inputs(b = law_normal(0, 1)) |>
    add_outputs(y = a + b)
  expect_match(conditionMessage(fault(quietly(swapped, 100, 1))), "other random numbers")
  other <- study() |> add_inputs(z = law_normal(0, 1)) |> add_outputs(y = z)
  expect_match(conditionMessage(fault(quietly(other, 100, 1))), "no input in common")
  expect_fault(compare_results(res), "argument", "at least two")
  expect_fault(compare_results(res, 3), "argument", "a result")
  expect_fault(compare_results(res, res, .better = "more"), "argument", ".better")
  expect_fault(compare_results(res, res, .better = c(z = "high")), "name", "`z`")
  expect_fault(compare_results(res, quietly(other |> rename_inputs(q = z) |> add_outputs(w = q) |>
    (\(s) { s$outputs$y <- NULL; s })(), 100, 1)), "argument", "in common")
})

test_that("unpaired chances and dominance agree with brute force", {
  withr::local_seed(3)
  x <- round(rnorm(60), 1)
  y <- round(rnorm(40, 0.3), 1)
  between <- chances_between(x, y)
  expect_equal(between$higher, mean(outer(x, y, ">")))
  expect_equal(between$equal, mean(outer(x, y, "==")))
  expect_identical(dominance_of(1:100 + 1, 1:100), "higher at every percentile")
  expect_identical(dominance_of(1:100 - 1, 1:100), "lower at every percentile")
  expect_match(dominance_of(c(0, 100), c(49, 52)), "cross at P5[01]")
})

test_that("alternatives are changed, simulated with the same numbers and compared", {
  main <- gravity_main()
  alts <- alternatives(main, lined = list(friction = law_lognormal(mean = 0.016, sd = 0.001)),
    twin = list(headloss = friction * length / diameter * (velocity / 2)^2 / 19.62,
      cost = output(1000 * diameter, unit = "EUR")),
    pumped = function(s) s |> add_inputs(lift = law_normal(5, 0.1)) |> replace_outputs(pressure = spring - 12 +
      lift - headloss),
    low = list(demand = 30))
  expect_fault(alternatives(main, low = list(demnd = 30)), "name", "`demnd`", "Did you mean `demand`?")
  leaky <- alternatives(main, leaky = list(loss = law_uniform(0, 2), pressure = spring - 12 - headloss - loss))
  expect_match(format(leaky), "changes loss and pressure", all = FALSE)
  expect_match(format(alts), "twin: changes headloss and cost", all = FALSE)
  results <- simulate(alts, nsim = 500, seed = 4, progress = NULL)
  cmp <- compare_results(results, .better = c(pressure = "high", headloss = "low"))
  table <- as.data.frame(cmp)
  expect_true(all(table$paired))
  expect_identical(table$better[table$output == "headloss"], c("yes", "yes", "", "yes"))
  expect_equal(table$difference[table$output == "pressure" & table$alternative == "pumped"],
    mean(results$pumped$draws$lift), tolerance = 1e-9)
  statistics <- summary(cmp)
  expect_equal(statistics$mean[statistics$alternative == "lined" & statistics$output == "pressure"],
    mean(results$lined$outputs$pressure))
  expect_identical(results$pumped$study$outputs$pressure$label, "Pressure at the last tap")
  expect_match(format(cmp), "lined is higher than as is by", all = FALSE)
  expect_fault(alternatives(main, list(demand = 3)), "name", "a name of its own")
  expect_fault(alternatives(main, x = 3), "argument", "Alternative `x`")
  expect_fault(alternatives(main, x = list(demnd = "a")), "name", "Alternative `x`", "Did you mean `demand`")
  two <- quietly(main |> add_outputs(other = pressure + 0.1), 200)
  several <- compare_outputs(two, c(pressure, other), .better = "high")
  expect_identical(as.data.frame(several)$verdict, "higher")
  expect_equal(as.data.frame(several)$difference, 0.1)
  expect_match(format(several), "other is higher than pressure", all = FALSE)
  expect_fault(compare_outputs(two, pressure), "argument", "at least two")
})

test_that("comparisons hold with failed runs", {
  s <- study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = sqrt(a), never = sqrt(-1 - a^2))
  res <- suppressWarnings(quietly(s, 100))
  half <- suppressWarnings(quietly(replace_outputs(s, y = sqrt(a) / 2), 100))
  table <- as.data.frame(compare_results(res, half))
  expect_equal(table$runs, c(50, 0))
  expect_identical(table$verdict[1], "lower")
  expect_match(format(compare_results(res, half)), "no good runs", all = FALSE)
})

test_that("alternatives change any part of a study, and say what is wrong with a change", {
  s <- study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1), k = 2) |> add_correlation(a, b, 0.3) |>
    add_outputs(y = output(a + k, unit = "m"), z = y + b)
  alts <- alternatives(s, held = list(a = 1), wide = list(a = law_normal(0, 3), k = 4), bent = list(y = a^2 + k),
    more = list(c = law_uniform(0, 1), extra = output(y + c)), other = s |> fix_inputs(k = 5), .first = "now")
  results <- simulate(alts, 300, 1, progress = NULL)
  expect_identical(names(results), c("now", "held", "wide", "bent", "more", "other"))
  expect_equal(results$held$outputs$y, rep(3, 300))
  expect_equal(results$wide$outputs$y, 3 * results$now$draws$a + 4, tolerance = 1e-9)
  expect_identical(results$bent$study$outputs$y$unit, "m")
  expect_equal(results$more$outputs$extra, results$more$outputs$y + results$more$draws$c)
  table <- as.data.frame(compare_results(results, .outputs = y))
  expect_identical(table$alternative, c("held", "wide", "bent", "more", "other"))
  expect_identical(table$verdict[table$alternative == "more"], "equal in every run")
  expect_identical(table$difference[table$alternative == "other"], 3)
  expect_fault(alternatives(s, x = list(y = a + q)), "name", "Alternative `x`", "`q`")
  expect_fault(alternatives(s, x = list(a = 1), x = list(a = 2)), "name", "used twice")
  expect_fault(alternatives(s, x = function(s) 3), "argument", "Alternative `x`")
  expect_identical(names(alternatives(s, x = list(a = 1), .first = NULL)$studies), "x")
  expect_fault(alternatives(s, .first = NULL), "argument", "at least one")
})

test_that("replicates tell the error of a paired difference", {
  s <- three_normals() |> add_outputs(y = a + 0.1 * a * b)
  t <- replace_outputs(s, y = a + 0.1 * a * b + 0.01 * c)
  table <- as.data.frame(compare_results(quietly(s, 2000, 1, replicates = 20), quietly(t, 2000, 1, replicates = 20)))
  d <- 0.01 * quietly(t, 2000, 1, replicates = 20)$draws$c
  means <- vapply(split(d, rep(1:20, each = 100)), mean, 0)
  expect_equal(table$error, sd(means) / sqrt(20))
  expect_equal(table$high - table$difference, table$error * qt(0.975, 19))
})

test_that("an output may be called value", {
  s <- three_normals() |> add_outputs(value = a, other = b)
  both <- compare_results(x = quietly(s, 50), y = quietly(replace_outputs(s, value = a + 1), 50))
  expect_identical(unique(summary(both)$output), c("value", "other"))
  expect_match(format(both), "value: y is higher than x by 1", all = FALSE)
})
