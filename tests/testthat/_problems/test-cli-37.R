# Extracted from test-cli.R:37

# setup ------------------------------------------------------------------------
library(testthat)
test_env <- simulate_test_env(package = "ensayo", path = "..")
attach(test_env, warn.conflicts = FALSE)

# prequel ----------------------------------------------------------------------
call_cli <- function(...) {
  output <- NULL
  said <- utils::capture.output(output <- utils::capture.output(code <- cli_main(c(...))), type = "message")
  list(code = code, output = output, said = said)
}
small_file <- function(dir, formula = "a + 1") {
  file <- file.path(dir, "small.yml")
  writeLines(c("study: Small", "inputs:", "  a: {law: normal, mean: 3, sd: 1}", "outputs:", paste("  y:", formula),
    "specs: [y > 3]",
    "run: {runs: 100, seed: 5}"), file)
  file
}

# test -------------------------------------------------------------------------
program <- system.file("exec", "ensayo", package = "ensayo")
dir <- withr::local_tempdir()
run <- function(...) {
    errors <- tempfile()
    output <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c(program, ...), stdout = TRUE,
      stderr = errors,
      env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))))
    list(code = attr(output, "status") %||% 0L, output = output, said = readLines(errors))
  }
demo <- run("demo", "--out", file.path(dir, "demo"))
expect_identical(demo$code, 0L)
expect_match(demo$output, "What the single number hid", all = FALSE)
expect_match(demo$said, "report.html", all = FALSE)
for (name in c("manifest.json", "runs.csv", "study.yml", "statistics.csv", "statistics.json",
    "distribution-pressure.png",
    "tornado-pressure.png", "report.html", "gravity-main.yml")) {
    expect_gt(file.size(file.path(dir, "demo", name)), 100)
  }
wrong <- run("run", "--rns", "3")
expect_identical(wrong$code, 2L)
expect_length(wrong$output, 0)
expect_match(wrong$said, "--rns", all = FALSE)
