test_that("runs are added until figures are as exact as asked, or to the largest number", {
  s <- three_normals() |> add_outputs(y = a * b + a) |> add_specs(y <= 1)
  res <- simulate(s, 500, 3, until = list(known_within(y, within = 0.02), known_within(y, "P90", within = "5 %"),
    known_within(y > 2, within = 0.01), known_within(statistic = "pass rate", within = 0.01)), progress = NULL)
  until <- provenance(res)$until
  expect_true(all(until$met))
  expect_identical(until$statistic, c("mean", "P90", "chance", "pass rate"))
  expect_true(all(until$error <= until$allowed))
  expect_equal(until$value, c(mean(res$outputs$y), percentiles(res, 90)$value, mean(res$outputs$y > 2),
    mean(res$outputs$y <= 1)))
  expect_equal(provenance(res)$nsim %% 50, 0)
  expect_identical(res$outputs$y, quietly(s, provenance(res)$nsim, 3, replicates = provenance(res)$nsim / 50)$outputs$y)
  # by hand: half the interval of the replicates' means
  means <- tapply(res$outputs$y, as.data.frame(res)$replicate, mean)
  expect_equal(until$error[1], sd(means) / sqrt(length(means)) * qt(0.975, length(means) - 1))
  stopped <- simulate(s, 500, 3, until = known_within(y, within = 1e-4), most = 2000, progress = NULL)
  expect_lte(provenance(stopped)$nsim, 2000)
  expect_false(provenance(stopped)$until$met)
  expect_match(format(stopped), "largest number of runs was reached", all = FALSE)
  dir <- withr::local_tempdir()
  write_result(stopped, file.path(dir, "r"))
  expect_equal(provenance(read_result(file.path(dir, "r")))$until, provenance(stopped)$until)
})

test_that("the asked exactness is delivered", {
  s <- study() |> add_inputs(a = law_lognormal(meanlog = 0, sdlog = 0.3),
    b = law_lognormal(meanlog = 1, sdlog = 0.4)) |>
    add_outputs(y = a * b)
  truth <- exp(1 + 0.5 * 0.25)
  within <- vapply(1:200, function(seed) {
    abs(mean(simulate(s, 300, seed, until = known_within(y, within = 0.05), progress = NULL)) - truth) <= 0.05
  }, TRUE)
  expect_gte(mean(within), 0.92)
})

test_that("targets read from texts are those written in R, and bad ones are refused", {
  same <- function(text, target) expect_identical(format(targets_from_text(text)[[1]]), format(target))
  same("P95 of pressure within 0.2", known_within(pressure, "P95", 0.2))
  same("chance of pressure < 38 within 0.5 %", known_within(pressure < 38, within = "0.5 %"))
  same("pass rate within 0.01", known_within(statistic = "pass rate", within = 0.01))
  expect_fault(targets_from_text("P95 pressure 0.2"), "argument", "of WHAT within")
  expect_fault(known_within(within = 1), "argument", "`what`")
  expect_fault(known_within(y, "median", 1), "argument", "P95")
  expect_fault(known_within(y, within = -1), "argument", "above 0")
  expect_fault(known_within(y), "argument", "within")
  s <- three_normals() |> add_outputs(y = a)
  expect_fault(simulate(s, 100, 1, until = known_within(z, within = 1)), "name", "`y`")
  expect_fault(simulate(s, 100, 1, until = 0.1), "argument", "known_within")
  expect_fault(simulate(s, 100, 1, until = known_within(y, within = 1), replicates = 1), "argument", "at least 2")
  expect_fault(simulate(s, 100, 1, until = known_within(y, within = 1), preview = 10), "argument", "do not go together")
  expect_fault(simulate(s, 100, 1, until = known_within(statistic = "index", within = 1)), "argument", "runs_needed")
  expect_fault(simulate(s, 100, 1, until = known_within(statistic = "pass rate", within = 1)), "argument", "specs")
})

test_that("a preview is the whole's first runs and says that it is preliminary", {
  s <- gravity_main()
  whole <- quietly(s, 1000, 7)
  first <- quietly(s, 1000, 7, preview = 100)
  expect_identical(first$outputs$pressure, whole$outputs$pressure[1:100])
  expect_match(format(first), "PRELIMINARY: the first 100 of 1000 runs", all = FALSE)
  expect_match(plot_tornado(first, pressure)$labels$caption, "PRELIMINARY")
  page <- withr::local_tempfile(fileext = ".html")
  write_report(first, page)
  expect_match(paste(readLines(page), collapse = ""), "PRELIMINARY")
  dir <- withr::local_tempdir()
  write_result(first, file.path(dir, "r"))
  expect_identical(summary(read_result(file.path(dir, "r"))), summary(first))
  expect_fault(add_runs(first, 100), "argument", "simulate(study_of(result), nsim = 1000, seed = 7)")
  expect_fault(simulate(s, 100, 7, preview = 101), "argument", "preview")
})
