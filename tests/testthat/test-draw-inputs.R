wet_season <- function() {
  study("Spring") |>
    add_inputs(flow = law_gamma(2.5, 4), soil = law_discrete(c("rock", "clay"), c(0.3, 0.7)), slope = law_normal(0, 1),
      depth = law_pert(1, 2, 4), width = 3) |>
    add_correlation(flow, slope, 0.5) |>
    add_outputs(y = output(flow * width + depth, unit = "m"))
}

uncorrelated <- function(s) add_correlation(s, flow, slope, 0, replace = TRUE)

test_that("draws are those of a simulation, whole or in any range", {
  s <- wet_season()
  for (design in designs) {
    whole <- draw_inputs(s, 20000, 4, design = design)
    expect_named(whole, c("run", "flow", "soil", "slope", "depth"))
    expect_identical(unclass_table(whole)[-1], as.data.frame(quietly(s, 20000, 4, design = design)$draws))
    for (runs in list(c(1, 1), c(2, 3), c(9999, 15001), c(20000, 20000))) {
      part <- draw_inputs(s, 20000, 4, design = design, runs = runs)
      expect_identical(unclass_table(part), `rownames<-`(unclass_table(whole)[runs[1]:runs[2], ], NULL))
    }
  }
  few <- draw_inputs(s, 6, 4, replicates = 2)
  expect_identical(few$replicate, c(1, 1, 1, 2, 2, 2))
  expect_identical(unclass_table(draw_inputs(s, 6, 4, replicates = 2, runs = c(3, 5))),
    `rownames<-`(unclass_table(few)[3:5, ], NULL))
  for (n in 1:3) expect_equal(nrow(draw_inputs(s, n, 1)), n)
})

test_that("tables go to files piece by piece", {
  s <- wet_season()
  whole <- unclass_table(draw_inputs(s, 5000, "wet"))
  for (ending in c("csv", "parquet")) {
    file <- withr::local_tempfile(fileext = paste0(".", ending))
    told <- NULL
    write_draws(s, draw_plan(5000, "wet", "latin", 1, NULL, 1), c(1, 5000), file,
      function(done, total) told <<- c(told, done), piece = 5000)
    write_draws(uncorrelated(s), draw_plan(5000, "wet", "latin", 1, NULL, 1), c(11, 5000), file, NULL, piece = 1000)
    back <- if (ending == "csv") utils::read.csv(file) else as.data.frame(nanoparquet::read_parquet(file))
    free <- unclass_table(draw_inputs(uncorrelated(s), 5000, "wet", runs = c(11, 5000)))
    expect_equal(back, free, tolerance = 0, ignore_attr = TRUE)
    expect_identical(told, 5000)
    expect_fault(draw_inputs(s, 10, 1, file = file), "file", "overwrite")
    expect_identical(draw_inputs(s, 10, 1, file = file, overwrite = TRUE, progress = NULL), file)
    expect_false(file.exists(paste0(file, ".part")))
  }
})

test_that("more runs go on where a result ended", {
  s <- wet_season()
  same <- function(x, y) {
    x$provenance[c("started", "seconds")] <- y$provenance[c("started", "seconds")] <- NULL
    expect_identical(x, y)
  }
  for (design in c("random", "sobol")) {
    same(add_runs(quietly(s, 512, 4, design = design), 512, progress = NULL), quietly(s, 1024, 4, design = design))
  }
  for (design in c("latin", "midpoints", "sobol")) {
    res <- quietly(s, 600, 4, design = design, replicates = 2)
    more <- add_runs(res, 600, progress = NULL)
    same(more, quietly(s, 1200, 4, design = design, replicates = 4))
    expect_identical(as.data.frame(more)$replicate, rep(1:4 + 0, each = 300))
  }
  expect_fault(add_runs(quietly(s, 500), 250), "argument", "a multiple of 500")
  other <- quietly(s, 500)
  other$store$columns$depth[1] <- 3
  expect_fault(add_runs(other, 500), "argument", "first run")
  # failed runs keep their numbers
  fails <- add_outputs(s, z = sqrt(slope))
  both <- add_runs(quietly(fails, 300, 2), 300, progress = NULL)
  expect_identical(failures(both)$run, as.numeric(which(both$draws$slope < 0)))
  # and so through a file
  folder <- withr::local_tempfile()
  write_result(quietly(s, 300, "wet", replicates = 3, block = 50), folder)
  back <- read_result(folder)
  same(add_runs(back, 100, progress = NULL), quietly(s, 400, "wet", replicates = 4, block = 50))
})

