# A reading made here alone: how far the middle of the runs reaches, in units of the base value.
reading_reach <- list(
  title = function(result, asked) sprintf("Reach over %s %%", asked$middle %||% 50),
  places = c("print", "show", "json", "report"),
  there = function(result) length(output_names(result)) > 0,
  table = function(result, asked) {
    share <- (asked$middle %||% 50) / 200
    rows <- lapply(asked$outputs, function(name) {
      ends <- quantile(values_of(result, name), c(0.5 - share, 0.5 + share), names = FALSE)
      data.frame(output = name, low = ends[1], high = ends[2], reach = diff(ends))
    })
    do.call(rbind, rows)
  },
  shown = c(output = "text", low = "value", high = "value", reach = "number"),
  note = function(result, asked) "Half of the rest lies to either side.",
  options = list(middle = "the share of the runs in the middle, in per cent"),
  about = "how far the middle of the runs reaches",
  figure = function(result, asked) {
    table <- reading_reach$table(result, asked)
    ggplot2::ggplot(table, ggplot2::aes(reach, output)) + ggplot2::geom_col() + ggplot2::labs(title = "Reach")
  }
)

test_that("a reading is one record: print, show, JSON, folders and reports know it from that", {
  readings <- result_readings()
  local_record("result_readings", function() c(readings, list(reach = reading_reach)))
  res <- quietly(gravity_main(), 200)
  ends <- quantile(res$pressure, c(0.25, 0.75), names = FALSE)
  lines <- format(res)
  expect_match(lines, "Reach over 50 %", fixed = TRUE, all = FALSE)
  decimals <- output_decimals(res, "pressure")
  expect_match(lines, sprintf("pressure +%s", format_decimals(ends[1], decimals)), all = FALSE)
  expect_match(lines, "Half of the rest", all = FALSE)
  dir <- withr::local_tempdir()
  write_result(res, file.path(dir, "r"))
  saved <- jsonlite::fromJSON(file.path(dir, "r", "statistics.json"))
  expect_equal(saved$reach$reach[3], diff(ends))
  shown <- call_cli("show", file.path(dir, "r"), "--middle", "80")
  expect_match(shown$output, "Reach over 80 %", fixed = TRUE, all = FALSE)
  json <- jsonlite::fromJSON(call_cli("show", file.path(dir, "r"), "--middle", "80", "--json")$output)
  expect_equal(json$reach$low[3], quantile(res$pressure, 0.1, names = FALSE))
  expect_match(call_cli("show", "--help")$output, "--middle", all = FALSE)
  page <- file.path(dir, "page.html")
  write_report(res, page)
  expect_match(paste(readLines(page), collapse = ""), "<h2>Reach over 50 %</h2>", fixed = TRUE)
  expect_match(paste(readLines(page), collapse = ""), 'alt="Reach"', fixed = TRUE)
  expect_identical(call_cli("plot", file.path(dir, "r"), "reach", "--middle", "80")$code, 0L)
  expect_match(call_cli("plot", "--help")$output, "reach +how far", all = FALSE)
})

test_that("what is asked goes along as arguments and leaves the result as it is", {
  res <- quietly(gravity_main(), 200)
  dir <- withr::local_tempdir()
  write_result(res, file.path(dir, "r"), percentiles = c(20, 60))
  expect_true(all(c("P20", "P60", "P80") %in% names(read.csv(file.path(dir, "r", "statistics.csv")))))
  expect_identical(study_hash(study_of(read_result(file.path(dir, "r")))), provenance(res)$hash)
  expect_identical(study_of(read_result(file.path(dir, "r")))$readings, default_readings)
  expect_fault(write_result(res, file.path(dir, "s"), percentiles = 120), "argument", "0 to 100")
  write_report(res, file.path(dir, "page.html"), percentiles = c(33, 66))
  expect_match(paste(readLines(file.path(dir, "page.html")), collapse = ""), "P33", fixed = TRUE)
})

test_that("every reading has a title and a table, whatever the result holds", {
  none <- three_normals() |> add_outputs(y = a)
  for (res in list(quietly(gravity_main(), 100), quietly(none, 3), suppressWarnings(quietly(none |> add_outputs(z = log(-1 + 0 * a)), 20)))) {
    asked <- asked_of(res)
    for (reading in result_readings()) {
      expect_true(nzchar(reading_title(reading, res, asked)))
      if (is.null(reading$there) || reading$there(res)) expect_s3_class(reading$table(res, asked), "data.frame")
    }
  }
})
