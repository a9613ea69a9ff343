# Recurrence rules of whole days (RFC 5545, section 3.3.10).

weekday_codes <- c("MO", "TU", "WE", "TH", "FR", "SA", "SU")

# RRULE as text: list(frequency, interval, count, until, months, month_days, year_days, weeks, weekdays, ordinals, positions, week_start).
read_recurrence <- function(text, place) {
  wrong <- function(why) stop_ensayo("file", sprintf("%s must be a rule that whole days can follow.", place), why,
    "Such as FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=25.")
  parts <- strsplit(strsplit(toupper(text), ";", fixed = TRUE)[[1]], "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) wrong(sprintf("It reads %s.", quoted(text)))
  values <- stats::setNames(lapply(parts, function(part) strsplit(part[2], ",", fixed = TRUE)[[1]]), vapply(parts, function(part) part[1], ""))
  known <- c("FREQ", "INTERVAL", "COUNT", "UNTIL", "BYMONTH", "BYMONTHDAY", "BYYEARDAY", "BYWEEKNO", "BYDAY", "BYSETPOS", "WKST")
  unknown <- setdiff(names(values), known)
  if (length(unknown)) wrong(sprintf("It has %s.", unknown[1]))
  numbers <- function(key, low, high) {
    given <- values[[key]]
    if (is.null(given)) return(NULL)
    x <- suppressWarnings(as.integer(given))
    if (anyNA(x) || any(abs(x) < low | abs(x) > high)) wrong(sprintf("%s is %s.", key, paste(given, collapse = ",")))
    x
  }
  frequency <- values[["FREQ"]]
  if (is.null(frequency) || !frequency %in% c("DAILY", "WEEKLY", "MONTHLY", "YEARLY")) {
    wrong(sprintf("FREQ is %s.", if (is.null(frequency)) "missing" else frequency))
  }
  by_day <- regmatches(values[["BYDAY"]] %||% character(), regexec("^([+-]?[0-9]+)?(MO|TU|WE|TH|FR|SA|SU)$", values[["BYDAY"]] %||% character()))
  if (any(lengths(by_day) == 0)) wrong(sprintf("BYDAY is %s.", paste(values[["BYDAY"]], collapse = ",")))
  ordinals <- vapply(by_day, function(x) if (nzchar(x[2])) as.integer(x[2]) else 0L, 0L)
  if (any(ordinals != 0) && frequency %in% c("DAILY", "WEEKLY")) wrong("Which weekday of a month or year makes sense in months and years alone.")
  week_start <- match(values[["WKST"]] %||% "MO", weekday_codes)
  if (is.na(week_start)) wrong(sprintf("WKST is %s.", values[["WKST"]]))
  list(frequency = frequency, interval = numbers("INTERVAL", 1, 10000) %||% 1L, count = numbers("COUNT", 1, 1e6),
    until = if (!is.null(values[["UNTIL"]])) ical_moment(values[["UNTIL"]], sprintf("%s, UNTIL", place))$day,
    months = numbers("BYMONTH", 1, 12), month_days = numbers("BYMONTHDAY", 1, 31), year_days = numbers("BYYEARDAY", 1, 366),
    weeks = numbers("BYWEEKNO", 1, 53), weekdays = match(vapply(by_day, function(x) x[3], ""), weekday_codes), ordinals = ordinals,
    positions = numbers("BYSETPOS", 1, 366), week_start = week_start)
}

# The days that a rule gives from `start` to `end`, `start` among them.
recurring_days <- function(rule, start, end) {
  if (!is.null(rule$until)) end <- min(end, rule$until)
  if (start > end) return(start[0])
  found <- c(start, if (rule$frequency == "DAILY") recurring_daily(rule, start, end) else recurring_in_periods(rule, start, end))
  if (is.null(rule$count)) found else utils::head(found, rule$count)
}

recurring_daily <- function(rule, start, end) {
  days <- seq(start, end, by = rule$interval)
  # each day is a set of its own
  alone <- is.null(rule$positions) || any(abs(rule$positions) == 1)
  days[alone & days > start & recurrence_keeps(days, rule, start)]
}

recurring_in_periods <- function(rule, start, end) {
  found <- start[0]
  period <- recurrence_begin(start, rule)
  while (period <= end && (is.null(rule$count) || length(found) < rule$count)) {
    days <- recurrence_days(period, rule, start)
    found <- c(found, days[days > start & days <= end])
    period <- recurrence_step(period, rule)
  }
  found
}

recurrence_begin <- function(day, rule) {
  at <- as.POSIXlt(day)
  switch(rule$frequency, WEEKLY = day - (day_of_week(day) - rule$week_start) %% 7, MONTHLY = first_of(at$year + 1900L, at$mon + 1L),
    YEARLY = first_of(at$year + 1900L, 1L))
}

recurrence_step <- function(period, rule) {
  at <- as.POSIXlt(period)
  months <- function(n) {
    m <- at$mon + n
    first_of(at$year + 1900L + m %/% 12L, m %% 12L + 1L)
  }
  switch(rule$frequency, WEEKLY = period + 7 * rule$interval, MONTHLY = months(rule$interval),
    YEARLY = months(12L * rule$interval))
}

first_of <- function(year, month) as.Date(sprintf("%04d-%02d-01", year, month))

day_of_week <- function(day) (as.double(day) + 3) %% 7 + 1  # Monday is 1; the first day of 1970 was a Thursday

# Whether each of some numbers is one of `asked`, those below 0 counted from the end of `size`.
counted_in <- function(x, size, asked) x %in% asked | (x - size - 1) %in% asked

# The days of one period that the rule gives, in order.
recurrence_days <- function(period, rule, start) {
  next_period <- recurrence_step(period, utils::modifyList(rule, list(interval = 1L)))
  days <- seq(period, next_period - 1, by = 1)
  days <- days[recurrence_keeps(days, rule, start)]
  if (!is.null(rule$positions)) days <- days[counted_in(seq_along(days), length(days), rule$positions)]
  days
}

# Which of the days of a period the rule keeps, positions apart.
recurrence_keeps <- function(days, rule, start) {
  at <- as.POSIXlt(days)
  month <- at$mon + 1L
  of_start <- as.POSIXlt(start)
  kept <- rep(TRUE, length(days))
  if (!is.null(rule$months)) kept <- kept & month %in% rule$months
  size <- as.double(next_month(days) - as.Date(sprintf("%04d-%02d-01", at$year + 1900L, month)))
  if (!is.null(rule$month_days)) kept <- kept & counted_in(at$mday, size, rule$month_days)
  if (!is.null(rule$year_days)) {
    year <- ifelse((at$year + 1900L) %% 4L == 0L & ((at$year + 1900L) %% 100L != 0L | (at$year + 1900L) %% 400L == 0L), 366L, 365L)
    kept <- kept & counted_in(at$yday + 1L, year, rule$year_days)
  }
  if (!is.null(rule$weeks)) kept <- kept & of_week(days, rule)
  if (length(rule$weekdays)) kept <- kept & on_weekday(days, at, size, rule)
  bare <- is.null(rule$month_days) && is.null(rule$year_days) && length(rule$weekdays) == 0
  if (bare) {
    kept <- kept & switch(rule$frequency, DAILY = TRUE, WEEKLY = day_of_week(days) == day_of_week(start), MONTHLY = at$mday == of_start$mday,
      YEARLY = if (!is.null(rule$weeks)) day_of_week(days) == day_of_week(start)
        else at$mday == of_start$mday & (if (is.null(rule$months)) month == of_start$mon + 1L else TRUE))
  }
  kept
}

# The first day of the month after.
next_month <- function(days) {
  at <- as.POSIXlt(days)
  m <- at$mon + 1L
  as.Date(sprintf("%04d-%02d-01", at$year + 1900L + m %/% 12L, m %% 12L + 1L))
}

# Weeks of the year are counted from the first that has four of its days (ISO 8601, for weeks that begin on any day).
of_week <- function(days, rule) {
  middle <- days - (day_of_week(days) - rule$week_start) %% 7 + 3
  at <- as.POSIXlt(middle)
  week <- at$yday %/% 7L + 1L
  # the last week with its middle day in the year
  size <- vapply(at$year + 1900L, function(year) {
    end <- as.Date(sprintf("%04d-12-31", year))
    back <- (day_of_week(end) - (rule$week_start + 2) %% 7 - 1) %% 7
    (as.POSIXlt(end)$yday - back) %/% 7 + 1
  }, 0)
  counted_in(week, size, rule$weeks)
}

# An ordinal counts weekdays in the month where the rule goes by months, or names them; else in the year.
on_weekday <- function(days, at, size, rule) {
  weekday <- day_of_week(days)
  in_month <- rule$frequency == "MONTHLY" || !is.null(rule$months)
  place <- if (in_month) at$mday else at$yday + 1L
  whole <- if (in_month) size else length(days)
  from_front <- (place - 1) %/% 7 + 1
  from_back <- -((whole - place) %/% 7 + 1)
  Reduce(`|`, Map(function(day, ordinal) weekday == day & (ordinal == 0 | from_front == ordinal | from_back == ordinal), rule$weekdays,
    rule$ordinals))
}
