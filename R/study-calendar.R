# Working calendars, as a study keeps them in `calendars`:
#   week       hours of each weekday, Monday first: numbers from, to, from, to, ... in milliseconds of the day
#   holidays   days without work; `worked` days that are worked like the longest day of the week
#   lost       days lost in some months, laws; `closures` times when nothing can be done
#   workday    how long a day of work is, in milliseconds

weekdays_short <- c("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")

#' Working calendars
#'
#' `calendar()` says when work is done, for [add_calendars()] and [add_tasks()]: on which days of the week, between which hours, and
#' on which days not. [lost_days()] and [closed_days()] say when that is uncertain.
#'
#' @param days Text: the days of the week that are worked, such as `"Mon-Fri"` or `"Mon, Wed-Sat"`; `"every day"` is `"Mon-Sun"`.
#' @param hours Text: the hours that are worked, such as `"07:00-12:00, 13:00-16:00"`; a vector with names for days that differ,
#'   `c("Mon-Thu" = "07:00-16:00", Fri = "07:00-13:00")`. When left out, days count as a whole, and their hours do not matter.
#' @param holidays Days without work: dates, or texts such as `"2027-03-08"` and `"2027-12-24/2028-01-06"`, both days included.
#' @param worked Days that are worked though the week says otherwise, with the hours of the week's longest day; as `holidays`.
#' @param lost [lost_days()], or a list of them.
#' @param closures A list of [closed_days()] with names.
#' @return A calendar, for [add_calendars()].
#' @section A day of work: durations of tasks are in days of work of their calendar: as long as the longest day of its week, so 8 hours
#'   with the hours above, and 24 where no hours are given. Holidays count for thirty years from a schedule's start, and for a year before
#'   it; from then on the weeks go on alike. Times are those of the clock on the wall: on the nights when clocks
#'   change nothing is won or lost.
#' @section Errors: `ensayo_error_argument` where a text cannot be read, or no day of the week is worked.
#' @seealso [lost_days()], [add_tasks()].
#' @examples
#' calendar("Mon-Fri", hours = "07:00-12:00, 13:00-16:00", holidays = "2027-12-24/2028-01-06")
#' calendar("Mon-Sat", lost = lost_days(law_pert(1, 4, 10), months = c(11, 12, 1, 2)))
#' @export
calendar <- function(days = "Mon-Fri", hours = NULL, holidays = NULL, worked = NULL, lost = NULL, closures = NULL) {
  week <- lapply(check_days(days), function(works) if (works) c(0, day_ms) else numeric())
  if (!is.null(hours)) week <- with_hours(week, hours)
  if (sum(lengths(week)) == 0) stop_argument("days", "at least one day that is worked", days)
  if (inherits(lost, "ensayo_lost_days")) lost <- list(lost)
  for (each in lost) if (!inherits(each, "ensayo_lost_days")) stop_argument("lost", "made by `lost_days()`", each)
  for (each in closures) if (!inherits(each, "ensayo_closed_days")) stop_argument("closures", "a list of what `closed_days()` makes", each)
  names <- if (length(closures)) check_new_names(closures, "closure") else character()
  structure(list(week = week, holidays = check_dates(holidays, "holidays"), worked = check_dates(worked, "worked"),
    lost = unname(lapply(lost, unclass)), closures = stats::setNames(lapply(closures, unclass), names),
    workday = max(vapply(week, spans_length, 0))), class = "ensayo_calendar")
}

day_ms <- 86400000

spans_length <- function(spans) if (length(spans) == 0) 0 else sum(spans[c(FALSE, TRUE)] - spans[c(TRUE, FALSE)])

#' Days that may be lost
#'
#' For [calendar()]: `lost_days()` are days of rain, frost or wind, how many in each month; `closed_days()` a time when nothing can be
#' done, such as a flood.
#'
#' @param days Law or number: how many days of work are lost in a month; of `closed_days()`, how many days in a row nobody works,
#'   Sundays included.
#' @param months Whole numbers from 1 to 12: the months of which that holds.
#' @return For [calendar()].
#' @section What is drawn: the number of days lost in each month by itself, in the five years from the start of the schedule, rounded to
#'   whole days, and which of the month's days of work they are; a closure's beginning, evenly over `within` days from `from` on, its length, and whether it comes.
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' lost_days(law_pert(1, 4, 10), months = c(11, 12, 1, 2))
#' closed_days(from = "2027-11-01", within = 120, days = law_uniform(3, 9), probability = 0.2)
#' @export
lost_days <- function(days, months = 1:12) {
  days <- check_amount(days, "days")
  if (!is.numeric(months) || length(months) == 0 || !all(months %in% 1:12)) stop_argument("months", "whole numbers from 1 to 12", months)
  structure(list(days = days, months = sort(unique(as.integer(months)))), class = "ensayo_lost_days")
}

