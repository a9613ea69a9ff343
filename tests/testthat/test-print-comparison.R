# Words that users read, held as snapshots on a plain terminal.
test_that("comparisons, shown results and drivers read as sentences and tables", {
  withr::local_options(cli.num_colors = 1L, cli.unicode = FALSE, cli.width = 100)
  main <- read_study(demo_file())
  res <- quietly(main, 1000, 11)
  lined <- quietly(main |> replace_inputs(friction = law_lognormal(mean = 0.016, sd = 0.001)), 1000, 11)
  expect_snapshot(writeLines(format(compare_results(as_is = res, lined = lined, .outputs = c(velocity, pressure),
    .better = c(pressure = "high")))))
  expect_snapshot(writeLines(format(compare_results(one = res, two = quietly(main, 1000, 12), .outputs = pressure))))
  expect_snapshot(writeLines(show_lines(res, asked_of(res, c("pressure", "velocity")))))
  expect_snapshot(print(in_words(res)))
  expect_snapshot(writeLines(driver_lines(res, drivers(res, "regression", pressure), 3)))
  expect_snapshot(print(known_within(pressure, "P95", within = "1 %")))
  expect_snapshot(writeLines(format(alternatives(main, lined = list(friction = 0.016),
    slow = list(velocity = 0.5 + 0 * demand)))))
  expect_output(print(simulate(alternatives(main, low = list(friction = 0.016)), 20, 1, progress = NULL)),
    "2 results of Gravity main")
})

test_that("wide tables show the columns there is room for, name the others, and say their sense once", {
  withr::local_options(cli.num_colors = 1L, cli.width = 60)
  res <- quietly(gravity_main(), 200)
  lines <- format(summary(res))
  expect_lte(max(nchar(lines)), 60)
  expect_identical(sum(startsWith(lines, "output")), 1L)
  expect_match(lines[1], "mean .*P50 .*P90")
  expect_match(lines, "^Not shown: .*as.data.frame|skewness", all = FALSE)
  expect_identical(tail(lines, 1), "P90: the value not exceeded in 90 % of runs")
  expect_false(any(grepl("kind", lines)))
  some <- format(percentiles(res, 50, pressure))
  expect_false(any(grepl("remark", some)))
  expect_match(format(percentiles(res, 99.99, pressure)), "remark", all = FALSE)
})
