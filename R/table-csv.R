# Tables as CSV that read back to the last bit: UTF-8, commas, decimal points, a header, quotes where a text needs them.

# `append`: rows after those that the file has, without a header.
write_csv <- function(table, file, append = FALSE) {
  columns <- lapply(unname(as.list(table)), function(column) {
    if (is.numeric(column)) as.double(column) else csv_text(as.character(column))
  })
  header <- paste(csv_text(names(table)), collapse = ",")
  if (!cpp_write_csv(path.expand(file), header, columns, nrow(table), append)) {
    if (!append && utils::file_test("-f", file)) unlink(file)
    stop_ensayo("file", sprintf("%s must be writable.", file), file = file)
  }
}

# A spreadsheet takes a text that begins with = + - or @ for a formula: an apostrophe before it makes it a text again,
# and goes when it is read.
csv_text <- function(x) {
  x[is.na(x)] <- "NA"
  x <- enc2utf8(x)
  formula <- grepl("^'*[=+@\t-]", x) & !grepl(number_pattern, x)
  x[formula] <- paste0("'", x[formula])
  needs <- grepl("[\",\n\r]", x)
  x[needs] <- paste0("\"", gsub("\"", "\"\"", x[needs], fixed = TRUE), "\"")
  x
}

# As the text was before csv_text() kept it from spreadsheets.
csv_original <- function(x) {
  kept <- grepl("^'+[=+@\t-]", x)
  x[kept] <- substring(x[kept], 2)
  x
}

csv_originals <- function(table) {
  for (name in names(table)) if (is.character(table[[name]])) table[[name]] <- csv_original(table[[name]])
  names(table) <- csv_original(names(table))
  table
}

# All columns as texts; the caller knows which are numbers.
read_csv_text <- function(file) {
  if (!file.exists(file)) stop_ensayo("file", sprintf("%s must exist.", file), "There is no such file.", file = file)
  csv_originals(rethrow_as(utils::read.csv(normalizePath(file), colClasses = "character", check.names = FALSE,
    encoding = "UTF-8", na.strings = character()), "file", sprintf("%s must be a CSV table.", file), file = file))
}

# How to write a table piece by piece into a file of the format that the path's ending says: a function of a table, the
# path to write to and whether it is the first piece.
table_writer <- function(file, call = rlang::caller_env()) {
  ending <- tolower(tools::file_ext(file))
  if (ending == "csv") return(function(table, path, first) write_csv(table, path, append = !first))
  if (ending != "parquet") {
    stop_argument("file", "a path that ends in .csv or .parquet", file, call = call)
  }
  function(table, path, first) {
    rethrow_as(if (first) nanoparquet::write_parquet(table, path) else nanoparquet::append_parquet(table, path),
      "file", sprintf("%s must be writable.", file), file = file)
  }
}
