# Holidays from iCalendar files, and tasks to and from them and JSON.

#' Holidays of an iCalendar file
#'
#' The days that the events of an iCalendar file (RFC 5545) fill, with those that recur written out, for [calendar()].
#'
#' @param file Text: the path of the file.
#' @param from,to Dates or texts: the first and the last day that matter, such as from a year before a schedule starts to where it ends.
#' @return Dates, in order, with what the events are called as names.
#' @section What is read: events of whole days (`VEVENT`), `RRULE` with daily, weekly, monthly and yearly rules and all their `BY...` parts for
#'   days, `RDATE`, `EXDATE`, and days that were moved (`RECURRENCE-ID`). Cancelled events count for nothing. Of an event with times the
#'   days count that it fills from midnight to midnight. In study files `holidays: [holidays.ics]` reads a file beside them.
#' @section Errors: `ensayo_error_file` for what is no iCalendar file, a rule that whole days cannot follow, or a date that does not exist.
#'   A warning tells of events that fill no day.
#' @examples
#' file <- tempfile(fileext = ".ics")
#' writeLines(c("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Valdehoz//Holidays//EN",
#'   "BEGIN:VEVENT", "UID:1", "SUMMARY:Feast of the spring", "DTSTART;VALUE=DATE:20270503",
#'   "RRULE:FREQ=YEARLY", "END:VEVENT", "END:VCALENDAR"), file)
#' read_holidays(file, "2027-01-01", "2029-12-31")
#' calendar("Mon-Fri", holidays = read_holidays(file, "2027-01-01", "2029-12-31"))
#' @export
read_holidays <- function(file, from, to) {
  check_string(file)
  from <- check_happened(from, "from")
  to <- check_happened(to, "to")
  if (is.null(from) || is.null(to) || to < from) stop_argument("to", "a day that is not before `from`", to)
  holidays_of(file, from, to)
}

holidays_of <- function(file, from, to) {
  events <- ical_components(file, "VEVENT")
  events <- Filter(function(event) !identical(toupper(ical_text(event, "STATUS") %||% ""), "CANCELLED"), events)
  moved <- moved_days(events, file)
  partial <- character()
  found <- lapply(seq_along(events), function(i) {
    event <- events[[i]]
    said <- ical_text(event, "SUMMARY") %||% sprintf("event %d", i)
    place <- sprintf("%s, event %s", basename(file), quoted(said))
    span <- event_span(event, place)
    if (span$days < 1) {
      partial <<- c(partial, said)
      return(NULL)
    }
    own <- ical_text(event, "UID")
    alone <- length(ical_all(event, "RECURRENCE-ID")) > 0
    first <- event_days(event, span$first, from - span$days, to, place)
    if (!alone && !is.null(own)) first <- first[!first %in% moved[[own]]]
    days <- do.call(c, c(list(first[0]), lapply(seq_len(span$days) - 1, function(k) first + k)))
    days <- days[days >= from & days <= to]
    stats::setNames(days, rep(said, length(days)))
  })
  if (length(partial)) {
    warn_ensayo(sprintf(if (length(partial) == 1) "One event of %s fills no whole day and is left out: %s." else paste(length(partial),
      "events of %s fill no whole day and are left out, such as %s."), basename(file), quoted(partial[1])), "holidays")
  }
  days <- do.call(c, c(list(as.Date(character())), Filter(length, found)))
  days <- days[!duplicated(days)]
  days[order(days)]
}

# Days of a recurring event that were given other times, by its UID.
moved_days <- function(events, file) {
  ids <- lapply(events, function(event) {
    id <- ical_all(event, "RECURRENCE-ID")
    if (length(id) == 0) return(NULL)
    list(uid = ical_text(event, "UID") %||% "", day = ical_moment(id[[1]]$value, sprintf("%s, RECURRENCE-ID", basename(file)))$day)
  })
  ids <- Filter(length, ids)
  days <- do.call(c, c(list(as.Date(character())), lapply(ids, function(id) id$day)))
  split(days, vapply(ids, function(id) id$uid, ""))
}

