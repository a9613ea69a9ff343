# Looking at workbooks: what is in one, what its results hang on.

#' Look at a workbook
#'
#' `read_workbook()` reads an .xlsx or .ods file, of which nothing is run or fetched. `workbook_cells()` shows its cells,
#' `workbook_candidates()` the cells that its results hang on, and `workbook_functions()` the functions that
#' [add_workbook()] calculates.
#'
#' @param file Text: the path of a workbook.
#' @param workbook What `read_workbook()` gave, or a path.
#' @param range Text: cells such as `"Plan!B3:D5"` or a defined name, a sheet's name for all of it; all cells when left out.
#' @param outputs Texts: cells of results, or of names for them. When left out, the cells with formulas that no other
#'   formula uses.
#' @param change Number: by which share of its value a cell is changed, 0.01 for one per cent; a cell with 0 by this itself,
#'   and a date by 30 days.
#' @return `read_workbook()`: the workbook, which prints what is in it. `workbook_cells()`: a data frame with a row for each
#'   cell that holds something: `cell`, `value` (text), `formula` (text, as in the file, `""` for none), `shown`
#'   (`"plain"`, `"percent"`, `"money"`, `"date"` or `"time"`). `workbook_candidates()`: a data frame with a row for each
#'   cell with a number of its own on which an output hangs: `cell`, `label` (the text beside it), `value`, `output` (the
#'   one that moves most, by its share), `moves` (by which share of its value it moves when the cell rises by `change`; a
#'   number where the output is 0), the largest first. `workbook_functions()`: names.
#' @section Errors: `ensayo_error_file` for a file that is no workbook, is damaged, or of another format: old binary
#'   files, and those with a password; `ensayo_error_name` for cells that are not there; `ensayo_error_model` for results
#'   that cannot be calculated.
#' @section Limits: the file has at most 400 MB when it is unpacked, a sheet at most 5 million cells, a formula at
#'   most 32768 characters; document types and entities of XML are refused.
#' @seealso [add_workbook()]
#' @examples
#' file <- system.file("studies", "tariff.xlsx", package = "ensayo")
#' tariff <- read_workbook(file)
#' tariff
#' workbook_cells(tariff, "Result!A3:B6")
#' head(workbook_candidates(tariff, c(net_value = "Result!B3")))
#' head(workbook_functions())
#' @export
read_workbook <- function(file) structure(list(file = file, book = read_workbook_file(file)), class = "ensayo_workbook")

as_book <- function(workbook) {
  if (inherits(workbook, "ensayo_workbook")) workbook$book else read_workbook_file(check_string(workbook))
}

#' @rdname read_workbook
#' @export
workbook_cells <- function(workbook, range = NULL) {
  book <- as_book(workbook)
  range <- check_string(range, null = TRUE)
  at <- seq_len(nrow(book$cells))
  if (!is.null(range)) {
    sheet <- match(tolower(range), tolower(book$sheets$name))
    place <- if (is.na(sheet)) place_of_text(book, range)
    if (is.na(sheet) && is.null(place)) {
      stop_ensayo("name", "`range` must name cells, a sheet or a defined name.", sprintf("%s is none.", quoted(range)),
        suggestion(sub("!.*", "", range), c(book$sheets$name, book$names$name)), name = range)
    }
    at <- if (!is.na(sheet)) which(book$cells$sheet == sheet) else
      which(book$cells$sheet == place$sheet & book$cells$row %in% place$row & book$cells$column %in% place$column)
  }
  at <- at[order(book$cells$sheet[at], book$cells$row[at], book$cells$column[at])]
  cells <- book$cells[at, ]
  value <- ifelse(cells$type == 0, format_days_or_numbers(cells, book), ifelse(cells$type == 2, ifelse(cells$number == 1, "TRUE", "FALSE"), cells$text))
  new_table(list(cell = cell_places(book, at), value = value, formula = cell_formulas(book, at), shown = shown_as[cells$shown + 1]))
}

format_days_or_numbers <- function(cells, book) {
  out <- vapply(cells$number, function(x) format(x, digits = 10, trim = TRUE), "")
  days <- cells$shown == 3 & cells$type == 0 & is.finite(cells$number)
  out[days] <- format(as_day(floor(cells$number[days]) - days_to_1970(book)))
  out
}

