hot <- function() {
  f <- function(a, b) { if (a > 11) stop("hot"); if (b < 0.05) stop("dry"); a + b }
  study("Hot") |> add_inputs(a = law_normal(10, 1), b = law_uniform(0, 1), c = law_uniform(0, 1)) |> add_model(f, name = "y") |>
    add_outputs(z = 2 * y)
}

test_that("where runs fail is read off by bands of the inputs", {
  res <- quietly(hot(), 600, 3)
  by <- failures_by(res)
  expect_identical(by$input[1], "a")
  top <- by[by$input == "a" & by$band == 10, ]
  expect_identical(top$direction, "higher")
  expect_identical(top$share, 1)
  expect_identical(sum(by$failed[by$input == "c"]), as.double(length(unique(failures(res)$run))))
  expect_identical(by$direction[by$input == "c"][1], "")
  dry <- failures_by(res, y, .reason = "`y()` failed: dry", .bands = 20)
  expect_identical(dry$input[1], "b")
  expect_identical(dry$share[dry$input == "b" & dry$band > 1], rep(0, 19))
  expect_identical(sum(dry$failed[dry$input == "a"]), as.double(sum(res$b < 0.05 & res$a <= 11)))
  expect_match(format(res), "runs fail where a is above 1[01]", all = FALSE)
  expect_fault(failures_by(res, .reason = "cold"), "argument", "reasons")
  expect_fault(failures_by(res, w), "name", "`w`")
  # nothing to tell where none fail, or all
  fine <- quietly(three_normals() |> add_outputs(y = a), 50)
  expect_identical(unique(failures_by(fine)$share), 0)
  expect_false(any(grepl("runs fail where", format(fine))))
})

test_that("too many failed runs stop a simulation, and what was made stays", {
  bad <- hot() |> add_model(function(a) if (abs(a - 10) > 0.3) stop("always") else a, name = "w")
  expect_warning(res <- quietly(bad, 500, 3, most_failed = 0.5), class = "ensayo_warning_stopped")
  expect_lt(run_count(res), 500)
  expect_match(format(res), "PRELIMINARY", all = FALSE)
  whole <- quietly(bad, 500, 3)
  n <- run_count(res)
  expect_identical(as.data.frame(res), utils::head(as.data.frame(whole), n))
  expect_identical(suppressWarnings(quietly(bad, 500, 3, most_failed = 0.99))$y, whole$y)
  dir <- file.path(withr::local_tempdir(), "r")
  expect_fault(simulate_into(bad, dir, 500, 3, most_failed = 0.5, progress = NULL), "model", "most_failed", "always")
  again <- simulate_into(bad, dir, 500, 3, progress = NULL)
  expect_identical(again$w, whole$w)
  expect_fault(quietly(bad, 10, most_failed = 2), "argument", "from 0 to 1")
  expect_warning(few <- quietly(bad, 300, 3, most_failed = 0.5, workers = 2), class = "ensayo_warning_stopped") |> suppressWarnings()
  expect_identical(as.data.frame(few), utils::head(as.data.frame(quietly(bad, 300, 3)), run_count(few)))
})
