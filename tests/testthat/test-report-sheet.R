tariff_study <- function(file) {
  study("Tariff") |> add_inputs(growth = law_triangular(0.002, 0.008, 0.02), trench = law_pert(80, 95, 140)) |>
    add_workbook(file, inputs = c(growth = "growth", trench = "Inputs!B15"),
      outputs = list(npv = output("Result!B3", unit = "EUR"), lowest = "Result!B4", begins = "Plan!C2", cash = "Plan!B15:Q15")[c(1, 2, 4)]) |>
    add_specs(lowest >= 0)
}

# The cell of a row, by its first cell, and of a column, by its heading.
found_cell <- function(file, sheet, row_text, heading) {
  book <- read_workbook_file(file)
  cells <- book$cells[book$sheets$name[book$cells$sheet] == sheet, ]
  heads <- cells$row[cells$column == 1 & cells$text %in% c("Output", "Series", "Spec", "Input")]
  for (row in cells$row[cells$column == 1 & cells$text == row_text]) {
    column <- cells$column[cells$row == max(heads[heads < row], 0) & cells$text == heading]
    if (length(column)) return(cells[cells$row == row & cells$column == column, ])
  }
}

test_that("results go behind the sheets of a copy, and nothing else changes", {
  for (ending in c("xlsx", "ods")) {
    file <- workbook_path("tariff", ending)
    res <- simulate(tariff_study(file), nsim = 2000, seed = 5)
    copy <- withr::local_tempfile(fileext = paste0(".", ending))
    expect_identical(write_report(res, copy, workbook = file), copy)
    before <- whole_archive(file)
    after <- whole_archive(copy)
    # each part as it was, but for the lists that grow
    same <- vapply(names(before$parts), function(name) identical(before$bytes[[name]], after$bytes[[name]]), NA)
    grow <- if (ending == "xlsx") c("[Content_Types].xml", "xl/workbook.xml", "xl/_rels/workbook.xml.rels", "xl/styles.xml") else c("content.xml", "META-INF/manifest.xml")
    expect_setequal(names(before$parts)[!same], grow)
    expect_true(all(grepl("ensayo", setdiff(names(after$parts), names(before$parts)))))
    expect_setequal(setdiff(read_workbook(copy)$book$sheets$name, read_workbook(file)$book$sheets$name), c("Ensayo results", "Ensayo figures", "Ensayo inputs"))
    # what they held stands in the bytes that grew, in its order
    if (ending == "ods") {
      old <- rawToChar(before$bytes[["content.xml"]])
      new <- rawToChar(after$bytes[["content.xml"]])
      tables <- regmatches(old, regexpr("<table:table .*</table:table>", old))
      expect_true(grepl(tables, new, fixed = TRUE))
      expect_identical(names(after$parts)[1], "mimetype")
    }
    # the same figures as in R, in the digits of the page
    p80 <- percentiles(res, npv, p = 80)$value
    told <- found_cell(copy, "Ensayo results", "Net present value", "P80")$number
    expect_equal(told, round(p80, output_decimals(res, "npv")))
    expect_identical(found_cell(copy, "Ensayo results", "lowest >= 0", "Pass rate")$number, pass_rate(res)$pass_rate[1])
    expect_identical(found_cell(copy, "Ensayo results", "Net present value", "Cell")$text, "Result!B3")
    expect_identical(found_cell(copy, "Ensayo results", "Cash", "Cells")$text, "Plan!B15:Q15")
    expect_identical(found_cell(copy, "Ensayo inputs", "Trench", "Base")$number, 95)
    error <- summary(res)$mean_error[1] * stats::qnorm(0.975)
    expect_equal(found_cell(copy, "Ensayo results", "Net present value", "\u00b1")$number, signif(error, 2))
    expect_identical(found_cell(copy, "Ensayo inputs", "Trench", "Law")$text, "pert(min = 80, mode = 95, max = 140)")
    pictures <- grep("[.]png$", names(after$parts), value = TRUE)
    expect_gte(length(pictures), 6)
    expect_true(all(vapply(pictures, function(one) identical(after$bytes[[one]][2:4], charToRaw("PNG")), NA)))
    # it calculates as the workbook does
    again <- simulate(tariff_study(copy), nsim = 200, seed = 5)
    expect_identical(as.data.frame(again), utils::head(as.data.frame(simulate(tariff_study(file), nsim = 200, seed = 5)), 200))
    # and a copy of the copy has new sheets beside those
    more <- withr::local_tempfile(fileext = paste0(".", ending))
    write_report(res, more, workbook = copy)
    expect_identical(utils::tail(read_workbook(more)$book$sheets$name, 6), c("Ensayo results", "Ensayo figures", "Ensayo inputs", "Ensayo results 2", "Ensayo figures 2", "Ensayo inputs 2"))
  }
})

