# Workbooks as models: cells that are uncertain take values of quantities, cells that are results give outputs.

#' Add a workbook as a model
#'
#' Takes a workbook, .xlsx or .ods, as it is: cells named in `inputs` have the values of quantities of the study in each
#' run, and cells named in `outputs` are what the workbook then calculates. The spreadsheet program itself is not needed:
#' the cells that results need are compiled, and run hundreds of times as fast as a sheet is recalculated.
#'
#' Before anything is run, every cell that the results need is calculated once with the values in the file, and compared
#' with what the file says of it. A difference stops, with the first cell that differs.
#'
#' @section Cells: `"Inputs!B3"`, `"'My sheet'!B3"`, or a defined name. In a workbook of one sheet `"B3"` will do. Of an
#'   output, cells of one row or column, such as `"Result!C5:Q5"`, are a series with steps 1, 2, 3, ...
#' @section What is calculated: the functions of [workbook_functions()], names, array formulas, columns of tables by their
#'   names (which are read as the places of their cells), both calendars (1900 and 1904), as the standards have them: in .xlsx as ISO/IEC 29500-1, 18.17 says, in .ods as OpenFormula (OpenDocument 1.3,
#'   part 4) says. An error such as `#DIV/0!` in an output makes the run fail, with the first cell that had it. `TODAY()`,
#'   and what cannot be calculated and hangs on no input, keep the values that they have in the file. Macros, external
#'   links, tables of data and circular references are never run; where a result needs them, an error names the cell.
#' @param .study A study.
#' @param file Text: the path of the workbook. It is read now and not needed later.
#' @param inputs Named texts: cells by the names of the study's quantities. A name that the study does not have yet is added as an
#'   input held at the cell's value; give it a law with [replace_inputs()]. Inputs and outputs without a label of their own have
#'   the text beside their cell.
#' @param outputs Named texts, or a list of these and of [output()]s of them, which say unit and label: the cells of
#'   results by the names of outputs. Cells that show dates give dates.
#' @param ... Not used; anything here is an error.
#' @param name Text: what the model is called; the file's name when left out.
#' @return The study with the model and its outputs added at the end.
#' @section Errors: `ensayo_error_file` for a file that is no workbook, or is damaged; `ensayo_error_name` for cells that
#'   are not there or empty, and names that are taken; `ensayo_error_model` for a cell that cannot be calculated, a
#'   difference from what the file says, and an output that no input reaches.
#' @seealso [read_workbook()] to look at one first, [workbook_candidates()] for cells that may be forgotten, [write_report()]
#'   to put results into a copy.
#' @examples
#' file <- system.file("studies", "tariff.xlsx", package = "ensayo")
#' tariff <- study("Tariff over 15 years") |>
#'   add_inputs(growth = law_triangular(0.002, 0.008, 0.02)) |>
#'   add_workbook(file, inputs = c(growth = "growth"),
#'     outputs = list(net_value = output("Result!B3", unit = "EUR")))
#' simulate(tariff, nsim = 2000, seed = 1)
#' @export
add_workbook <- function(.study, file, inputs, outputs, ..., name = NULL) {
  check_study(.study)
  check_no_dots(..., .options = "name")
  book <- if (inherits(file, "ensayo_workbook")) file$book else read_workbook_file(file)
  path <- if (inherits(file, "ensayo_workbook")) file$file else file
  name <- check_string(name, null = TRUE) %||% tolower(gsub("[^A-Za-z0-9]+", "_", sub("[.][A-Za-z]+$", "", basename(path))))
  with_workbook(.study, name, book, path, cell_texts(inputs, "inputs"), workbook_outputs(outputs))
}

cell_texts <- function(x, argument, call = rlang::caller_env()) {
  if (is.list(x) && all(vapply(x, is.character, NA)) && all(lengths(x) == 1)) x <- unlist(x)
  named <- !is.null(names(x)) && all(nzchar(names(x)))
  if (!is.character(x) || length(x) == 0 || anyNA(x) || !named) {
    stop_argument(argument, "named texts, such as c(price = \"Inputs!B3\")", x, call = call)
  }
  x
}

