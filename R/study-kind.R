# What quantities are: each has a kind, and one value a run or a series over steps.

quantity_kinds <- c("number", "whole", "date", "yes/no", "category")

# What an output can be said to be; yes/no outputs show as such by themselves.
output_kinds <- c("number", "whole", "date")

is_series <- function(output) !is.null(output$steps)

series_names <- function(study) as.character(names(Filter(is_series, study$outputs)))

# Outputs with one value a run.
scalar_outputs <- function(study) setdiff(names(study$outputs), series_names(study))

# As the study says it is, else as its values show.
column_kind <- function(study, name, column) {
  study$outputs[[name]]$kind %||% if (is.character(column)) "category" else if (is.logical(column)) "yes/no"
    else if (cpp_all_whole(as.double(column))) "whole" else "number"
}

column_kinds <- function(study, columns) {
  vapply(names(columns), function(name) column_kind(study, name, columns[[name]]), "")
}
