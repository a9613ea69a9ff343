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

test_that("results of one study with other settings stand side by side and are listed", {
  dir <- withr::local_tempdir()
  file <- settings_file(dir)
  expect_identical(call_cli("run", file)$code, 0L)
  expect_identical(call_cli("run", file, "--set", "peak=1.5, price=100", "--name", "dry")$code, 0L)
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
