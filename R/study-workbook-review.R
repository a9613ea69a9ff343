# What is worth knowing of a workbook before its results are believed.

review_workbooks <- function(study) {
  models <- Filter(function(model) model$kind == "workbook", study$models)
  do.call(rbind, c(list(NULL), unname(lapply(models, review_workbook, study))))
}

review_workbook <- function(model, study) {
  facts <- model$facts
  book <- model$book
  cells <- stats::setNames(book$inputs, unname(model$uses))
  base <- base_values(study)[intersect(names(cells), names(study$inputs))]
  apart <- Filter(function(name) {
    held <- book$cells$number[cells[[name]]]
    book$cells$type[cells[[name]]] == 0 && is.numeric(base[[name]]) && !isTRUE(all.equal(held, base[[name]], tolerance = 1e-9))
  }, names(base))
  days <- facts$kept$cell[facts$kept$why == "volatile"]
  other <- facts$kept$cell[facts$kept$why != "volatile"]
  rbind(
    finding("warning", facts$idle, "No result of the workbook uses its cell.", "Look whether the results' formulas use another cell, or take it out."),
    finding("hint", apart, vapply(apart, function(name) sprintf("Its base value is %s, and the workbook's cell has %s.", format(base[[name]], digits = 6),
      format(book$cells$number[cells[[name]]], digits = 6)), ""), "Give the input the workbook's value as `base`, if that is the estimate."),
    if (isTRUE(facts$unchecked > 0)) finding("warning", model$name, sprintf("%s without a saved value could not be compared with the workbook.",
      count_of(facts$unchecked, "formula")), "Let your spreadsheet program calculate the workbook and save it."),
    finding("hint", days, "It tells the day or the time, and keeps the value that the file has.", "Put a date into the cell that all runs shall have."),
    finding("hint", other, "It cannot be calculated here, and keeps the value that the file has; no input reaches it.", "Nothing to do, unless it should vary."),
    if (isTRUE(facts$iterates)) finding("hint", model$name, "The workbook allows circular references; Ensayo calculates none.", "Nothing to do where the results need none.")
  )
}

# The law that a random cell's formula looks like, as text; NULL where it looks like none. Each form is a pattern in which # is
# RAND() and {} an argument.
random_forms <- list(
  c("NORM(?:\\.)?INV\\(#,{},{}\\)", "normal(mean = %s, sd = %s)"),
  c("{}\\+{}\\*NORM(?:\\.S\\.|S)INV\\(#\\)", "normal(mean = %s, sd = %s)"),
  c("{}\\+NORM(?:\\.S\\.|S)INV\\(#\\)\\*{}", "normal(mean = %s, sd = %s)"),
  c("NORM(?:\\.S\\.|S)INV\\(#\\)\\*{}\\+{}", "normal(mean = %2$s, sd = %1$s)"),
  c("NORM(?:\\.S\\.|S)INV\\(#\\)", "normal(mean = 0, sd = 1)"),
  c("(?:LOGNORM\\.INV|LOGINV)\\(#,{},{}\\)", "lognormal(meanlog = %s, sdlog = %s)"),
  c("EXP\\(NORM(?:\\.)?INV\\(#,{},{}\\)\\)", "lognormal(meanlog = %s, sdlog = %s)"),
  c("{}\\+#\\*\\({}-{}\\)", "uniform(min = %1$s, max = %2$s)"),
  c("{}\\+\\({}-{}\\)\\*#", "uniform(min = %1$s, max = %2$s)"),
  c("#\\*\\({}-{}\\)\\+{}", "uniform(min = %2$s, max = %1$s)"),
  c("\\({}-{}\\)\\*#\\+{}", "uniform(min = %2$s, max = %1$s)"),
  c("{}\\+{}\\*#", "uniform:%s:%s"),
  c("{}\\*#", "uniform(min = 0, max = %s)"),
  c("#\\*{}", "uniform(min = 0, max = %s)"),
  c("#", "uniform(min = 0, max = 1)"),
  c("RANDBETWEEN\\({},{}\\)", "integers(min = %s, max = %s)"),
  c("-{}\\*LN\\((?:1-)?#\\)", "exponential(mean = %s)"),
  c("-LN\\((?:1-)?#\\)\\*{}", "exponential(mean = %s)"),
  c("-LN\\((?:1-)?#\\)/{}", "exponential(rate = %s)"),
  c("(?:GAMMA\\.INV|GAMMAINV)\\(#,{},{}\\)", "gamma(shape = %s, scale = %s)"),
  c("(?:BETA\\.INV|BETAINV)\\(#,{},{}\\)", "beta(shape1 = %s, shape2 = %s)"),
  c("(?:BETA\\.INV|BETAINV)\\(#,{},{},{},{}\\)", "beta(shape1 = %s, shape2 = %s, min = %s, max = %s)"),
  c("{}\\*\\(-LN\\((?:1-)?#\\)\\)\\^\\(1/{}\\)", "weibull(shape = %2$s, scale = %1$s)"),
  c("IF\\(#<=?{},1,0\\)", "bernoulli(probability = %s)")
)

