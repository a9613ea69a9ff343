pipe <- study("Pipe") |>
  add_inputs(flow = input(law_pert(0.028, 0.034, 0.048), unit = "m3/s"), t = input(law_normal(15, 2), unit = "degC")) |>
  add_outputs(drop = output(4200 * flow^2, unit = "kPa"), half = output(flow / 2, unit = "m3/s"), warm = output(t, unit = "degC")) |>
  add_specs(drop <= 8, low = drop <= 4 + 2 * warm) |> add_readings(chances = "drop > 6")

test_that("every reading of a converted result is in the new unit", {
  res <- simulate(pipe, 1000, 11)
  bar <- in_unit(res, drop = "bar", half = "L/s", warm = "degF")
  expect_equal(output_values(bar, half), 1000 * output_values(res, half))
  expect_equal(percentiles(bar, drop, 50)$value, percentiles(res, drop, 50)$value / 100)
  expect_equal(summary(bar)$mean, c(summary(res)$mean[1] / 100, summary(res)$mean[2] * 1000, summary(res)$mean[3] * 1.8 + 32))
  expect_identical(summary(bar)$unit, c("bar", "L/s", "degF"))
  expect_equal(bar$base$outputs$warm, 59)
  # specs and chances mean what they meant
  expect_identical(pass_rate(bar)$pass_rate, pass_rate(res)$pass_rate)
  expect_identical(names(bar$study$specs), c("drop <= 0.08", "low"))
  expect_identical(chance(bar, drop > 0.06)$chance, chance(res, drop > 6)$chance)
  expect_equal(evaluate(bar, flow = 0.03)$value[1:2], evaluate(res, flow = 0.03)$value[1:2] / c(100, 0.001))
  expect_equal(run_details(bar, 3)$outputs$drop, run_details(res, 3)$outputs$drop / 100)
  expect_match(paste(capture.output(print(bar)), collapse = " "), "bar")
})

test_that("what cannot be converted says why", {
  res <- simulate(pipe, 100, 11)
  expect_error(in_unit(res, drop = "m"), "dimension", class = "ensayo_error_argument")
  expect_error(in_unit(res, drop = "barr"), "Did you mean `bar`", class = "ensayo_error_argument")
  expect_error(in_unit(res, dropp = "bar"), "Did you mean `drop`", class = "ensayo_error_name")
  plain <- simulate(study("p") |> add_inputs(a = law_normal(1, 0.1)) |> add_outputs(y = a), 100, 1)
  expect_error(in_unit(plain, y = "m"), "have a unit", class = "ensayo_error_argument")
  expect_error(write_result(in_unit(res, drop = "bar"), withr::local_tempfile()), "another unit", class = "ensayo_error_argument")
  expect_error(add_runs(in_unit(res, drop = "bar"), 100), class = "ensayo_error_argument")
})
