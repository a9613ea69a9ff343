test_that("a study says how it is read, and every table follows and says so", {
  s <- three_normals() |> add_outputs(y = a + b) |>
    add_readings(high = y > 1, .percentiles = c(90, 10), .planning = 95, .sense = "exceeded")
  res <- quietly(s, 1000)
  y <- res$outputs$y
  table <- percentiles(res)
  # those stated, and the one the house plans with
  expect_identical(table$percentile, c(10, 90, 95))
  expect_identical(table$sense, rep("exceeded", 3))
  expect_equal(table$value, unname(quantile(y, c(0.9, 0.1, 0.05))))
  expect_equal(summary(res)$P95, unname(quantile(y, 0.05)))
  expect_equal(summary(res)$P10, unname(quantile(y, 0.9)))
  expect_equal(summary(res)$base_at, 100 * (mean(y > 0) + mean(y == 0) / 2))
  expect_equal(summary(res)$base_met, mean(y >= 0))
  expect_equal(contingency(res, 95)$value, unname(quantile(y, 0.05)))
  expect_identical(contingency(res)$planning, c(FALSE, FALSE, TRUE))
  expect_match(format(table), "the value exceeded in 90 % of runs", all = FALSE)
  expect_match(format(res), "high .* %", all = FALSE)
  data <- distribution_plot_data(res, "y", c(10, 90))
  expect_equal(data$markers$share, c(0.9, 0.1))
  expect_match(data$title, "80 % of runs from")
  # quantile() asks by shares that are not exceeded, always
  expect_equal(quantile(res, 0.9)$value, unname(quantile(y, 0.9)))
  expect_identical(study_hash(s), study_hash(three_normals() |> add_outputs(y = a + b)))
  expect_fault(add_readings(s, .sense = "above"), "argument", "exceeded")
  expect_fault(add_readings(s, .planning = 101), "argument", "100")
  expect_fault(add_readings(s, y + 1), "argument", "TRUE or FALSE")
})

test_that("laws stated by percentiles follow the study's sense", {
  given <- law_from_facts("triangular", P10 = 45, mode = 34, P90 = 30, sense = "exceeded")
  expect_equal(cumulative(given, c(30, 45)), c(0.1, 0.9), tolerance = 1e-8)
  expect_match(format(given), "exceeded")
  expect_message(fallen <- law_from_facts("triangular", P10 = 45, mode = 34, P90 = 30), "taken as values exceeded")
  expect_identical(fallen, given)
  # a single percentile would pass either way: the sense decides
  high <- law_from_facts("exponential", P10 = 5)
  s <- study() |> add_readings(.sense = "exceeded") |> add_inputs(x = high, z = law_from_facts("exponential", P10 = 5,
    sense = "not exceeded"))
  expect_equal(cumulative(s$inputs$x$law, 5), 0.9, tolerance = 1e-8)
  expect_equal(cumulative(s$inputs$z$law, 5), 0.1, tolerance = 1e-8)
  after <- study() |> add_inputs(x = high) |> add_readings(.sense = "exceeded")
  expect_equal(after$inputs$x$law, s$inputs$x$law)
  file <- withr::local_tempfile(fileext = ".yml")
  writeLines(c("study: S", "inputs:", "  x: {law: triangular, P10: 45, mode: 34, P90: 30}", "outputs: {y: x + 1}",
    "readings: {sense: exceeded, planning: 90}"), file)
  read <- read_study(file)
  expect_equal(cumulative(read$inputs$x$law, 45), 0.9, tolerance = 1e-8)
  again <- withr::local_tempfile(fileext = ".yml")
  write_study(read, again)
  expect_identical(read_study(again), read)
})
