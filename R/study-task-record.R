# Tasks, calendars and the schedule in study files and in tables.

task_keys <- c("duration", "after", "calendar", "when", "not before", "not after", "start on", "started", "finished", "done", "cost",
  "cost per day", "paid", "group", "label", "note")

# `8`, `pert(8, 10, 18)` or `{duration: pert(8, 10, 18), after: survey}`; a duration may be a formula.
task_from_record <- function(record, name, place = sprintf("Task %s", quoted(name))) {
  if (!is.list(record)) record <- list(duration = record)
  names(record) <- gsub("_", " ", names(record))
  check_keys(record, task_keys, place)
  at <- function(key) sprintf("%s, %s", place, quoted(key))
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], at(key))
  if (is.null(record$duration)) stop_ensayo("file", sprintf("%s must give its duration.", place), "`duration` is missing.",
    "0 is a milestone.", name = name)
  made <- in_place(place, task(0, after = text("after"), calendar = text("calendar"), not_before = text("not before"),
    not_after = text("not after"), start_on = text("start on"), started = text("started"), finished = text("finished"),
    done = if (!is.null(record$done)) share_from_record(record$done, at("done")), group = text("group"), label = text("label"),
    note = text("note")))
  made$duration <- task_value_from_record(record$duration, at("duration"), at_least = 0)
  value <- function(key) list(if (!is.null(record[[key]])) task_value_from_record(record[[key]], at(key)))
  made["cost"] <- value("cost")
  made["cost_per_day"] <- value("cost per day")
  made["paid"] <- list(in_place(place, checked_paid(read_paid(text("paid")), made[["cost"]])))
  made["when"] <- list(text("when"))
  made
}

share_from_record <- function(x, place) {
  if (is.character(x) && grepl("%\\s*$", x)) read_number(sub("\\s*%\\s*$", "", x), place) / 100 else read_number(x, place)
}

# A number, a law, or else the text of a formula.
task_value_from_record <- function(x, place, at_least = -Inf) {
  if (is.list(x)) return(law_from_record(x, place))
  if (is.numeric(x) || is_number_text(x)) {
    value <- read_number(x, place)
    if (value < at_least) stop_ensayo("file", sprintf("%s must be a number from 0 on.", place), sprintf("It is %s.", format_given(value)))
    return(value)
  }
  text <- read_text(x, place)
  expr <- tryCatch(str2lang(text), error = function(e) NULL)
  if (is.call(expr) && (call_head(expr) %in% law_forms || holds_law(expr))) law_from_text(text, place) else text
}

# `part` is what the quantity is called that is made of it.
task_value_record <- function(value, name, part, study) {
  if (is_law(value)) return(law_text(value))
  if (is.null(value) || is.numeric(value) || is.character(value)) return(value)
  made <- study$outputs[[task_part(name, part)]]
  file_formula(made$own %||% made$formula)
}

task_record <- function(task, name, study) {
  day <- function(x) if (inherits(x, "Date")) format(x) else x
  record <- list(duration = task_value_record(task$duration, name, "duration", study), after = links_text(task$links), calendar = task$calendar,
    when = if (length(task$when)) task$when, not_before = day(task$not_before), not_after = day(task$not_after),
    start_on = day(task$start_on), started = day(task$started), finished = day(task$finished), done = task$done,
    cost = task_value_record(task$cost, name, cost_parts[["cost"]], study),
    cost_per_day = task_value_record(task$cost_per_day, name, cost_parts[["cost_per_day"]], study), paid = paid_text(task$paid),
    group = task$group, label = task$label, note = task$note)
  record <- Filter(Negate(is.null), record)
  if (identical(names(record), "duration")) record$duration else record
}

calendar_record <- function(calendar) {
  hours <- vapply(calendar$week, function(spans) paste(span_texts(spans), collapse = ", "), "")
  worked <- which(nzchar(hours))
  plain <- all(hours[worked] == "00:00-24:00")
  lost <- lapply(calendar$lost, function(lost) list(days = amount_record(lost$days), months = as.list(lost$months)))
  closures <- lapply(calendar$closures, function(closed) {
    Filter(Negate(is.null), list(from = format(closed$from), within = if (closed$within > 0) closed$within, days = amount_record(closed$days),
      probability = if (!identical(closed$probability, 1)) amount_record(closed$probability)))
  })
  Filter(length, list(days = paste(weekdays_short[worked], collapse = ", "),
    hours = if (!plain) as.list(stats::setNames(hours[worked], weekdays_short[worked])), holidays = as.list(stretch_texts(calendar$holidays)),
    worked = as.list(stretch_texts(calendar$worked)), lost = lost, closures = closures))
}

