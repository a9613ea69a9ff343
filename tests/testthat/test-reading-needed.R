test_that("advice agrees with textbook numbers", {
  s <- three_normals() |> add_outputs(y = a + b + c) |> add_specs(y <= 1)
  res <- quietly(s, 4000, design = "random")
  table <- runs_needed(res, known_within(y, within = 0.01), known_within(y, "P50", within = 0.01),
    known_within(y > 0, within = 0.01), known_within(statistic = "pass rate", within = 0.01),
    known_within(statistic = "correlation", within = 0.05), known_within(statistic = "index", within = 0.05),
    known_within(statistic = "surrogate"), known_within(y, "sd", "1 %"), run_seconds = 0.001)
  z <- qnorm(0.975)
  expect_equal(table$runs[1], (z / 0.01)^2 * 3, tolerance = 0.05)
  # the median's standard error is sqrt(pi / 2) times the mean's
  expect_equal(table$runs[2], (z / 0.01)^2 * 3 * pi / 2, tolerance = 0.4)
  expect_equal(table$runs[3], (z / 0.01)^2 / 4, tolerance = 0.01)
  expect_gte(table$runs[4], (z / 0.01)^2 * table$value[4] * (1 - table$value[4]))
  expect_equal(table$runs[5:7], ceiling(c(3 + (z / 0.05)^2, (z / 0.05)^2 * 5, 30)))
  # a normal law's sd is known to 1 % after 1 / (2 * 0.01^2) times z^2 runs
  expect_equal(table$runs[8], z^2 / 2 / 0.01^2, tolerance = 0.1)
  expect_equal(table$seconds, table$runs / 1000)
  far <- runs_needed(s, known_within(y, "P99.9", within = 0.2), pilot = 100, seed = 1)
  expect_gte(far$runs, runs_to_bound(99.9))
  expect_match(far$basis, "rough guess")
  expect_fault(runs_needed(s), "argument", "known_within")
  expect_fault(runs_needed(s, known_within(z, within = 1), seed = 1), "name", "`y`")
  expect_fault(runs_needed(3, known_within(y, within = 1)), "argument", "a result")
})
