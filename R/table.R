# Data frames that print in their own way.

# Tables are data frames with one class more, for printing alone.
new_table <- function(columns) {
  table <- as.data.frame(columns, optional = TRUE, stringsAsFactors = FALSE)
  names(table) <- names(columns)
  rownames(table) <- NULL
  class(table) <- c("ensayo_table", "data.frame")
  table
}

# Rows from columns, single values for all of them; and tables of the same columns under one another. What data.frame()
# and rbind() check besides takes longer than most readings.
rows_of <- function(...) {
  columns <- lapply(list(...), unname)
  n <- lengths(columns)
  columns[n != max(n)] <- lapply(columns[n != max(n)], rep, max(n))
  as_frame(columns)
}

stacked <- function(tables) {
  tables <- unname(lapply(Filter(Negate(is.null), tables), unclass))
  if (length(tables) == 0) return(NULL)
  as_frame(lapply(stats::setNames(nm = names(tables[[1]])), function(name) do.call(c, lapply(tables, `[[`, name))))
}

# Columns of one length as they are; what list2DF() checks besides takes ten times as long.
as_frame <- function(columns) {
  structure(columns, class = "data.frame", row.names = .set_row_names(max(lengths(columns), 0L)))
}

unclass_table <- function(table) {
  class(table) <- "data.frame"
  table
}

# Values as users hold them: days as dates, counts as whole numbers where R's reach so far.
typed_values <- function(x, kind) {
  if (kind == "number") return(x)
  known <- x[!is.na(x)]
  if (kind == "date") return(structure(as.double(x), class = "Date"))
  if (kind == "yes/no" && all(known %in% c(0, 1))) storage.mode(x) <- "logical"
  if (kind == "whole" && all(abs(known) <= .Machine$integer.max & known == round(known))) storage.mode(x) <- "integer"
  x
}

# A table's columns of values by the kind of its rows, where that is the same in all of them.
typed_table <- function(table, columns, kinds = table$kind) {
  kind <- unique(kinds)
  if (length(kind) != 1) return(table)
  for (name in intersect(columns, names(table))) {
    if (is.numeric(table[[name]])) table[[name]] <- typed_values(table[[name]], kind)
  }
  table
}

# Columns of runs: a vector with a value for each, or for a series a matrix with a row for each and a column for each
# step, under the step's number.
column_length <- function(column) if (is.matrix(column)) nrow(column) else length(column)

# Some of a column's runs, by their places.
column_at <- function(column, at) if (is.matrix(column)) column[at, , drop = FALSE] else column[at]

is_finite_run <- function(column) if (is.matrix(column)) rowSums(!is.finite(column)) == 0 else is.finite(column)

# Steps as the names of a series' columns, with every digit.
step_keys <- function(steps) cpp_number_text(as.double(steps))

step_columns <- function(name, keys) sprintf("%s[%s]", name, keys)

# Columns with a series' steps each by itself; `keys` says what these are called.
flat_columns <- function(columns, keys = function(name) colnames(columns[[name]])) {
  do.call(c, c(list(list()), unname(lapply(names(columns), function(name) {
    column <- columns[[name]]
    if (!is.matrix(column)) return(stats::setNames(list(column), name))
    stats::setNames(lapply(seq_len(ncol(column)), function(j) column[, j]), step_columns(name, keys(name)))
  }))))
}

# Pieces of the same columns as one.
joined_columns <- function(parts) {
  if (length(parts) == 1) return(parts[[1]])
  lapply(stats::setNames(nm = names(parts[[1]])), function(name) {
    columns <- lapply(parts, function(part) part[[name]])
    if (is.matrix(columns[[1]])) do.call(rbind, columns) else unlist(columns, use.names = FALSE)
  })
}

# A matrix as a list of its columns.
matrix_columns <- function(m) lapply(seq_len(ncol(m)), function(k) m[, k])