# Dates in a row as a stretch.
stretch_texts <- function(dates) {
  if (length(dates) == 0) return(character())
  group <- cumsum(c(TRUE, diff(as.double(dates)) != 1))
  vapply(split(seq_along(dates), group), function(at) {
    if (length(at) == 1) format(dates[at]) else paste(format(dates[at[1]]), format(dates[at[length(at)]]), sep = "/")
  }, "", USE.NAMES = FALSE)
}

calendar_from_record <- function(record, name) {
  place <- sprintf("Calendar %s", quoted(name))
  if (!is.list(record)) record <- list(days = record)
  check_keys(record, c("days", "hours", "holidays", "worked", "lost", "closures"), place)
  texts <- function(key) if (!is.null(record[[key]])) vapply(as.list(record[[key]]), read_text, "", place = sprintf("%s, %s", place, quoted(key)))
  lost <- record$lost
  if (!is.null(names(lost))) lost <- list(lost)
  lost <- lapply(lost, function(one) {
    check_keys(one, c("days", "months"), sprintf("%s, `lost`", place))
    in_place(place, lost_days(amount_from_record(one$days, sprintf("%s, `lost`, `days`", place)), if (is.null(one$months)) 1:12 else
      vapply(as.list(one$months), read_number, 0, place = sprintf("%s, `lost`, `months`", place))))
  })
  closures <- lapply(record$closures, function(one) {
    check_keys(one, c("from", "within", "days", "probability"), sprintf("%s, `closures`", place))
    in_place(place, closed_days(read_text(one$from %||% "", sprintf("%s, `closures`, `from`", place)), amount_from_record(one$days, sprintf("%s, `closures`, `days`", place)),
      within = if (is.null(one$within)) 0 else read_number(one$within, sprintf("%s, `closures`, `within`", place)),
      probability = chance_from_record(one$probability, sprintf("%s, `closures`, `probability`", place)) %||% 1))
  })
  in_place(place, calendar(texts("days") %||% "Mon-Fri", texts("hours"), unname(texts("holidays")), unname(texts("worked")), lost, closures))
}

# Holidays that a file beside the study file has: of the years that the schedule may take.
with_holidays_of_files <- function(record, file) {
  if (!is.list(record)) return(record)
  given <- as.list(record$holidays)
  of_files <- vapply(given, function(x) rlang::is_string(x) && file_ending(x) == "ics", NA)
  if (!any(of_files)) return(record)
  start <- check_happened(read_text(file$content$schedule$start %||% "", "schedule, start"), "start")
  days <- lapply(given[of_files], function(name) format(holidays_of(beside(name, file$folder), start - lead_days, start + 3660)))
  record$holidays <- c(given[!of_files], as.list(unlist(days)))
  record
}

part_calendars <- list(
  title = "Calendars",
  record = function(study) lapply(study$calendars, calendar_record),
  read = function(study, record, file) {
    if (is.null(record)) return(study)
    check_section(record, "calendars")
    names <- normal_name(names(record))
    record <- lapply(record, with_holidays_of_files, file = file)
    add_calendars(study, stats::setNames(Map(calendar_from_record, record, names), names))
  },
  table = function(study) calendars_table(study)
)

calendars_table <- function(study) {
  texts <- lapply(study$calendars, function(calendar) format(structure(calendar, class = "ensayo_calendar")))
  new_table(list(name = as.character(names(texts)), calendar = vapply(texts, function(lines) paste(sub("^Calendar: ", "", trimws(lines)),
    collapse = "; "), "", USE.NAMES = FALSE)))
}

