test_that("percentiles are R's, of every type", {
  withr::local_seed(1)
  for (n in c(1, 2, 3, 10, 101, 5000)) {
    x <- round(rnorm(n), 2)
    for (type in 1:9) {
      p <- c(0, 0.001, 0.05, 0.1, 0.25, 1 / 3, 0.5, 0.7, 0.9, 0.999, 1)
      expect_equal(percentile_values(x, 100 * p, type), unname(quantile(x, p, type = type)))
    }
  }
  res <- quietly(three_normals() |> add_outputs(y = a), 37)
  expect_equal(percentiles(res, 20, type = 6)$value, unname(quantile(res$outputs$y, 0.2, type = 6)))
  expect_equal(summary(res, percentiles = 20, type = 6)$P20, unname(quantile(res$outputs$y, 0.2, type = 6)))
  expect_fault(percentiles(res, 20, type = 10), "argument", "from 1 to 9")
})

test_that("an interval's ends are order statistics, told where the runs do not bound it", {
  res <- quietly(three_normals() |> add_outputs(y = a), 200)
  sorted <- sort(res$outputs$y)
  table <- percentiles(res, c(5, 50, 99))
  # by brute force: the largest rank with at most 2.5 % below, the smallest with at most 2.5 % above
  ranks <- vapply(c(0.05, 0.5, 0.99), function(p) {
    below <- pbinom(0:200, 200, p)
    c(max(which(c(0, below) <= 0.025)) - 1, min(which(below >= 0.975)))
  }, c(0, 0))
  expect_equal(table$low, sorted[ranks[1, ]])
  expect_equal(table$high, c(sorted[ranks[2, 1:2]], NA))
  expect_identical(ranks[2, 3], 201)
  expect_match(table$remark[3], "not bounded above by these runs: takes 368")
  expect_lt(0.99^368, 0.025)
  expect_gt(0.99^367, 0.025)
  expect_match(percentiles(res, 0)$remark, "extreme")
  # where R 4.2's own binomial quantile is off
  for (p in c(0.9999, 0.99999, 0.5, 1e-4)) for (q in c(0.005, 0.025, 0.975)) {
    x <- binomial_quantile(q, 6072, p)
    expect_true(pbinom(x, 6072, p) >= q && (x == 0 || pbinom(x - 1, 6072, p) < q))
  }
})

test_that("the value met with a chance is the inverse of the chance", {
  res <- quietly(gravity_main(), 2000)
  at_least <- value_met(res, pressure, c(0.2, 0.9))
  for (i in 1:2) expect_equal(mean(res$outputs$pressure >= at_least$value[i]), at_least$chance[i], tolerance = 1e-3)
  at_most <- value_met(res, c(pressure, velocity), 0.9, met = "at most")
  expect_equal(at_most$value, c(percentiles(res, 90, pressure)$value, percentiles(res, 90, velocity)$value))
  expect_fault(value_met(res, pressure, 90), "argument", "probabilities from 0 to 1", "Divide percentages by 100")
  expect_fault(value_met(res, presure, 0.9), "name", "`pressure`")
})

test_that("bad input gets one clear error; odd results are read all the same", {
  res <- quietly(gravity_main(), 100)
  expect_fault(percentiles(res, 101), "argument", "from 0 to 100")
  expect_warning(percentiles(res, c(0.1, 0.9)), "10", class = "ensayo_warning_percentiles")
  expect_fault(percentiles(res, 50, confidence = 95), "argument", "Divide percentages by 100")
  expect_fault(percentiles(data.frame(), 50), "argument", "a result")
  expect_fault(summary(res, sort = "P55"), "name", "a column of the table")
  expect_identical(summary(res, sort = "-mean")$output, c("velocity", "headloss", "pressure"))
  odd <- study() |> add_inputs(a = law_normal(0, 1), k = 3) |>
    add_outputs(fixed = k * 2, yes = a > 0, fails = sqrt(-1 - a^2), some = sqrt(a))
  for (n in c(1, 2, 30)) {
    res <- suppressWarnings(quietly(odd, n))
    expect_s3_class(summary(res), "data.frame")
    expect_equal(summary(res)$runs[1:3], c(n, n, 0))
    expect_equal(percentiles(res, 50, fixed)[c("value", "low")],
      data.frame(value = 6, low = if (n > 5) 6 else NA_real_), ignore_attr = TRUE)
    expect_true(is.na(percentiles(res, 50, fails)$value))
    expect_match(percentiles(res, 50, fails)$remark, "every run failed")
    expect_equal(contingency(res, 80, fixed)$contingency, 0)
    expect_equal(coverage_interval(res, fixed)$width, c(0, 0))
    expect_equal(expected_shortfall(res, fixed, percentiles = 50)$mean_beyond, 6)
    expect_s3_class(convergence_table(res, some), "data.frame")
  }
  expect_equal(summary(res)$mode[1:2], c(6, as.numeric(mean(res$outputs$yes) > 0.5)))
})
