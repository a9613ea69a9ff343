# Workbooks that a real spreadsheet program made and calculated: tests/workbooks/books.py and judge.py say how.
workbook_path <- function(name, ending) {
  if (name == "tariff") return(system.file("studies", paste0("tariff.", ending), package = "ensayo", mustWork = TRUE))
  testthat::test_path("..", "workbooks", paste0(name, ".", ending))
}

# The judge's runs of a workbook: inputs and outputs by their cells.
judged_runs <- function(name) {
  table <- utils::read.csv(testthat::test_path("..", "workbooks", paste0(name, ".csv")), check.names = FALSE, stringsAsFactors = FALSE)
  gap <- which(names(table) == "")
  list(inputs = table[seq_len(gap - 1)], outputs = table[-seq_len(gap)])
}

# A study of a workbook whose inputs and outputs are called by numbers.
judged_study <- function(file, runs, outputs) {
  cells <- names(runs$inputs)
  study("Judged") |> add_workbook(file, inputs = stats::setNames(cells, paste0("x", seq_along(cells))),
    outputs = stats::setNames(outputs, paste0("y", seq_along(outputs))))
}

# Every cell of a sheet's first column, calculated on its own and as the file has it: those that differ.
differing_cases <- function(book) {
  at <- which(book$sheets$name[book$cells$sheet] == "Cases" & book$cells$column == 1 & book$cells$formula > 0)
  wrong <- vapply(at, function(cell) {
    made <- cpp_compile_workbook(book, integer(), cell, "values")
    if (!is.null(made$refusal) || length(made$kept$cell)) return(TRUE)
    value <- lapply(made$values, `[[`, match(cell, made$reached))
    told <- book$cells[cell, ]
    # an empty text is saved as nothing
    if (told$type == 4) return(!(value$type == 3 && value$text == ""))
    if (value$type != told$type) return(TRUE)
    switch(told$type + 1, abs(value$number - told$number) > 1e-9 * abs(told$number) + 1e-15, FALSE, value$number != told$number, value$text != told$text)
  }, NA)
  cell_formulas(book, at[wrong])
}

# A workbook of one sheet, Model, whose cells A1, A2, ... hold these formulas or numbers.
book_of <- function(..., value = NULL) {
  texts <- c(...)
  numbers <- suppressWarnings(as.numeric(texts))
  formula <- ifelse(is.na(numbers), cumsum(is.na(numbers)), 0L)
  n <- length(texts)
  stored <- rep(if (is.null(value)) NA_real_ else value, length.out = n)
  known <- !is.na(numbers) | !is.na(stored)
  cells <- data.frame(sheet = 1L, row = seq_len(n), column = 1L, type = ifelse(known, 0L, 4L), number = ifelse(is.na(numbers), ifelse(is.na(stored), 0, stored), numbers),
    text = "", shown = 0L, formula = as.integer(formula), down = 0L, right = 0L, array_rows = 0L, array_columns = 0L)
  list(format = "office", sheets = data.frame(name = "Model", last_row = n, last_column = 1L), names = data.frame(name = character(), sheet = integer(), formula = character()),
    cells = cells, formulas = texts[is.na(numbers)], notes = rep("", sum(is.na(numbers))), from_1904 = FALSE)
}

# What a formula gives; its error's name, or why it cannot be read.
formula_value <- function(formula) {
  made <- cpp_compile_workbook(book_of(formula), integer(), 1L, "values")
  if (!is.null(made$refusal)) stop(made$refusal$why, ": ", made$refusal$what)
  switch(made$values$type + 1, made$values$number, made$values$text, made$values$number == 1, made$values$text, "")
}

formula_fault <- function(formula) tryCatch(formula_value(formula), error = conditionMessage)

# A sheet's part with a few bytes changed, read and calculated: seeds for which something else happened than a number of values
# or one error that says what is wrong, or that took long.
faulty_workbooks <- function(seeds, file) {
  office <- grepl("xlsx$", file)
  part <- if (office) "xl/worksheets/sheet3.xml" else "content.xml"
  folder <- withr::local_tempdir()
  utils::unzip(file, part, exdir = folder)
  bytes <- readBin(file.path(folder, part), "raw", file.size(file.path(folder, part)))
  pieces <- lapply(c("<", ">", "\"", "&", "/", "A", "9", "-", "(", "$", "<c>", "</f>", "1E999", "&#9999999999;", "SUM(", "A1:XFD9999"), charToRaw)
  found <- vapply(seeds, function(seed) {
    changed <- withr::with_seed(seed, {
      out <- bytes
      for (k in seq_len(sample(4, 1))) {
        piece <- if (stats::runif(1) < 0.1) as.raw(sample(0:255, 2)) else pieces[[sample(length(pieces), 1)]]
        at <- sample(length(out) - 20, 1)
        out <- c(out[seq_len(at)], piece, out[-seq_len(at + sample(0:length(piece), 1))])
      }
      out
    })
    started <- proc.time()[["user.self"]]
    told <- tryCatch({
      archive <- list(file = "mutation")
      book <- if (office) {
        sheet <- part_read(archive, part, cpp_office_sheet(changed, character(2000), integer(10)))
        workbook_of("office", list(sheets = list(name = "Plan", hidden = FALSE, protected = FALSE, merged = 0L), names = list(name = character(),
          sheet = integer(), formula = character()), from_1904 = FALSE, iterates = FALSE, protected = FALSE, external = FALSE, macros = FALSE), list(sheet$cells))
      } else {
        book <- part_read(archive, part, cpp_document(changed))
        book$macros <- FALSE
        workbook_of("document", book, book$cells)
      }
      cpp_calculated_cells(book, end_cells(book), FALSE)
      ""
    }, ensayo_error = function(e) "", error = conditionMessage)
    if (proc.time()[["user.self"]] - started > 20) told <- "took long"
    if (nzchar(told)) sprintf("mutation %s: %s", seed, told) else ""
  }, "")
  found[nzchar(found)]
}
