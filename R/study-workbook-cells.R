# Cells of a workbook that results need: found, compiled, and compared with what the file says of them.

# The cell that a text names: a place such as "Result!C20", or a defined name. By number among the book's cells; of a range,
# the numbers of all of its cells, in order.
named_cells <- function(book, text, what, call = rlang::caller_env()) {
  place <- place_of_text(book, text)
  if (is.null(place)) {
    known <- c(book$names$name[book$names$sheet == 0], book$sheets$name)
    stop_ensayo("name", sprintf("%s must name a cell, such as \"%s\", or a defined name.", what, example_place(book)),
      sprintf("%s is neither.", quoted(text)), suggestion(sub("!.*", "", text), known), name = text, known = known, call = call)
  }
  if (length(place$row) > 1 && length(place$column) > 1) {
    stop_ensayo("name", sprintf("%s must name a cell, or cells of one row or one column.", what), sprintf("%s is a block.", quoted(text)), name = text,
      call = call)
  }
  # one row or one column: the other is repeated
  size <- max(length(place$row), length(place$column))
  row <- rep_len(place$row, size)
  column <- rep_len(place$column, size)
  at <- match(cell_key(place$sheet, row, column), cell_key(book$cells$sheet, book$cells$row, book$cells$column))
  if (anyNA(at)) {
    empty <- place_texts(book$sheets$name[place$sheet], row[is.na(at)][1], column[is.na(at)][1])
    stop_ensayo("name", sprintf("%s must name a cell that holds something.", what), sprintf("%s is empty.", empty), name = text, call = call)
  }
  at
}

cell_key <- function(sheet, row, column) sheet * 2^34 + column * 2^20 + row

example_place <- function(book) place_texts(book$sheets$name[1], 2, 2)

# list(sheet, row, column), rows and columns as far as they reach; NULL for what is none.
place_of_text <- function(book, text, depth = 0) {
  text <- sub("^=", "", trimws(text))
  named <- which(tolower(book$names$name) == tolower(text) & book$names$sheet == 0)
  if (length(named) && depth < 10) {
    formula <- book$names$formula[named[1]]
    if (book$format == "document") formula <- gsub("\\$?([^].$\\[]*)\\$?('?)[.]", "\\1\\2!", gsub("^[a-z]*:?=|[][]", "", formula))
    return(place_of_text(book, formula, depth + 1))
  }
  parts <- regmatches(text, regexec("^(?:'((?:[^']|'')+)'|([^'!]+))!(.+)$", text, perl = TRUE))[[1]]
  sheet <- 1L
  if (length(parts)) {
    sheet <- match(tolower(gsub("''", "'", paste0(parts[2], parts[3]))), tolower(book$sheets$name))
    text <- parts[4]
  } else if (nrow(book$sheets) > 1) return(NULL)  # which sheet is not said
  corners <- regmatches(text, regexec("^\\$?([A-Za-z]{1,3})\\$?([0-9]{1,7})(?::(?:[^!]*!|[.])?\\$?([A-Za-z]{1,3})\\$?([0-9]{1,7}))?$", text, perl = TRUE))[[1]]
  if (is.na(sheet) || !length(corners)) return(NULL)
  column <- column_number(corners[2])
  row <- as.integer(corners[3])
  to_column <- if (nzchar(corners[4])) column_number(corners[4]) else column
  to_row <- if (nzchar(corners[5])) as.integer(corners[5]) else row
  list(sheet = sheet, row = seq(row, to_row), column = seq(column, to_column))
}

column_number <- function(letters) Reduce(function(sum, digit) sum * 26L + digit, utf8ToInt(toupper(letters)) - 64L, 0L)

# The cells `outputs`, with those they need, compiled for columns of `inputs`, or for a purpose of src/core/sheet_compile.h.
compiled_cells <- function(book, inputs, outputs, purpose = "runs", call = rlang::caller_env()) {
  made <- cpp_compile_workbook(book, inputs, outputs, purpose)
  if (!is.null(made$refusal)) refuse_cell(book, made$refusal, call)
  made
}

