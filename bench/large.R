# A hundred million runs of five inputs and three outputs into a folder, and their readings: seconds, and the most memory that
# was held. Takes about 6 GB of disk; less runs by `Rscript bench/large.R 1e7`.
suppressMessages(library(ensayo))
runs <- as.double(c(commandArgs(TRUE), "1e8")[1])
free <- as.double(strsplit(trimws(system2("df", c("--output=avail", "-k", tempdir()), stdout = TRUE)[2]), " ")[[1]][1]) * 1024
if (free < 1.3 * 64 * runs) {
  cat(sprintf("Skipped: %.0f GB of disk are free, %.0f are needed\n", free / 1e9, 1.3 * 64 * runs / 1e9))
  quit()
}
held <- function() as.double(sub("[^0-9]*([0-9]+).*", "\\1", grep("^VmHWM", readLines("/proc/self/status"), value = TRUE))) / 1e6
time <- function(what, expr) {
  seconds <- system.time(expr)[["elapsed"]]
  cat(sprintf("%-38s %6.0f s   %.2f GB at most so far\n", what, seconds, held()))
}
main <- read_study(system.file("studies", "gravity-main.yml", package = "ensayo"))
dir <- tempfile("large-")
cat(sprintf("\n%g runs of the demo's study\n", runs))
time("simulated into a folder", res <- simulate_into(main, dir, nsim = runs, seed = 11, progress = NULL))
time("read again", res <- read_result(dir))
time("percentiles of all outputs", print(percentiles(res, c(10, 50, 90, 99.99))))
time("two chances", print(chance(res, pressure < 38, velocity > 0.9)))
time("drivers of all outputs", print(drivers(res)))
unlink(dir, recursive = TRUE)
