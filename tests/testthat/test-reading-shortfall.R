test_that("the expected shortfall is the normal law's closed form, in either tail", {
  res <- quietly(study() |> add_inputs(a = law_normal(10, 2)) |> add_outputs(y = output(a, unit = "m")), 1e5)
  upper <- expected_shortfall(res, y, c(90, 99), reference = 10)
  expect_equal(upper$mean_beyond, 10 + 2 * dnorm(qnorm(c(0.9, 0.99))) / c(0.1, 0.01), tolerance = 2e-3)
  expect_equal(upper$shortfall, upper$mean_beyond - 10)
  lower <- expected_shortfall(res, y, 10, tail = "lower", reference = "base")
  expect_equal(lower$mean_beyond, 10 - 2 * dnorm(qnorm(0.1)) / 0.1, tolerance = 2e-3)
  expect_equal(lower$shortfall, res$base$outputs$y - lower$mean_beyond)
  past <- expected_shortfall(res, y, beyond = c(12, 100))
  y <- res$outputs$y
  expect_equal(past$mean_beyond, c(mean(y[y > 12]), NA))
  expect_equal(past$share, c(mean(y > 12), 0))
  # a share that is no whole number of runs counts the run at its edge in part
  few <- quietly(study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = a), 10)
  sorted <- sort(few$outputs$y, decreasing = TRUE)
  expect_equal(expected_shortfall(few, y, 75)$mean_beyond, (sum(sorted[1:2]) + 0.5 * sorted[3]) / 2.5)
  expect_fault(expected_shortfall(few, y, reference = "mean"), "argument", "base")
})

test_that("its standard error is the scatter over repeats", {
  model <- study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = a)
  read <- vapply(1:300, function(seed) {
    unlist(expected_shortfall(quietly(model, 1000, seed, design = "random"), y, 90)[c("mean_beyond", "error")])
  }, c(0, 0))
  expect_equal(mean(read[2, ]), sd(read[1, ]), tolerance = 0.15)
})
