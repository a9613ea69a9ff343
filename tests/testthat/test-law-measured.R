test_that("certificates say their uncertainty in one way", {
  expect_equal(moments(law_measured(20, expanded = 0.06, k = 2))$sd, 0.03)
  expect_equal(moments(law_measured(20, expanded = "0.3 %", k = 2))$sd, 0.03)
  expect_equal(moments(law_measured(20, expanded = 1.96, coverage = 0.95))$sd, 1.96 / qnorm(0.975))
  law <- law_measured(20, expanded = 1, coverage = 0.95, df = 8)
  expect_equal(quantile(law, 0.975), 21)
  expect_error(law_measured(20, expanded = 0.06), "coverage factor", class = "ensayo_error_argument")
  expect_error(law_measured(20, expanded = 0.06, k = 2, coverage = 0.95), class = "ensayo_error_argument")
  expect_error(law_measured(20, expanded = 0.06, coverage = 95), "below 1", class = "ensayo_error_argument")
  expect_error(law_measured(0, expanded = "1 %", k = 2), "per cents of 0", class = "ensayo_error_argument")
  expect_error(law_measured(20, half_width = 1, k = 2), class = "ensayo_error_argument")
})

test_that("observations may be few where their scatter is known from earlier", {
  data <- c(20.11, 20.04, 20.09, 20.13)
  expect_equal(parameters(law_observed(data, of = "mean"))$scale, sd(data) / 2)
  law <- law_observed(20.1, sd = 0.05, df = 24, of = "mean")
  expect_equal(parameters(law)[c("df", "scale")], list(df = 24, scale = 0.05))
  expect_equal(parameters(law_observed(data, sd = 0.05, df = 24, of = "next"))$scale, 0.05 * sqrt(1.25))
  expect_error(law_observed(20.1, of = "mean"), "single reading", class = "ensayo_error_argument")
  expect_error(law_observed(n = 1, mean = 2, sd = 1, of = "mean"), class = "ensayo_error_argument")
  expect_error(law_observed(data, df = 24, of = "mean"), "sd", class = "ensayo_error_argument")
  expect_error(law_observed(rep(2, 5), of = "mean"), class = "ensayo_error_argument")
})

test_that("a pooled standard deviation weighs by degrees of freedom", {
  series <- list(c(20.1, 20.2, 20.15), c(19.8, 19.95), 5)
  pooled <- pooled_sd(series)
  expect_equal(pooled$sd, sqrt((2 * var(series[[1]]) + var(series[[2]])) / 3))
  expect_equal(unlist(pooled[c("df", "series", "n")], use.names = FALSE), c(3, 3, 6))
  expect_equal(pooled_sd(unlist(series), rep(1:3, lengths(series)))$sd, pooled$sd)
  expect_error(pooled_sd(list(1, 2)), class = "ensayo_error_argument")
  expect_error(pooled_sd(1:3, 1:2), class = "ensayo_error_argument")
})

test_that("what an instrument adds has its law and is read back from its text", {
  laws <- list(law_resolution(0.01), law_hysteresis(0.04), law_drift(limit = 0.2, elapsed = 5, interval = 12), law_drift(rate = 0.003, standard = 0.001, elapsed = 5),
    law_cycle(0.5, value = 20), law_resolution(0.1, value = 3), law_measured(1, half_width = 0.1, df = 50),
    law_observed(20.1, sd = 0.05, df = 24, of = "mean"), law_coefficient(0.0022, 0.0007, n = 11, df = 9), law_measured(20, expanded = "0.3 %", coverage = 0.95, df = 8))
  sds <- c(0.01 / sqrt(12), 0.04 / sqrt(12), 0.2 * 5 / 12 / sqrt(3), 0.005, 0.5 / sqrt(2), 0.1 / sqrt(12), 0.1 / sqrt(3))
  expect_equal(vapply(laws[1:7], function(law) moments(law)$sd, 0), sds)
  for (law in laws) {
    again <- ensayo:::law_from_text(ensayo:::law_text(law), "A law")
    expect_identical(again, law)
  }
  expect_equal(mean(law_drift(rate = 0.003, standard = 0.001, elapsed = 5)), 0.015)
  expect_error(law_drift(limit = 1, elapsed = 2), class = "ensayo_error_argument")
  expect_error(law_resolution(0), class = "ensayo_error_argument")
})

test_that("readings come from a column of a CSV file, in R and in a study file", {
  file <- system.file("studies", "meter", "readings.csv", package = "ensayo")
  data <- read_observations(file, "indicated")
  expect_equal(data, read.csv(file)$indicated)
  expect_equal(read_observations(file, "indicated", rows = c(1, 3)), data[c(1, 3)])
  s <- read_study(system.file("studies", "meter.yml", package = "ensayo"))
  expect_identical(s$inputs$indicated$law, law_observed(data, of = "mean"))
  expect_error(read_observations(file, "indicatd"), "Did you mean `indicated`", class = "ensayo_error_file")
  own <- withr::local_tempfile(fileext = ".csv", lines = c("x", "1.5", "", "2.5"))
  expect_equal(read_observations(own), c(1.5, 2.5))
  writeLines(c("x;y", "1,5;2", "2,5;n.a."), own)
  expect_equal(read_observations(own, "x"), c(1.5, 2.5))
  expect_error(read_observations(own, "y"), "Row 2 holds \"n.a.\"", class = "ensayo_error_file")
})
