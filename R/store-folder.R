# Runs in a folder: Parquet files of 131,072 runs or so each, written one after the other while runs are done. Series have
# a column for each step, and the store knows the keys of these.

# Takes pieces of columns one after the other; `done()` gives the store. `files` are named from 1 on. A piece that is on
# disk already is told by `know()`.
folder_writer <- function(dir, anew = TRUE) {
  if (anew) remove_run_files(dir)
  dir.create(file.path(dir, runs_folder), showWarnings = FALSE)
  files <- character()
  counts <- numeric()
  kinds <- names <- NULL
  know <- function(columns, now) {
    files <<- c(files, run_file(length(files) + 1))
    counts <<- c(counts, column_length(columns[[1]]))
    names <<- names(columns)
    kinds <<- if (is.null(kinds)) now else joined_kinds(kinds, now)
  }
  put <- function(columns, now) {
    write_piece(columns, file.path(dir, run_file(length(files) + 1)))
    know(columns, now)
  }
  list(put = put, know = know, done = function() folder_store(dir, files, counts, names, told_kinds(kinds)))
}

runs_folder <- "runs"

run_file <- function(i) sprintf("%s/%05d.parquet", rep(runs_folder, length(i)), i)

# The files of runs that a folder holds; others beside them are somebody's own.
run_files <- function(dir) list.files(file.path(dir, runs_folder), "^[0-9]{5,}[.]parquet([.]part)?$", full.names = TRUE)

remove_run_files <- function(dir) {
  unlink(run_files(dir))
  if (length(list.files(file.path(dir, runs_folder), all.files = TRUE, no.. = TRUE)) == 0) {
    unlink(file.path(dir, runs_folder), recursive = TRUE)
  }
}

# What is a count in every piece is one; whatever differs is a number. A piece in which all runs failed tells nothing.
joined_kinds <- function(a, b) {
  stats::setNames(ifelse(is.na(a), b, ifelse(is.na(b) | a == b, a, "number")), names(a))
}

folder_store <- function(dir, files, counts, names, kinds) {
  store <- new_store("folder", names, kinds, sum(counts), dir = normalizePath(dir), files = files, counts = counts)
  store$columns <- folder_columns(store)
  series <- setdiff(names, store$columns)
  store$keys <- lapply(stats::setNames(nm = series), function(name) {
    own <- store$columns[startsWith(store$columns, paste0(name, "["))]
    substr(own, nchar(name) + 2, nchar(own) - 1)
  })
  store
}

write_piece <- function(columns, file) {
  frame <- structure(flat_columns(columns), class = "data.frame", row.names = .set_row_names(column_length(columns[[1]])))
  part <- paste0(file, ".part")
  on.exit(unlink(part))
  rethrow_as(nanoparquet::write_parquet(frame, part, compression = "uncompressed", encoding = "PLAIN"), "file",
    sprintf("%s must be writable.", file), file = file, mend = full_disk_mend)
  put_file(part, file)
}

# Whole or not there.
put_file <- function(part, file) {
  if (!cpp_put_in_place(path.expand(part), path.expand(file))) {
    stop_ensayo("file", sprintf("%s must be writable.", file), "The disk may be full.", full_disk_mend, file = file)
  }
}

full_disk_mend <- "Make room and run the same again: a simulation into a folder goes on where it stopped."

file_rows <- function(i, store) {
  file <- file.path(store$dir, store$files[i])
  as.double(rethrow_as(nanoparquet::read_parquet_info(file)$num_rows, "file",
    sprintf("%s must hold the runs that the manifest says.", file), file = file))
}

# Some columns of one file, by the names they have there.
read_piece <- function(store, i, columns) {
  file <- file.path(store$dir, store$files[i])
  values <- rethrow_as(read_run_file(file, columns), "file", sprintf("%s must hold the runs that the manifest says.", file),
    file = file)
  n <- if (length(values)) length(values[[1]]) else store$counts[i]
  if (n != store$counts[i]) {
    stop_ensayo("file", sprintf("%s must hold the runs that the manifest says.", file),
      sprintf("It has %s, not %s.", count_of(n, "row"), format_given(store$counts[i])), file = file)
  }
  values[columns]
}

# The schema that other tools leave in such files says nothing of ours, and reading it takes as long as all the rest.
read_run_file <- function(file, columns = NULL) {
  as.list(nanoparquet::read_parquet(file, columns, nanoparquet::parquet_options(use_arrow_metadata = FALSE)))
}

folder_column <- function(store, name, step) {
  keys <- store$keys[[name]]
  if (is.null(keys)) return(of_stored_kind(joined_column(store, name), store$kinds[[name]]))
  if (!is.null(step)) return(of_stored_kind(joined_column(store, step_columns(name, keys[step])), store$kinds[[name]]))
  of_stored_kind(joined_series(store, step_columns(name, keys), keys), store$kinds[[name]])
}

# All steps of a file are read at once: finding columns takes longer than reading them.
joined_series <- function(store, columns, keys) {
  all <- NULL
  ends <- cumsum(store$counts)
  for (i in seq_along(store$files)) {
    read <- read_piece(store, i, columns)
    if (is.null(all)) all <- matrix(vector(typeof(read[[1]]), 1), store$count, length(columns), dimnames = list(NULL, keys))
    rows <- seq.int(ends[i] - store$counts[i] + 1, ends[i])
    for (k in seq_along(columns)) all[rows, k] <- read[[k]]
  }
  all
}

# Put together in one vector made beforehand, so that no more than it and a piece are in memory.
joined_column <- function(store, column) {
  if (length(store$files) == 1) return(read_piece(store, 1, column)[[1]])
  ends <- cumsum(store$counts)
  first <- read_piece(store, 1, column)[[1]]
  all <- vector(typeof(first), store$count)
  for (i in seq_along(store$files)) {
    all[seq.int(ends[i] - store$counts[i] + 1, ends[i])] <- if (i == 1) first else read_piece(store, i, column)[[1]]
  }
  all
}

# The columns of the files, a series' steps each by itself.
folder_columns <- function(store) {
  file <- file.path(store$dir, store$files[1])
  schema <- rethrow_as(nanoparquet::read_parquet_schema(file), "file",
    sprintf("%s must hold the runs that the manifest says.", file), file = file)
  schema$name[!is.na(schema$type)]
}

folder_piece <- function(store, names, first, count) {
  keys <- store$keys
  ends <- cumsum(store$counts)
  starts <- ends - store$counts
  parts <- lapply(which(starts < first + count & ends > first), function(i) {
    wanted <- unlist(lapply(names, function(name) if (is.null(keys[[name]])) name else step_columns(name, keys[[name]])))
    read <- read_piece(store, i, wanted)
    inside <- seq.int(max(first, starts[i]) - starts[i] + 1, min(first + count, ends[i]) - starts[i])
    lapply(stats::setNames(nm = names), function(name) {
      column <- of_stored_kind(if (is.null(keys[[name]])) read[[name]]
        else matrix(unlist(read[step_columns(name, keys[[name]])], use.names = FALSE), store$counts[i],
          dimnames = list(NULL, keys[[name]])), store$kinds[[name]])
      if (length(inside) == store$counts[i]) column else column_at(column, inside)
    })
  })
  joined_columns(parts)
}
