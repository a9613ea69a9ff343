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
