#' Look-up tables for formulas
#'
#' Adds tables that formulas look values up in, along straight lines between their points: `lookup(curve, flow)`, or
#' in two dimensions `lookup(curve, flow, speed)`.
#'
#' @param .study A study.
#' @param ... Named tables: a data frame of two columns, the values looked up by and the values found; or a matrix
#'   with numbers as row and column names, looked up by row and column; or the path of a CSV file of either kind,
#'   where the second has an empty first cell. Dates (`2026-05-01`) count in days, as `date("2026-05-01")` does in a
#'   formula.
#' @return The study with the tables added. A run that looks beyond the ends of a table is a failed run.
#' @section Errors: `ensayo_error_formula` where a table is not of that shape; `ensayo_error_name` where its name is
#'   taken; `ensayo_error_file` for a file that cannot be read.
#' @examples
#' study("Pump") |>
#'   add_inputs(flow = law_uniform(5, 18)) |>
#'   add_tables(curve = data.frame(flow = c(0, 10, 20), head = c(52, 47, 31))) |>
#'   add_outputs(lift = lookup(curve, flow)) |>
#'   simulate(nsim = 1000, seed = 11)
#' @export
add_tables <- function(.study, ...) {
  check_study(.study)
  given <- rlang::dots_list(..., .homonyms = "keep")
  names <- check_new_names(given, "table", c(quantity_names(.study), names(.study$tables)))
  for (i in seq_along(given)) {
    x <- given[[i]]
    if (is.character(x) && length(x) == 1) x <- lookup_from_file(x)
    .study$tables[[names[i]]] <- new_lookup_table(x, names[i])
  }
  .study
}

# A CSV with an empty first cell has numbers along both sides.
lookup_from_file <- function(file) {
  table <- read_table_file(file)
  if (nzchar(names(table)[1])) return(table)
  values <- vapply(table[-1], function(column) lookup_numbers(column) %||% rep(NA_real_, nrow(table)),
    numeric(nrow(table)))
  matrix(values, nrow(table), dimnames = list(table[[1]], names(table)[-1]))
}

# `curve: {file: pump.csv}`, `curve: {flow: [0, 10], head: [50, 40]}`, or {rows, columns, values} in two dimensions.
file_tables <- function(study, records, folder) {
  for (name in names(records)) {
    record <- records[[name]]
    place <- sprintf("The table %s", quoted(name))
    numbers <- function(x) vapply(as.list(x), read_table_number, 0, place = place)
    table <- if (is.character(record$file)) lookup_from_file(beside(record$file, folder))
      else if (identical(sort(names(record)), c("columns", "rows", "values"))) {
        matrix(numbers(unlist(record$values)), length(record$rows), byrow = TRUE,
          dimnames = list(as.character(numbers(record$rows)), as.character(numbers(record$columns))))
      } else if (is.list(record) && length(record) == 2 && length(record[[1]]) == length(record[[2]])) {
        as.data.frame(lapply(record, numbers))
      } else stop_ensayo("file", sprintf("%s must be two lists of the same length, or a `file`.", place), NULL,
        "Write `curve: {flow: [0, 10], head: [50, 40]}`.", name = name)
    study <- in_place(place, add_tables(study, !!name := table))
  }
  study
}

read_table_number <- function(x, place) lookup_numbers(as.character(x)) %||% read_number(x, place)

table_record <- function(table) {
  if (is.null(table$y)) return(list(by = table$x, value = table$values))
  list(rows = table$x, columns = table$y, values = as.vector(t(table$values)))
}

part_tables <- list(
  title = "Tables",
  record = function(study) lapply(study$tables, table_record),
  read = function(study, record, file) file_tables(study, record, file$folder)
)
