test_that("outputs are replaced by name, and keep what readers know of them", {
  s <- gravity_main()
  changed <- replace_outputs(s, pressure = spring - 10 - headloss)
  expect_identical(changed$outputs$pressure$label, "Pressure at the last tap")
  expect_identical(changed$outputs$pressure$unit, "m")
  expect_identical(names(changed$outputs), names(s$outputs))
  res <- quietly(changed, 50)
  expect_equal(res$outputs$pressure, res$draws$spring - 10 - res$outputs$headloss)
  whole <- replace_outputs(s, pressure = output(spring - headloss, unit = "bar"))
  expect_identical(whole$outputs$pressure$unit, "bar")
  expect_null(whole$outputs$pressure$label)
  name <- "velocity"
  expect_identical(replace_outputs(s, !!name := demand / 49)$outputs$velocity$formula$text, "demand/49")
  expect_fault(replace_outputs(s, presure = 1 + spring), "name", "`presure`", "`pressure`")
  expect_fault(replace_outputs(s, 3 + spring), "name", "needs a name")
  expect_fault(replace_outputs(s, velocity = pressure + 1), "cycle", "velocity")
  expect_fault(replace_outputs(s, velocity = demnd + 1), "name", "`demand`")
  expect_identical(replace_outputs(s), s)
})

test_that("a group of outputs is used as a whole in formulas, and kept in files", {
  s <- study() |> add_inputs(level = law_normal(61.5, 0.4), a = law_uniform(10, 12), b = law_uniform(9, 14)) |>
    add_outputs(north = output(level - a, group = "taps"), south = output(level - b, group = "taps")) |>
    add_outputs(lowest = min(taps), highest = max(taps), spread = highest - lowest)
  res <- quietly(s, 100)
  expect_equal(res$outputs$lowest, pmin(res$outputs$north, res$outputs$south))
  expect_equal(res$outputs$spread, abs(res$outputs$north - res$outputs$south))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
  expect_identical(quietly(read_study(file), 100)$outputs, res$outputs)
  expect_fault(output(level - a, group = 3), "argument", "`group`")
})

test_that("dates from the session and functions of one's own go into formulas", {
  start <- as.Date("2027-03-01")
  slow <- function(days) if (days > 12) days + 2 else days
  s <- study() |> add_inputs(days = law_uniform(5, 20)) |> add_outputs(end = start + slow(days),
    open = output(slow(days) + 20000, kind = "date"))
  expect_identical(vapply(s$outputs, function(o) o$kind %||% "", ""), c(end = "date", open = "date"))
  res <- quietly(s, 100)
  expect_equal(res$outputs$end, as.double(start) + ifelse(res$draws$days > 12, res$draws$days + 2, res$draws$days))
  expect_s3_class(as.data.frame(res)$open, "Date")
  plain <- study() |> add_inputs(days = law_uniform(5, 20)) |> add_outputs(end = start + days)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(plain, file)
  expect_match(readLines(file), "date\\(.*2027-03-01.*\\) \\+ days", all = FALSE)
  expect_identical(quietly(read_study(file), 20)$outputs, quietly(plain, 20)$outputs)
})