part_schedule <- list(
  title = "Schedule",
  table = function(study) {
    set <- lapply(study$schedule[setdiff(names(study$schedule), "keep")], format)
    new_table(list(what = as.character(names(set)), value = as.character(unlist(set, use.names = FALSE))))
  },
  record = function(study) {
    lapply(study$schedule, function(x) {
      if (inherits(x, "Date")) format(x) else if (is_law(x)) law_text(x) else if (length(x) > 1) as.list(x) else x
    })
  },
  read = function(study, record, file) {
    if (is.null(record)) return(study)
    names(record) <- gsub("_", " ", names(record))
    check_keys(record, c("start", "status", "promised", "calendar", "cost per day", "budget", "currency", "keep"), "schedule")
    text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("schedule, %s", quoted(key)))
    days <- in_place("schedule", lapply(stats::setNames(nm = c("start", "status", "promised")), function(key) check_happened(text(key), key)))
    keep <- if (!is.null(record$keep)) normal_name(vapply(as.list(record$keep), read_text, "", place = "schedule, `keep`"))
    amount <- if (!is.null(record[["cost per day"]])) amount_from_record(record[["cost per day"]], "schedule, `cost per day`")
    budget <- if (!is.null(record$budget)) read_number(record$budget, "schedule, `budget`")
    study$schedule <- Filter(length, c(days, list(calendar = text("calendar"), cost_per_day = amount, budget = budget,
      currency = text("currency"), keep = keep)))
    study
  }
)

part_tasks <- list(
  title = "Tasks",
  renamed = function(study, old, new) {
    study$tasks[] <- lapply(study$tasks, function(task) {
      task$links <- lapply(task$links, function(link) if (identical(link$length, old)) utils::modifyList(link, list(length = new)) else link)
      for (key in c("not_before", "not_after", "start_on")) if (identical(task[[key]], old)) task[[key]] <- new
      for (key in c("duration", names(cost_parts))) if (rlang::is_quosure(task[[key]])) {
        task[[key]] <- rlang::quo_set_expr(task[[key]], rename_symbol(rlang::quo_get_expr(task[[key]]), old, new))
      }
      task
    })
    study
  },
  users = function(study, name) {
    uses <- function(task) unlist(c(lapply(task$links, function(link) if (is.character(link$length)) link$length),
      Filter(is.character, task[c("not_before", "not_after", "start_on")])))
    names(Filter(function(task) name %in% uses(task), study$tasks))
  },
  record = function(study) Map(task_record, study$tasks, names(study$tasks), list(study)),
  read = function(study, record, file) file_tasks(study, record, file),
  reviewed = function(study, asked) review_tasks(study),
  table = function(study) task_table(study)
)

file_tasks <- function(study, record, file) {
  if (is.null(record)) return(study)
  study$tasks <- file_section(study, record, file, "task", read_tasks, tasks_from_table, task_from_record, c("csv", "ics", "json"))
  # with events they are read, which may happen to tasks
  if (is.null(file$content$events)) with_tasks(study, normal_name(names(file$content$outputs))) else study
}

#' Tables of tasks
#'
#' The tasks of a study as a table with a row for each; as CSV, as JSON, and as iCalendar to-dos (RFC 5545, with the relations of RFC
#' 9253).
#'
#' @param study A study. For [write_tasks()] also a result.
#' @param file Text: the path; how it ends says what it is: `.csv`, `.json` or `.ics`.
#' @return `task_table()`: a data frame of texts. `write_tasks()`: `file`, invisibly; of a study without tasks a CSV is a blank one, with every
#'   column's heading. `read_tasks()`: a data frame for [add_tasks()].
#' @section Columns: `name`, and `duration`, a number, a law or a formula; or in its place `low`, `most likely` and `high`, or `low %` and
#'   `high %` beside a number in `duration`, with a `shape` (`triangular` where it is empty, `pert` or `uniform`). Others are the arguments of
#'   [task()]: `after`, `calendar`, `when`, `not before`, `not after`, `start on`, `started`, `finished`, `done` (`40 %`), `cost` and
#'   `cost per day` (numbers, laws or formulas), `paid`, `group`, `label`, `note`. JSON is a list of objects with these keys.
#' @section iCalendar: each task is a to-do with its days, progress, group and note. A relation stands with the later task, and names the
#'   earlier one; `GAP` is a lag in elapsed days. Laws, calendars and lags of work, which iCalendar cannot say, stand in properties that
#'   begin with `X-ENSAYO-`; with them a file gives back the same tasks. Of other programs' files a duration is `DURATION`, or the days
#'   from `DTSTART` to `DUE`, both counted; where the dates say that relations are meant the other way round they are read so.
#' @section Errors: `ensayo_error_file` for a column or cell that cannot be read, with the row; `ensayo_error_name` for a name that stands
#'   twice.
#' @examples
#' file <- tempfile(fileext = ".csv")
#' cat("name,low,most likely,high,after\nsurvey,4,5,9,\ndig,8,10,18,survey\n", file = file)
#' works <- study("Works") |> add_tasks(read_tasks(file), .start = "2027-03-01")
#' todos <- tempfile(fileext = ".ics")
#' write_tasks(works, todos)
#' read_tasks(todos)
#' @export
task_table <- function(study) {
  check_study(study)
  records <- Map(function(task, name) {
    record <- task_record(task, name, study)
    c(list(name = name), if (is.list(record)) record else list(duration = record))
  }, study$tasks, names(study$tasks))
  columns <- lapply(stats::setNames(nm = c("name", gsub(" ", "_", task_keys))), function(key) {
    vapply(records, function(record) cell_text(record[[key]]), "", USE.NAMES = FALSE)
  })
  names(columns) <- gsub("_", " ", names(columns))
  kept <- names(columns) %in% c("name", "duration", "after") | vapply(columns, function(x) any(nzchar(x)), NA)
  new_table(columns[kept])
}

