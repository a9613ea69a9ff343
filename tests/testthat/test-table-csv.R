test_that("tables survive as CSV to the last bit", {
  values <- c(0.1, 1 / 3, -1e-310, 5e-324, 1.7976931348623157e308, 123456789012345680, NA, NaN, Inf, -Inf, 0)
  table <- data.frame(run = seq_along(values), `a, "b"` = values, check.names = FALSE)
  table$text <- c("plain", "with, comma", "with \"quotes\"", "two\nlines", "\u00e9", "", "NA", "1", "a", "b", "c")
  file <- withr::local_tempfile()
  write_csv(table, file)
  back <- read_csv_text(file)
  expect_identical(names(back), names(table))
  expect_identical(cpp_read_numbers(back[[2]]), values)
  expect_identical(enc2utf8(back$text), table$text)
  write_csv(table[0, ], file)
  expect_identical(nrow(read_csv_text(file)), 0L)
  expect_identical(readLines(file), "run,\"a, \"\"b\"\"\",text")
})

test_that("numbers have the shortest text that reads back", {
  expect_identical(cpp_number_text(c(0.1, 4200, 0.1 + 0.2, -0.021)), c("0.1", "4200", "0.30000000000000004", "-0.021"))
  expect_identical(cpp_read_numbers(c("1,5", "", "x", "NA", "1e3", "0x10p0")), c(NA, NA, NA, NA, 1000, 16))
})

test_that("files that cannot be written or read are told", {
  expect_fault(write_csv(data.frame(a = 1), file.path(tempdir(), "none", "x.csv")), "file", "writable")
  expect_fault(read_csv_text(file.path(tempdir(), "none.csv")), "file", "no such file")
})

test_that("a spreadsheet takes no text for a formula, and none is lost", {
  texts <- c("=1+1", "+5 bar", "-lognormal(meanlog = 0, sdlog = 1)", "@home", "'=quoted", "-5", "plain", "it's")
  file <- withr::local_tempfile(fileext = ".csv")
  write_csv(data.frame(`=head` = texts, check.names = FALSE), file)
  lines <- gsub("^\"|\"$", "", readLines(file))
  expect_false(any(grepl("^[=+@-]", lines) & lines != "-5"))
  expect_identical(read_csv_text(file), data.frame(`=head` = texts, check.names = FALSE))
})
