# Registers of events: a row for each, as teams keep them in a spreadsheet.

register_columns <- c("name", "label", "category", "probability", "rate", "impact", "low", "most likely", "high", "of", "unit", "on", "beside",
  "owner", "excludes", "needs", "with", "response", "response cost", "response probability", "response rate", "response impact",
  "response when", "taken", "closed", "note")

#' Registers of events
#'
#' The events of a study as a table with a row for each, and as CSV, as spreadsheets read and write it.
#'
#' @param study A study.
#' @param file Text: the CSV file's path.
#' @param overwrite `TRUE` to replace a file that is there.
#' @return `event_register()`: a data frame of texts. `write_events()`: `file`, invisibly; of a study without events it is a blank one,
#'   with every column's heading. `read_events()`: a data frame for [add_events()].
#' @section Columns: `name`, and `impact`, a law or a number, or in its place `low`, `most likely` and `high` (triangular; the two
#'   ends alone are uniform). `probability` is a number from 0 to 1, per cents with their sign (`15 %`), or a law; or there is a
#'   `rate`. `of` is the item of which the impact is a per cent. `excludes` and `on` hold names with semicolons between, `beside` is `yes`
#'   where an impact runs beside a task's own work, `with` those of a common
#'   cause with their correlations (`frost: 0.4; flood: 0.1`). `response` is what is done, with `response cost`, `response
#'   probability`, `response rate`, `response impact` and `response when`; `taken` is `yes` where it is, `closed` what the event came to.
#'   Others: `label`, `category`, `unit`, `on`, `owner`, `needs`, `note`. Events of several consequences stand in study files
#'   ([read_study()]), which also take a register: `events: {file: events.csv}`.
#' @section Errors: `ensayo_error_file` for a column or cell that cannot be read, with the row; `ensayo_error_name` for a name that
#'   stands twice.
#' @examples
#' file <- tempfile(fileext = ".csv")
#' write_events(study("Works"), file)
#' cat("rock,Rock in the trench,ground,30 %,,,5,10,30\n", file = file, append = TRUE)
#' study("Works") |> add_events(read_events(file))
#' @export
event_register <- function(study) {
  check_study(study)
  rows <- do.call(c, c(list(list()), unname(Map(event_rows, study$events, names(study$events)))))
  column <- function(key) vapply(rows, function(row) cell_text(row[[key]]), "", USE.NAMES = FALSE)
  columns <- lapply(stats::setNames(nm = setdiff(register_columns, c("low", "most likely", "high"))), column)
  kept <- names(columns) %in% c("name", "probability", "impact") | vapply(columns, function(x) any(nzchar(x)), NA)
  new_table(columns[kept])
}

# An event has a row, and one for each further consequence.
event_rows <- function(event, name) {
  record <- event_record(event)
  response <- record$response
  Map(function(impact, consequence) {
    answer <- event$response$impacts[[consequence_place(event, consequence)]]
    list(name = impact_name(name, consequence), label = record$label, category = record$category, probability = record$probability,
      rate = record$rate, impact = amount_record(impact$amount), of = impact$of, unit = event_unit(event, consequence),
      on = if (length(event$on)) paste(event$on, collapse = "; "), beside = if (isTRUE(event$beside)) "yes",
      owner = record$owner, excludes = if (length(event$excludes)) paste(event$excludes, collapse = "; "), needs = record$needs,
      with = if (length(event$with)) paste(sprintf("%s: %s", names(event$with), vapply(event$with, exact_number, "")), collapse = "; "),
      response = if (!is.null(response)) response$label %||% "yes", `response cost` = response$cost,
      `response probability` = response$probability, `response rate` = response$rate,
      `response impact` = if (!is.null(answer)) amount_record(answer$amount), `response when` = response$when,
      taken = if (isTRUE(event$responded)) "yes", closed = unname(event$closed[consequence_place(event, consequence)]), note = record$note)
  }, event$impacts, names(event$impacts))
}

consequence_place <- function(event, consequence) match(consequence, names(event$impacts))

#' @rdname event_register
#' @export
write_events <- function(study, file, overwrite = FALSE) {
  check_study(study)
  refuse_existing(check_string(file), check_flag(overwrite))
  several <- names(Filter(function(event) length(event$impacts) > 1, study$events))
  if (length(several)) {
    stop_ensayo("file", "A register of events must have one consequence an event.", sprintf("%s has several.", quoted(several[1])),
      "Keep these in a study file: `write_study()`.", name = several[1])
  }
  register <- if (length(study$events) == 0) stats::setNames(rep(list(character()), length(register_columns)), register_columns)
    else unclass_table(event_register(study))
  write_csv(as.data.frame(register, check.names = FALSE), file)
  invisible(file)
}