test_that("workbooks that others write otherwise are copied, too", {
  res <- simulate(tariff_study(workbook_path("tariff", "xlsx")), nsim = 50, seed = 5)
  changed <- function(change) {
    archive <- change(whole_archive(workbook_path("tariff", "xlsx")))
    file <- withr::local_tempfile(fileext = ".xlsx", .local_envir = parent.frame())
    write_archive(archive, file)
    file
  }
  part <- function(archive, name, edit) with_part(archive, name, edit(rawToChar(archive$bytes[[name]])))
  prefixed <- function(text) {
    text <- gsub("<(/?)([A-Za-z])", "<\\1x:\\2", text)
    sub("xmlns=", "xmlns:x=", text, fixed = TRUE)
  }
  strict <- function(text) {
    text <- gsub("http://schemas.openxmlformats.org/spreadsheetml/2006/main", "http://purl.oclc.org/ooxml/spreadsheetml/main", text, fixed = TRUE)
    gsub("http://schemas.openxmlformats.org/officeDocument/2006/relationships", "http://purl.oclc.org/ooxml/officeDocument/relationships", text, fixed = TRUE)
  }
  ways <- list(
    plain = identity,
    # every element of these parts with a prefix
    prefix = function(archive) {
      for (name in c("xl/workbook.xml", "xl/styles.xml", "xl/_rels/workbook.xml.rels", "[Content_Types].xml")) archive <- part(archive, name, prefixed)
      archive
    },
    strict = function(archive) {
      for (name in grep("[.](xml|rels)$", names(archive$parts), value = TRUE)) archive <- part(archive, name, strict)
      archive
    },
    no_formats = function(archive) part(archive, "xl/styles.xml", function(text) sub("<numFmts.*</numFmts>", "", text)),
    no_styles = function(archive) {
      archive <- part(archive, "xl/_rels/workbook.xml.rels", function(text) sub("<Relationship [^>]*relationships/styles\"[^>]*/>", "", text))
      archive$parts <- archive$parts[names(archive$parts) != "xl/styles.xml"]
      for (name in grep("sheet[0-9]+[.]xml$", names(archive$parts), value = TRUE)) archive <- part(archive, name, function(text) gsub(" s=\"[0-9]+\"", "", text))
      part(archive, "[Content_Types].xml", function(text) sub("<Override [^>]*styles.xml\"[^>]*/>", "", text))
    },
    comments = function(archive) part(archive, "xl/workbook.xml", function(text) sub("<sheets>", "<!-- </sheets> --><sheets>", text, fixed = TRUE)),
    old_days = function(archive) part(archive, "xl/workbook.xml", function(text) sub("<workbookPr[^>]*/>", "<workbookPr date1904=\"1\"/>", text))
  )
  sheets <- report_sheets(res, asked_of(res), character(), withr::local_tempdir())
  for (way in names(ways)) {
    file <- changed(ways[[way]])
    copy <- withr::local_tempfile(fileext = ".xlsx")
    write_workbook_file(sheets, copy, read_workbook(file))
    book <- read_workbook(copy)$book
    expect_identical(nrow(book$sheets), 7L, info = way)
    expect_identical(found_cell(copy, "Ensayo results", "lowest >= 0", "Pass rate")$number, pass_rate(res)$pass_rate[1], info = way)
    # per cents are shown as such, whatever styles the workbook had
    expect_identical(shown_as[found_cell(copy, "Ensayo results", "lowest >= 0", "Pass rate")$shown + 1], "percent", info = way)
    archive <- whole_archive(copy)
    expect_true(any(grepl(if (way == "strict") "purl.oclc.org/ooxml/drawingml" else "2006/spreadsheetDrawing",
      rawToChar(archive$bytes[[grep("drawings/ensayo[^/]*xml$", names(archive$parts), value = TRUE)]]))), info = way)
  }
})

