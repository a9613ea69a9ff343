# Simulations that are stopped from outside.

# Runs are made in another session, which is ended after some seconds, or when that is said; whether it was done by then.
ended_after <- function(seconds, dir, file, when = function() FALSE) {
  process <- processx::process$new(file.path(R.home("bin"), "Rscript"), c("-e",
    sprintf("ensayo::cli_main(c('run', '%s', '--out', '%s', '--run-programs'))", file, dir)),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":")), stderr = file.path(dirname(dir), "said"))
  on.exit(process$kill())
  until <- Sys.time() + seconds
  while (process$is_alive() && Sys.time() < until && !when()) Sys.sleep(0.02)
  !process$is_alive()
}

slow_file <- function(dir, runs = 120, pause = 0.02) {
  file <- file.path(dir, "slow.yml")
  writeLines(c("ensayo: 1", "inputs: {a: {law: normal, mean: 10, sd: 1}, b: {law: uniform, min: 0, max: 1}}",
    "correlations: [{between: [a, b], rank: 0.5}]", "models:", "  slow:",
    sprintf("    program: [sh, -c, \"sleep %s; case @[a] in 8*) exit 3;; esac; echo @[a]\"]", pause),
    "    outputs: {y: {line: 1}}", "outputs: {z: y + b}", sprintf("run: {runs: %d, seed: 4}", runs)), file)
  file
}

# How many simulations that were killed at a random moment, and run again, are another than the undisturbed one.
faulty_kills <- function(seeds, dir = tempfile("kills-")) {
  dir.create(dir)
  old <- Sys.getenv("ENSAYO_CHUNK_SECONDS", NA)
  Sys.setenv(ENSAYO_CHUNK_SECONDS = "0.2")
  on.exit(if (is.na(old)) Sys.unsetenv("ENSAYO_CHUNK_SECONDS") else Sys.setenv(ENSAYO_CHUNK_SECONDS = old))
  file <- slow_file(dir)
  whole <- as.data.frame(simulate(allow_programs(read_study(file)), 120, 4, progress = NULL))
  unlist(lapply(seeds, function(seed) {
    out <- file.path(dir, seed)
    moment <- stream_uniforms("moment", seed, "random", 1) * 4
    done <- ended_after(moment, out, file)
    there <- length(list.files(file.path(out, "runs", "begun"), "parquet$"))
    again <- done || ended_after(60, out, file)
    same <- again && identical(as.data.frame(read_result(out)), whole)
    message(sprintf("killed after %.2f s, %d chunks there: %s", moment, there, if (same) "the same" else "ANOTHER"))
    if (!same) sprintf("seed %d, killed after %.2f s", seed, moment)
  }))
}
