# Nested data as texts: what a study file holds of a surrogate. Numbers stand in one text, "n 0.1 0.25", whole numbers in "i 1 2",
# texts in a list under `texts`, a matrix as its number of rows and its numbers. What is NULL is not there.

packed <- function(x) {
  if (is.matrix(x)) return(list(rows = nrow(x), numbers = packed(as.vector(x))))
  if (is.character(x)) return(list(texts = as.list(unname(x))))
  if (is.integer(x)) return(paste(c("i", x), collapse = " "))
  if (is.numeric(x)) return(paste(c("n", cpp_number_text(as.double(x))), collapse = " "))
  lapply(Filter(Negate(is.null), x), packed)
}

# What packed() made of it, from the texts that a file holds.
unpacked <- function(record, place) {
  if (is.list(record)) {
    if (identical(names(record), "texts")) return(vapply(record$texts, read_text, "", place = place, USE.NAMES = FALSE))
    if (setequal(names(record), c("rows", "numbers"))) return(matrix(unpacked(record$numbers, place), read_count(record$rows, place)))
    return(lapply(record, unpacked, place))
  }
  parts <- if (is.character(record) && length(record) == 1) strsplit(record, "[ \n]+")[[1]]
  values <- if (isTRUE(parts[1] %in% c("n", "i"))) cpp_read_numbers(parts[-1])
  if (is.null(values) || any(is.na(values) & parts[-1] != "NA")) {
    stop_ensayo("file", sprintf("%s must hold what was written of a surrogate.", place), sprintf("It holds %s.", shown_value(record)))
  }
  if (parts[1] == "i") as.integer(values) else values
}
