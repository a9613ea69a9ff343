# Workbooks on the terminal.

#' @export
print.ensayo_workbook <- function(x, ...) {
  cat(workbook_lines(x$book, x$file), sep = "\n")
  invisible(x)
}

workbook_lines <- function(book, file) {
  cells <- book$cells
  by_sheet <- function(which) tabulate(cells$sheet[which], nrow(book$sheets))
  remarks <- text_of(seq_len(nrow(book$sheets)), function(i) {
    sheet <- book$sheets[i, ]
    paste(c(if (sheet$hidden) "hidden", if (sheet$protected) "protected", if (sheet$merged > 0) count_of(sheet$merged, "merged range")), collapse = ", ")
  })
  used <- ifelse(book$sheets$last_row > 0, sprintf("A1:%s%d", column_letters(pmax(book$sheets$last_column, 1)), book$sheets$last_row), "")
  sheets <- drop_empty(list(sheet = book$sheets$name, used = used, cells = count_texts(by_sheet(rep(TRUE, nrow(cells)))),
    formulas = count_texts(by_sheet(cells$formula > 0)), ` ` = remarks))
  names <- book$names[!grepl("^_xl", book$names$name), ]
  c(title_line("Workbook", basename(file)), "", heading(sprintf("Sheets (%d)", nrow(book$sheets))),
    text_table(sheets, numeric = names(sheets) %in% c("cells", "formulas"), indent = "  "),
    if (nrow(names)) c("", heading(sprintf("Names (%d)", nrow(names))), shortened_lines(text_table(list(name = names$name,
      `for` = gsub("^[a-z]*:?=|[][]", "", names$formula)), indent = "  "), 8)),
    workbook_remark_lines(book))
}

count_texts <- function(counts) vapply(counts, count_text, "")

shortened_lines <- function(lines, most) {
  if (length(lines) <= most + 1) return(lines)
  c(lines[seq_len(most)], sprintf("  ... and %d more", length(lines) - most))
}

# Things in it that are not calculated, or look random.
workbook_remark_lines <- function(book) {
  random <- random_cells(book)
  offers <- sprintf("%s draws a random number%s.", cell_places(book, random$at), ifelse(nzchar(random$law), sprintf(" and looks like `%s`: name it among the inputs with that law",
    random$law), ": name it among the inputs, with the law that it is meant to have"))
  remarks <- c(if (book$macros) "It holds macros, which are never run.", if (book$external) "It refers to other workbooks, which are never opened.",
    if (book$iterates) "It allows circular references; Ensayo calculates none.", offers[seq_len(min(length(offers), 10))],
    if (length(offers) > 10) sprintf("... and %s more draw random numbers.", count_text(length(offers) - 10)))
  if (length(remarks)) c("", wrapped_lines(remarks))
}

# Results, those beside each other in a row as one.
result_cell_lines <- function(book, results, refused, most = 12) {
  title <- c("", heading("Results: what no other formula uses"))
  if (length(results) == 0) return(c(title, "  None: no formula ends in a number."))
  cells <- book$cells[results, ]
  order <- order(cells$sheet, cells$row, cells$column)
  cells <- cells[order, ]
  begins <- c(TRUE, diff(cells$sheet) != 0 | diff(cells$row) != 0 | diff(cells$column) != 1)
  groups <- split(seq_along(begins), cumsum(begins))
  number <- function(k) format_number(cells$number[k], 7)
  ends <- function(group) unique(c(group[1], group[length(group)]))
  place <- vapply(groups, function(group) {
    paste(c(names(results)[order][group[1]], if (length(group) > 1) paste0(column_letters(cells$column[group[length(group)]]), cells$row[group[1]])), collapse = ":")
  }, "")
  shown <- drop_empty(list(cell = place, label = short_text(labels_beside(book, results[order][vapply(groups, `[`, 0L, 1)]), 40),
    value = vapply(groups, function(group) paste(vapply(ends(group), number, ""), collapse = " ... "), "")))
  c(title, shortened_lines(text_table(lapply(shown, unname), indent = "  "), most),
    if (length(refused)) sprintf("  Not calculated: %s", paste(utils::head(refused, 5), collapse = ", ")))
}

# Cells that are taken as the file has them, and why.
kept_lines <- function(book, kept, most = 5) {
  if (length(kept$cell) == 0) return(NULL)
  shown <- utils::head(seq_along(kept$cell), most)
  why <- vapply(shown, function(i) if (kept$why[i] == "volatile") "It tells the day or the time." else refusal_words(kept$why[i], kept$what[i])[1], "")
  c("", heading("Cells taken as the file has them"), wrapped_lines(sprintf("%s: %s", cell_places(book, kept$cell[shown]), why)),
    if (length(kept$cell) > most) sprintf("  ... and %d more", length(kept$cell) - most))
}

short_text <- function(text, most) ifelse(nchar(text) > most, paste0(substr(text, 1, most - 3), "..."), text)

# Of a workbook that says nothing of a study: its results, and what they hang on.
candidate_lines <- function(table, outputs, most = 15) {
  if (nrow(table) == 0) return(c("", heading("Candidates"), "  No result hangs on a number of its own."))
  shown <- utils::head(table, most)
  several <- length(outputs) > 1
  cells <- drop_empty(list(cell = shown$cell, label = short_text(shown$label, 40), value = vapply(shown$value, format_given, ""),
    moves = paste0(ifelse(shown$moves >= 0, "+", "\u2212"), format_number(abs(shown$moves) * 100, 2), " %"), result = if (several) shown$output else rep("", nrow(shown))))
  c("", heading("Cells that results hang on, by how far 1 % more of each moves one"),
    text_table(cells, numeric = names(cells) %in% c("value", "moves"), indent = "  "),
    if (nrow(table) > most) sprintf("  ... and %d more", nrow(table) - most))
}
