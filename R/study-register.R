# A register: all inputs of a study as one flat table, for spreadsheets and for many inputs at once.

#' Registers of inputs
#'
#' `input_register()` gives all inputs of a study as one table that holds everything about them, `write_inputs()`
#' writes it as CSV, and `read_inputs()` reads such a file, for [add_inputs()] or [replace_inputs()]. Nothing is lost
#' on the way: the inputs that come back are the same to the last bit.
#'
#' @section Columns: `name`; `law`, written out as in `pert(28, 34, 48)` or `triangular(P10 = 30, mode = 34, P90 =
#'   45)`, a number for a constant, or the name of a law alone, whose parameters then have columns of their own; and
#'   if wanted `base`, `unit`, `label`, `group`, `note`, `positive`, `lower`, `upper`, `shares` (the input whose
#'   uncertainty it shares), `fixed` and `stream` (the first name of a renamed input, which its random numbers go by).
#'   In place of `law` and its parameters a row may have `low`, `most_likely` and `high`, or `low %` and `high %` of its
#'   `base` (-10 and 30, or 90 and 130): its `law` is then `triangular`, `pert` or `uniform` between these ends, and
#'   triangular where it is empty, which a message says.
#'   A row with nothing but `most_likely` is a constant, which a message says, too.
#'   An empty cell says nothing. In a column of a law's parameters several numbers are separated by semicolons.
#' @param study A study.
#' @param file Text: the path of a CSV file: UTF-8, a header line, commas (or semicolons throughout), decimal points; to be
#'   read also a workbook, .xlsx or .ods.
#' @param sheet Text or `NULL`: which sheet of a workbook; when left out the first with such headings in one of its first 20 rows.
#' @param overwrite `TRUE` to replace a file that is there.
#' @return `input_register()` and `read_inputs()`: a data frame with a row for each input and those columns, all texts
#'   where read from a file. `write_inputs()`: `file`, invisibly.
#' @section Errors: `ensayo_error_file` where the file or a cell cannot be read, with the row; `ensayo_error_name` for
#'   a name that stands twice. A law that cannot be written as text (one of functions of your own) is an
#'   `ensayo_error_file`.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = input(law_pert(28, 34, 48), unit = "L/s"), length = 4200)
#' file <- tempfile(fileext = ".csv")
#' write_inputs(main, file)
#' cat(readLines(file), sep = "\n")
#' again <- study("Gravity main") |> add_inputs(read_inputs(file))
#' @export
input_register <- function(study) {
  check_study(study)
  records <- Map(function(input, name) {
    record <- input_record(input, name)
    if (!is.list(record)) record <- list(value = record)
    record$law <- if (is_law(input$law)) law_text(input$law) else exact_number(input$law)
    record
  }, study$inputs, names(study$inputs))
  column <- function(key) vapply(records, function(record) cell_text(record[[key]]), "", USE.NAMES = FALSE)
  keys <- c("law", "base", "unit", "label", "group", "note", "lower", "upper", "shares", "fixed", "stream")
  columns <- c(list(name = as.character(names(study$inputs))), lapply(stats::setNames(nm = keys), column))
  kept <- names(columns) %in% c("name", "law", "base", "unit", "label") | vapply(columns, function(x) any(nzchar(x)),
    TRUE)
  new_table(columns[kept])
}

cell_text <- function(x) if (is.null(x)) "" else if (is.numeric(x)) cpp_number_text(x) else as.character(x)

#' @rdname input_register
#' @export
write_inputs <- function(study, file, overwrite = FALSE) {
  register <- input_register(study)
  refuse_existing(check_string(file), check_flag(overwrite))
  write_csv(unclass_table(register), file)
  invisible(file)
}

#' @rdname input_register
#' @export
read_inputs <- function(file, sheet = NULL) {
  table <- read_register_table(check_string(file), check_string(sheet, null = TRUE))
  inputs_from_table(table, basename(file))  # so that a fault is found here, with the file's name
  new_table(table)
}

# Headings that may begin with a capital.
register_headings <- c("name", "law", "base", "unit", "label", "group", "note")

