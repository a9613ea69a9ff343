settings_file <- function(dir) {
  file <- file.path(dir, "set.yml")
  writeLines(c("ensayo: 1", "study: With settings", "settings:", "  peak: {default: 1.2, label: Peak factor, help: From the town's records}",
    "  price: 95", "inputs:", "  demand: {law: triangular, min: 28, mode: 34, max: 48}",
    "  bursts: {law: poisson, mean: peak}", "outputs:", "  cost: demand * peak * price + bursts", "run: {runs: 50, seed: 3}"), file)
  file
}

test_that("settings are constants that a call may give other values, and come back from a file", {
  dir <- withr::local_tempdir()
  s <- read_study(settings_file(dir))
  res <- quietly(s, 50, 3)
  expect_equal(res$cost, res$demand * 1.2 * 95 + res$bursts)
  expect_output(print(s), "Settings.*peak +1.2 +Peak factor")
  copy <- file.path(dir, "copy.yml")
  write_study(s, copy)
  expect_identical(read_study(copy), s)
  expect_identical(readLines(copy)[3:5], c("settings:", "  peak:", "    default: 1.2"))
  other <- with_settings(s, list(peak = 2))
  expect_equal(quietly(other, 50, 3)$demand, res$demand)
  expect_equal(mean(quietly(other, 2000, 3)$bursts), 2, tolerance = 0.05)
  expect_fault(with_settings(s, list(peek = 2)), "name", "`peek`", "peak")
  expect_fault(with_settings(s, list(demand = 2)), "name", "`demand`")
  expect_identical(rename_inputs(s, top = peak)$settings, c("top", "price"))
  writeLines(sub("default: 1.2", "defalt: 1.2", readLines(file.path(dir, "set.yml"))), copy)
  expect_fault(read_study(copy), "file", "`defalt`")
})

test_that("a setting may be a text, for programs and comparisons", {
  skip_if_not(nzchar(Sys.which("awk")))
  dir <- withr::local_tempdir()
  file <- file.path(dir, "s.yml")
  writeLines(c("study: With texts", "settings:", "  season: {default: dry, help: dry or wet}", "  code: {default: 7b}",
    "inputs:", "  demand: {law: pert, min: 28, mode: 34, max: 48}",
    "models:", "  pump:", "    program: [awk, '{ print \"power\", $1 * (\"@[season]\" == \"wet\" ? 2 : 1), $2 }', case.txt]",
    "    templates: {case.txt: {text: \"@[demand] @[season %-8s]@[code]\\n\"}}",
    "    outputs: {power: {text: power, unit: kW}}",
    "outputs:", "  cost: 'if (season == \"wet\") 3 * power else power'", "run: {runs: 10, seed: 3}"), file)
  s <- allow_programs(read_study(file))
  res <- quietly(s, 10, 3)
  expect_equal(res$power, res$demand, tolerance = 1e-5)  # awk prints six digits
  expect_equal(res$cost, res$power)
  expect_match(format(try_run(s)), "dry     7b", all = FALSE)
  wet <- quietly(with_settings(s, list(season = "wet")), 10, 3)
  expect_equal(wet$cost, 6 * res$demand, tolerance = 1e-5)
  copy <- file.path(dir, "copy.yml")
  write_study(s, copy)
  expect_identical(allow_programs(read_study(copy)), s)
  expect_false(study_hash(with_settings(s, list(season = "wet"))) == study_hash(s))
  expect_fault(with_settings(s, list(season = "a\033")), "argument", "control characters")
  expect_identical(call_cli("run", file, "--run-programs", "--set", "season=wet,code=9", "--name", "wet", "--no-plots")$code, 0L)
  expect_match(call_cli("results", dir)$output, "season=wet, code=9", all = FALSE)
  expect_equal(read_result(file.path(dir, "s-result-wet"))$cost, wet$cost)
  expect_identical(study_of(read_result(file.path(dir, "s-result-wet")))$inputs$code$law, "9")
  expect_match(call_cli("check", file)$output, "season +dry +dry or wet", all = FALSE)
})

test_that("results of one study with other settings stand side by side and are listed", {
  dir <- withr::local_tempdir()
  file <- settings_file(dir)
  expect_identical(call_cli("run", file)$code, 0L)
  expect_identical(call_cli("run", file, "--set", "peak=1.5, price=100", "--name", "dry", "--no-plots")$code, 0L)
  dry <- read_result(file.path(dir, "set-result-dry"))
  expect_equal(dry$cost, dry$demand * 150 + dry$bursts)
  listed <- call_cli("results", dir)
  expect_match(listed$output, "set-result-dry +With settings +50 +0 +3 +peak=1.5, price=100 .* whole", all = FALSE)
  expect_length(listed$output, 3)
  expect_identical(jsonlite::fromJSON(call_cli("results", dir, "--json")$output)$results$state, c("whole", "whole"))
  cat("x", file = file.path(dir, "set-result", "base.csv"), append = TRUE)
  expect_match(call_cli("results", dir)$output, "changed since", all = FALSE)
  expect_identical(call_cli("results", file.path(dir, "none"))$code, 2L)
  expect_match(call_cli("check", file, "--set", "peak=3")$output, "peak +3 +Peak factor", all = FALSE)
  expect_match(call_cli("run", file, "--set", "peak")$said, "NAME=VALUE", all = FALSE)
  expect_match(call_cli("run", file, "--name", "a/b")$said, "letters", all = FALSE)
  # draws need no outputs
  lines <- readLines(file)
  writeLines(lines[!grepl("^outputs|cost", lines)], file.path(dir, "draws.yml"))
  expect_identical(call_cli("draw", file.path(dir, "draws.yml"), "--runs", "20")$code, 0L)
  expect_identical(nrow(read.csv(file.path(dir, "draws-draws.csv"))), 20L)
  expect_identical(call_cli("run", file.path(dir, "draws.yml"))$code, 1L)
})
