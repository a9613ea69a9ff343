# Workbooks: runs a second beside a real spreadsheet program's own recalculation (tests/workbooks/judge.py), and a large one.
suppressMessages(library(ensayo))
books <- "tests/workbooks"
path <- function(name) if (name == "tariff") "inst/studies/tariff.xlsx" else file.path(books, paste0(name, ".xlsx"))
peak <- function() as.numeric(sub("[^0-9]*([0-9]+).*", "\\1", grep("VmHWM", readLines("/proc/self/status"), value = TRUE))) / 1024

ours <- function(name, runs = 10000) {
  table <- utils::read.csv(file.path(books, paste0(name, ".csv")), check.names = FALSE)
  gap <- which(names(table) == "")
  inputs <- table[seq_len(gap - 1)]
  outputs <- names(Filter(is.numeric, table[-seq_len(gap)]))
  laws <- lapply(inputs, function(x) law_uniform(min(x), max(x)))
  names(laws) <- paste0("x", seq_along(inputs))
  study <- study(name) |> add_inputs(!!!laws) |>
    add_workbook(path(name), stats::setNames(names(inputs), names(laws)), stats::setNames(outputs, paste0("y", seq_along(outputs))))
  simulate(study, nsim = 100, seed = 1, progress = NULL)
  seconds <- min(replicate(3, system.time(simulate(study, nsim = runs, seed = 1, progress = NULL))[["elapsed"]]))
  list(runs = runs / seconds, formulas = sum(read_workbook(path(name))$book$cells$formula > 0))
}

theirs <- function(name) {
  table <- tempfile(fileext = ".csv")
  file.copy(file.path(books, paste0(name, ".csv")), table)
  lines <- suppressWarnings(system2("env", c("-u", "LD_LIBRARY_PATH", "/usr/bin/python3", file.path(books, "judge.py"), "time", path(name), table), stdout = TRUE, stderr = FALSE))
  if (length(lines)) as.numeric(lines[1]) else NA
}

cat(sprintf("%s, %s\n", Sys.Date(), R.version.string))
for (name in c("tariff", "estimate", "schedule", "measurement", "supply", "loans")) {
  own <- ours(name)
  other <- theirs(name)
  cat(sprintf("%-12s %5d formulas: %7.0f runs a second with all of simulate(), the spreadsheet program %5.1f; ratio %.0f\n", name, own$formulas,
    own$runs, other, own$runs / other))
}
cat(sprintf("memory at most so far, 10,000 runs of each: %.0f MB\n", peak()))

# 50,000 formulas of which 2,000 hang on the input, as their XML
folder <- tempfile()
dir.create(file.path(folder, "xl/_rels"), recursive = TRUE)
dir.create(file.path(folder, "xl/worksheets"))
rows <- vapply(seq_len(5000), function(r) {
  cells <- vapply(seq_len(10), function(c) {
    at <- sprintf("%s%d", LETTERS[c + 1], r)
    behind <- if (c <= 2 && r <= 1000) sprintf("%s%d*1.0001+$A$1", LETTERS[c + 1], max(1, r - 1)) else sprintf("SUM($A2:$A%d)*%d", 3 + r %% 7, c)
    if (c <= 2 && r == 1) behind <- "$A$1*2"
    sprintf("<c r='%s'><f>%s</f></c>", at, behind)
  }, "")
  sprintf("<row r='%d'><c r='A%d'><v>%d</v></c>%s</row>", r, r, r, paste(cells, collapse = ""))
}, "")
writeLines(sprintf("<worksheet><sheetData>%s</sheetData></worksheet>", paste(rows, collapse = "")), file.path(folder, "xl/worksheets/one.xml"))
writeLines("<workbook><sheets><sheet name='One' sheetId='1' r:id='a'/></sheets></workbook>", file.path(folder, "xl/workbook.xml"))
writeLines("<Relationships><Relationship Id='a' Type='x/worksheet' Target='worksheets/one.xml'/></Relationships>", file.path(folder, "xl/_rels/workbook.xml.rels"))
old <- setwd(folder)
utils::zip("large.xlsx", c("xl/workbook.xml", "xl/_rels/workbook.xml.rels", "xl/worksheets/one.xml"), flags = "-q9X")
setwd(old)
seconds <- system.time({
  large <- read_workbook(file.path(folder, "large.xlsx"))
})[["elapsed"]]
compile <- system.time({
  one <- study("Large") |> add_workbook(large, c(a = "One!A1"), c(y = "One!B1000", z = "One!C1000"))
})[["elapsed"]]
all <- system.time(workbook_candidates(large))[["elapsed"]]
cat(sprintf("50,000 formulas: read in %.1f s, compiled and compared in %.1f s, all results with their candidates in %.1f s; memory at most %.0f MB\n",
  seconds, compile, all, peak()))