test_that("a result without a workbook fills one of its own, with dates, shares and texts as they are", {
  days <- study("=SUM(1;2) & \"<b>\" _x0041_  \u00e9\U1F4A7") |>
    add_inputs(late = input(law_uniform(0, 30), note = "=1+1"), rain = law_normal(0, 1)) |>
    add_outputs(finish = output(date("2027-03-01") + late), broken = sqrt(rain), size = late * 1e12, small = late * 1e-7) |>
    add_specs(in_time = finish <= date("2027-03-31"), never = late > 40)
  res <- simulate(days, nsim = 400, seed = 2)
  sheets <- report_sheets(res, asked_of(res), character(), withr::local_tempdir())
  for (ending in c("xlsx", "ods")) {
    file <- withr::local_tempfile(fileext = paste0(".", ending))
    write_report(res, file)
    cells <- workbook_cells(file, "Ensayo results")
    expect_identical(cells$value[1], days$title)
    expect_true(all(cells$formula == ""))
    finish <- found_cell(file, "Ensayo results", "finish", "P80")
    expect_identical(shown_as[finish$shown + 1], "date")
    expect_identical(as.character(as_day(finish$number - 25569)), as.character(as_day(percentiles(res, finish, p = 80)$value)))
    expect_identical(found_cell(file, "Ensayo results", "never", "Pass rate")$number, 0)
    expect_identical(found_cell(file, "Ensayo results", "broken", "Failed runs")$number, as.double(sum(is.na(as.data.frame(res)$broken))))
    expect_equal(found_cell(file, "Ensayo results", "small", "P50")$number, percentiles(res, small, p = 50)$value, tolerance = 0.01)
    expect_equal(found_cell(file, "Ensayo results", "size", "P50")$number, percentiles(res, size, p = 50)$value, tolerance = 0.01)
    expect_true("=1+1" %in% workbook_cells(file, "Ensayo inputs")$value)
    expect_identical(read_workbook(file)$book$sheets$name, c("Ensayo results", "Ensayo figures", "Ensayo inputs"))
    # the same result, the same bytes
    twins <- c(withr::local_tempfile(fileext = paste0(".", ending)), withr::local_tempfile(fileext = paste0(".", ending)))
    for (twin in twins) write_workbook_file(sheets, twin)
    expect_identical(unname(tools::md5sum(twins[1])), unname(tools::md5sum(twins[2])))
  }
})

test_that("what the page says under a table stands on the sheet, too", {
  res <- simulate(read_study(system.file("studies", "renewal.yml", package = "ensayo")), nsim = 200, seed = 1)
  asked <- asked_of(res)
  said <- function(id) {
    cells <- reading_blocks(id, readings_for("report", res)[[id]], res, asked, "total")[[1]](1)
    cells$text[cells$style == "note"]
  }
  expect_match(said("gains"), "Gains do not add up. net is what the mean gains less", fixed = TRUE, all = FALSE)
  expect_true(any(event_note(res)[1] == said("events")))
  expect_match(said("costs"), "percentiles do not", fixed = TRUE, all = FALSE)
})

test_that("shares near none and all are shown as such, and numbers in the digits that they have", {
  expect_identical(share_cells(c(0, 0.0004, 0.5, 0.9999, 1, NA))$style, paste0(c("percent", "below", "percent", "above", "percent", "percent"), "-1"))
  expect_identical(share_cells(c(0.0004, NA))$number, c(0.0004, NA))
  expect_identical(office_format("below-1"), "\"<0.1 %\"")
  expect_identical(office_format("above-1"), "\">99.9 %\"")
  expect_identical(number_cells(c(1234.56, 98765.4), 1)$style, c("number-1", "grouped-1"))
  expect_identical(number_cells(12345, -2)$number, 12300)
  expect_identical(number_cells(c(0.58312, 12, NA, Inf))$style[1], "number-2")
  expect_identical(number_cells(c(1, NA, Inf))$text, c(NA, "", "Inf"))
  expect_identical(number_cells(numeric())$style, character())
  expect_identical(value_cells(c(1, 0, 20908), c("yes/no", "yes/no", "date"))$text, c("yes", "no", NA))
})

