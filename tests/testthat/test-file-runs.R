test_that("a table from elsewhere answers as a result of its own", {
  own <- quietly(three_normals() |> add_outputs(y = a + 2 * b, late = y > 1), 400)
  table <- as.data.frame(own)
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(table[c("a", "b", "c", "y", "late")], file, row.names = FALSE)
  res <- read_runs(file, inputs = c("a", "b", "c"), outputs = list(y = output(unit = "m"), late = output()))
  expect_equal(res$y, own$y, tolerance = 1e-12)
  expect_identical(res$late, own$late)
  expect_equal(summary(res)$P90, summary(own)$P90, tolerance = 1e-12)
  expect_equal(drivers(res, "rank")$value, drivers(own, "rank")$value, tolerance = 1e-9)
  expect_equal(chance(res, y > 1)$chance, mean(own$y > 1))
  expect_output(print(res), "y +m +- ")
  page <- withr::local_tempfile(fileext = ".html")
  expect_silent(write_report(res, page))
  dir <- file.path(withr::local_tempdir(), "r")
  write_result(res, dir)
  expect_identical(summary(read_result(dir)), summary(res))
  parquet <- withr::local_tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(table[c("a", "b", "c", "y")], parquet)
  expect_identical(read_runs(parquet, c("a", "b", "c"))$y, own$y)
  expect_fault(quietly(study_of(res), 5), "model", "made elsewhere")
  timed <- data.frame(a = 1:9, runtime = 9:1 + 0.5)
  expect_equal(read_runs(timed, "a")$runtime, timed$runtime)
  drawn <- as.data.frame(draw_inputs(three_normals(), nsim = 9, seed = 3))[c("a", "b", "c")]
  drawn$runtime <- 9:1 + 0.5
  expect_equal(read_runs(drawn, study = three_normals(), seed = 3)$runtime, drawn$runtime)
  expect_fault(read_runs(file, c("a", "d")), "name", "`d`")
  expect_fault(read_runs(file), "argument", "names of columns")
})

test_that("odd cells are failures with their text, and categories are inputs", {
  table <- data.frame(kind = rep(c("old", "new"), 10), x = 1:20, k = 5, y = c(as.character(1:17), "diverged", "", "Inf"),
    done = as.Date("2027-01-01") + 1:20)
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(table, file, row.names = FALSE)
  res <- suppressWarnings(read_runs(file, c("kind", "x", "k")))
  expect_identical(failures(res)$reason, c("\"diverged\" is no number", "missing (NA)", "infinite (Inf)"))
  expect_equal(res$y[1:17], 1:17)
  expect_identical(res$kind, table$kind)
  expect_s3_class(percentiles(res, done, 50)$value, "Date")
  expect_identical(unique(as.data.frame(failures_by(res))$input[1:2]), "x")
})

test_that("what comes back must be what was given out", {
  s <- three_normals()
  given <- as.data.frame(draw_inputs(s, nsim = 60, seed = 3))
  given$y <- given$a^2
  back <- function(table, ...) read_runs(table, outputs = "y", study = s, nsim = 60, seed = 3, ...)
  whole <- back(given[sample(60), ])
  expect_identical(whole$y, given$y)
  expect_identical(whole$a, given$a)
  expect_warning(some <- back(given[-c(3, 7), ]), class = "ensayo_warning_missing_runs")
  expect_identical(failures(some)$run, c(3, 7))
  rounded <- given
  rounded[c("a", "b", "c")] <- signif(rounded[c("a", "b", "c")], 10)
  expect_identical(back(rounded)$a, given$a)
  changed <- given
  changed$b[5] <- 9
  expect_fault(back(changed), "argument", "`b` differs", "5")
  expect_fault(back(rbind(given, given[8, ])), "argument", "once", "8")
  expect_fault(read_runs(given, outputs = "y", study = s, nsim = 50, seed = 3), "argument", "up to 50")
  expect_fault(read_runs(given, outputs = "y", study = s, nsim = 60), "argument", "seed")
})
