# Workbooks are read as they were saved by a real program; broken and hostile ones are written here by hand.

# A workbook of ISO/IEC 29500 from the parts that differ from the plainest one.
hand_made <- function(sheet = "<sheetData/>", parts = list(), ending = ".xlsx", env = parent.frame()) {
  main <- "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
  plain <- list(`xl/workbook.xml` = sprintf("<workbook xmlns='%s'><sheets><sheet name='One' sheetId='1' r:id='a'/></sheets></workbook>", main),
    `xl/_rels/workbook.xml.rels` = "<Relationships><Relationship Id='a' Type='x/worksheet' Target='worksheets/one.xml'/></Relationships>",
    `xl/worksheets/one.xml` = sprintf("<worksheet xmlns='%s'>%s</worksheet>", main, sheet))
  folder <- withr::local_tempdir(.local_envir = env)
  parts <- utils::modifyList(plain, parts)
  for (name in names(parts)) {
    dir.create(file.path(folder, dirname(name)), recursive = TRUE, showWarnings = FALSE)
    writeLines(parts[[name]], file.path(folder, name), sep = "", useBytes = TRUE)
  }
  file <- file.path(folder, paste0("made", ending))
  withr::with_dir(folder, utils::zip(file, names(parts), flags = "-q9X"))
  file
}

one_cell <- function(xml) sprintf("<sheetData><row r='1'>%s</row></sheetData>", xml)

test_that("both formats say the same of one workbook", {
  office <- read_workbook(workbook_path("tariff", "xlsx"))
  document <- read_workbook(workbook_path("tariff", "ods"))
  a <- workbook_cells(office)
  b <- workbook_cells(document)
  expect_identical(a$cell, b$cell)
  expect_identical(a$value[!grepl("^[0-9.-]+$", a$value)], b$value[!grepl("^[0-9.-]+$", a$value)])
  expect_identical(a$shown, b$shown)
  expect_gt(sum(a$shown == "percent"), 3)
  expect_identical(nzchar(a$formula), nzchar(b$formula))
  expect_identical(workbook_cells(office, "discount")$value, "0.04")
  expect_identical(workbook_cells(office, "Plan!C2:D2")$value, c("2027-01-01", "2028-01-01"))
  # shared formulas stand as they do in each cell
  expect_identical(workbook_cells(office, "Plan!D15:E15")$formula, c("=C15+D14", "=D15+E14"))
  expect_snapshot(print(office))
  expect_error(workbook_cells(office, "Plam!C2"), "Did you mean `Plan`", class = "ensayo_error_name")
})

test_that("cells of all kinds, marks of characters and shared formulas are read", {
  file <- hand_made(one_cell(paste0(
    "<c r='A1' t='inlineStr'><is><r><t>a&amp;b </t></r><r><t>&#x20AC;_x000D_</t></r><rPh><t>no</t></rPh></is></c>",
    "<c r='B1'><f t='shared' ref='B1:D1' si='0'>A$2+$B3*2</f><v>1</v></c><c r='C1'><f t='shared' si='0'/><v>2</v></c>",
    "<c t='b'><v>1</v></c><c t='e'><v>#N/A</v></c><c t='d'><v>2027-03-31T00:00:00</v></c><c r='J1'><f><![CDATA[IF(1<2,1,0)]]></f></c>")))
  cells <- workbook_cells(file)
  expect_identical(cells$cell, paste0("One!", c("A1", "B1", "C1", "D1", "E1", "F1", "J1")))
  expect_identical(cells$value, c("a&b \u20ac\r", "1", "2", "TRUE", "#N/A", "2027-03-31", ""))
  expect_identical(cells$formula[c(2, 3, 7)], c("=A$2+$B3*2", "=B$2+$B3*2", "=IF(1<2,1,0)"))
})

test_that("hidden, protected and merged cells, macros and links are told", {
  main <- "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
  sheet <- paste0(one_cell("<c r='A1'><v>2</v></c><c r='B1'><f>A1*[1]Other!B2</f><v>3</v></c>"), "<sheetProtection sheet='1'/><mergeCells><mergeCell ref='A2:B2'/></mergeCells>")
  file <- hand_made(sheet, list(`xl/vbaProject.bin` = "x",
    `xl/workbook.xml` = sprintf("<workbook xmlns='%s'><sheets><sheet name='My sheet' sheetId='1' state='hidden' r:id='a'/></sheets><calcPr iterate='1'/></workbook>", main)))
  lines <- paste(utils::capture.output(print(read_workbook(file))), collapse = "\n")
  expect_match(lines, "My sheet +A1:B1 +2 +1 +hidden, protected, 1 merged range")
  for (told in c("macros, which are never run", "other workbooks, which are never opened", "circular")) expect_match(lines, told)
  expect_identical(workbook_cells(file)$cell, c("'My sheet'!A1", "'My sheet'!B1"))
  # what cannot be calculated is taken as it is, and nothing is said to hang on anything
  expect_identical(nrow(workbook_candidates(file)), 0L)
  told <- call_cli("check", file)
  expect_match(paste(told$output, collapse = "\n"), "Cells taken as the file has them\n  'My sheet'!B1: It refers to another workbook")
  plain <- call_cli("check", hand_made(one_cell("<c r='A1'><v>2</v></c>")))
  expect_match(paste(plain$output, collapse = "\n"), "None: no formula ends in a number")
  expect_match(paste(plain$said, collapse = "\n"), "Nothing in it could be calculated")
})

