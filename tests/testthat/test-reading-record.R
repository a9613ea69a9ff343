test_that("statistics without runs are those of the runs", {
  s <- gravity_main()
  res <- quietly(s, 20000, 5)
  table <- record_statistics(s, 20000, 5, piece = 7000, progress = NULL)
  full <- summary(res)
  for (column in c("mean", "sd", "skewness", "excess_kurtosis", "min", "max", "mean_error")) {
    expect_equal(table[[column]][1:3], full[[column]], tolerance = 1e-10)
  }
  for (p in c(5, 50, 95)) {
    reached <- mean(res$outputs$pressure <= table[[paste0("P", p)]][3])
    expect_lt(abs(reached - p / 100), 0.0004)
  }
  expect_equal(table$mean[4:5], pass_rate(res)$pass_rate[1:2])
  odd <- study() |> add_inputs(a = law_normal(0, 1), k = law_poisson(2)) |> add_outputs(root = sqrt(a), n = k,
    c = 0 * a + 3)
  table <- suppressWarnings(record_statistics(odd, 5000, 1, piece = 1000, progress = NULL))
  expect_equal(table$failed, c(2500, 0, 0))
  expect_equal(c(table$P5[3], table$sd[3]), c(3, 0))
  expect_equal(table$P50[2], 2)
})

test_that("statistics without runs hold for correlated inputs, senses and chosen outputs", {
  s <- gravity_main() |> add_readings(.percentiles = c(10, 90), .sense = "exceeded")
  table <- record_statistics(s, 40000, 5, outputs = pressure, piece = 5000, progress = NULL)
  res <- quietly(s, 40000, 5)
  expect_identical(table$output[1], "pressure")
  expect_equal(table$P90[1], percentiles(res, 90, pressure)$value, tolerance = 1e-3)
  expect_equal(table$mean[1], mean(res$outputs$pressure), tolerance = 1e-12)
  expect_lt(table$P90[1], table$P10[1])
  expect_fault(record_statistics(s, 1000, 5, outputs = presure), "name", "`pressure`")
  expect_fault(record_statistics(s, 1000, 5, piece = 10), "argument", "at least 1000")
})