task_columns <- c("name", "label", "duration", "low", "most likely", "high", "low %", "high %", "shape", setdiff(task_keys, c("duration",
  "label")))

#' @rdname task_table
#' @export
read_tasks <- function(file) {
  table <- switch(file_ending(check_string(file)), ics = tasks_from_ical(file), json = tasks_from_json(file), read_table_file(file))
  tasks_from_table(table, basename(file))  # so that a fault is found here, with the file's name
  new_table(table)
}

file_ending <- function(file) tolower(sub("^.*[.]", "", file))

tasks_from_json <- function(file) {
  rows <- rethrow_as(jsonlite::parse_json(read_file_text(file)), "file", sprintf("%s must be JSON.", basename(file)), file = file)
  if (!is.list(rows) || length(rows) == 0 || !all(vapply(rows, function(row) is.list(row) && !is.null(names(row)), NA))) {
    stop_ensayo("file", sprintf("%s must be a list of tasks.", basename(file)), NULL, "Such as [{\"name\": \"dig\", \"duration\": 8}].", file = file)
  }
  keys <- unique(unlist(lapply(rows, names)))
  lapply(stats::setNames(nm = keys), function(key) vapply(rows, function(row) cell_text(row[[key]]), ""))
}

# Tasks from the rows of a table, by name.
tasks_from_table <- function(table, file = NULL) {
  table <- lapply(unclass_table(table), function(column) if (is.factor(column)) as.character(column) else column)
  names(table) <- gsub("[_ ]+", " ", tolower(trimws(names(table))))
  where <- file %||% "A table of tasks"
  unknown <- setdiff(names(table), task_columns)
  if (length(unknown)) {
    stop_ensayo("file", sprintf("%s must have columns that a table of tasks knows.", where), sprintf("%s is none.", quoted(unknown[1])),
      suggestion(unknown[1], task_columns), name = unknown[1], file = file)
  }
  if (is.null(table$name)) stop_ensayo("file", sprintf("%s must have a column `name`.", where), sprintf("Its columns are %s.",
    paste(quoted(names(table)), collapse = ", ")), file = file)
  names <- normal_name(trimws(as.character(table$name)))
  tasks <- lapply(seq_along(names), function(i) {
    place <- paste0(if (!is.null(file)) paste0(file, ", "), sprintf("row %d", i))
    if (is.na(names[i]) || !nzchar(names[i])) stop_ensayo("file", sprintf("%s must have a name.", place), "The cell is empty.", row = i, file = file)
    cells <- Filter(function(cell) !is.na(cell) && nzchar(trimws(cell)), lapply(table, function(column) as.character(column[[i]])))
    place <- sprintf("%s, task %s", place, quoted(names[i]))
    task_from_record(task_of_row(cells[names(cells) != "name"], place), names[i], place)
  })
  twice <- names[duplicated(names)]
  if (length(twice)) {
    stop_ensayo("name", sprintf("%s must name each task once.", where), sprintf("%s stands in rows %s.", quoted(twice[1]),
      paste(which(names == twice[1]), collapse = " and ")), name = twice[1], file = file)
  }
  stats::setNames(tasks, names)
}

task_of_row <- function(cells, place) {
  ends <- c(low = "low", most_likely = "most likely", high = "high", low_percent = "low %", high_percent = "high %")
  given <- ends[ends %in% names(cells)]
  if (length(given)) {
    estimate <- stats::setNames(cells[given], names(given))
    shape <- cells$shape %||% if (all(c("low", "high") %in% given) && !"most likely" %in% given) "uniform" else "triangular"
    cells$duration <- estimate_text_of(estimate, cells$duration, shape, place, NULL)
  }
  cells[!names(cells) %in% c(unname(ends), "shape")]
}
