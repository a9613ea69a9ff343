test_that("show, compare and plot read result folders", {
  dir <- withr::local_tempdir()
  file <- small_file(dir)
  one <- file.path(dir, "one")
  two <- file.path(dir, "two")
  expect_identical(call_cli("run", file, "--out", one)$code, 0L)
  expect_identical(call_cli("run", small_file(dir, "a + 1.1"), "--out", two, "--no-plots")$code, 0L)
  shown <- call_cli("show", one, "--percentiles", "10,90", "--chance", "y > 4; a < 3", "--given", "a > 2")
  expect_identical(shown$code, 0L)
  for (text in c("Outputs", "P10", "What to hold in reserve, P80", "y > 4", "Specs", "given a > 2")) {
    expect_match(shown$output, text, all = FALSE)
  }
  json <- jsonlite::fromJSON(call_cli("show", one, "--json")$output)
  y <- read_result(one)$outputs$y
  expect_equal(json$outputs$mean, mean(y))
  expect_equal(json$percentiles$value, unname(quantile(y, c(5, 10, 50, 80, 90, 95) / 100)))
  expect_equal(json$contingency$contingency[json$contingency$planning], unname(quantile(y, 0.8)) - 4)
  expect_length(jsonlite::fromJSON(call_cli("show", one, "--where", "P95 > 100", "--json")$output)$outputs, 0)
  expect_match(call_cli("show", one, "--sort=-mean")$output, "Outputs", all = FALSE)
  compared <- call_cli("compare", one, two, "--better", "low", "--plot", file.path(dir, "both.png"))
  expect_match(compared$output, "two is higher than one by 0.1 .* which is worse", all = FALSE)
  expect_gt(file.size(file.path(dir, "both.png")), 1000)
  expect_equal(jsonlite::fromJSON(call_cli("compare", one, two, "--json")$output)$differences$difference, 0.1)
  expect_match(call_cli("plot", one, "series")$said, "must have a series", all = FALSE)
  expect_match(call_cli("plot", one, "chance-by-step")$said, "no spec on a series", all = FALSE)
  for (kind in names(Filter(function(figure) is.null(figure$lacks) && figure$of != "series", figure_kinds))) {
    expect_identical(call_cli("plot", one, kind, "--out", file.path(dir, paste0(kind, ".png")))$code, 0L)
  }
  expect_match(call_cli("plot", one, "tornado", "--target", "4")$said, "takes no --target", all = FALSE)
  expect_match(call_cli("plot", one, "matrix", "y")$said, "no output is named", all = FALSE)
  expect_identical(call_cli("plot", one, "distribution", "y", "--target", "4")$code, 0L)
  expect_identical(call_cli("plot", one, "distribution", "y", "y")$code, 2L)
  expect_true(file.exists(file.path(one, "distribution-y.png")))
})

test_that("a single run has no spread, and tells no alternative from another", {
  dir <- withr::local_tempdir()
  of <- function(name, formula, runs) {
    out <- file.path(dir, name)
    expect_identical(call_cli("run", small_file(dir, formula), "--runs", runs, "--out", out, "--no-plots")$code, 0L)
    out
  }
  one <- of("one", "a + 1", "1")
  shown <- call_cli("show", one)$output
  expect_no_match(shown, "NaN")
  expect_match(shown, "^  y .* - ", all = FALSE)
  # by the same random numbers, and by others
  for (other in c(of("thrice", "3 * a", "1"), of("many", "a + 1", "100"))) {
    compared <- call_cli("compare", one, other)
    expect_identical(compared$code, 0L)
    expect_match(compared$output, "not told apart .*, and a single run does not say how sure that is", all = FALSE)
    expect_no_match(compared$output, "NaN")
  }
})