# The rows of a register, as texts, each with a law.
read_register_table <- function(file, sheet = NULL) {
  table <- if (is_workbook_name(file)) sheet_table(read_workbook_file(file), sheet, basename(file)) else read_table_file(file)
  known <- tolower(names(table)) %in% register_headings
  names(table)[known] <- tolower(names(table)[known])
  table <- with_estimates(table, basename(file))
  for (column in c("name", "law")) {
    if (!column %in% names(table)) {
      stop_ensayo("file", sprintf("%s must have a column %s.", basename(file), quoted(column)),
        sprintf("Its columns are %s.", paste(quoted(names(table)), collapse = ", ")),
        if (!is.null(nearest_name(column, names(table)))) sprintf("Is it %s?",
          quoted(nearest_name(column, names(table)))),
        name = column, file = file)
    }
  }
  table
}

refuse_existing <- function(file, overwrite) {
  if (!file.exists(file) || overwrite) return(invisible())
  stop_ensayo("file", sprintf("%s must not exist yet.", file), NULL,
    "To replace it, add `overwrite = TRUE` (`--force` on the command line).", file = file)
}

# Inputs from the rows of a register, by name.
inputs_from_table <- function(table, file = NULL) {
  if (!"name" %in% names(table)) {
    stop_ensayo("argument", "A table of inputs must have a column `name`.",
      sprintf("Its columns are %s.", paste(quoted(names(table)), collapse = ", ")), argument = "name")
  }
  table <- lapply(table, function(column) if (is.factor(column)) as.character(column) else column)
  table <- with_estimates(table, file)
  names <- normal_name(table$name)
  rows <- lapply(seq_along(names), function(i) {
    place <- paste0(if (!is.null(file)) paste0(file, ", "), sprintf("row %d", i))
    if (is.na(names[i]) || !nzchar(trimws(names[i]))) {
      stop_ensayo("file", sprintf("%s must have a name.", place), "The cell is empty.", row = i, file = file)
    }
    cells <- lapply(table[setdiff(names(table), "name")], function(column) column[[i]])
    record <- Filter(function(cell) length(cell) > 1 || !is.na(cell) && !identical(trimws(cell), ""), cells)
    if (is.character(record$law) && is_number_text(record$law)) record <- c(list(value = record$law),
      record[names(record) != "law"])
    input_from_record(record, names[i], sprintf("%s, input %s", place, quoted(names[i])))
  })
  twice <- names[duplicated(names)]
  if (length(twice)) {
    stop_ensayo("name", sprintf("%s must name each input once.", file %||% "A table of inputs"),
      sprintf("%s stands in rows %s.", quoted(twice[1]), paste(which(names == twice[1]), collapse = " and ")),
      name = twice[1], file = file)
  }
  stats::setNames(rows, names)
}

# A CSV table that people wrote: byte-order mark, Windows line ends and semicolons are taken as they come. All columns
# are texts.
read_table_file <- function(file) {
  text <- read_file_text(file)
  header <- sub("\n.*", "", text)
  separator <- if (!grepl(",", header, fixed = TRUE) && grepl(";", header, fixed = TRUE)) ";" else ","
  table <- rethrow_as(utils::read.csv(text = text, sep = separator, colClasses = "character", check.names = FALSE,
    na.strings = character(), encoding = "UTF-8", strip.white = TRUE, blank.lines.skip = TRUE), "file",
    sprintf("%s must be a CSV table.", basename(file)), file = file)
  names(table) <- normal_name(trimws(names(table)))
  table[] <- lapply(table, enc2utf8)
  # semicolons between cells go with decimal commas inside them
  if (separator == ";") table[] <- lapply(table, function(column) {
    comma <- grepl("^[-+]?[0-9]+,[0-9]+$", column)
    column[comma] <- sub(",", ".", column[comma], fixed = TRUE)
    column
  })
  csv_originals(table)
}

