drying <- function(nsim = 400, ...) {
  study("Tank") |>
    add_inputs(volume = law_uniform(300, 500), fall = law_pert(5, 10, 30)) |>
    add_model(function(volume, fall) data.frame(step = c(1, 2, 5), level = volume - fall * c(1, 2, 5)), name = "dry",
      outputs = list(level = output(unit = "m3", label = "Water"))) |>
    add_outputs(low = min(level)) |> add_specs(low > 200) |>
    quietly(nsim, ...)
}

test_that("percentiles of a series are those of its steps", {
  res <- drying()
  x <- unname(output_values(res, level))
  table <- percentiles(res, c(10, 90), level, step = c(2, 5))
  expect_identical(table$step, c(2, 2, 5, 5))
  expect_equal(table$value, c(quantile(x[, 2], c(0.1, 0.9)), quantile(x[, 3], c(0.1, 0.9))), ignore_attr = TRUE)
  expect_identical(unique(percentiles(res, level)$step), c(1, 2, 5))
  expect_identical(percentiles(res, 50, level, step = "last")$value, median(x[, 3]))
  expect_identical(percentiles(res, 50, step = 5), percentiles(res, 50, level, step = "last"))
  expect_identical(percentiles(res, 50)$output, "low")
  expect_fault(percentiles(res, level, step = 3), "argument", "one of the series' steps", "1 to 5")
  expect_fault(percentiles(res, low, step = 5), "argument", "`low` has one value a run")
  expect_fault(percentiles(quietly(gravity_main()), step = 5), "argument", "no series")
})

test_that("a result at a step reads as any result", {
  res <- drying()
  x <- unname(output_values(res, level))
  at <- at_step(res, 2)
  expect_equal(summary(at, level)$mean, mean(x[, 2]))
  expect_equal(summary(at, level)$base, base_case(res)$value[base_case(res)$name == "level"][2])
  expect_equal(chance(at, level < 400)$chance, mean(x[, 2] < 400))
  expect_identical(drivers(at, level)$input[1], "volume")
  expect_output(print(at), "series at step 2")
  # specs of series hold in the base case, too
  s <- study_of(res) |> add_specs(kept = all(level > 0))
  page <- withr::local_tempfile(fileext = ".html")
  write_report(quietly(s, 50), page)
  expect_match(paste(readLines(page), collapse = ""), "The single-number calculation meets", fixed = TRUE)
  expect_identical(summary(at_step(given(res, low > 300), "last"))$mean[1], mean(x[x[, 3] > 300, 3]))
  expect_fault(at_step(res, 3), "argument", "`level` goes from 1 to 5")
  expect_fault(write_result(at, tempfile()), "argument", "at_step()")
  expect_fault(add_runs(at, 400), "argument", "at_step()")
  for (read in list(drivers, summary, plot_distribution, plot_runs, coverage_interval, expected_shortfall)) {
    expect_fault(read(res, level), "argument", "at a step", "at_step(result")
  }
})

test_that("the table of series tells ends and extremes of runs", {
  res <- drying()
  x <- unname(output_values(res, level))
  table <- series_table(res)
  expect_identical(table$of, c("first", "last", "all", "lowest", "highest"))
  expect_equal(table$mean, c(mean(x[, 1]), mean(x[, 3]), mean(x), mean(apply(x, 1, min)), mean(apply(x, 1, max))))
  expect_equal(table$P90[2], quantile(x[, 3], 0.9), ignore_attr = TRUE)
  lines <- paste(format(res), collapse = "\n")
  expect_match(lines, "Series over their steps")
  expect_match(lines, "lowest of a run")
})

test_that("results of series alone print, and say how they are read", {
  s <- study("Only a path") |> add_inputs(a = law_normal(0, 1)) |>
    add_model(function(a) data.frame(step = 1:3, x = a * 1:3), name = "m")
  res <- quietly(s, 50)
  expect_output(print(res), "at 3")
  expect_fault(summary(res), "argument", "All outputs are series", "at_step")
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_identical(read_result(dir)$x, res$x)
  page <- file.path(dir, "page.html")
  write_report(res, page)
  expect_match(paste(readLines(page), collapse = ""), "lowest of a run")
})

test_that("a figure of a series shows its bands, its median and some runs", {
  res <- drying()
  data <- series_plot_data(res, "level", c(10, 50, 90), 5)
  x <- unname(output_values(res, level))
  expect_equal(data$median$value, apply(x, 2, median))
  expect_equal(data$bands$high, apply(x, 2, quantile, 0.9), ignore_attr = TRUE)
  expect_identical(unique(data$runs$run), 1:5)
  expect_match(data$title, "Water at the last step: 80 % of runs from", fixed = TRUE)
  expect_s3_class(plot_series(res), "ggplot")
  expect_fault(plot_series(res, low), "name", "a series of the result")
  exceeded <- res
  exceeded$study <- add_readings(res$study, .sense = "exceeded")
  expect_equal(series_plot_data(exceeded, "level", c(10, 50, 90), 5)$bands$high, data$bands$high)
})

test_that("one run, one percentile and steps of any digits go through", {
  steps <- c(0.1, 0.1 + 0.2, 1, 4 / 3, 1e5, 1e15 + 1)
  s <- study() |> add_inputs(a = law_normal(0, 1)) |>
    add_model(rlang::inject(function(a) data.frame(step = !!steps, x = a + seq_along(!!steps))), name = "m")
  third <- 4 / 3
  s <- s |> add_outputs(y = at(x, third), when = first_step(x > a + 3.5, never = 0))
  res <- quietly(s, 40)
  expect_equal(res$y, res$a + 4)
  expect_identical(unique(res$when), third)
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_identical(read_result(dir)$x, res$x)
  expect_equal(percentiles(res, 50, x, step = 0.1 + 0.2)$value, median(res$a) + 2)
  one <- quietly(s, 1)
  expect_output(print(one), "Series over their steps")
  expect_equal(series_table(one)$mean, one$a + c(1, 6, 3.5, 1, 6))
  alone <- add_readings(s, .percentiles = 50)
  expect_s3_class(plot_series(quietly(alone, 20)), "ggplot")
  expect_identical(levels(series_plot_data(res, "x", c(10, 90), 0)$bands$band), "P10 to P90")
})