#' @rdname read_workbook
#' @export
workbook_candidates <- function(workbook, outputs = NULL, change = 0.01) {
  book <- as_book(workbook)
  change <- check_number(change)
  if (change == 0) stop_argument("change", "a number other than 0", change)
  cells <- if (is.null(outputs)) end_cells(book) else {
    at <- lapply(outputs, function(one) named_cells(book, check_string(one, "outputs"), "`outputs`"))
    stats::setNames(unlist(at), unlist(Map(function(cells, i) rep(names(outputs)[i] %||% cell_places(book, cells), length(cells)), at, seq_along(at))))
  }
  candidate_table(book, cells, change)
}

# Numbers that formulas calculate and no other formula uses, by the places at which they stand. Dates are seldom results.
end_cells <- function(book) {
  ends <- which(book$cells$formula > 0 & book$cells$type %in% c(0, 4) & book$cells$shown != 3 & cpp_workbook_uses(book) == 0)
  stats::setNames(ends, cell_places(book, ends))
}

candidate_table <- function(book, outputs, change) {
  empty <- list(cell = character(), label = character(), value = numeric(), output = character(), moves = numeric())
  outputs <- outputs[cpp_calculated_cells(book, outputs, FALSE)]
  if (length(outputs) == 0) return(new_table(empty))
  base <- compiled_cells(book, integer(), outputs, "values")
  at <- base$reached[book$cells$formula[base$reached] == 0 & book$cells$type[base$reached] == 0]
  if (length(at) == 0) return(new_table(empty))
  value <- book$cells$number[at]
  to <- ifelse(book$cells$shown[at] == 3, value + 30, ifelse(value == 0, change, value * (1 + change)))
  # what can only be calculated at the file's values is compiled anew for each change
  all_vary <- cpp_calculated_cells(book, outputs, TRUE)
  moved <- matrix(NA_real_, length(at), length(outputs))
  if (any(all_vary)) moved[, all_vary] <- moved_results(book, at, outputs[all_vary], to)
  if (!all(all_vary)) moved[, !all_vary] <- results_of_changes(book, at, outputs[!all_vary], to)
  still <- base$values$number[match(outputs, base$reached)]
  share <- t(abs(t(moved) - still) / ifelse(still == 0, 1, abs(still)))
  share[!is.finite(share)] <- 0
  most <- max.col(share, "first")
  signed <- (moved[cbind(seq_along(at), most)] - still[most]) / ifelse(still[most] == 0, 1, abs(still[most]))
  signed[!is.finite(signed)] <- 0
  order <- order(-abs(signed))
  order <- order[signed[order] != 0]
  new_table(list(cell = cell_places(book, at), label = labels_beside(book, at), value = value,
    output = names(outputs)[most], moves = signed))[order, , drop = FALSE]
}

results_of_changes <- function(book, at, outputs, to, most = 500) {
  rows <- lapply(seq_along(at), function(j) {
    if (j > most) return(rep(NA_real_, length(outputs)))
    book$cells$number[at[j]] <- to[j]
    made <- cpp_compile_workbook(book, integer(), outputs, "values")
    if (is.null(made$refusal)) made$values$number[match(outputs, made$reached)] else rep(NA_real_, length(outputs))
  })
  do.call(rbind, rows)
}

# Outputs with one cell changed at a time: a row for each cell, a column for each output.
moved_results <- function(book, at, outputs, to) {
  made <- compiled_cells(book, at, outputs)
  out <- matrix(NA_real_, length(at), length(outputs))
  base <- book$cells$number[at]
  for (rows in split(seq_along(at), (seq_along(at) - 1) %/% 256)) {
    columns <- lapply(base, rep, length(rows))
    columns[rows] <- lapply(seq_along(rows), function(k) replace(columns[[rows[k]]], k, to[rows[k]]))
    values <- cpp_run_workbook(made$program, columns, length(rows), 1L)
    out[rows, ] <- vapply(values, function(value) if (is.list(value)) ifelse(value$type %in% c(0, 2), value$number, NA) else value, numeric(length(rows)))
  }
  out
}

#' @rdname read_workbook
#' @export
workbook_functions <- function() sort(cpp_workbook_functions())