# What cannot be calculated, by the codes of src/core/sheet_compile.h: what came, and how to mend it.
refusal_words <- function(why, what) {
  by_hand <- "Name the cell among the inputs, or write it without."
  switch(why,
    `function` = c(sprintf("%s() is not among the functions that Ensayo calculates.", what), "`workbook_functions()` lists them. Write it with those, or name the cell among the inputs."),
    arguments = c(sprintf("%s() has arguments that it does not take.", what), "Look at it in your spreadsheet program."),
    foreign = c(sprintf("It refers to %s.", what), by_hand),
    name = c(sprintf("It uses the name %s, which the workbook does not define.", quoted(what)), "Define it, or write the cell's place."),
    names = c("Its names stand for names, and those for others, without end.", "Give names to cells."),
    sheet = c(sprintf("It refers to the sheet %s, which is not there.", quoted(what)), "Put the sheet back, or change the formula."),
    fault = c(sprintf("It cannot be read: %s.", what), "Look at it in your spreadsheet program."),
    circle = c("It needs its own value: a circular reference.", "Break the circle, or name a cell of it among the inputs."),
    moves = c(sprintf("What %s refers to differs from run to run.", if (nzchar(what)) paste0(what, "()") else "it"), "Use INDEX, CHOOSE or a look-up, whose cells are known."),
    random = c(sprintf("%s() draws a random number.", what), "Name the cell among the inputs, with a law: the random numbers are drawn by Ensayo."),
    format = c(sprintf("%s() has a format that Ensayo does not write.", what), by_hand),
    note = c(sprintf("It is %s.", what), by_hand),
    large = c("It refers to more than 5 million cells at once.", "Refer to the cells that are used."),
    c(sprintf("It cannot be calculated (%s).", why), by_hand))
}

refuse_cell <- function(book, refusal, call) {
  words <- refusal_words(refusal$why, refusal$what)
  place <- cell_places(book, refusal$cell)
  law <- if (refusal$why == "random") random_law(cell_formulas(book, refusal$cell), book, book$cells$sheet[refusal$cell])
  stop_ensayo("model", sprintf("The cell %s, %s, must be one that can be calculated in every run.", place, quoted(shown_formula(book, refusal$cell))),
    words[1], if (is.null(law)) words[2] else sprintf("Name the cell among the inputs; it looks like %s.", quoted(law)),
    cell = place, why = refusal$why, call = call)
}

shown_formula <- function(book, at) {
  text <- cell_formulas(book, at)
  if (nchar(text) > 80) paste0(substr(text, 1, 77), "...") else text
}

# What each cell is when it is calculated here from the file's values of the cells that it refers to, beside what the file says; stops
# at the first that differs by more than the digits that are saved. Gives what was compiled.
check_base_cells <- function(book, inputs, outputs, call = rlang::caller_env()) {
  made <- compiled_cells(book, inputs, outputs, "check", call = call)
  cells <- book$cells[made$reached, ]
  values <- made$values
  told <- cells$formula > 0 & cells$type != 4 & !made$reached %in% c(inputs, made$kept$cell)
  apart <- abs(values$number - cells$number) > 1e-9 * pmax(abs(values$number), abs(cells$number)) + 1e-13 * made$scale
  same <- cells$type == values$type & ifelse(cells$type == 0, !apart, ifelse(cells$type == 3, cells$text == values$text,
    cells$type == 1 | cells$number == values$number))
  # a text that is empty and a cell that is empty look the same
  same <- same | (cells$type == 3 & cells$text == "" & values$type == 0 & values$number == 0)
  wrong <- which(told & !same)
  if (length(wrong)) {
    at <- made$reached[wrong[1]]
    stop_ensayo("model", sprintf("The cell %s must be calculated here as the workbook has it.", cell_places(book, at)),
      sprintf("The workbook has %s, and its formula %s gives %s here.", stored_words(book$cells$type[at], book$cells$number[at], book$cells$text[at]),
        quoted(shown_formula(book, at)), stored_words(values$type[wrong[1]], values$number[wrong[1]], values$text[wrong[1]])),
      "Let your spreadsheet program calculate the workbook anew and save it. If it still differs, the fault is Ensayo's.",
      cell = cell_places(book, at), call = call)
  }
  made$unchecked <- sum(cells$formula > 0 & cells$type == 4)
  made
}