#' @rdname lost_days
#' @param from Date or text: the first day on which it may begin.
#' @param within Number: over how many days from then on the beginning is spread; 0 for that very day.
#' @param probability Number from 0 to 1: how likely it is to come.
#' @export
closed_days <- function(from, days, within = 0, probability = 1) {
  from <- check_dates(from, "from")
  if (length(from) != 1) stop_argument("from", "one date", from)
  structure(list(from = from, days = check_amount(days, "days"), within = check_number(within, at_least = 0),
    probability = check_event_probability(probability)), class = "ensayo_closed_days")
}

#' Add calendars to a study
#'
#' @param .study A study.
#' @param ... Calendars by name, made by [calendar()]; tasks name them ([task()]). One of a name that is there takes its place.
#' @return The study with the calendars.
#' @section Errors: `ensayo_error_argument` for what is not a calendar.
#' @examples
#' study("Works") |>
#'   add_calendars(crew = calendar("Mon-Fri", hours = "07:00-12:00, 13:00-16:00")) |>
#'   add_tasks(dig = task(law_pert(8, 10, 18), calendar = "crew"), .start = "2027-03-01")
#' @export
add_calendars <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "error"), as.list)
  names <- check_new_names(given, "calendar", "every day")
  for (i in seq_along(given)) {
    if (!inherits(given[[i]], "ensayo_calendar")) stop_ensayo("argument", sprintf("Calendar %s must be made by `calendar()`.",
      quoted(names[i])), sprintf("You gave %s.", shown_value(given[[i]])), name = names[i])
    .study$calendars[[names[i]]] <- unclass(given[[i]])
  }
  if (length(.study$tasks)) with_tasks(.study) else .study
}

# Which of seven days, Monday first.
check_days <- function(days, arg = "days", call = rlang::caller_env()) {
  days <- check_string(days, arg, call = call)
  if (identical(tolower(trimws(days)), "every day")) return(rep(TRUE, 7))
  on <- rep(FALSE, 7)
  for (part in trimws(strsplit(days, "[,;]")[[1]])) {
    ends <- match(tolower(substr(trimws(strsplit(part, "-")[[1]]), 1, 3)), tolower(weekdays_short))
    if (length(ends) == 0 || length(ends) > 2 || anyNA(ends)) {
      stop_argument(arg, "days of the week such as \"Mon-Fri\" or \"Mon, Wed-Sat\"", days, call = call)
    }
    at <- if (length(ends) == 2 && ends[1] > ends[2]) c(ends[1]:7, 1:ends[2]) else ends[1]:ends[length(ends)]
    on[at] <- TRUE
  }
  on
}

with_hours <- function(week, hours, call = rlang::caller_env()) {
  if (!is.character(hours) || length(hours) == 0) stop_argument("hours", "texts such as \"07:00-16:00\"", hours, call = call)
  if (length(hours) > 1 && is.null(names(hours))) stop_argument("hours", "one text, or a text for each of some days", hours, call = call)
  for (i in seq_along(hours)) {
    spans <- read_hours(hours[[i]], call)
    at <- if (is.null(names(hours))) lengths(week) > 0 else check_days(names(hours)[i], "hours", call)
    week[at] <- list(spans)
  }
  week
}

read_hours <- function(text, call) {
  wrong <- function(why = NULL) stop_ensayo("argument", "`hours` must be from one time of the day to a later one, in order.",
    sprintf("You gave %s.", quoted(text)), "Such as \"07:00-12:00, 13:00-16:00\"; a night is \"00:00-06:00, 22:00-24:00\".",
    argument = "hours", call = call)
  parts <- trimws(strsplit(text, "[,;]")[[1]])
  found <- regmatches(parts, regexec("^([0-9]{1,2}):([0-5][0-9])\\s*-\\s*([0-9]{1,2}):([0-5][0-9])$", parts))
  if (length(found) == 0 || any(lengths(found) == 0)) wrong()
  spans <- as.double(unlist(lapply(found, function(x) {
    at <- as.double(x[-1])
    c(at[1] * 60 + at[2], at[3] * 60 + at[4]) * 60000
  })))
  if (is.unsorted(spans, strictly = FALSE) || any(spans[c(FALSE, TRUE)] <= spans[c(TRUE, FALSE)]) || max(spans) > day_ms) wrong()
  spans
}

