test_that("each starter is a study that runs at once and of which the review finds nothing", {
  withr::local_dir(withr::local_tempdir())
  for (kind in names(starters)) {
    folder <- paste0("my-", kind)
    done <- call_cli("new", folder, "--for", kind)
    expect_identical(done$code, 0L)
    file <- file.path(folder, paste0(folder, ".yml"))
    # what it says to do next can be done as it stands
    next_steps <- sub("^ *ensayo ", "", grep("^  ensayo ", done$said, value = TRUE))
    expect_match(next_steps, paste("run", file), fixed = TRUE, all = FALSE)
    for (step in next_steps) expect_identical(do.call(call_cli, as.list(strsplit(step, " ")[[1]]))$code, 0L, info = step)
    expect_identical(call_cli("check", file, "--strict", if (kind == "program") "--run-programs")$code, 0L, info = kind)
    expect_match(readLines(file, encoding = "UTF-8"), sprintf("study: \"My %s\"", kind), all = FALSE)
  }
  expect_setequal(list.files(system.file("starters", package = "ensayo")), names(starters))
})

test_that("a starter replaces nothing, and says what a name and a kind may be", {
  withr::local_dir(withr::local_tempdir())
  call_cli("new", "bridge", "--for", "cost")
  writeLines("mine", "bridge/costs.csv")
  again <- call_cli("new", "bridge", "--for", "cost")
  expect_identical(again$code, 1L)
  expect_match(again$said, "--force", all = FALSE)
  expect_identical(readLines("bridge/costs.csv"), "mine")
  expect_identical(call_cli("new", "bridge", "--for", "cost", "--force")$code, 0L)
  expect_match(call_cli("new", "x", "--for", "costs")$said, "Did you mean `cost`", all = FALSE)
  expect_match(call_cli("new", "x")$said, "It was not given", all = FALSE)
  expect_identical(call_cli("new", "x/y z", "--for", "cost")$code, 2L)
  expect_identical(list.files("."), "bridge")
  writeLines("a file", "taken")
  expect_match(call_cli("new", "taken", "--for", "series")$said, "must be a folder", all = FALSE)
})

quick_table <- function() {
  writeLines(c("name,low,most_likely,high,unit", "Trunk main,160,171,210,kEUR", "trench,70,86,130,kEUR", "\"Trunk main, 2\",,12,,kEUR"), "costs.csv")
}

test_that("a table of inputs is rehearsed as a sum, a product or formulas", {
  withr::local_dir(withr::local_tempdir())
  quick_table()
  sum <- call_cli("quick", "costs.csv", "--seed", "1", "--spec", "total <= 300", "--json", "--no-plots")
  expect_identical(sum$code, 0L)
  shown <- jsonlite::fromJSON(sum$output)
  mean <- (160 + 171 + 210) / 3 + (70 + 86 + 130) / 3 + 12
  expect_equal(shown$outputs$mean, mean, tolerance = 1e-5)
  said <- capture_messages(quick_study("costs.csv"))
  expect_match(said, "`Trunk main, 2` has a most likely value alone and is taken as a constant", fixed = TRUE, all = FALSE)
  expect_match(said, "trunk_main for `Trunk main` and trunk_main_2 for `Trunk main, 2`", fixed = TRUE, all = FALSE)
  res <- read_result("costs-result")
  expect_identical(names(res$study$inputs), c("trunk_main", "trench", "trunk_main_2"))
  expect_identical(res$study$inputs$trunk_main_2$label, "Trunk main, 2")
  expect_identical(res$study$outputs$total$unit, "kEUR")
  # its folder has a study file to go on with, of the same numbers
  expect_identical(call_cli("run", "costs-result/study.yml", "--seed", "1", "--out", "again", "--no-plots")$code, 0L)
  expect_identical(output_values(read_result("again"), "total"), output_values(res, "total"))
  product <- call_cli("quick", "costs.csv", "--formula", "product", "--seed", "1", "--out", "p", "--json", "--no-plots")
  expect_equal(jsonlite::fromJSON(product$output)$outputs$mean, 12 * (160 + 171 + 210) / 3 * (70 + 86 + 130) / 3, tolerance = 1e-3)
  formulas <- call_cli("quick", "costs.csv", "--formula", "both = trunk_main + trench; both == 250; both / trench", "--out", "f", "--seed", "1", "--no-plots")
  expect_identical(formulas$code, 0L)
  expect_identical(output_names(read_result("f")), c("both", "result", "result_1"))
  wrong <- call_cli("quick", "costs.csv", "--formula", "trnch * 2", "--out", "w")
  expect_identical(wrong$code, 2L)
  expect_match(wrong$said, "Did you mean `trench`", all = FALSE)
  expect_identical(call_cli("quick", "costs.csv", "--formula", ";", "--out", "w")$code, 2L)
  writeLines("name,low,most_likely,high", "empty.csv")
  expect_match(call_cli("quick", "empty.csv", "--out", "w")$said, "empty.csv must have a row for each input", all = FALSE)
  writeLines(c("Name,low,most likely,high", "a,1,2,3", "a,2,3,4"), "twice.csv")
  expect_match(call_cli("quick", "twice.csv", "--out", "w")$said, "twice.csv must name each input once", all = FALSE)
  expect_false(dir.exists("w"))
  expect_match(call_cli("quick", "costs.csv")$said, "--force", all = FALSE)
})

