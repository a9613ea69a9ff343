# Where runs are kept: by column, in memory or in a folder. Whatever reads runs asks for columns, and for no more of them
# than it needs. A column has a value for each run: numbers (days are numbers), TRUE and FALSE, or texts; a series has a
# row for each run and a column for each step. A store is a value:
#   kind      how it is kept: a record below
#   names     the columns' names
#   kinds     of each, of quantity_kinds
#   count     how many runs
# A kind is a record of functions:
#   column(store, name, step)          a whole column; of a series, where `step` is a place, that step alone
#   piece(store, names, first, count)  some runs of some columns

store_kinds <- list(
  memory = list(
    column = function(store, name, step) {
      column <- store$columns[[name]]
      if (is.null(step)) column else unname(column[, step])
    },
    piece = function(store, names, first, count) {
      lapply(store$columns[names], function(column) {
        if (first == 0 && count == column_length(column)) column else column_at(column, first + seq_len(count))
      })
    }
  ),
  folder = list(
    column = function(store, name, step) folder_column(store, name, step),
    piece = function(store, names, first, count) folder_piece(store, names, first, count)
  ),
  # some of another store's runs, by their places, or its first ones; its series at a step, or counted from the start; columns in
  # another unit; more columns
  view = list(
    column = function(store, name, step) {
      if (isTRUE(store$leading)) {
        column <- store_piece(store$of, name, 0, store$count)[[1]]
        return(if (is.null(step)) column else unname(column[, step]))
      }
      if (name %in% names(store$from_start)) {
        x <- store_column(store$of, name, step)
        return(since_start(x, store_column(store$of, name, 1), store$from_start[[name]]))
      }
      if (name %in% names(store$added)) {
        column <- store$added[[name]]
        return(if (is.null(step)) column else unname(column[, step]))
      }
      if (name %in% names(store$converted)) {
        rule <- store$converted[[name]]
        return(store_column(store$of, name, step) * rule$times + rule$plus)
      }
      at <- store$step[[name]]
      if (identical(at, NA_integer_)) return(rep(NA_real_, store$count))
      column <- store_column(store$of, name, at %||% step)
      if (is.null(store$at)) column else column_at(column, store$at)
    },
    piece = function(store, names, first, count) {
      lapply(stats::setNames(nm = names), function(name) {
        column_at(store_kinds$view$column(store, name, NULL), first + seq_len(count))
      })
    }
  )
)

store_column <- function(store, name, step = NULL) store_kinds[[store$kind]]$column(store, name, step)

store_columns <- function(store, names) lapply(stats::setNames(nm = as.character(names)), store_column, store = store)

store_piece <- function(store, names, first, count) store_kinds[[store$kind]]$piece(store, names, first, count)

# Where the pieces of a store begin, for what passes over all of it.
store_pieces <- function(store, size = store_piece_runs) {
  first <- seq(0, max(store$count - 1, 0), by = size)
  data.frame(first = first, count = pmin(size, store$count - first))
}

store_piece_runs <- 2^17

new_store <- function(kind, names, kinds, count, ...) {
  structure(list(kind = kind, names = names, kinds = kinds, count = count, ...), class = "ensayo_store")
}

memory_store <- function(columns, kinds) {
  columns[] <- Map(of_stored_kind, columns, kinds[names(columns)])
  new_store("memory", as.character(names(columns)), kinds,
    if (length(columns)) column_length(columns[[1]]) else 0, columns = columns)
}

# The store of the runs at some places.
store_at <- function(store, at) new_store("view", store$names, store$kinds, length(at), of = store, at = at)

# The store of the first runs.
leading_store <- function(store, count) new_store("view", store$names, store$kinds, count, of = store, leading = TRUE)

# The store one of whose series is counted from its first step.
store_from_start <- function(store, name, rule) {
  kinds <- store$kinds
  kinds[[name]] <- "number"
  new_store("view", store$names, kinds, store$count, of = store, from_start = stats::setNames(list(rule), name))
}

# The store with columns in other units: `rules` have `times` and `plus` by name.
store_converted <- function(store, rules) {
  kinds <- store$kinds
  kinds[names(rules)] <- "number"
  new_store("view", store$names, kinds, store$count, of = store, converted = rules)
}

# `sign` says which way is positive; `percent` whether it is per cent of the start.
since_start <- function(x, start, rule) {
  change <- rule$sign * (x - start)
  if (rule$percent) 100 * change / abs(start) else change
}

# The store with columns of numbers besides its own.
store_with <- function(store, columns) {
  kinds <- c(store$kinds[setdiff(names(store$kinds), names(columns))], stats::setNames(rep("number", length(columns)), names(columns)))
  new_store("view", union(store$names, names(columns)), kinds, store$count, of = store, added = columns)
}

# The store whose series are what they are at a step: `step` has a place for each, NA where it has none.
store_at_step <- function(store, step) new_store("view", store$names, store$kinds, store$count, of = store, step = step)