#' @rdname event_register
#' @export
read_events <- function(file) {
  table <- read_table_file(check_string(file))
  names(table) <- gsub("[_ ]+", " ", tolower(names(table)))
  check_register_columns(names(table), basename(file))
  events_from_table(table, basename(file))  # so that a fault is found here, with the file's name
  new_table(table)
}

check_register_columns <- function(names, file) {
  unknown <- setdiff(names, register_columns)
  if (length(unknown)) {
    stop_ensayo("file", sprintf("%s must have columns that a register of events knows.", file), sprintf("%s is none.",
      quoted(unknown[1])), suggestion(unknown[1], register_columns), name = unknown[1], file = file)
  }
  for (column in c("name", if (!any(c("impact", "high") %in% names)) "impact")) {
    if (!column %in% names) {
      stop_ensayo("file", sprintf("%s must have a column %s.", file, quoted(column)), sprintf("Its columns are %s.",
        paste(quoted(names), collapse = ", ")), name = column, file = file)
    }
  }
}

# Events from the rows of a register, by name.
events_from_table <- function(table, file = NULL) {
  table <- lapply(unclass_table(table), function(column) if (is.factor(column)) as.character(column) else column)
  names(table) <- gsub("[_ ]+", " ", tolower(names(table)))
  check_register_columns(names(table), file %||% "A table of events")
  names <- normal_name(as.character(table$name))
  rows <- lapply(seq_along(names), function(i) {
    place <- paste0(if (!is.null(file)) paste0(file, ", "), sprintf("row %d", i))
    if (is.na(names[i]) || !nzchar(trimws(names[i]))) {
      stop_ensayo("file", sprintf("%s must have a name.", place), "The cell is empty.", row = i, file = file)
    }
    cells <- Filter(function(cell) !is.na(cell) && nzchar(trimws(cell)), lapply(table, function(column) as.character(column[[i]])))
    place <- sprintf("%s, event %s", place, quoted(names[i]))
    in_place(place, event_from_record(record_of_row(cells, place), names[i], place))
  })
  twice <- names[duplicated(names)]
  if (length(twice)) {
    stop_ensayo("name", sprintf("%s must name each event once.", file %||% "A table of events"), sprintf("%s stands in rows %s.",
      quoted(twice[1]), paste(which(names == twice[1]), collapse = " and ")), name = twice[1], file = file)
  }
  stats::setNames(rows, names)
}

record_of_row <- function(cells, place) {
  record <- cells[intersect(names(cells), event_keys)]
  if (is.null(record$impact)) record$impact <- range_of_row(cells, place)
  for (key in intersect(c("excludes", "on"), names(record))) record[[key]] <- trimws(strsplit(record[[key]], ";", fixed = TRUE)[[1]])
  if (!is.null(record$with)) record$with <- causes_of_cell(record$with, place)
  answer <- cells[startsWith(names(cells), "response")]
  if (length(answer)) {
    if (is.null(answer$`response cost`)) stop_ensayo("file", sprintf("%s, \"response cost\" must be given with a response.", place),
      "The cell is empty.")
    record$response <- Filter(Negate(is.null), list(cost = answer$`response cost`, probability = answer$`response probability`,
      rate = answer$`response rate`, impact = answer$`response impact`, of = if (!is.null(answer$`response impact`)) cells$of,
      when = answer$`response when`, label = if (!identical(answer$response, "yes")) answer$response))
  }
  record
}

# "frost: 0.4; flood: -0.1"
causes_of_cell <- function(text, place) {
  pairs <- strsplit(trimws(strsplit(text, ";", fixed = TRUE)[[1]]), "\\s*:\\s*")
  if (any(lengths(pairs) != 2)) {
    stop_ensayo("file", sprintf("%s, \"with\" must name events with their correlations.", place), sprintf("It is %s.", quoted(text)),
      "Such as `frost: 0.4; flood: 0.1`.")
  }
  stats::setNames(lapply(pairs, `[`, 2), vapply(pairs, `[`, "", 1))
}

# Low, most likely and high as a law.
range_of_row <- function(cells, place) {
  number <- function(key) read_number(sub("\\s*%$", "", cells[[key]]), sprintf("%s, %s", place, quoted(key)))
  if (is.null(cells$high)) {
    if (!is.null(cells$`most likely`)) return(number("most likely"))
    stop_ensayo("file", sprintf("%s must give its impact.", place), "The cell is empty.", "Or `low`, `most likely` and `high`.")
  }
  keys <- intersect(c("low", "most likely", "high"), names(cells))
  values <- vapply(keys, number, 0)
  if (is.null(cells$low) || is.unsorted(values)) {
    stop_ensayo("file", sprintf("%s must have its \"low\", \"most likely\" and \"high\" in order.", place), sprintf("They are %s.",
      and_list(vapply(values, format_given, ""))))
  }
  if (values[[1]] == values[[length(values)]]) return(values[[1]])
  call_text(if (length(values) == 3) "triangular" else "uniform", as.list(unname(values)), TRUE)
}
