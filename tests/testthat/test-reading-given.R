test_that("readings given a condition are those of the runs that meet it", {
  res <- quietly(gravity_main(), 1000, replicates = 2)
  kept <- given(res, demand > 40, friction > 0.02)
  met <- res$draws$demand > 40 & res$draws$friction > 0.02
  expect_equal(summary(kept)$mean[3], mean(res$outputs$pressure[met]))
  expect_identical(as.data.frame(kept)$run, which(met))
  expect_identical(as.data.frame(kept)$replicate, ifelse(which(met) > 500, 2, 1))
  expect_equal(chance(kept, pressure < 36)$chance, mean(res$outputs$pressure[met] < 36))
  expect_match(format(kept), "given demand > 40 and friction > 0.02", all = FALSE)
  expect_match(plot_distribution(kept, pressure)$labels$caption, "given demand > 40")
  expect_equal(summary(given(given(res, demand > 40), friction > 0.02)), summary(kept))
  expect_fault(given(res, demand > 100), "argument", "in none of 1000 runs")
  expect_fault(given(res, demand), "argument", "TRUE or FALSE")
  expect_fault(write_result(kept, tempfile()), "argument", "needs all runs")
  expect_fault(add_runs(kept, 500), "argument", "needs all runs")
})

test_that("failures stay with their runs", {
  res <- suppressWarnings(quietly(study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(root = sqrt(a), y = a),
    100))
  kept <- given(res, y < 0.5)
  expect_identical(failures(kept)$run, failures(res)$run[failures(res)$run %in% which(res$outputs$y < 0.5)])
  expect_equal(nrow(failures(given(res, root > 0))), 0)
})

test_that("a yes/no output is a condition by its name", {
  res <- quietly(three_normals() |> add_outputs(high = a > 1, y = a + b) |> add_specs(fine = !high, high), 300)
  expect_equal(chance(res, high, !high)$chance, c(mean(res$draws$a > 1), mean(res$draws$a <= 1)))
  expect_identical(pass_rate(res)$met[1:2], c(sum(res$draws$a <= 1), sum(res$draws$a > 1)) + 0)
  expect_equal(summary(given(res, high), outputs = y)$mean, mean(res$outputs$y[res$draws$a > 1]))
  expect_fault(chance(res, y), "argument", "TRUE or FALSE")
  known <- known_within(high, within = 0.1)
  expect_identical(known$statistic, "mean")
})

test_that("runs of one replicate tell their errors themselves", {
  res <- quietly(three_normals() |> add_outputs(y = a), 500, replicates = 10)
  one <- given(res, a > sort(res$draws$a)[498])
  expect_true(is.finite(summary(one)$mean_error))
  expect_equal(summary(one)$mean_error, sd(one$outputs$y) / sqrt(2))
})
