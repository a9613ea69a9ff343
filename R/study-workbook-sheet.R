# A study that a workbook describes itself: a sheet with a row for each input and output, under a row of headings.

is_workbook_name <- function(file) grepl("[.](xlsx|xlsm|ods)$", file, ignore.case = TRUE)

sheet_headings <- c("name", "cell", "law", "parameters", "unit", "label")

# Where such a sheet is: list(sheet, row of the headings, columns by heading); NULL where there is none.
study_sheet <- function(book) {
  texts <- book$cells[book$cells$type == 3 & book$cells$row <= 20, c("sheet", "row", "column", "text")]
  texts$text <- tolower(trimws(texts$text))
  texts <- texts[texts$text %in% sheet_headings, ]
  for (one in split(texts, list(texts$sheet, texts$row), drop = TRUE)) {
    if (all(c("name", "cell", "law") %in% one$text)) {
      one <- one[!duplicated(one$text), ]
      return(list(sheet = one$sheet[1], row = one$row[1], columns = stats::setNames(one$column, one$text)))
    }
  }
  NULL
}

# Rows of the sheet, as texts: a list of records, each with the row it stands in.
sheet_rows <- function(book, at) {
  cells <- book$cells[book$cells$sheet == at$sheet & book$cells$row > at$row & book$cells$column %in% at$columns, ]
  value <- ifelse(cells$type == 3, trimws(cells$text), ifelse(cells$type == 0, cpp_number_text(cells$number), ""))
  heading <- names(at$columns)[match(cells$column, at$columns)]
  filled <- nzchar(value)
  rows <- split(data.frame(heading, value)[filled, ], cells$row[filled])
  Map(function(row, number) c(stats::setNames(as.list(row$value), row$heading), row = number), rows, as.integer(names(rows)))
}

# What the sheet says, as a study file would say it.
workbook_content <- function(book, file) {
  at <- study_sheet(book)
  if (is.null(at)) {
    stop_ensayo("file", sprintf("%s must have a sheet that says which of its cells are uncertain.", basename(file)), "It has none.",
      "Give it a sheet with the headings name, cell, law, parameters, unit and label. `ensayo check` lists cells to choose from.", file = file)
  }
  rows <- sheet_rows(book, at)
  place <- function(row) sprintf("Row %d of the sheet %s", row$row, quoted(book$sheets$name[at$sheet]))
  for (row in rows) {
    for (key in c("name", "cell", "law")) if (is.null(row[[key]])) {
      stop_ensayo("file", sprintf("%s must give a name, a cell and a law.", place(row)), sprintf("Its %s is missing.", key),
        "An output has the law \"output\".", file = file, line = row$row)
    }
  }
  names <- vapply(rows, function(row) row$name, "")
  twice <- anyDuplicated(names)
  if (twice) stop_ensayo("name", sprintf("%s must have a name of its own.", place(rows[[twice]])), sprintf("%s stands above.", quoted(names[twice])), name = names[twice])
  is_output <- vapply(rows, function(row) tolower(row$law) %in% c("output", "result"), NA)
  if (!any(is_output) || all(is_output)) {
    stop_ensayo("file", sprintf("The sheet %s must have inputs and outputs.", quoted(book$sheets$name[at$sheet])),
      if (any(is_output)) "It has no row with a law." else "It has no row whose law is \"output\".", file = file)
  }
  about <- function(row) row[intersect(names(row), c("unit", "label"))]
  inputs <- lapply(rows[!is_output], function(row) c(list(law = row_law(row)), row_base(book, row), about(row)))
  outputs <- lapply(rows[is_output], function(row) c(list(cell = row$cell), about(row)))
  conditions <- Filter(function(row) !is.null(row$parameters), rows[is_output])
  specs <- lapply(conditions, function(row) paste(row$name, row$parameters))
  names(inputs) <- names[!is_output]
  names(outputs) <- names[is_output]
  title <- sub("[.][A-Za-z]+$", "", basename(file))
  c(list(study = title, inputs = inputs, models = list(workbook = list(workbook = basename(file),
    inputs = stats::setNames(lapply(rows[!is_output], function(row) row$cell), names[!is_output]), outputs = outputs))),
    if (length(specs)) list(specs = unname(specs)))
}

# "pert" with "28, 34, 48" beside it, or all of it in one.
row_law <- function(row) {
  if (grepl("(", row$law, fixed = TRUE) || is.null(row$parameters)) return(row$law)
  sprintf("%s(%s)", row$law, gsub(";", ",", row$parameters, fixed = TRUE))
}

# The base value is what the workbook has.
row_base <- function(book, row) {
  at <- tryCatch(named_cells(book, row$cell, "The cell"), ensayo_error = function(e) NULL)
  if (length(at) == 1 && book$cells$type[at] == 0) list(base = cpp_number_text(book$cells$number[at]))
}

# A table of texts that stands on a sheet of a workbook, from the row of its headings downwards to its last row: the sheet that was named, or
# the first where one of the first 20 rows has the heading "name" and others.
sheet_table <- function(book, sheet, file) {
  at <- table_place(book, sheet, file)
  cells <- book$cells[book$cells$sheet == at$sheet & book$cells$row >= at$row, ]
  headings <- cells[cells$row == at$row & cells$type == 3 & nzchar(trimws(cells$text)), ]
  cells <- cells[cells$column %in% headings$column & cells$row > at$row, ]
  heading <- trimws(headings$text)[match(cells$column, headings$column)]
  # a cell shown as -10 % holds -0.1
  percent <- shown_as[cells$shown + 1] == "percent" & grepl("%|per ?cent", heading, ignore.case = TRUE)
  number <- ifelse(percent, signif(100 * cells$number, 15), cells$number)
  value <- ifelse(cells$type == 3, trimws(cells$text), ifelse(cells$type == 0, cpp_number_text(number), ifelse(cells$type == 2,
    ifelse(cells$number == 1, "TRUE", "FALSE"), "")))
  rows <- sort(unique(cells$row[nzchar(value)]))
  columns <- lapply(stats::setNames(nm = unique(trimws(headings$text))), function(one) {
    found <- value[heading == one][match(rows, cells$row[heading == one])]
    ifelse(is.na(found), "", found)
  })
  as.data.frame(columns, check.names = FALSE, optional = TRUE)
}

table_place <- function(book, sheet, file) {
  wanted <- if (is.null(sheet)) seq_len(nrow(book$sheets)) else match(tolower(sheet), tolower(book$sheets$name))
  if (anyNA(wanted)) {
    stop_ensayo("name", sprintf("`sheet` must be one of the sheets of %s.", file), sprintf("You gave %s.", quoted(sheet)),
      suggestion(sheet, book$sheets$name), name = sheet, known = book$sheets$name)
  }
  texts <- book$cells[book$cells$type == 3 & book$cells$sheet %in% wanted & book$cells$row <= 20, c("sheet", "row", "text")]
  named <- texts[tolower(trimws(texts$text)) == "name", ]
  others <- vapply(seq_len(nrow(named)), function(i) sum(texts$sheet == named$sheet[i] & texts$row == named$row[i]), 0L)
  named <- named[others > 1, ]
  if (nrow(named) == 0) {
    stop_ensayo("file", sprintf("%s must have a sheet with the heading \"name\" in one of its first 20 rows, and others beside it.", file),
      "It has none.", "Headings are name, low, most_likely and high; or name, base, low % and high %; or name and law.", file = file)
  }
  as.list(named[order(named$sheet, named$row)[1], ])
}