test_that("bad arguments are named", {
  s <- wet_season()
  expect_fault(draw_inputs(s, 10, runs = c(3, 11)), "argument", "`runs`", "10")
  expect_fault(draw_inputs(s, 10, runs = 3), "argument", "the first and the last run")
  expect_fault(draw_inputs(s, 10, replicates = 3), "argument", "a multiple of `replicates`")
  expect_fault(draw_inputs(s, 10, design = "Latin"), "argument", "\"latin\"")
  expect_fault(draw_inputs(s, 10, file = "draws.xlsx"), "argument", ".parquet")
  expect_fault(draw_inputs(s, 10, threads = 0), "argument", "`threads`")
  expect_fault(draw_inputs(study(), 10), "model", "at least one input")
  expect_fault(draw_inputs(s, sed = 1), "argument", "sed")
})

test_that("an input may be drawn several times in a run, each time as a design of its own", {
  s <- study() |> add_inputs(a = law_uniform(0, 1), b = law_uniform(0, 1), k = 2) |> add_correlation(a, b, 0.6)
  several <- draw_inputs(s, 1000, 7, index = 0:3)
  expect_identical(several$run[1:5], c(1L, 1L, 1L, 1L, 2L))
  expect_identical(several$index[1:5], c(0, 1, 2, 3, 0))
  for (index in 0:3) {
    alone <- draw_inputs(s, 1000, 7, index = index)
    expect_identical(alone$a, several$a[several$index == index])
    expect_identical(sort(floor(alone$a * 1000)), 0:999 + 0)
    expect_equal(cor(alone$a, alone$b, method = "spearman"), 0.6, tolerance = 0.01)
  }
  expect_identical(draw_inputs(s, 1000, 7, index = 0), draw_inputs(s, 1000, 7))
  columns <- matrix(several$a, 4)
  expect_lt(max(abs(cor(t(columns))[upper.tri(diag(4))])), 0.13)
  # any range of runs has them alone, and under a Sobol' sequence each index takes dimensions of its own
  expect_identical(draw_inputs(s, 1000, 7, index = 2, runs = c(400, 410))$b, draw_inputs(s, 1000, 7, index = 2)$b[400:410])
  free <- study() |> add_inputs(a = law_uniform(0, 1), b = law_uniform(0, 1))
  sobol <- draw_inputs(free, 64, 7, design = "sobol", index = 0:2)
  for (index in 0:2) expect_identical(sort(floor(64 * sobol$b[sobol$index == index])), 0:63 + 0)
  expect_identical(anyDuplicated(sobol$a), 0L)
  expect_fault(draw_inputs(free, 8, 7, design = "sobol", index = 2000), "argument", "3667 dimensions")
  expect_fault(draw_inputs(free, 8, 7, index = -1), "argument", "whole numbers from 0")
  expect_fault(draw_inputs(free, 8, 7, index = c(1, 1)), "argument", "different")
  file <- withr::local_tempfile(fileext = ".csv")
  draw_inputs(s, 100, 7, index = 1:2, file = file, progress = NULL)
  expect_equal(read.csv(file)$a, draw_inputs(s, 100, 7, index = 1:2)$a, tolerance = 1e-15)
})