# Outputs as they are given: texts, or output()s of texts.
workbook_outputs <- function(outputs, call = rlang::caller_env()) {
  if (is.character(outputs)) outputs <- as.list(cell_texts(outputs, "outputs", call))
  given <- is.list(outputs) && length(outputs) > 0 && !is.null(names(outputs)) && all(nzchar(names(outputs)))
  if (!given) stop_argument("outputs", "named texts, such as c(npv = \"Result!C20\")", outputs, call = call)
  lapply(outputs, function(one) {
    if (!inherits(one, "ensayo_output")) one <- new_output(one)
    cell <- if (rlang::is_quosure(one$formula)) rlang::eval_tidy(one$formula) else one$formula
    if (!is.character(cell) || length(cell) != 1 || is.na(cell)) {
      stop_argument("outputs", "named texts, such as c(npv = \"Result!C20\"), or output()s of them", cell, call = call)
    }
    one["formula"] <- list(NULL)
    list(cell = cell, output = one)
  })
}

# The study with the model; `inputs` and `outputs` as texts of cells by name. `known`: quantities that are there, or come.
with_workbook <- function(study, name, book, path, inputs, outputs, known = quantity_names(study), call = rlang::caller_env()) {
  check_model_name(study, name, call)
  series <- intersect(names(inputs), names(series_steps(study)))
  if (length(series)) {
    stop_ensayo("name", "A cell must take a quantity of one value a run.", sprintf("%s is a series.", quoted(series[1])),
      "Give the workbook one value of it, such as its sum.", name = series[1], call = call)
  }
  input_cells <- vapply(names(inputs), function(input) {
    at <- named_cells(book, inputs[[input]], sprintf("The input %s", quoted(input)), call)
    if (length(at) != 1) {
      stop_ensayo("name", sprintf("The input %s must name one cell.", quoted(input)), sprintf("%s has %d.", quoted(inputs[[input]]), length(at)), name = input, call = call)
    }
    at
  }, 1L)
  twice <- anyDuplicated(input_cells)
  if (twice) {
    stop_ensayo("name", "Each input must have a cell of its own.", sprintf("%s and %s are both %s.", quoted(names(inputs)[match(input_cells[twice], input_cells)]),
      quoted(names(inputs)[twice]), cell_places(book, input_cells[twice])), name = names(inputs)[twice], call = call)
  }
  output_cells <- Map(function(one, output) named_cells(book, one$cell, sprintf("The output %s", quoted(output)), call), outputs, names(outputs))
  study <- with_cell_inputs(study, book, input_cells, known, call)
  base <- check_base_cells(book, input_cells, unlist(output_cells), call)
  made <- compiled_cells(book, input_cells, unlist(output_cells), call = call)
  check_reached(book, made, output_cells, call)
  reduced <- reduced_book(book, made, base, input_cells, output_cells)
  facts <- list(file = basename(path), unchecked = base$unchecked, kept = kept_table(book, base$kept), idle = names(inputs)[!made$used],
    iterates = book$iterates)
  columns <- book_columns(reduced, base$values$type[match(unlist(output_cells), base$reached)])
  about <- Map(function(one, cells) {
    if (is.null(one$output$label)) one$output["label"] <- list(label_beside(book, cells[1]))
    one$output
  }, outputs, output_cells)
  placed_workbook(study, name, columns, names(inputs), about, facts, call)
}

# Names that the study does not have yet are inputs at the cells' values; those without a label have the cell's.
with_cell_inputs <- function(study, book, cells, known, call) {
  new <- setdiff(names(cells), known)
  for (name in new) {
    at <- cells[[name]]
    if (book$cells$type[at] != 0) {
      stop_ensayo("model", sprintf("The input %s must be a cell with a number, or have a law in the study.", quoted(name)),
        sprintf("%s holds %s.", cell_places(book, at), stored_words(book$cells$type[at], book$cells$number[at], book$cells$text[at])), name = name, call = call)
    }
    one <- input(book$cells$number[at], label = label_beside(book, at))
    study <- add_inputs(study, !!!stats::setNames(list(one), name))
  }
  for (name in intersect(names(cells), names(study$inputs))) {
    if (is.null(study$inputs[[name]]$label)) study$inputs[[name]]["label"] <- list(label_beside(book, cells[[name]]))
  }
  study
}

