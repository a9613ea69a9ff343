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
    made <- cpp_compile_workbook(book, integer(), cell, TRUE)
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
  made <- cpp_compile_workbook(book_of(formula), integer(), 1L, TRUE)
  if (!is.null(made$refusal)) stop(made$refusal$why, ": ", made$refusal$what)
  switch(made$values$type + 1, made$values$number, made$values$text, made$values$number == 1, made$values$text, "")
}

formula_fault <- function(formula) tryCatch(formula_value(formula), error = conditionMessage)