test_that("what cannot be written is said before anything is", {
  file <- workbook_path("tariff", "xlsx")
  folder <- withr::local_tempdir()
  own <- file.path(folder, "tariff.xlsx")
  file.copy(file, own)
  res <- simulate(tariff_study(own), nsim = 20, seed = 1)
  expect_error(write_report(res, own, workbook = own), "another path than the workbook", class = "ensayo_error_argument")
  expect_error(write_report(res, file.path(folder, "c.ods"), workbook = own), "must end in .xlsx, as the workbook does", class = "ensayo_error_argument")
  expect_error(write_report(res, file.path(folder, "c.html"), workbook = own), "left out for a page", class = "ensayo_error_argument")
  expect_error(write_report(res, file.path(folder, "c.xlsm")), "can be copied alone", class = "ensayo_error_argument")
  expect_error(write_report(res, file.path(folder, "c.docx")), "must end in .html, .xlsx or .ods", class = "ensayo_error_argument")
  expect_error(write_report(res, file.path(folder, "nowhere", "c.xlsx")), "must be writable", class = "ensayo_error_file")
  expect_error(write_report(res, file.path(folder, "c.xlsx"), workbook = file.path(folder, "tarif.xlsx")), "Did you mean tariff.xlsx", class = "ensayo_error_file")
  expect_error(write_report(res, file.path(folder, "c.xlsx"), workbook = workbook_path("estimate", "xlsx")), "the workbook of the study, or a copy of it", class = "ensayo_error_argument")
  expect_error(write_report(res, own, overwrite = FALSE), "must not exist yet", class = "ensayo_error_file")
  expect_identical(list.files(folder), "tariff.xlsx")
  # another workbook is no copy
  expect_error(check_copy(read_workbook(own), workbook_path("estimate", "xlsx")), "without a change to them", class = "ensayo_error_file")
  # a workbook that went on is told, there and here
  archive <- whole_archive(own)
  sheet <- "xl/worksheets/sheet1.xml"
  archive <- with_part(archive, sheet, sub("<v>2150</v>", "<v>2300</v>", rawToChar(archive$bytes[[sheet]]), fixed = TRUE))
  write_archive(archive, own)
  copy <- file.path(folder, "copy.xlsx")
  expect_warning(write_report(res, copy, workbook = own), "tariff.xlsx has changed since the study was made of it: Inputs!B3")
  expect_true(any(grepl("The results are of the workbook as it was.", workbook_cells(copy, "Ensayo results")$value, fixed = TRUE)))
  # parts whose names lead out of the archive are not unpacked
  bad <- file.path(folder, "bad.xlsx")
  writeLines("x", file.path(folder, "out.txt"))
  dir.create(file.path(folder, "in"))
  suppressWarnings(zip::zip(bad, "../out.txt", root = file.path(folder, "in"), mode = "mirror"))
  expect_error(whole_archive(bad), class = "ensayo_error_file")
})

test_that("the command line writes a report into a copy, and replaces none unasked", {
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  told <- call_cli("demo", "tariff")
  expect_identical(told$code, 0L)
  expect_match(gsub("[[:space:]]+", " ", paste(told$output, collapse = " ")), "The pipe decides whether the money lasts: with one of 200 mm it does in 100 % of runs, with 300 mm in 0 %", fixed = TRUE)
  expect_true(file.exists("ensayo-demo-tariff/tariff-results.xlsx"))
  expect_identical(call_cli("report", "ensayo-demo-tariff", "--out", "copy.xlsx", "--workbook", "ensayo-demo-tariff/tariff.xlsx")$code, 0L)
  shown <- utils::read.csv("ensayo-demo-tariff/statistics.csv")
  expect_equal(found_cell("copy.xlsx", "Ensayo results", "Net present value", "Mean")$number, round(shown$mean[shown$output == "npv"], -3))
  again <- call_cli("report", "ensayo-demo-tariff", "--out", "copy.xlsx")
  expect_identical(again$code, 1L)
  expect_match(paste(again$said, collapse = "\n"), "copy.xlsx must not exist yet")
  expect_identical(call_cli("report", "ensayo-demo-tariff", "--out", "copy.xlsx", "--force")$code, 0L)
  expect_match(paste(call_cli("report", "ensayo-demo-tariff", "--workbook", "ensayo-demo-tariff/tariff.xlsx")$said, collapse = "\n"), "--out tariff-results.xlsx", fixed = TRUE)
  # what was run can be run again without the workbook
  expect_identical(call_cli("run", "ensayo-demo-tariff/study.yml", "--runs", "100", "--no-plots")$code, 0L)
})