test_that("what is no workbook is said to be none, once and clearly", {
  old <- withr::local_tempfile(fileext = ".xls")
  writeBin(as.raw(c(0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1, 0)), old)
  expect_error(read_workbook(old), "old binary format.*password", class = "ensayo_error_file")
  text <- withr::local_tempfile(lines = "name,law", fileext = ".xlsx")
  expect_error(read_workbook(text), "must be a workbook", class = "ensayo_error_file")
  expect_error(read_workbook("nowhere.xlsx"), "no such file", class = "ensayo_error_file")
  expect_error(read_workbook(tempdir()), "must be a file", class = "ensayo_error_file")
  expect_error(read_workbook(3), class = "ensayo_error_argument")
  cut <- withr::local_tempfile(fileext = ".xlsx")
  whole <- workbook_path("tariff", "xlsx")
  writeBin(readBin(whole, "raw", 5000), cut)
  expect_error(read_workbook(cut), class = "ensayo_error_file")
  expect_error(read_workbook(hand_made(parts = list(`xl/workbook.bin` = "x"))), "binary format", class = "ensayo_error_file")
})

test_that("hostile files end in one error, soon", {
  laughs <- "<!DOCTYPE x [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;'>]><worksheet>&b;</worksheet>"
  expect_error(read_workbook(hand_made(parts = list(`xl/worksheets/one.xml` = laughs))), "document type", class = "ensayo_error_file")
  expect_error(read_workbook(hand_made(one_cell("<c r='A1' t='inlineStr'><is><t>&passwd;</t></is></c>"))), "not allowed", class = "ensayo_error_file")
  expect_error(read_workbook(hand_made(strrep("<a>", 300))), "nested too deep", class = "ensayo_error_file")
  expect_error(read_workbook(hand_made(one_cell("<c r='XFE1'><v>1</v></c>"))), "place", class = "ensayo_error_file")
  expect_error(read_workbook(hand_made(one_cell("<c r='A1' t='s'><v>7</v></c>"))), "table of texts", class = "ensayo_error_file")
  long <- sprintf("<c r='A1'><f>%s1</f><v>1</v></c>", strrep("1+", 20000))
  expect_error(read_workbook(hand_made(one_cell(long))), "longer than", class = "ensayo_error_file")
  away <- "<Relationships><Relationship Id='a' Type='x/worksheet' Target='../../../etc/passwd'/></Relationships>"
  expect_error(read_workbook(hand_made(parts = list(`xl/_rels/workbook.xml.rels` = away))), "missing", class = "ensayo_error_file")
  endless <- "<c r='A1'><f t='array' ref='A1:XFD1048576'>B1</f><v>1</v></c>"
  expect_error(read_workbook(hand_made(one_cell(endless))), "arrays fill more cells", class = "ensayo_error_file")
  text <- sprintf("<table:table table:name='a'><table:table-row><table:table-cell table:number-columns-repeated='16000' office:value-type='string'><text:p>%s</text:p></table:table-cell></table:table-row></table:table>",
    strrep("a", 1e4))
  expect_error(read_workbook(hand_made(parts = list(content.xml = text), ending = ".ods")), "repeats more text", class = "ensayo_error_file")
  # a document whose cells are said to be repeated without end
  sheet <- paste0("<table:table table:name='a'><table:table-row table:number-rows-repeated='1048576'><table:table-cell ",
    "table:number-columns-repeated='16384' office:value-type='float' office:value='1'/></table:table-row></table:table>")
  expect_error(read_workbook(hand_made(parts = list(content.xml = sheet), ending = ".ods")), "more cells", class = "ensayo_error_file")
})

test_that("mutations of a workbook's parts never do more than end in an error", {
  expect_identical(faulty_workbooks(1:60, workbook_path("tariff", "xlsx")), character())
  expect_identical(faulty_workbooks(1:20, workbook_path("tariff", "ods")), character())
})