stored_words <- function(type, number, text) {
  switch(type + 1, format(number, digits = 15), text, if (number == 1) "TRUE" else "FALSE", quoted(text), "nothing")
}

# The workbook with what its results need and no more: formulas that hang on an input, and other cells by their values.
reduced_book <- function(book, made, base, inputs, outputs) {
  keep <- made$reached
  cells <- book$cells[keep, ]
  subtotals <- cells$formula > 0 & grepl("SUBTOTAL", book$formulas[pmax(cells$formula, 1)], fixed = TRUE)
  in_array <- cells$array_rows * cells$array_columns > 1
  holds_formula <- cells$formula > 0 & (made$varies | subtotals | in_array) & !keep %in% c(inputs, made$kept$cell)
  # what stays is as it was calculated here, where the file does not say
  unsaid <- cells$type == 4 & !holds_formula
  at <- match(keep[unsaid], base$reached)
  cells$type[unsaid] <- base$values$type[at]
  cells$number[unsaid] <- base$values$number[at]
  cells$text[unsaid] <- base$values$text[at]
  cells$formula[!holds_formula] <- 0L
  cells[!holds_formula, c("down", "right", "array_rows", "array_columns")] <- 0L
  used <- sort(unique(cells$formula[cells$formula > 0]))
  cells$formula[cells$formula > 0] <- match(cells$formula[cells$formula > 0], used)
  cells$number[cells$type %in% c(3, 4)] <- 0
  cells$text[!cells$type %in% 3] <- ""
  rownames(cells) <- NULL
  list(format = book$format, sheets = book$sheets, names = book$names, cells = cells, formulas = book$formulas[used], notes = rep("", length(used)),
    from_1904 = book$from_1904, inputs = match(inputs, keep), outputs = lapply(unname(outputs), match, keep))
}

# Places of the cells behind quantities that workbooks have to do with, by name; "" for others.
workbook_places <- function(study) {
  places <- lapply(Filter(function(model) model$kind == "workbook", study$models), function(model) {
    book <- model$book
    outputs <- vapply(book$outputs, function(cells) {
      ends <- unique(range(cells))
      paste(c(cell_places(book, ends[1]), sub(".*!", "", cell_places(book, ends[-1]))), collapse = ":")
    }, "")
    c(stats::setNames(cell_places(book, book$inputs), unname(model$uses)), stats::setNames(outputs, model$gives))
  })
  unlist(unname(places))
}

# What a workbook, as read_workbook() gives it, has otherwise than when a study was made of it: sentences.
workbook_changes <- function(study, workbook) {
  book <- workbook$book
  now <- cell_places(book, seq_len(nrow(book$cells)))
  unlist(lapply(unname(Filter(function(model) model$kind == "workbook", study$models)), function(model) {
    then <- model$book
    places <- cell_places(then, seq_len(nrow(then$cells)))
    at <- match(places, now)
    needed <- c(then$inputs, unlist(then$outputs))
    lost <- needed[is.na(at[needed])]
    if (length(lost)) {
      stop_argument("workbook", sprintf("the workbook of the study, or a copy of it (%s)", model$facts$file), workbook$file, sprintf("It has nothing in %s.", places[lost[1]]))
    }
    both <- which(!is.na(at))
    old <- then$cells[both, ]
    new <- book$cells[at[both], ]
    # what the file does not say was calculated; a formula that hangs on no input is its value
    differs <- (old$type != new$type | old$number != new$number & old$type %in% c(0, 2) | old$text != new$text & old$type == 3) & !new$type %in% 4 & old$type != 4
    formulas <- ifelse(old$formula > 0, cell_formulas(then, both), "")
    differs <- differs | nzchar(formulas) & formulas != cell_formulas(book, at[both])
    changed <- c(places[is.na(at) & then$cells$type != 4], places[both][differs])
    if (length(changed)) sprintf("%s has changed since the study was made of it: %s. The results are of the workbook as it was.", basename(workbook$file), few_listed(changed))
  }))
}
