# Runs the core's own tests and the package's; the last line counts them all.

dir.create("build", showWarnings = FALSE)
Sys.setenv(NOT_CRAN = "true")  # snapshots too
library(testthat)
library(ensayo)
# Files side by side, the longest first; the core's own tests are one of them.
files <- list.files("tests/testthat", "^test-.*[.]R$")
slow <- intersect(paste0("test-", c("cli", "report-sheet", "driver", "law-fit", "cli-new", "reading-surrogate",
  "law", "cli-surrogate", "plot", "plot-schedule", "report-live", "study-program-record", "simulate-worker"), ".R"), files)
core_tests <- function() {
  said <- suppressWarnings(system2("make", c("--no-print-directory", "test-core"), stdout = TRUE, stderr = TRUE))
  cat(said, sep = "\n")
  counted <- Filter(length, regmatches(said, regexec("^([0-9]+) passed, ([0-9]+) failed$", said)))
  counts <- Reduce(`+`, lapply(counted, function(line) as.integer(line[2:3])), c(0L, 0L))
  # two programs; one that did not come to its end has failed
  list(found = data.frame(failed = counts[2] + 2L - length(counted), error = FALSE, skipped = FALSE, passed = counts[1]),
    faults = grep("^FAIL|failed$", said, value = TRUE)[counts[2] > 0 || length(counted) < 2])
}
package_tests <- function(file) {
  tests <- test_file(file.path("tests/testthat", file), package = "ensayo", load_package = "installed", reporter = "check",
    stop_on_failure = FALSE)
  faults <- lapply(tests, function(test) {
    at_fault <- Filter(function(found) inherits(found, c("expectation_failure", "expectation_error")), test$results)
    vapply(at_fault, function(found) sprintf("%s: %s: %s", file, test$test, conditionMessage(found)), "")
  })
  list(found = as.data.frame(tests), faults = unlist(faults))
}
run_file <- function(file) {
  started <- Sys.time()
  part <- if (file == "core") core_tests() else package_tests(file)
  c(list(file = file, seconds = as.double(Sys.time() - started, units = "secs")), part)
}
parts <- parallel::mclapply(c("core", slow, setdiff(files, slow)), run_file, mc.cores = parallel::detectCores(),
  mc.preschedule = FALSE)
broken <- !vapply(parts, is.list, TRUE)  # a file that did not come to its end has failed
for (part in parts[broken]) print(part)
parts <- parts[!broken]
results <- do.call(rbind, lapply(parts, function(part) part$found[c("failed", "error", "skipped", "passed")]))
seconds <- vapply(parts, function(part) part$seconds, 0)
names(seconds) <- vapply(parts, function(part) part$file, "")
seconds <- sort(seconds, decreasing = TRUE)
cat(sprintf("%5.0f s  %s\n", seconds, names(seconds))[seconds > 10], sep = "")
failed <- sum(results$failed) + sum(results$error) + sum(broken)
skipped <- sum(results$skipped)
passed <- sum(results$passed)
for (part in parts) for (fault in part$faults) cat("\n", fault, "\n", sep = "")  # at the end, where a log is read
cat(sprintf("\n%d passed, %d failed, %d skipped\n", passed, failed, skipped))
quit(save = "no", status = if (failed > 0 || passed == 0) 1 else 0)
