# Tables as CSV that read back to the last bit: UTF-8, commas, decimal points, a header, quotes where a text needs them.

write_csv <- function(table, file) {
  columns <- lapply(unname(as.list(table)), function(column) {
    if (is.numeric(column)) as.double(column) else csv_text(as.character(column))
  })
  header <- paste(csv_text(names(table)), collapse = ",")
  if (!cpp_write_csv(path.expand(file), header, columns, nrow(table))) {
    stop_ensayo("file", sprintf("%s must be writable.", file), file = file)
  }
}

csv_text <- function(x) {
  x[is.na(x)] <- "NA"
  x <- enc2utf8(x)
  needs <- grepl("[\",\n\r]", x)
  x[needs] <- paste0("\"", gsub("\"", "\"\"", x[needs], fixed = TRUE), "\"")
  x
}

# All columns as texts; the caller knows which are numbers.
read_csv_text <- function(file) {
  if (!file.exists(file)) stop_ensayo("file", sprintf("%s must exist.", file), "There is no such file.", file = file)
  rethrow_as(utils::read.csv(file, colClasses = "character", check.names = FALSE, encoding = "UTF-8",
    na.strings = character()),
    "file", sprintf("%s must be a CSV table.", file), file = file)
}
