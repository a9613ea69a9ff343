# Tables as CSV that read back to the last bit: UTF-8, commas, decimal points, a header, quotes where a text needs them.

write_csv <- function(table, file) {
  cells <- lapply(table, function(column) {
    if (is.numeric(column)) cpp_number_text(as.double(column)) else csv_text(as.character(column))
  })
  lines <- c(paste(csv_text(names(table)), collapse = ","), do.call(paste, c(unname(cells), list(sep = ","))))
  write_file_lines(if (nrow(table)) lines else lines[1], file)
}

csv_text <- function(x) {
  x <- enc2utf8(ifelse(is.na(x), "NA", x))
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
