# What must be the same however often a simulation was stopped.
same_result <- function(a, b) {
  expect_identical(as.data.frame(a), as.data.frame(b))
  expect_identical(failures(a)[1:3], failures(b)[1:3])
  expect_identical(summary(a), summary(b))
  expect_identical(provenance(a)$hash, provenance(b)$hash)
}

test_that("a session that was killed loses nothing: the same call goes on to the same result", {
  skip_on_cran()
  skip_on_os("windows")
  dir <- withr::local_tempdir()
  file <- slow_file(dir)
  whole <- allow_programs(read_study(file)) |> quietly(120, 4)
  out <- file.path(dir, "out")
  # chunks come every ten seconds: here every tenth of one
  withr::local_envvar(ENSAYO_CHUNK_SECONDS = "0.1")
  chunks <- function() length(list.files(file.path(out, "runs", "begun"), "parquet$"))
  for (k in 1:3) {
    had <- chunks()
    expect_false(ended_after(120, out, file, function() chunks() > had))
    expect_fault(read_result(out), "file", "holds no manifest")
  }
  expect_true(ended_after(120, out, file))
  same_result(read_result(out), whole)
  expect_identical(list.files(out, "^begun|[.]part$", recursive = TRUE, include.dirs = TRUE), character())
  expect_length(list.files(file.path(out, "failed")), nrow(failures(whole)) / 2)
})

test_that("an interrupted simulation keeps what was done, with workers too", {
  skip_on_os("windows")
  calls <- withr::local_tempfile()
  model <- function(a) { cat("x\n", file = calls, append = TRUE); if (a > 11.5) stop("hot"); list(y = a, z = rnorm(1)) }
  s <- study("Stops") |> add_inputs(a = law_normal(10, 1)) |> add_model(model)
  whole <- quietly(s, 100, 4)
  dir <- file.path(withr::local_tempdir(), "r")
  stopping <- function(done, all) if (done >= 40) rlang::interrupt()
  unlink(calls)
  tryCatch(simulate_into(s, dir, 100, 4, progress = stopping), interrupt = function(e) NULL)
  made <- length(readLines(calls))
  expect_lt(made, 100)
  expect_fault(read_result(dir), "file", "holds no manifest")
  expect_fault(write_result(whole, dir), "file", "not done")
  # another study, seed or number of runs is no going on
  expect_fault(simulate_into(s, dir, 100, 5, progress = NULL), "file", "the seed")
  expect_fault(simulate_into(replace_inputs(s, a = law_normal(9, 1)), dir, 100, 4, progress = NULL), "file", "`a`")
  expect_fault(simulate_into(s, dir, 200, 4, progress = NULL), "file", "the number of runs")
  res <- simulate_into(s, dir, 100, progress = NULL)
  same_result(res, whole)
  same_result(read_result(dir), whole)
  # the base case once more, and no run twice
  expect_lte(length(readLines(calls)), 100 + 2)
  tryCatch(simulate_into(s, paste0(dir, 2), 100, 4, progress = stopping, workers = 2), interrupt = function(e) NULL)
  same_result(simulate_into(s, paste0(dir, 2), 100, 4, progress = NULL), whole)
  # a piece that is not whole is made again; one begins anew where that is said
  tryCatch(simulate_into(s, dir, 100, 4, progress = stopping, overwrite = TRUE), interrupt = function(e) NULL)
  chunk <- list.files(file.path(dir, "runs", "begun"), "parquet$", full.names = TRUE)[1]
  writeBin(readBin(chunk, "raw", 100), chunk)
  same_result(simulate_into(s, dir, 100, 4, progress = NULL), whole)
  same_result(simulate_into(s, dir, 50, 4, progress = NULL, overwrite = TRUE), quietly(s, 50, 4))
})

test_that("large simulations go on piece by piece", {
  s <- three_normals() |> add_correlation(a, b, 0.5) |> add_outputs(y = sqrt(a + 2) + c, w = y > 1)
  dir <- file.path(withr::local_tempdir(), "r")
  runs <- 3e5
  whole <- suppressWarnings(quietly(s, runs, 4))
  stopping <- function(done, all) if (done > 2e5) rlang::interrupt()
  tryCatch(simulate_into(s, dir, runs, 4, progress = stopping), interrupt = function(e) NULL)
  first <- list.files(file.path(dir, "runs"), "parquet$", full.names = TRUE)
  expect_length(first, 1)
  when <- file.mtime(first)
  same_result(simulate_into(s, dir, runs, 4, progress = NULL), whole)
  expect_identical(file.mtime(first), when)
})

test_that("two sessions do not share a folder, and a folder that cannot be written is told before the first run", {
  skip_on_cran()
  skip_on_os("windows")
  dir <- withr::local_tempdir()
  file <- slow_file(dir, 500)
  out <- file.path(dir, "out")
  other <- processx::process$new(file.path(R.home("bin"), "Rscript"), c("-e",
    sprintf("ensayo::cli_main(c('run', '%s', '--out', '%s', '--run-programs'))", file, out)),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":")))
  withr::defer(other$kill())
  until <- Sys.time() + 20
  while (!file.exists(file.path(out, "begun.json")) && Sys.time() < until) Sys.sleep(0.05)
  s <- allow_programs(read_study(file))
  expect_fault(simulate_into(s, out, 500, 4, progress = NULL), "file", "one session at a time")
  expect_fault(simulate_into(s, out, 500, 4, progress = NULL, overwrite = TRUE), "file", "one session at a time")
  other$kill()
  # where not even root may write
  expect_fault(simulate_into(s, if (dir.exists("/proc")) "/proc/ensayo" else "/dev/null/ensayo", 5, 4), "file", "can be written")
})

test_that("a disk that fills up is told, and the rest is made when there is room", {
  skip_on_cran()
  skip_if(Sys.info()[["sysname"]] != "Linux" || Sys.info()[["effective_user"]] != "root", "mounting a small disk needs root")
  disk <- withr::local_tempdir()
  skip_if(system2("mount", c("-t", "tmpfs", "-o", "size=12m", "tmpfs", disk), stderr = FALSE) != 0, "no small disk can be mounted")
  withr::defer(system2("umount", c("-l", disk)))
  s <- three_normals() |> add_outputs(y = a + b + c)
  error <- expect_fault(simulate_into(s, file.path(disk, "r"), 4e5, 4, progress = NULL), "file", "goes on where it stopped")
  expect_true(file.exists(file.path(disk, "r", "runs", "00001.parquet")))
  system2("mount", c("-o", "remount,size=200m", disk))
  same_result(simulate_into(s, file.path(disk, "r"), 4e5, 4, progress = NULL), quietly(s, 4e5, 4))
})
