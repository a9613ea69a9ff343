# JCGM 100:2008, H.3: corrections of a thermometer.
thermometer <- list(x = c(21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511),
  y = -c(0.171, 0.169, 0.166, 0.159, 0.164, 0.165, 0.156, 0.157, 0.159, 0.161, 0.160))

test_that("the line of H.3 has its published figures", {
  line <- calibration_line(thermometer$x, thermometer$y, at = 20)
  fitted <- as.data.frame(line)
  expect_equal(fitted$value, c(-0.17120379, 0.00218270), tolerance = 1e-6)
  expect_equal(fitted$standard, c(0.00287760, 0.000667939), tolerance = 1e-6)
  expect_equal(line$r, -0.930430, tolerance = 1e-6)
  at <- line_at(line, 30)
  expect_equal(c(at$value, at$standard), c(-0.14937681, 0.00413860), tolerance = 1e-6)
  # as R's own fit predicts
  model <- lm(y ~ x, thermometer)
  expect_equal(at$standard, predict(model, data.frame(x = 30), se.fit = TRUE)$se.fit)
  expect_equal(line_at(line, 30, of = "next")$standard^2, at$standard^2 + sigma(model)^2)
})

test_that("in a study the line gives the same, as its coefficients correlate", {
  line <- calibration_line(thermometer$x, thermometer$y, at = 20)
  s <- study("corrected") |> add_inputs(t = 30) |> add_line(line, "c", .unit = c(intercept = "K")) |> add_outputs(b = c_intercept + c_slope * (t - 20))
  r <- budget_result(budget(s))
  expect_equal(c(r$value, r$standard), c(-0.14937681, 0.00413860), tolerance = 1e-6)
  expect_equal(r$df, 9)
  # a line's coefficients are no means of readings, and have two degrees of freedom fewer than there are points
  expect_match(format_lines(budget(s)), "come from the same points and count as one, with 9 degrees of freedom")
  expect_match(ensayo:::known_from(s$inputs$c_slope$law), "fitted to 11 points, standard uncertainty 0.000668, 9 degrees of freedom")
  middle <- calibration_line(thermometer$x, thermometer$y, at = mean(thermometer$x))
  expect_equal(middle$r, 0)
  expect_equal(nrow(correlations(study("m") |> add_line(middle, "c"))), 0)
})

test_that("backwards it holds the true value as often as it says", {
  x <- c(0, 5, 10, 15, 20)
  held <- withr::with_seed(4, mean(replicate(2000, {
    line <- calibration_line(x, 1 + 2 * x + rnorm(5, 0, 0.3))
    back <- line_back(line, 1 + 2 * 12 + rnorm(2, 0, 0.3))
    back$low <= 12 && back$high >= 12
  })))
  expect_gt(held, 0.935)
  expect_lt(held, 0.965)
  line <- calibration_line(x, c(1.1, 10.9, 21.2, 30.8, 41.1))
  back <- line_back(line, 25)
  expect_equal(back$x, (25 - line$intercept) / line$slope)
  # a slope that is not told from 0 leaves x open
  flat <- calibration_line(x, c(1, 1.2, 0.9, 1.1, 1.05))
  expect_identical(unlist(line_back(flat, 1)[c("low", "high")], use.names = FALSE), c(-Inf, Inf))
})

test_that("bad points are refused", {
  expect_error(calibration_line(1:2, 1:2), class = "ensayo_error_argument")
  expect_error(calibration_line(c(1, 1, 1), 1:3), "different", class = "ensayo_error_argument")
  expect_error(calibration_line(1:3, 1:4), class = "ensayo_error_argument")
  expect_error(calibration_line(1:3, c(2, 4, 6)), "scatter", class = "ensayo_error_argument")
  expect_error(line_at(3, 1), class = "ensayo_error_argument")
  expect_output(print(calibration_line(thermometer$x, thermometer$y, at = 20)), "-0.1712 ± 0.0029")
})
