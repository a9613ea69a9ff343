# Tables that formulas look values up in, along straight lines between their points, in one or two dimensions.
#   x          increasing numbers
#   y          increasing numbers, in two dimensions
#   values     a number for each x; in two dimensions a matrix, rows along x

# A data frame of two columns, or a matrix with numbers for row and column names. Dates count in days.
new_lookup_table <- function(x, name, call = rlang::caller_env()) {
  place <- sprintf("The table %s", quoted(name))
  bad <- function(came, mend = NULL) stop_ensayo("formula",
    sprintf("%s must have two columns of numbers, or numbers along its rows and columns.", place), came, mend,
    name = name, call = call)
  if (is.data.frame(x) && ncol(x) == 2) {
    columns <- lapply(x, lookup_numbers)
    if (nrow(x) < 2 || any(vapply(columns, function(column) is.null(column) || anyNA(column), TRUE))) {
      bad(if (nrow(x) < 2) "It has fewer than two rows." else "A cell is no number.")
    }
    by <- order(columns[[1]])
    table <- list(x = columns[[1]][by], values = columns[[2]][by])
  } else if (is.matrix(x) && is.numeric(x) && !is.null(rownames(x)) && !is.null(colnames(x))) {
    ends <- lapply(dimnames(x), lookup_numbers)
    if (any(dim(x) < 2) || anyNA(x) || any(vapply(ends, function(end) is.null(end) || anyNA(end), TRUE))) {
      bad("A cell or a name of a row or column is no number, or there is one row or column alone.")
    }
    table <- list(x = sort(ends[[1]]), y = sort(ends[[2]]), values = unname(x[order(ends[[1]]), order(ends[[2]])]))
  } else bad(sprintf("It is %s.", shown_value(x)))
  for (axis in table[intersect(c("x", "y"), names(table))]) {
    if (any(diff(axis) == 0)) bad(sprintf("%s stands twice.", format(axis[which(diff(axis) == 0)[1]])))
  }
  structure(table, class = "ensayo_lookup")
}

lookup_numbers <- function(column) {
  if (inherits(column, "Date")) return(as.double(column))
  if (is.numeric(column)) return(as.double(column))
  if (!is.character(column)) return(NULL)
  if (all(grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", column))) return(as.double(as.Date(column)))
  value <- cpp_read_numbers(trimws(column))
  if (anyNA(value)) NULL else value
}

# `lookup(curve, flow)` or `lookup(curve, flow, speed)`: the first argument names a table.
read_lookup <- function(expr, found) {
  if (!length(expr) %in% 3:4 || !(is.symbol(expr[[2]]) || is.character(expr[[2]]))) {
    stop_ensayo("formula", sprintf("%s: `lookup()` takes the name of a table and one or two quantities.", found$what),
      sprintf("It reads %s.", quoted(deparse1(expr))))
  }
  name <- normal_name(expr[[2]])
  tables <- attr(found$known, "tables")
  table <- tables[[name]]
  if (is.null(table)) {
    stop_ensayo("name", sprintf("%s: `lookup()` needs a table of the study.", found$what),
      sprintf("%s is none.", quoted(name)),
      if (length(tables)) suggestion(name, names(tables)) else "Add it with `add_tables()` first.", name = name)
  }
  if (length(expr) - 2 != 1 + !is.null(table$y)) {
    stop_ensayo("formula", sprintf("%s: the table %s is looked up by %s.", found$what, quoted(name),
      if (is.null(table$y)) "one quantity" else "two quantities"),
      sprintf("It is given %d.", length(expr) - 2))
  }
  found$tables[[name]] <- table
  expr[[2]] <- as.symbol(name)
  for (i in seq_along(expr)[-(1:2)]) expr[[i]] <- read_node(expr[[i]], found)
  expr
}

# A run beyond the table's ends fails: nothing is known there.
lookup_in_run <- function(table, x, y, context) {
  outside <- x < table$x[1] | x > table$x[length(table$x)]
  if (!is.null(table$y)) outside <- outside | y < table$y[1] | y > table$y[length(table$y)]
  outside <- which(rep_len(outside, length(context$runs)))
  if (length(outside)) context$fail(context$runs[outside], "beyond the ends of a look-up table")
  if (is.null(table$y)) return(stats::approx(table$x, table$values, x)$y)
  i <- pmin(pmax(findInterval(x, table$x), 1), length(table$x) - 1)
  j <- pmin(pmax(findInterval(y, table$y), 1), length(table$y) - 1)
  along <- (x - table$x[i]) / (table$x[i + 1] - table$x[i])
  across <- (y - table$y[j]) / (table$y[j + 1] - table$y[j])
  corner <- function(i, j) table$values[cbind(i, j)]
  n <- max(length(x), length(y))
  i <- rep_len(i, n)
  j <- rep_len(j, n)
  value <- (1 - along) * ((1 - across) * corner(i, j) + across * corner(i, j + 1)) +
    along * ((1 - across) * corner(i + 1, j) + across * corner(i + 1, j + 1))
  value[along < 0 | along > 1 | across < 0 | across > 1] <- NaN
  value
}

# `date("2026-05-01")` as a count of days, so that a table of dates can be looked up and days added.
read_date <- function(expr, found) {
  text <- if (length(expr) == 2) expr[[2]]
  day <- if (is.character(text) && grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", text)) tryCatch(as.Date(text),
    error = function(e) NA)
  if (is.null(day) || is.na(day)) {
    stop_ensayo("formula", sprintf("%s: `date()` takes one day, such as `date(\"2026-05-01\")`.", found$what),
      sprintf("It reads %s.", quoted(deparse1(expr))))
  }
  expr
}

date_of_text <- function(text) as.double(as.Date(text))
