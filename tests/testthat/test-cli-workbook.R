test_that("a workbook is checked, run and reported from the command line", {
  file <- workbook_path("tariff", "xlsx")
  told <- call_cli("check", file)
  expect_identical(told$code, 0L)
  expect_match(paste(told$output, collapse = "\n"), "Results: what no other formula uses", fixed = TRUE)
  expect_match(paste(told$output, collapse = "\n"), "Tariff today +1.06 +\\+6.4 % +Result!B3")
  expect_match(paste(told$said, collapse = "\n"), "Calculated here as the workbook has it")
  json <- jsonlite::fromJSON(call_cli("check", file, "--json")$output)
  expect_true("Result!B3" %in% json$results)
  # income is proportional to the tariff, up to its rounding to cents
  expect_equal(json$candidates$moves[json$candidates$cell == "Inputs!B7"], 0.0642, tolerance = 0.01)

  folder <- withr::local_tempdir()
  described <- testthat::test_path("..", "workbooks", "described.xlsx")
  expect_match(paste(call_cli("check", described)$said, collapse = "\n"), "can be run")
  out <- file.path(folder, "out")
  ran <- call_cli("run", described, "--runs", "500", "--seed", "3", "--out", out)
  expect_identical(ran$code, 0L)
  expect_match(paste(ran$output, collapse = "\n"), "profit >= 0")
  shown <- utils::read.csv(file.path(out, "statistics.csv"))
  # the same numbers as in R
  res <- simulate(read_study(described), nsim = 500, seed = 3)
  expect_equal(shown$mean[shown$output == "profit"], mean(as.data.frame(res)$profit))
  # and what it ran can be run again without the workbook
  again <- simulate(read_study(file.path(out, "study.yml")), nsim = 500, seed = 3)
  expect_identical(as.data.frame(again), as.data.frame(res))
})

test_that("what is wrong with a workbook is said in a few lines", {
  expect_match(paste(call_cli("check", "nowhere.xlsx")$said, collapse = "\n"), "no such file")
  expect_match(paste(call_cli("run", workbook_path("tariff", "ods"))$said, collapse = "\n"), "sheet that says which of its cells are uncertain")
})