# Dates, with stretches such as 2027-12-24/2028-01-06 written out.
check_dates <- function(x, arg, call = rlang::caller_env()) {
  if (is.null(x)) return(as.Date(character()))
  if (inherits(x, "Date")) {
    if (anyNA(x)) stop_argument(arg, "dates, none missing", x, call = call)
    return(sort(unique(x)))
  }
  if (!is.character(x)) stop_argument(arg, "dates, or texts such as \"2027-03-08\"", x, call = call)
  days <- lapply(trimws(unlist(strsplit(x, "[,;]"))), function(text) {
    ends <- lapply(trimws(strsplit(text, "/", fixed = TRUE)[[1]]), read_day)
    if (!length(ends) %in% 1:2 || anyNA(unlist(ends)) || ends[[length(ends)]] < ends[[1]] || diff(range(unlist(ends))) > 36600) {
      stop_ensayo("argument", sprintf("`%s` must be days that exist, such as 2027-03-08, or 2027-12-24/2028-01-06.", arg),
        sprintf("You gave %s.", quoted(text)), argument = arg, call = call)
    }
    seq(ends[[1]], ends[[length(ends)]], by = "day")
  })
  sort(unique(do.call(c, c(list(as.Date(character())), days))))
}

read_day <- function(text) {
  if (!grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", text)) return(as.Date(NA))
  as.Date(text, optional = TRUE, format = "%Y-%m-%d")
}

# A calendar as the core takes it (src/core/calendar.h): patterns, of which the first is a day off, and which of them each day from
# `zero` on has, a number of days since 1970.
calendar_table <- function(calendar, zero, days) {
  week <- calendar$week
  patterns <- unique(c(list(numeric()), week))
  longest <- which.max(vapply(patterns, spans_length, 0)) - 1L
  weekday <- (zero + 3 + seq_len(7) - 1) %% 7 + 1  # the first day of 1970 was a Thursday
  turned <- match(week[weekday], patterns) - 1L
  all <- rep_len(turned, days)
  at <- function(dates) {
    place <- as.double(dates) - zero + 1
    place[place >= 1 & place <= days]
  }
  all[at(calendar$holidays)] <- 0L
  all[at(calendar$worked)] <- longest
  list(patterns = lapply(patterns, as.double), days = all, week = turned, workday = calendar$workday)
}

whole_week <- function() list(week = rep(list(c(0, day_ms)), 7), holidays = as.Date(character()), worked = as.Date(character()),
  lost = list(), closures = list(), workday = day_ms)

#' @export
format.ensayo_calendar <- function(x, ...) {
  hours <- vapply(x$week, function(spans) paste(span_texts(spans), collapse = ", "), "")
  runs <- rle(hours)
  ends <- cumsum(runs$lengths)
  starts <- ends - runs$lengths + 1
  worked <- nzchar(runs$values)
  said <- sprintf("%s%s", ifelse(starts == ends, weekdays_short[starts], paste0(weekdays_short[starts], "-", weekdays_short[ends])),
    ifelse(runs$values == "00:00-24:00", "", paste0(" ", runs$values)))[worked]
  c(sprintf("Calendar: %s; a day of work is %s h", paste(said, collapse = ", "), format_given(x$workday / 3600000)),
    if (length(x$holidays)) sprintf("  without %s", count_of(length(x$holidays), "day")),
    if (length(x$worked)) sprintf("  and %s besides", count_of(length(x$worked), "day")),
    vapply(x$lost, function(lost) sprintf("  lost in a month, %s: %s days", paste(month.abb[lost$months], collapse = " "),
      amount_text(lost$days)), ""),
    vapply(x$closures, function(closed) sprintf("  closed from %s%s on, %s days, with a probability of %s", format(closed$from),
      if (closed$within > 0) sprintf(" and %s days", format_given(closed$within)) else "", amount_text(closed$days),
      amount_text(closed$probability)), ""))
}

span_texts <- function(spans) {
  clock <- function(ms) sprintf("%02d:%02d", as.integer(ms %/% 3600000), as.integer(ms %% 3600000 %/% 60000))
  if (length(spans) == 0) return(character())
  sprintf("%s-%s", clock(spans[c(TRUE, FALSE)]), clock(spans[c(FALSE, TRUE)]))
}

amount_text <- function(x) if (is_law(x)) format(x) else format_given(x)
