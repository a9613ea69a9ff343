# Data frames that print in their own way.

# Tables are data frames with one class more, for printing alone.
new_table <- function(columns) {
  table <- as.data.frame(columns, optional = TRUE, stringsAsFactors = FALSE)
  names(table) <- names(columns)
  rownames(table) <- NULL
  class(table) <- c("ensayo_table", "data.frame")
  table
}

unclass_table <- function(table) {
  class(table) <- "data.frame"
  table
}
