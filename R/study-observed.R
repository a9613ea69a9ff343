# Readings of an instrument, from files and into a study.

#' Readings from a CSV file
#'
#' @param file Text: the path of a CSV file with a header line; decimal points with commas between the cells, or decimal commas with
#'   semicolons.
#' @param column Text: the column's name; may be left out where there is one column only.
#' @param rows Numbers or `NULL`: which rows to take; all when left out. Blank cells are left out.
#' @return Numbers: the readings, for [law_observed()]. A study file says the same by `data: {file: readings.csv, column: indicated}`.
#' @section Errors: `ensayo_error_file` where the file or the column is not there, or a cell is no number, with its row.
#' @examples
#' file <- system.file("studies", "meter", "readings.csv", package = "ensayo")
#' law_observed(read_observations(file, "indicated"), of = "mean")
#' @export
read_observations <- function(file, column = NULL, rows = NULL) {
  check_string(file)
  table <- read_table_file(file)
  column <- check_string(column, null = TRUE) %||% if (ncol(table) == 1) names(table)
  if (is.null(column) || !column %in% names(table)) {
    stop_ensayo("file", sprintf("%s must have the column that is asked for.", basename(file)),
      if (is.null(column)) "None was named." else sprintf("It has no column %s.", quoted(column)), suggestion(column %||% "", names(table)),
      file = file, name = column)
  }
  cells <- trimws(table[[column]])
  filled <- nzchar(cells)
  values <- cpp_read_numbers(cells)
  odd <- which(filled & !is.finite(values))[1]
  if (!is.na(odd)) {
    stop_ensayo("file", sprintf("%s, column %s must hold numbers.", basename(file), quoted(column)),
      sprintf("Row %d holds %s.", odd, shown_value(cells[odd])), "Write numbers with a decimal point, and leave cells without a reading blank.",
      file = file, row = odd)
  }
  if (!is.null(rows)) {
    check_numbers(rows, "rows", 1)
    if (any(!rows %in% seq_along(values))) stop_argument("rows", sprintf("row numbers from 1 to %d", length(values)), rows[!rows %in% seq_along(values)][1])
    filled <- filled & seq_along(values) %in% rows
  }
  values[filled]
}

# `data: {file: readings.csv, column: indicated}` of an input in a study file as its numbers.
with_data_of_file <- function(record, name, folder) {
  if (!is.list(record) || !is.list(record$data) || is.null(record$data$file)) return(record)
  place <- sprintf("Input %s, `data`", quoted(name))
  check_keys(record$data, c("file", "column"), place)
  column <- if (!is.null(record$data$column)) read_text(record$data$column, paste0(place, ", `column`"))
  record$data <- in_place(place, read_observations(beside(record$data$file, folder), column))
  record
}

#' Readings taken together
#'
#' Adds an input for each column of readings that were taken at the same times: the means, each with a Student law, correlated as the
#' readings are. Where one is high by chance, so is the other in the same row.
#'
#' @param .study A study.
#' @param data A data frame of columns of readings, a row for each time; three rows or more.
#' @param ... Not used; anything here is an error.
#' @param of `"mean"`: the quantities are what the readings scatter around; `"next"`: one further row of readings.
#' @param .unit,.label Texts named by column, or `NULL`.
#' @return The study with the inputs and their correlations added.
#' @details The correlations are those of the readings (JCGM 100:2008, 5.2.3), taken as correlations of normal scores. In a budget the
#'   inputs have n - 1 degrees of freedom together ([budget()]).
#' @section Errors: `ensayo_error_argument` where the data are not such columns, or a column does not vary;
#'   `ensayo_error_name` for a name that is taken.
#' @examples
#' readings <- data.frame(voltage = c(5.007, 4.994, 5.005, 4.990, 4.999),
#'   current = c(19.663, 19.639, 19.640, 19.685, 19.678))
#' study("Resistance") |>
#'   add_observations(readings, of = "mean", .unit = c(voltage = "V", current = "mA")) |>
#'   add_outputs(resistance = output(voltage / current * 1000, unit = "ohm")) |>
#'   budget()
#' @export
add_observations <- function(.study, data, ..., of, .unit = NULL, .label = NULL) {
  check_study(.study)
  check_no_dots(..., .options = c("of", ".unit", ".label"))
  data <- check_data_columns(data)
  if (anyNA(data)) stop_argument("data", "without missing cells", NA, "Leave such rows out first.")
  if (nrow(data) < 3) stop_argument("data", "three rows or more", nrow(data))
  names <- check_new_names(stats::setNames(as.list(data), names(data)), "input", quantity_names(.study))
  for (texts in list(.unit, .label)) {
    unknown <- setdiff(names(texts), names)
    if (length(unknown)) stop_unknown_name(unknown[1], names, "a column of the data")
  }
  inputs <- lapply(seq_along(names), function(i) {
    input(in_place(sprintf("Column %s", quoted(names[i])), law_observed(data[[i]], of = of)),
      unit = unit_of_column(.unit, names[i]), label = unit_of_column(.label, names[i]))
  })
  .study <- add_inputs(.study, !!!stats::setNames(inputs, names))
  r <- stats::cor(data)
  dimnames(r) <- list(names, names)
  diag(r) <- 1
  add_correlation(.study, r, kind = "score")
}
