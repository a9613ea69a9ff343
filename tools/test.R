# Runs the core's own tests and the package's; the last line counts them all.

dir.create("build", showWarnings = FALSE)
core <- suppressWarnings(system2("make", c("--no-print-directory", "test-core"), stdout = TRUE, stderr = TRUE))
cat(core, sep = "\n")
counted <- regmatches(core, regexec("^([0-9]+) passed, ([0-9]+) failed$", core))
counted <- Filter(length, counted)
# two programs; one that did not come to its end has failed
core_counts <- Reduce(`+`, lapply(counted, function(line) as.integer(line[2:3])), c(0L, 2L - length(counted)))

Sys.setenv(NOT_CRAN = "true")  # snapshots too
library(testthat)
library(ensayo)
# Files side by side, the longest first.
files <- list.files("tests/testthat", "^test-.*[.]R$")
slow <- intersect(paste0("test-", c("law-composition", "file-hostile", "law-fit", "driver", "law", "law-parameters", "cli", "cli-show", "simulate-until", "driver-index", "plot"), ".R"), files)
run_file <- function(file) {
  started <- Sys.time()
  found <- as.data.frame(test_file(file.path("tests/testthat", file), package = "ensayo", load_package = "installed",
    reporter = "check", stop_on_failure = FALSE))
  list(file = file, seconds = as.double(Sys.time() - started, units = "secs"), found = found)
}
parts <- parallel::mclapply(c(slow, setdiff(files, slow)), run_file, mc.cores = parallel::detectCores(),
  mc.preschedule = FALSE)
broken <- !vapply(parts, is.list, TRUE)  # a file that did not come to its end has failed
for (part in parts[broken]) print(part)
core_counts[2] <- core_counts[2] + sum(broken)
parts <- parts[!broken]
results <- do.call(rbind, lapply(parts, function(part) part$found[c("failed", "error", "skipped", "passed")]))
seconds <- vapply(parts, function(part) part$seconds, 0)
names(seconds) <- vapply(parts, function(part) part$file, "")
seconds <- sort(seconds, decreasing = TRUE)
cat(sprintf("%5.0f s  %s\n", seconds, names(seconds))[seconds > 10], sep = "")
failed <- sum(results$failed) + sum(results$error) + core_counts[2]
skipped <- sum(results$skipped)
passed <- sum(results$passed) + core_counts[1]
cat(sprintf("\n%d passed, %d failed, %d skipped\n", passed, failed, skipped))
quit(save = "no", status = if (failed > 0 || passed == 0) 1 else 0)