random_argument <- "([-+]?[0-9.]+(?:E[-+]?[0-9]+)?%?|(?:(?:'[^']+'|[A-Z0-9_]+)!)?\\$?[A-Z]{1,3}\\$?[0-9]+|[A-Z_][A-Z0-9_.]*)"

random_law <- function(formula, book = NULL, sheet = 1) {
  plain <- gsub("[[:space:]]", "", toupper(formula))
  plain <- gsub(";", ",", gsub("_XLFN[.]|COM[.]MICROSOFT[.]|LEGACY[.]", "", sub("^(OF:)?=", "", plain)))
  plain <- gsub("RAND()", "#", plain, fixed = TRUE)
  for (form in random_forms) {
    pattern <- paste0("^", gsub("{}", random_argument, form[1], fixed = TRUE), "$")
    found <- regmatches(plain, regexec(pattern, plain, perl = TRUE))[[1]]
    if (length(found) == 0) next
    numbers <- vapply(found[-1], random_value, 0, book, sheet)
    if (anyNA(numbers)) return(NULL)
    # the second end of a range stands twice in some forms, and must be the same
    if (grepl("-{}", form[1], fixed = TRUE) && length(numbers) == 3) {
      same <- if (startsWith(form[1], "{}")) numbers[1] == numbers[3] else numbers[2] == numbers[3]
      if (!same) return(NULL)
      numbers <- numbers[1:2]
    }
    return(random_text(form[2], numbers))
  }
  NULL
}

random_text <- function(text, numbers) {
  shown <- vapply(unname(numbers), format, "", digits = 10, trim = TRUE)
  if (startsWith(text, "uniform:")) return(sprintf("uniform(min = %s, max = %s)", shown[1], format(numbers[[1]] + numbers[[2]], digits = 10)))
  do.call(sprintf, c(list(text), as.list(shown)))
}

# What an argument is worth: a number, or a cell's or a name's.
random_value <- function(text, book, sheet) {
  number <- suppressWarnings(as.numeric(sub("%$", "", text)))
  if (!is.na(number)) return(if (endsWith(text, "%")) number / 100 else number)
  if (is.null(book)) return(NA_real_)
  place <- if (grepl("!", text, fixed = TRUE)) place_of_text(book, text)
    else place_of_text(book, paste0("'", gsub("'", "''", book$sheets$name[sheet]), "'!", text)) %||% place_of_text(book, text)
  if (is.null(place) || length(place$row) != 1 || length(place$column) != 1) return(NA_real_)
  at <- match(cell_key(place$sheet, place$row, place$column), cell_key(book$cells$sheet, book$cells$row, book$cells$column))
  if (is.na(at) || book$cells$type[at] != 0) NA_real_ else book$cells$number[at]
}

# Cells that draw random numbers, with the laws that they look like ("" where they look like none).
random_cells <- function(book) {
  at <- which(book$cells$formula > 0 & grepl("\\bRAND(BETWEEN|ARRAY)?\\(", toupper(book$formulas[pmax(book$cells$formula, 1)])))
  list(at = at, law = vapply(at, function(k) random_law(cell_formulas(book, k), book, book$cells$sheet[k]) %||% "", ""))
}