# The first whole day that an event fills, and how many.
event_span <- function(event, place) {
  start <- ical_all(event, "DTSTART")
  if (length(start) == 0) stop_ensayo("file", sprintf("%s must have a day on which it starts.", place), "DTSTART is missing.")
  begin <- ical_moment(start[[1]]$value, sprintf("%s, DTSTART", place))
  length <- ical_text(event, "DURATION")
  end <- ical_all(event, "DTEND")
  clock <- function(moment) as.double(moment$day) + (moment$seconds %||% 0) / 86400
  until <- if (length(end)) clock(ical_moment(end[[1]]$value, sprintf("%s, DTEND", place)))
    else if (!is.null(length)) clock(begin) + ical_days(length, sprintf("%s, DURATION", place))
    else clock(begin) + if (is.null(begin$seconds)) 1 else 0
  first <- ceiling(clock(begin) - 1e-9)
  list(first = begin$day + (first - as.double(begin$day)), days = floor(until + 1e-9) - first)
}

# The days on which it begins.
event_days <- function(event, first, from, to, place) {
  rules <- ical_all(event, "RRULE")
  days <- c(first, do.call(c, c(list(first[0]), lapply(rules, function(rule) {
    recurring_days(read_recurrence(rule$value, sprintf("%s, RRULE", place)), first, to)
  }))))
  listed <- function(name) {
    values <- unlist(lapply(ical_all(event, name), function(property) strsplit(property$value, ",", fixed = TRUE)[[1]]))
    do.call(c, c(list(first[0]), lapply(values, function(value) ical_moment(sub("/.*$", "", value), sprintf("%s, %s", place, name))$day)))
  }
  days <- unique(c(days, listed("RDATE")))
  days <- days[!days %in% listed("EXDATE")]
  days[days >= from & days <= to]
}

# What iCalendar has no property for; of a task with progress its share, which has whole per cents there.
ical_own_keys <- function() setdiff(task_keys, c("label", "note", "group", "started", "finished"))

ical_own_name <- function(key) paste0("X-ENSAYO-", gsub(" ", "-", toupper(key)))

ical_links <- c(FS = "FINISHTOSTART", SS = "STARTTOSTART", FF = "FINISHTOFINISH", SF = "STARTTOFINISH")

# A table of tasks from the to-dos of a file.
tasks_from_ical <- function(file) {
  todos <- ical_components(file, "VTODO")
  if (length(todos) == 0) stop_ensayo("file", sprintf("%s must have tasks.", basename(file)), "It has no VTODO.", file = file)
  uids <- vapply(todos, function(todo) ical_text(todo, "UID") %||% "", "")
  summaries <- vapply(todos, function(todo) ical_text(todo, "SUMMARY") %||% "", "")
  # a to-do of another program has a UID that nobody wants to write
  own <- vapply(todos, function(todo) length(ical_all(todo, ical_own_name("duration"))) > 0, NA)
  names <- ifelse(own, uids, names_of_summaries(summaries))
  spans <- Map(todo_span, todos, sprintf("%s, task %s", basename(file), quoted(names)))
  links <- ical_relations(todos, uids, names, spans, file)
  columns <- c("name", task_keys)
  rows <- lapply(seq_along(todos), function(i) {
    todo <- todos[[i]]
    span <- spans[[i]]
    status <- toupper(ical_text(todo, "STATUS") %||% "")
    over <- span$finished %||% if (status == "COMPLETED") span$due
    percent <- ical_text(todo, "PERCENT-COMPLETE")
    begun <- status %in% c("IN-PROCESS", "COMPLETED") || !is.null(over)
    standard <- list(name = names[i], label = if (nzchar(summaries[i]) && summaries[i] != names[i]) summaries[i], group = ical_text(todo, "CATEGORIES"),
      note = ical_text(todo, "DESCRIPTION"), duration = format_given(span$days), after = links[[i]],
      started = if (begun && !is.null(span$start)) format(span$start), finished = if (!is.null(over)) format(over),
      done = if (is.null(over) && begun && !is.null(percent)) paste(percent, "%"))
    kept <- lapply(stats::setNames(nm = ical_own_keys()), function(key) ical_text(todo, ical_own_name(key)))
    # progress that another program has set says more than what was written
    said <- suppressWarnings(as.double(percent %||% NA))
    if (!is.null(kept$done) && !isTRUE(abs(100 * as.double(kept$done) - said) <= 0.5)) kept["done"] <- list(NULL)
    row <- utils::modifyList(Filter(Negate(is.null), standard), Filter(Negate(is.null), kept))
    if (own[i] && is.null(kept$after)) row$after <- NULL
    row
  })
  table <- lapply(stats::setNames(nm = columns), function(key) vapply(rows, function(row) row[[key]] %||% "", ""))
  new_table(table[vapply(names(table), function(key) key %in% c("name", "duration") || any(nzchar(table[[key]])), NA)])
}

