meter <- function() read_study(system.file("studies", "meter.yml", package = "ensayo"))

test_that("the page of a budget holds what an assessor checks", {
  b <- budget(meter(), error)
  v <- budget_verdict(b, simulate(meter(), 2000, 11, replicates = 10))
  page <- withr::local_tempfile(fileext = ".html")
  expect_identical(write_budget(b, page, v, notes = "Measured on 12 March at 15 degrees."), page)
  text <- paste(readLines(page), collapse = "\n")
  stated <- budget_result(b)
  for (part in c("Flow meter of the pumping station", "error = 100 * ((indicated + display)/volume - 1)", "net = ", "mean of 8 readings", "1003.6; 1005; 1004.2; 1003.1; 1004.6; 1004.4; 1003.2; 1004.9", "Certificate B-2207", "certificate: U = 0.12 kg (k = 2)",
    "resolution of 0.1 kg", sprintf("(%s \u00b1 %s) %%", stated$stated_value, stated$stated_expanded), "Measured on 12 March", "JCGM 100:2008", "ties to the even digit",
    ensayo:::study_hash(meter()), "seed 11", "Simulation beside it")) expect_true(grepl(part, text, fixed = TRUE), label = part)
  # one balance that weighs twice is one input, and its zero goes out
  expect_equal(as.data.frame(b)$contribution[as.data.frame(b)$input == "balance_zero"], 0, tolerance = 1e-12)
  expect_false(grepl("https?://(?!www.w3.org)", text, perl = TRUE))
  expect_false(grepl("`", gsub("<style>.*?</style>", "", text), fixed = TRUE))
  expect_error(write_budget(b, page, v, overwrite = FALSE), "not exist yet", class = "ensayo_error_file")
  expect_error(write_budget(b, "x.txt", v), "ends in", class = "ensayo_error_argument")
  expect_error(write_budget(b, page, budget_verdict(budget(meter(), volume), simulate(meter(), 1000, 1))), "of this budget", class = "ensayo_error_argument")
})

test_that("tables go to CSV and JSON with every digit", {
  b <- budget(impedance(), R)
  csv <- withr::local_tempfile(fileext = ".csv")
  write_budget(b, csv)
  expect_equal(read.csv(csv)$contribution, as.data.frame(b)$contribution, tolerance = 1e-14)
  json <- withr::local_tempfile(fileext = ".json")
  write_budget(b, json, FALSE)
  read <- jsonlite::fromJSON(json)
  expect_equal(read$result$expanded, budget_result(b)$expanded, tolerance = 1e-14)
  expect_equal(read$rows$share, as.data.frame(b)$share, tolerance = 1e-14)
  expect_match(read$statement, "R = \\(127.73 \u00b1 0.20\\)")
})
