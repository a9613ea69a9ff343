# What is the same whoever makes the runs.
alike <- function(result) {
  result$provenance$started <- result$provenance$seconds <- NULL
  result$failures$folder <- basename(result$failures$folder)
  result
}

scattered <- function() {
  f <- function(a, b, k = 2) {
    if (a > 12.2) stop("too hot")
    list(y = a * k + stats::rnorm(1), path = data.frame(step = 1:3, z = cumsum(stats::rnorm(3))))
  }
  study("Scattered") |> add_inputs(a = law_normal(10, 1), b = law_uniform(0, 1)) |> add_correlation(a, b, 0.6) |>
    add_outputs(twice = 2 * b) |> add_model(f) |> add_outputs(end = y + last(z) + twice) |> add_specs(end > 20)
}

test_that("workers give the same result to the last bit, however many and however they come", {
  skip_on_cran()
  s <- scattered()
  one <- quietly(s, 150, 3)
  expect_identical(alike(quietly(s, 150, 3, workers = 2)), alike(one))
  expect_identical(alike(quietly(s, 150, 3, workers = 3)), alike(one))
  expect_false(mirai::daemons_set(.compute = own_workers))
  # those that the user has set, also for other runs than a plan's
  with_library(mirai::daemons(2))
  withr::defer(mirai::daemons(0))
  expect_true(uses_workers(s))
  expect_false(uses_workers(three_normals() |> add_outputs(y = a)))
  expect_identical(alike(quietly(s, 150, 3)), alike(one))
  dir <- withr::local_tempdir()
  expect_identical(summary(simulate_into(s, file.path(dir, "r"), 150, 3, progress = NULL)), summary(one))
  expect_identical(alike(add_runs(quietly(s, 100, 3, design = "random"), 50, progress = NULL)),
    alike(quietly(s, 150, 3, design = "random")))
  free <- study("Free") |> add_inputs(a = law_normal(10, 1), b = law_uniform(0, 1)) |> add_model(function(a, b) a * b, name = "y")
  readings <- function(workers) list(
    variance_indices(free, 20, 5, outputs = y, announce = NULL, progress = NULL, workers = workers),
    elementary_effects(free, 5, 5, outputs = y, announce = NULL, progress = NULL, workers = workers),
    sweep_input(s, b = c(0.2, 0.8), .nsim = 50, .seed = 5, .workers = workers),
    lapply(simulate(alternatives(s, high = list(b = 0.9)), 50, 5, progress = NULL, workers = workers), alike),
    alike(quietly(s, 50, 5, until = known_within(y, "mean", within = 0.5), most = 500, workers = workers)))
  expect_identical(readings(NULL), readings(1))
})

test_that("a worker that dies costs no more than the run it died of", {
  skip_on_cran()
  skip_on_os("windows")
  deadly <- function(a) if (a > 11.9) tools::pskill(Sys.getpid(), 9) else a
  s <- study("Deadly") |> add_inputs(a = law_normal(10, 1)) |> add_model(deadly, name = "y") |> add_outputs(z = 2 * y)
  res <- quietly(s, 60, workers = 2)
  bad <- which(res$a > 11.9)
  expect_gt(length(bad), 0)
  expect_identical(unique(failures(res)$run), as.double(bad))
  expect_identical(unique(failures(res)$reason), "the worker that made it ended, three times")
  expect_identical(res$z[-bad], 2 * res$a[-bad])
})

test_that("programs run on workers, and their errors come as errors", {
  skip_on_cran()
  skip_on_os("windows")
  s <- study("x") |> add_inputs(a = law_normal(10, 1)) |>
    add_program(c("sh", "-c", "case @[a] in 8*) exit 3;; esac; echo @[a]"), list(y = from_line(1)))
  one <- quietly(s, 40)
  two <- quietly(s, 40, workers = 2)
  expect_identical(two$y, one$y)
  expect_identical(failures(two)[1:3], failures(one)[1:3])
  missing <- study("x") |> add_inputs(a = law_normal(10, 1)) |> add_program("no-such-program", list(y = from_line(1)))
  expect_fault(quietly(missing, 5, workers = 2), "model", "not found")
  expect_fault(quietly(s, 5, workers = 0), "argument", "workers")
  dir <- withr::local_tempdir()
  file <- harmless_file(dir)
  out <- file.path(dir, "out")
  expect_identical(call_cli("run", file, "--out", out, "--workers", "2", "--run-programs", "--no-plots")$code, 0L)
  expect_identical(nrow(as.data.frame(read_result(out))), 20L)
})

test_that("a program that stays is started once for each worker", {
  skip_on_cran()
  skip_if(!nzchar(Sys.which("perl")))
  dir <- withr::local_tempdir()
  started <- file.path(dir, "started")
  writeLines(c("$| = 1; open(F, '>>', $ARGV[0]); print F \"x\\n\"; close F;",
    "while (<STDIN>) { /\"a\":([-0-9.e+]+)/; printf \"{\\\"y\\\": %.17g}\\n\", $1; }"), file.path(dir, "p.pl"))
  s <- study("x") |> add_inputs(a = law_normal(10, 1)) |>
    add_program(c("perl", file.path(dir, "p.pl"), started), "y", persistent = TRUE, name = "stays")
  with_library(mirai::daemons(2))
  withr::defer(mirai::daemons(0))
  res <- quietly(s, 3000)
  expect_identical(res$y, res$a)
  # and once for the base case
  expect_lte(length(readLines(started)), 3)
  until <- Sys.time() + 5
  running <- function() any(grepl(started, system2("ps", c("-eo", "args"), stdout = TRUE), fixed = TRUE))
  while (running() && Sys.time() < until) Sys.sleep(0.05)
  expect_false(running())
})
