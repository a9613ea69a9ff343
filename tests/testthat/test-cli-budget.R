meter_file <- function() system.file("studies", "meter.yml", package = "ensayo")

test_that("`ensayo budget` prints the budget, its verdict and conformity, and writes the page", {
  page <- withr::local_tempfile(fileext = ".html")
  told <- call_cli("budget", meter_file(), "--limits=-0.5,0.5", "--out", page, "--seed", "1", "--digits", "1")
  expect_identical(told$code, 0L)
  text <- paste(told$output, collapse = "\n")
  r <- budget_result(budget(read_study(meter_file()), error, digits = 1))
  expect_match(text, sprintf("(%s \u00b1 %s) %%", r$stated_value, r$stated_expanded), fixed = TRUE)
  expect_match(text, "validated to one digit|not validated to one digit")
  expect_match(text, "Within -0.5 to 0.5 % with probability >99.9 %", fixed = TRUE)
  expect_true(file.exists(page))
  expect_identical(call_cli("budget", meter_file(), "--linear", "--out", page)$code, 2L)
})

test_that("it gives JSON, and wrong calls are named", {
  told <- call_cli("budget", meter_file(), "--json", "--linear", "--output", "volume", "--k", "2")
  read <- jsonlite::fromJSON(paste(told$output, collapse = "\n"))
  expect_identical(read$output, "volume")
  expect_identical(read$result$k, 2L)
  expect_identical(call_cli("budget", meter_file(), "--output", "volum")$code, 2L)
  expect_identical(call_cli("budget", meter_file(), "--limits", "1")$code, 2L)
  expect_identical(call_cli("budget", meter_file(), "--coverage", "95")$code, 2L)
})
