# What quantities are: each has a kind, and one value a run or a series over steps.

quantity_kinds <- c("number", "whole", "date", "yes/no", "category")

# What an output can be said to be; yes/no outputs show as such by themselves.
output_kinds <- c("number", "whole", "date")

is_series <- function(output) !is.null(output$steps)

series_names <- function(study) as.character(names(Filter(is_series, study$outputs)))

# Outputs with one value a run.
scalar_outputs <- function(study) with_aside(setdiff(names(study$outputs), series_names(study)), study)

# Quantities that something larger is calculated with, and that are not shown unless they are asked for.
aside_names <- function(study) {
  as.character(names(Filter(function(quantity) isTRUE(quantity$aside), c(study$inputs, study$outputs))))
}

# Names that know which of them are set aside.
with_aside <- function(names, study) {
  aside <- intersect(names, aside_names(study))
  if (length(aside)) structure(names, aside = aside) else names
}

# As the study says it is, else as its values show; NA where all of them failed, which shows nothing.
column_kind <- function(study, name, column) {
  input <- study$inputs[[name]]
  if (!is.null(input) && is_stepped(input)) return(if (is_count_law(input$law)) "whole" else "number")
  study$outputs[[name]]$kind %||% if (is.character(column)) "category"
    else if (is.na(column[1]) && !any(is.finite(column))) NA_character_
    else if (is.logical(column)) "yes/no" else if (cpp_all_whole(as.double(column))) "whole" else "number"
}

# Of a piece of the runs; a further piece may tell what this one does not.
piece_kinds <- function(study, columns) {
  vapply(names(columns), function(name) column_kind(study, name, columns[[name]]), "")
}

column_kinds <- function(study, columns) told_kinds(piece_kinds(study, columns))

told_kinds <- function(kinds) replace(kinds, is.na(kinds), "number")

# What failed everywhere does not know whether it holds numbers or TRUE and FALSE.
of_stored_kind <- function(column, kind) {
  if (kind == "yes/no" || is.logical(column)) storage.mode(column) <- if (kind == "yes/no") "logical" else "double"
  column
}

# A step as readers see it.
step_words <- function(step) if (inherits(step, "Date")) format(step) else format(step, digits = 10, trim = TRUE)