test_that("what is asked for wrongly is a wrong call", {
  dir <- withr::local_tempdir()
  out <- file.path(dir, "out")
  file <- small_file(dir)
  expect_identical(call_cli("run", file, "--out", out, "--preview", "10", "--no-plots")$code, 0L)
  expect_match(call_cli("show", out)$output, "PRELIMINARY", all = FALSE)
  wrong <- function(said, ...) {
    done <- call_cli(...)
    expect_identical(done$code, 2L)
    expect_match(done$said, said, all = FALSE)
  }
  wrong("`y`", "show", out, "--outputs", "z")
  wrong("numbers with commas", "show", out, "--percentiles", "ten")
  wrong("from 0 to 100", "show", out, "--percentiles", "110")
  wrong("TRUE or FALSE", "show", out, "--chance", "y + 1")
  wrong("column", "show", out, "--sort", "P33")
  wrong("did you mean|Did you mean", "plot", out, "tornada")
  wrong("high", "compare", out, out, "--better", "best")
  wrong("Usage", "compare", out)
  wrong("of WHAT within", "run", file, "--out", file.path(dir, "x"), "--until", "soon")
  until <- call_cli("run", file, "--out", file.path(dir, "u"), "--until", "mean of y within 0.05", "--most", "5000", "--no-plots")
  expect_identical(until$code, 0L)
  expect_match(until$output, "Known as exactly as asked", all = FALSE)
})

test_that("drivers and indices answer in words and numbers", {
  dir <- withr::local_tempdir()
  out <- file.path(dir, "out")
  file <- small_file(dir)
  expect_identical(call_cli("run", file, "--out", out, "--no-plots")$code, 0L)
  done <- call_cli("drivers", out)
  expect_match(done$output, "Most of the spread of y comes from a", all = FALSE)
  json <- jsonlite::fromJSON(call_cli("drivers", out, "--measure", "swing", "--json")$output)
  expect_equal(json$drivers$value, drivers(read_result(out), "swing")$value)
  expect_match(call_cli("drivers", out, "--condition", "y > 3")$output, "y > 3", all = FALSE)
  expect_identical(call_cli("drivers", out, "--measure", "best")$code, 2L)
  expect_identical(call_cli("drivers", out, "--condition", "y +")$code, 2L)
  indices <- call_cli("indices", file, "--rows", "50", "--plot", file.path(dir, "i.png"))
  expect_match(indices$output, "first order", all = FALSE)
  expect_match(indices$said, "150 runs of the model", all = FALSE)
  expect_gt(file.size(file.path(dir, "i.png")), 1000)
  expect_equal(jsonlite::fromJSON(call_cli("indices", file, "--rows", "50", "--json")$output)$indices$model_runs,
    c(150, 150))
})

test_that("parts tells how a total is made up, and a number with separators is asked back", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "sum.yml")
  writeLines(c("study: Sum", "inputs:", "  a: uniform(1, 2)", "  b: uniform(0, 4)", "outputs:", "  total: a + b"), file)
  out <- file.path(dir, "out")
  expect_identical(call_cli("run", file, "--runs", "500", "--seed", "1", "--out", out, "--no-plots")$code, 0L)
  told <- call_cli("parts", out)
  expect_identical(told$code, 0L)
  expect_match(told$output, "sum of parts", all = FALSE)
  json <- jsonlite::fromJSON(call_cli("parts", out, "--json", "--percentile", "90")$output)$parts
  expect_equal(json$value[json$row == "total"], unname(quantile(read_result(out)$total, 0.9)))
  # a spreadsheet has been at it
  statistics <- file.path(out, "statistics.csv")
  writeLines(sub(",", ";", readLines(statistics)), statistics)
  refused <- call_cli("show", out)
  expect_identical(refused$code, 1L)
  expect_match(refused$said, "statistics.csv was changed", all = FALSE)
  expect_match(refused$said, "--changed", all = FALSE)
  for (command in c("show", "drivers", "parts")) expect_identical(call_cli(command, out, "--changed")$code, 0L)
  wrong <- call_cli("run", file, "--runs", "10.000", "--out", out)
  expect_identical(wrong$code, 2L)
  expect_match(wrong$said, "Write 10000", all = FALSE)
})