# A workbook with these cells on its sheets; a number with % is shown in per cent.
small_workbook <- function(file, sheets) {
  dir <- withr::local_tempdir()
  part <- function(name, text) {
    dir.create(dirname(file.path(dir, name)), recursive = TRUE, showWarnings = FALSE)
    writeLines(paste0("<?xml version=\"1.0\"?>", text), file.path(dir, name))
  }
  main <- "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
  office <- "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
  cell <- function(text, row, column) {
    at <- paste0(LETTERS[column], row)
    if (!nzchar(text)) return("")
    if (grepl("^-?[0-9.]+$", text)) return(sprintf("<c r=\"%s\"><v>%s</v></c>", at, text))
    if (grepl("%$", text) && grepl("^-?[0-9]", text)) return(sprintf("<c r=\"%s\" s=\"1\"><v>%s</v></c>", at, as.double(sub("%", "", text)) / 100))
    sprintf("<c r=\"%s\" t=\"inlineStr\"><is><t>%s</t></is></c>", at, text)
  }
  for (i in seq_along(sheets)) {
    rows <- vapply(seq_len(nrow(sheets[[i]])), function(row) sprintf("<row r=\"%d\">%s</row>", row,
      paste(mapply(cell, sheets[[i]][row, ], row, seq_len(ncol(sheets[[i]]))), collapse = "")), "")
    part(sprintf("xl/worksheets/sheet%d.xml", i), sprintf("<worksheet xmlns=\"%s\"><sheetData>%s</sheetData></worksheet>", main, paste(rows, collapse = "")))
  }
  n <- seq_along(sheets)
  part("xl/workbook.xml", sprintf("<workbook xmlns=\"%s\" xmlns:r=\"%s\"><sheets>%s</sheets></workbook>", main, office,
    paste(sprintf("<sheet name=\"%s\" sheetId=\"%d\" r:id=\"r%d\"/>", names(sheets), n, n), collapse = "")))
  relations <- "http://schemas.openxmlformats.org/package/2006/relationships"
  part("xl/_rels/workbook.xml.rels", sprintf("<Relationships xmlns=\"%s\">%s<Relationship Id=\"s\" Type=\"%s/styles\" Target=\"styles.xml\"/></Relationships>",
    relations, paste(sprintf("<Relationship Id=\"r%d\" Type=\"%s/worksheet\" Target=\"worksheets/sheet%d.xml\"/>", n, office, n), collapse = ""), office))
  part("xl/styles.xml", sprintf("<styleSheet xmlns=\"%s\"><cellXfs count=\"2\"><xf numFmtId=\"0\"/><xf numFmtId=\"10\"/></cellXfs></styleSheet>", main))
  part("_rels/.rels", sprintf("<Relationships xmlns=\"%s\"><Relationship Id=\"r\" Type=\"%s/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>", relations, office))
  part("[Content_Types].xml", "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"/>")
  to <- file.path(getwd(), file)  # zip() looks for it from `root` else
  zip::zip(to, list.files(dir, all.files = TRUE, recursive = TRUE), root = dir)
}

test_that("a table of inputs may stand on a sheet of a workbook", {
  withr::local_dir(withr::local_tempdir())
  small_workbook("prices.xlsx", list(
    Notes = rbind(c("Name", ""), c("nothing here", "")),
    Inputs = rbind(c("Prices of the works", "", "", "", ""), c("name", "base", "low %", "high %", "law"),
      c("Trunk main", "171", "-10%", "25%", "pert"), c("", "", "", "", ""), c("trench", "86", "-5", "30", ""), c("years", "", "", "", "40"))))
  inputs <- suppressMessages(read_inputs("prices.xlsx"))
  expect_identical(inputs$name, c("Trunk main", "trench", "years"))
  study <- suppressMessages(quick_study("prices.xlsx", "inputs", "trunk_main + trench"))
  expect_equal(support(study$inputs$trunk_main$law)[[2]], 171 * 1.25)
  expect_equal(support(study$inputs$trench$law)[[1]], 86 * 0.95)
  expect_identical(study$inputs$years$law, 40)
  expect_identical(call_cli("quick", "prices.xlsx", "--formula", "trunk_main + trench", "--runs", "100")$code, 0L)
  expect_match(call_cli("quick", "prices.xlsx", "--sheet", "Input")$said, "Did you mean `Inputs`", all = FALSE)
  expect_match(call_cli("quick", "prices.xlsx", "--sheet", "Notes")$said, "must have a sheet with the heading", all = FALSE)
  # and in a study file
  writeLines(c("inputs: {file: prices.xlsx, sheet: Inputs, extra: 3}", "outputs: {y: trench + extra}"), "study.yml")
  expect_identical(names(suppressMessages(read_study("study.yml"))$inputs), c("Trunk main", "trench", "years", "extra"))
})
