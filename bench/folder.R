# Runs in a folder: ten million runs of ten columns, simulated into it and read from it, each in a process of its own:
# seconds, and the most memory that the process took. And a million runs read as one result.
# Rscript bench/folder.R [RUNS]

runs <- as.double(c(commandArgs(TRUE), 1e7)[1])
dir <- tempfile("ensayo-folder-")
timed <- function(what, code) {
  script <- tempfile(fileext = ".R")
  writeLines(c("suppressMessages(library(ensayo))", sprintf("dir <- %s; runs <- %s", deparse(dir), format(runs, scientific = TRUE)),
    "seconds <- system.time({", code, "})[[3]]",
    "peak <- grep('VmHWM', readLines('/proc/self/status'), value = TRUE)",
    "cat(sprintf('%.1f s, %.0f MB', seconds, as.double(gsub('[^0-9]', '', peak)) / 1024))"), script)
  said <- system2(file.path(R.home("bin"), "Rscript"), script, stdout = TRUE)
  cat(sprintf("%-60s %s\n", what, utils::tail(said, 1)))
}
study <- c(
  "s <- study('Ten columns') |> add_inputs(a = law_normal(10, 1), b = law_gamma(2, 1), c = law_poisson(3),",
  "  d = law_uniform(0, 1), e = law_triangular(0, 1, 2), f = law_pert(0, 1, 4)) |>",
  "  add_outputs(y = a * b + c, z = d + e + f, w = a / b, v = y > 30) |> add_specs(y < 40)")
cat(sprintf("%s runs of ten columns\n", format(runs, big.mark = " ", scientific = FALSE)))
timed("simulated into a folder, with all its statistics", c(study, "simulate_into(s, dir, runs, 1, progress = NULL)"))
timed("read, and percentiles", "invisible(percentiles(read_result(dir)))")
timed("read, and two chances", "invisible(chance(read_result(dir), y > 50, z > 4 & w < 3))")
timed("read, and drivers of one output", "invisible(drivers(read_result(dir), y))")
timed("read, and drivers of all outputs", "invisible(drivers(read_result(dir)))")
unlink(dir, recursive = TRUE)
timed("a million runs written", c(study, "res <- simulate(s, 1e6, 1, progress = NULL)", "write_result(res, dir)"))
timed("a million runs read whole", "r <- read_result(dir)")
unlink(dir, recursive = TRUE)