# Of each of some cells the nearest text to its left, else above it; "" where there is none.
labels_beside <- function(book, at) {
  texts <- which(book$cells$type == 3 & nzchar(book$cells$text))
  # the last text before a cell, in a line of cells that is named by `line`
  before <- function(line, along) {
    key <- line * 2^21 + along
    order <- texts[order(key[texts])]
    last <- order[pmax(findInterval(key[at] - 0.5, key[order]), 1)]
    ifelse(!is.na(last) & line[last] == line[at] & along[last] < along[at], last, NA)
  }
  found <- before(book$cells$sheet * 2^20 + book$cells$row, book$cells$column)
  above <- before(book$cells$sheet * 2^14 + book$cells$column, book$cells$row)
  found[is.na(found)] <- above[is.na(found)]
  ifelse(is.na(found), "", substr(gsub("[[:space:]]+", " ", book$cells$text[found]), 1, 80))
}

# Of one cell, NULL where there is none.
label_beside <- function(book, at) if (nzchar(label <- labels_beside(book, at))) label

check_reached <- function(book, made, output_cells, call) {
  varies <- made$reached[made$varies]
  for (output in names(output_cells)) {
    if (!any(output_cells[[output]] %in% varies)) {
      stop_ensayo("model", sprintf("The output %s must hang on an input.", quoted(output)),
        sprintf("No input reaches %s.", paste(cell_places(book, output_cells[[output]]), collapse = ", ")),
        "Look whether the inputs' cells are those that its formulas use.", name = output, call = call)
    }
  }
}

kept_table <- function(book, kept) {
  list(cell = if (length(kept$cell)) cell_places(book, kept$cell) else character(), why = kept$why, what = kept$what)
}

# The study with a workbook of what is needed, as book_columns() has it: the same whether it was made here or read from a file.
placed_workbook <- function(study, name, columns, inputs, outputs, facts, call = rlang::caller_env()) {
  columns <- unpacked(packed(columns), name)
  book <- book_of_columns(columns)
  names(outputs) <- check_new_names(outputs, "output", c(quantity_names(study), names(study$tables)), call)
  first <- cumsum(lengths(book$outputs)) - lengths(book$outputs) + 1
  outputs <- Map(function(output, cells, i) {
    if (length(cells) > 1) output$steps <- seq_along(cells)
    shown <- shown_as[book$cells$shown[cells[1]] + 1]
    if (any(book$types[seq(i, length.out = length(cells))] == 3)) {
      stop_ensayo("model", "An output must be a number, a date or yes/no.", sprintf("%s holds a text.", cell_places(book, cells[1])), call = call)
    }
    if (shown == "date" && is.null(output$kind)) output$kind <- "date"
    output
  }, outputs, book$outputs, first)
  model <- list(kind = "workbook", uses = stats::setNames(inputs, inputs), gives = names(outputs), name = name, book = book,
    facts = facts, dates = vapply(outputs, function(output) identical(output$kind, "date"), NA, USE.NAMES = FALSE), yes_no = book$types[first] == 2)
  with_model(study, name, model, outputs)
}

# In study files ------------------------------------------------------------------------------------------------------

workbook_record <- function(model, outputs) {
  about <- lapply(outputs[model$gives], function(output) Filter(Negate(is.null), c(unclass(output)[c("unit", "label", "note", "group", "kind")])))
  list(workbook = model$facts$file, inputs = as.list(stats::setNames(cell_places(model$book, model$book$inputs), unname(model$uses))),
    outputs = about, cells = packed(book_columns(model$book, model$book$types)))
}

cell_columns <- c("sheet", "row", "column", "type", "shown", "formula", "down", "right", "array_rows", "array_columns")

# A reduced workbook as plain columns, in which nothing is that is not needed.
book_columns <- function(book, types) {
  of_text <- which(book$cells$type == 3)
  columns <- c(lapply(as.list(book$cells[cell_columns]), as.integer), list(number = as.double(book$cells$number), texts_at = of_text,
    words = book$cells$text[of_text], formulas = book$formulas, sheets = book$sheets$name, last_rows = as.integer(book$sheets$last_row),
    last_columns = as.integer(book$sheets$last_column), names = book$names$name, name_sheets = as.integer(book$names$sheet),
    name_formulas = book$names$formula, format = book$format, from_1904 = as.integer(book$from_1904), inputs = as.integer(book$inputs),
    outputs = as.integer(unlist(book$outputs)), lengths = as.integer(lengths(book$outputs)), types = as.integer(types)))
  Filter(function(x) length(x) > 0, columns)
}