names_of_summaries <- function(summaries) {
  names <- gsub("^_+|_+$", "", gsub("[^[:alnum:]]+", "_", tolower(summaries)))
  names[!grepl("^[[:alpha:]]", names)] <- paste0("task_", names[!grepl("^[[:alpha:]]", names)])
  make.unique(sub("_$", "", names), "_")
}

# A to-do's days: start, due (which counts), and how many days from one to the other.
todo_span <- function(todo, place) {
  day <- function(name) {
    found <- ical_all(todo, name)
    if (length(found)) ical_moment(found[[1]]$value, sprintf("%s, %s", place, name))$day
  }
  start <- day("DTSTART")
  due <- day("DUE")
  length <- ical_text(todo, "DURATION")
  days <- if (!is.null(length)) ical_days(length, sprintf("%s, DURATION", place))
    else if (!is.null(start) && !is.null(due)) as.double(due - start) + 1 else 0
  if (days < 0) stop_ensayo("file", sprintf("%s must not be due before it starts.", place), sprintf("It starts on %s and is due on %s.", start, due))
  list(start = start, due = due %||% if (!is.null(start)) start + max(ceiling(days) - 1, 0), finished = day("COMPLETED"), days = days)
}

# What comes before each, as texts. A relation stands with the later task and names the earlier one; where more of the dates say so
# it is the other way round.
ical_relations <- function(todos, uids, names, spans, file) {
  kinds <- c(stats::setNames(names(ical_links), ical_links), `DEPENDS-ON` = "FS")
  found <- do.call(rbind, lapply(seq_along(todos), function(i) do.call(rbind, lapply(ical_all(todos[[i]], "RELATED-TO"), function(property) {
    kind <- kinds[toupper(property$parameters$RELTYPE %||% "PARENT")]
    if (is.na(kind)) return(NULL)
    other <- match(ical_text(list(property), "RELATED-TO"), uids)
    if (is.na(other)) stop_ensayo("file", sprintf("%s: task %s must come after one that is there.", basename(file), quoted(names[i])),
      sprintf("It names %s.", quoted(property$value)), file = file)
    data.frame(own = i, other = other, kind = unname(kind), gap = if (is.null(property$parameters$GAP)) 0 else
      ical_days(property$parameters$GAP, sprintf("%s, task %s, GAP", basename(file), quoted(names[i]))))
  }))))
  if (is.null(found)) return(vector("list", length(todos)))
  keeps <- function(from, to) {
    sum(mapply(function(from, to, kind) isTRUE(spans[[from]]$due < spans[[to]]$start), from, to, found$kind)[found$kind == "FS"])
  }
  turned <- keeps(found$own, found$other) > keeps(found$other, found$own)
  from <- if (turned) found$own else found$other
  to <- if (turned) found$other else found$own
  texts <- paste0(names[from], ifelse(found$kind == "FS", "", paste0(" ", found$kind)), ifelse(found$gap == 0, "", sprintf(" %s %s elapsed days",
    ifelse(found$gap < 0, "-", "+"), vapply(abs(found$gap), format_given, ""))))
  lapply(seq_along(todos), function(i) if (any(to == i)) paste(texts[to == i], collapse = ", "))
}