#' One call for many inputs
#'
#' `spread_inputs()` gives many inputs a law by multipliers of their base values. `copy_law()` gives other inputs the
#' law of one, or adds them with it. Both ask whether the inputs share one uncertainty, so that all are high or low
#' together, or each have their own: for a total that makes a large difference.
#'
#' @param .study,study A study.
#' @param ... Inputs, bare or as text, or groups and families of them.
#' @param .low,.high Numbers: the multipliers of the base value, `.low` at most 1, `.high` at least 1.
#' @param .shape Text: `"uniform"`, `"triangular"` or `"pert"`, as in [law_around()].
#' @param .shared,shared `TRUE`: one uncertainty for all, that of the first; `FALSE`: each its own. It must be said.
#' @param from Input, bare or as text: whose law is copied.
#' @param to Names of inputs to be given the law; those the study does not have are added with the base value, unit
#'   and group of `from`.
#' @return The changed study. [input_table()] and prints show which inputs share.
#' @section Errors: `ensayo_error_name` where an input is unknown; `ensayo_error_argument` where it is not said
#'   whether the uncertainty is shared, or an argument is not of the stated kind.
#' @examples
#' works <- study("Renewal") |> add_inputs(pipe = 410, trench = 620, road = 180)
#' works |>
#'   spread_inputs(pipe, trench, road, .low = 0.9, .high = 1.3, .shape = "pert", .shared = FALSE)
#' works |>
#'   replace_inputs(pipe = law_pert(370, 410, 520)) |>
#'   copy_law(pipe, to = c("valves", "fittings"), shared = TRUE)
#' @export
spread_inputs <- function(.study, ..., .low, .high, .shape, .shared) {
  check_study(.study)
  low <- check_number(.low, at_most = 1)
  high <- check_number(.high, at_least = 1)
  shared <- check_shared(.shared)
  names <- unique(unlist(lapply(rlang::enquos(...), resolve_members, study = .study)))
  if (length(names) == 0) stop_ensayo("argument", "Name the inputs to be spread.", NULL,
    suggestion("", names(.study$inputs)))
  bases <- base_values(.study)
  for (name in names) {
    law <- in_place(sprintf("Input %s", quoted(name)),
      law_around(bases[[name]], low = low, high = high, shape = .shape))
    .study <- with_law(.study, name, law, if (shared && name != names[1]) names[1])
  }
  bound_inputs(.study)
}

#' @rdname spread_inputs
#' @export
copy_law <- function(study, from, to, shared) {
  check_study(study)
  from <- resolve_name(rlang::enquo(from), names(study$inputs), "an input of the study")
  shared <- check_shared(shared)
  source <- study$inputs[[from]]
  if (!is_law(source$law)) stop_argument("from", "an input that has a law", source$law)
  if (!is.character(to) || length(to) == 0 || anyNA(to)) stop_argument("to", "names of inputs, as texts", to)
  for (name in normal_name(to)) {
    if (!name %in% names(study$inputs)) {
      new <- source
      new[c("label", "stream")] <- list(NULL)
      study <- add_inputs(study, !!name := new)
    }
    study <- with_law(study, name, source$law, if (shared) source$shares %||% from)
  }
  bound_inputs(study)
}

# The input with another law, everything else of it kept; a base value of a constant is kept as given.
with_law <- function(study, name, law, shares) {
  old <- study$inputs[[name]]
  if (old$base_rule == "constant" && is.null(told_of(law)$base)) old[c("base", "base_rule")] <- list(old$base, "given")
  if (old$base_rule != "given") {
    base <- base_unless_linked(law)
    old["base"] <- list(base$value)
    old$base_rule <- base$rule
  }
  old$law <- law
  old["shares"] <- list(shares)
  if (!is.null(shares)) refuse_correlated(study, name, "share another's uncertainty")
  study$inputs[[name]] <- old
  study
}

check_shared <- function(shared, call = rlang::caller_env()) {
  if (!missing(shared)) return(check_flag(shared, "shared", call = call))
  stop_ensayo("argument", "`shared` must be given: TRUE or FALSE.", NULL,
    "Are these inputs high and low together, or does each have an uncertainty of its own?", argument = "shared",
    call = call)
}

# Inputs by their names, or all of a group or family.
resolve_members <- function(quosure, study) {
  members <- family_members(study, names(study$inputs))
  names <- resolve_names(quosure, c(names(study$inputs), names(members)), "an input, group or family of the study")
  unlist(lapply(names, function(name) if (name %in% names(study$inputs)) name else members[[name]]))
}