workbook_keys <- c("workbook", "inputs", "outputs", "cells")

# A file that names a workbook has it read from its own folder; one that was written from a study holds its cells.
workbook_from_record <- function(study, record, name, folder, known) {
  place <- sprintf("Model %s", quoted(name))
  check_keys(record, workbook_keys, place)
  for (key in c("workbook", "inputs", "outputs")) {
    if (is.null(record[[key]])) stop_ensayo("file", sprintf("%s must give its %s.", place, key), sprintf("%s is missing.", quoted(key)), name = name)
  }
  for (key in c("inputs", "outputs")) check_named(record[[key]], sprintf("%s, %s", place, quoted(key)))
  inputs <- file_texts(record$inputs, sprintf("%s, `inputs`", place))
  names(inputs) <- normal_name(names(inputs))
  file <- read_text(record$workbook, sprintf("%s, `workbook`", place))
  outputs <- lapply(record$outputs, function(one) if (is.list(one)) one else list(cell = one))
  names(outputs) <- normal_name(names(record$outputs))
  about <- Map(function(one, output) {
    output_place <- sprintf("Output %s", quoted(output))
    check_keys(one, c("cell", "unit", "label", "note", "group", "kind"), output_place)
    output_from_about(one[setdiff(names(one), "cell")], output_place, output_kinds)
  }, outputs, names(outputs))
  if (!is.null(record$cells)) return(packed_workbook(study, name, unpacked(record$cells, place), names(inputs), about, file, place))
  cells <- Map(function(one, output) read_text(one$cell, sprintf("Output %s, `cell`", quoted(output))), outputs, names(outputs))
  in_place(place, with_workbook(study, name, read_workbook_file(beside(file, folder)), file, inputs, Map(function(cell, output) list(cell = cell, output = output), cells, about), known))
}

packed_workbook <- function(study, name, columns, inputs, about, file, place) {
  book <- book_of_columns(columns)
  check_packed_book(book, inputs, about, place)
  placed_workbook(study, name, columns, inputs, about, list(file = file))
}

book_of_columns <- function(columns) {
  whole <- function(key) as.integer(columns[[key]])
  cells <- as.data.frame(lapply(columns[cell_columns], as.integer))
  cells$number <- as.double(columns$number)
  cells$text <- rep("", nrow(cells))
  cells$text[whole("texts_at")] <- as.character(columns$words)
  list(format = columns$format, sheets = data.frame(name = as.character(columns$sheets), last_row = whole("last_rows"), last_column = whole("last_columns")),
    names = data.frame(name = as.character(columns$names), sheet = whole("name_sheets"), formula = as.character(columns$name_formulas)), cells = cells,
    formulas = as.character(columns$formulas), notes = rep("", length(columns$formulas)), from_1904 = identical(whole("from_1904"), 1L),
    inputs = whole("inputs"), outputs = unname(split(whole("outputs"), rep(seq_along(whole("lengths")), whole("lengths")))), types = whole("types"))
}

check_packed_book <- function(book, inputs, about, place) {
  n <- nrow(book$cells)
  inside <- function(x, most) all(!is.na(x) & x >= 1 & x <= most)
  good <- n > 0 && inside(book$cells$sheet, nrow(book$sheets)) && inside(book$cells$row, 2^20) && inside(book$cells$column, 2^14) &&
    inside(book$cells$formula + 1, length(book$formulas) + 1) && inside(book$cells$type + 1, 5) && inside(book$inputs, n) &&
    inside(unlist(book$outputs), n) && length(book$inputs) == length(inputs) && length(book$outputs) == length(about) &&
    all(book$cells$array_rows >= 0 & book$cells$array_columns >= 0) && sum(as.double(book$cells$array_rows) * book$cells$array_columns) <= 5e6 &&
    all(abs(book$cells$down) < 2^20 & abs(book$cells$right) < 2^14) && inside(book$sheets$last_row + 1, 2^20 + 1) && inside(book$sheets$last_column + 1, 2^14 + 1) && book$format %in% c("office", "document")
  if (!isTRUE(good)) stop_ensayo("file", sprintf("%s must hold what was written of a workbook.", place), "Its cells do not fit together.")
}
