# Models that go step by step in study files.

steps_from_record <- function(study, record, name, folder, coming) {
  place <- sprintf("Model %s", quoted(name))
  check_keys(record, c("steps", "known", "lines", "keep", "last"), place)
  if (is.null(record$steps)) stop_ensayo("file", sprintf("%s must give its steps.", place), "`steps` is missing.", name = name)
  at <- function(key) sprintf("%s, %s", place, quoted(key))
  steps <- file_steps(record$steps, at("steps"))
  check_named(record$lines, at("lines"))
  lines <- normal_name(names(record$lines))
  given <- stats::setNames(Map(line_from_record, record$lines, sprintf("%s, line %s", place, quoted(lines))), lines)
  known <- in_place(place, known_values(file_known(record$known, at("known"), folder), steps))
  named <- function(key) if (!is.null(record[[key]])) normal_name(vapply(as.list(record[[key]]), read_text, "", place = at(key)))
  asked <- list(keep = named("keep"), last = named("last"))
  for (key in names(asked)) {
    unknown <- setdiff(asked[[key]], lines)
    if (length(unknown)) in_place(at(key), stop_unknown_name(unknown[1], lines, "a line of the steps"))
  }
  in_place(place, with_steps(study, name, given, steps, known, function(all) {
    list(keep = asked$keep %||% if (length(asked$last)) character() else all, last = asked$last)
  }, coming))
}

# A count, the steps themselves, or days: `{from: 2026-07-01, to: 2026-08-29}`, or `count` in place of `to`.
file_steps <- function(x, place) {
  if (!is.list(x) && length(x) == 1 && is_number_text(as.character(x))) {
    return(in_place(place, steps_given(read_number(x, place), "steps")))
  }
  if (!is.list(x) || is.null(names(x))) return(read_steps(unlist(x), place))
  check_keys(x, c("from", "to", "count"), place)
  if (is.null(x$from) || is.null(x$to) == is.null(x$count)) {
    stop_ensayo("file", sprintf("%s must give `from`, and `to` or `count`.", place), NULL, "Such as {from: 2026-07-01, to: 2026-08-29}.")
  }
  from <- read_steps(x$from, place)
  if (!is.null(x$count)) {
    ahead <- in_place(place, steps_given(read_number(x$count, place), "count")) - 1
    return(from + ahead)
  }
  to <- read_steps(x$to, place)
  if (inherits(from, "Date") != inherits(to, "Date") || to < from || as.double(to) - as.double(from) >= most_steps) {
    stop_ensayo("file", sprintf("%s must go from a first step to a later one.", place), sprintf("They are %s and %s.",
      shown_value(x$from), shown_value(x$to)))
  }
  seq(from, to, by = 1)
}

line_from_record <- function(record, place) {
  if (!is.list(record)) record <- list(formula = record)
  check_keys(record, c("formula", "state", "start", "unit", "label", "note", "group", "kind"), place)
  if (is.null(record$state) == is.null(record$formula) || is.null(record$state) != is.null(record$start)) {
    stop_ensayo("file", sprintf("%s must give `formula`, or `state` and `start`.", place),
      sprintf("It gives %s.", and_list(quoted(intersect(c("formula", "state", "start"), names(record))))))
  }
  formula <- record$state %||% record$formula
  line <- output_from_record(c(list(formula = formula), record[setdiff(names(record), c("formula", "state", "start"))]), "", place)
  list(line = line, start = if (!is.null(record$start)) read_text(record$start, sprintf("%s, `start`", place)))
}

# Lists of numbers, or columns of a CSV file: `{file: profile.csv}`.
file_known <- function(records, place, folder) {
  if (is.null(records)) return(NULL)
  if (identical(names(records), "file")) {
    table <- read_csv_text(beside(records$file, folder))
    records <- lapply(table, function(column) if (is.character(column)) cpp_read_numbers(trimws(column)) else column)
    return(Filter(function(column) !all(is.na(column)), records))
  }
  check_named(records, place)
  stats::setNames(lapply(records, function(values) vapply(as.list(values), read_number, 0, place = place, USE.NAMES = FALSE)),
    normal_name(names(records)))
}

# A count, the first and the last, or all: what file_steps() reads.
told_steps <- function(steps) {
  days <- inherits(steps, "Date")
  if (!days && identical(steps, as.double(seq_along(steps)))) return(length(steps))
  written <- if (days) format(steps) else steps
  if (length(steps) > 2 && all(diff(as.double(steps)) == 1)) return(list(from = written[1], to = written[length(steps)]))
  as.list(written)
}

# What reading turns into the same model again.
steps_record <- function(model, outputs) {
  lines <- lapply(stats::setNames(nm = names(model$lines)), function(name) {
    formula <- file_formula(model$lines[[name]])
    more <- Filter(Negate(is.null), unclass(outputs[[name]])[c("unit", "label", "note", "group", "kind")])
    start <- model$starts[[name]]
    record <- c(if (is.null(start)) list(formula = formula) else list(state = formula, start = file_formula(start)), more)
    if (identical(names(record), "formula")) formula else record
  })
  kept <- setdiff(model$gives, model$last)
  record <- list(steps = told_steps(model$steps), known = lapply(model$known, as.list), lines = lines,
    keep = if (!setequal(kept, if (length(model$last)) character() else names(model$lines))) as.list(kept), last = as.list(model$last))
  Filter(function(part) length(part) > 0, record)
}
