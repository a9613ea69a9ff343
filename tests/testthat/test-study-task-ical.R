ics <- function(..., env = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".ics", .local_envir = env)
  writeLines(c("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Valdehoz//Test//EN", ..., "END:VCALENDAR"), file, sep = "\r\n")
  file
}
event_of <- function(...) c("BEGIN:VEVENT", ..., "END:VEVENT")
todo_of <- function(...) c("BEGIN:VTODO", ..., "END:VTODO")

test_that("holidays are the days that events fill", {
  file <- ics(
    event_of("UID:1", "SUMMARY:New Year", "DTSTART;VALUE=DATE:20200101", "RRULE:FREQ=YEARLY"),
    event_of("UID:2", "SUMMARY:Feast\\, long", "DTSTART;VALUE=DATE:20270501", "DTEND;VALUE=DATE:20270504", "BEGIN:VALARM", "DTSTART:19990101",
      "END:VALARM"),
    event_of("UID:3", "SUMMARY;LANGUAGE=en:Feast of the sp", " ring", "DTSTART;TZID=\"Europe/Madrid\":20270610T000000", "DURATION:P2D", "RDATE:20270701T000000,20270702T000000"),
    event_of("UID:4", "SUMMARY:Moved", "DTSTART;VALUE=DATE:20270906", "RRULE:FREQ=WEEKLY;COUNT=3", "EXDATE;VALUE=DATE:20270920"),
    event_of("UID:4", "SUMMARY:Moved", "DTSTART;VALUE=DATE:20270914", "RECURRENCE-ID;VALUE=DATE:20270913"),
    event_of("UID:5", "SUMMARY:Off", "DTSTART;VALUE=DATE:20271111", "STATUS:CANCELLED"),
    event_of("UID:6", "SUMMARY:Afternoon", "DTSTART:20271224T120000", "DTEND:20271224T200000"))
  expect_warning(days <- read_holidays(file, "2027-01-01", "2028-12-31"), "One event of .* fills no whole day and is left out: `Afternoon`", class =
    "ensayo_warning_holidays")
  expect_identical(unname(format(days)), c("2027-01-01", "2027-05-01", "2027-05-02", "2027-05-03", "2027-06-10", "2027-06-11", "2027-07-01",
    "2027-07-02", "2027-07-03", "2027-09-06", "2027-09-14", "2028-01-01"))
  expect_identical(names(days)[c(1, 2, 5)], c("New Year", "Feast, long", "Feast of the spring"))
  expect_length(calendar(holidays = days)$holidays, 12)
  # an event that began before the first day that matters fills days after it
  expect_identical(suppressWarnings(format(unname(read_holidays(file, "2027-05-03", "2027-05-31")))), "2027-05-03")
})

test_that("a study file reads holidays of a file beside it, for its own years", {
  dir <- withr::local_tempdir()
  file.copy(ics(event_of("UID:1", "SUMMARY:Feast", "DTSTART;VALUE=DATE:20200308", "RRULE:FREQ=YEARLY")), file.path(dir, "feasts.ics"))
  writeLines(c("study: Works", "calendars:", "  crew: {days: Mon-Sun, holidays: [2027-03-05, feasts.ics]}", "schedule: {start: 2027-03-01, calendar: crew}",
    "tasks: {a: \"uniform(8, 8.5)\"}"), file.path(dir, "works.yml"))
  works <- read_study(file.path(dir, "works.yml"))
  expect_identical(format(as.data.frame(simulate(works, 5, 1, progress = NULL))[["a[finish]"]][1]), "2027-03-11")
  expect_identical(sum(works$calendars$crew$holidays >= as.Date("2027-01-01") & works$calendars$crew$holidays < as.Date("2028-01-01")), 2L)
})

test_that("tasks go to iCalendar and JSON and come back the same", {
  works <- study("Works") |> add_calendars(crew = calendar("Mon-Fri")) |> add_inputs(hardening = law_uniform(2, 3)) |>
    add_tasks(survey = task(law_pert(4, 5, 9), label = "Survey, with \u00e4\u00f6\u00fc; and a label that is so long that its line has to be folded twice or more \u2013 really so",
        note = "first\nsecond", started = "2027-03-01", done = 0.125, group = "Earth"),
      before = task(3, started = "2027-02-24", finished = "2027-02-26", group = "Earth"),
      order = task(law_triangular(20, 25, 45), after = "survey FF + 3 elapsed days, before", calendar = "every day", cost = law_pert(8, 10, 12), paid =
        "finish + 30 days"),
      lay = task(law_pert(6, 8, 14), after = "survey SS + 50 %, Earth, order - 2 days", cost_per_day = 2, not_after = "2027-05-01"),
      cure = task(hardening, "lay"), open = task(0, "cure + hardening"), .start = "2027-03-01", .status = "2027-03-03", .calendar = "crew")
  table <- unclass(task_table(works))
  for (ending in c(".ics", ".json", ".csv")) {
    file <- withr::local_tempfile(fileext = ending)
    write_tasks(works, file)
    back <- study() |> add_calendars(crew = calendar("Mon-Fri")) |> add_inputs(hardening = law_uniform(2, 3)) |>
      add_tasks(read_tasks(file), .start = "2027-03-01")
    expect_identical(unclass(task_table(back))[names(table)], unclass(task_table(works))[names(table)], label = ending)
  }
  file <- withr::local_tempfile(fileext = ".ics")
  write_tasks(works, file)
  bytes <- readBin(file, "raw", file.size(file))
  lines <- strsplit(rawToChar(bytes), "\r\n", fixed = TRUE)[[1]]
  expect_true(all(nchar(lines, "bytes") <= 75))
  expect_true(all(validUTF8(lines)))
  expect_true("RELATED-TO;RELTYPE=FINISHTOFINISH;GAP=P3D:survey" %in% lines)
  expect_true(all(c("PERCENT-COMPLETE:12", "STATUS:COMPLETED", "COMPLETED:20270226T000000Z") %in% lines))
  # dates are those of the base case, or of a percentile
  res <- simulate(works, 500, 1, progress = NULL)
  expect_true(paste0("DUE;VALUE=DATE:", format(as_day(res$base$outputs[["lay[finish]"]]), "%Y%m%d")) %in% lines)
  late <- withr::local_tempfile(fileext = ".ics")
  write_tasks(res, late, percentile = 80)
  p80 <- as.data.frame(schedule_table(res))
  expect_true(paste0("DUE;VALUE=DATE:", format(p80$finish_P80[p80$name == "lay"], "%Y%m%d")) %in% readLines(late))
  expect_fault(write_tasks(works, late), "file")
  expect_fault(write_tasks(works, late, overwrite = TRUE, percentile = 80), "argument", "percentile")
})

test_that("other programs' to-dos become tasks", {
  one <- ics(todo_of("UID:7f3a@x", "SUMMARY:Dig the trench", "DTSTART;VALUE=DATE:20270301", "DUE;VALUE=DATE:20270305", "CATEGORIES:Earth"),
    todo_of("UID:8b@x", "SUMMARY:2nd: lay pipes", "DURATION:P1DT12H", "RELATED-TO;RELTYPE=FINISHTOSTART;GAP=P2D:7f3a@x", "RELATED-TO:7f3a@x"),
    todo_of("UID:9@x", "SUMMARY:Dig the trench", "RELATED-TO;RELTYPE=DEPENDS-ON:8b@x", "STATUS:IN-PROCESS", "PERCENT-COMPLETE:40",
      "DTSTART;VALUE=DATE:20270310", "DUE;VALUE=DATE:20270312"),
    todo_of("UID:10@x", "SUMMARY:Done", "STATUS:COMPLETED", "COMPLETED:20270302T170000Z", "DTSTART;VALUE=DATE:20270301"))
  table <- as.data.frame(read_tasks(one))
  expect_identical(table$name, c("dig_the_trench", "task_2nd_lay_pipes", "dig_the_trench_1", "done"))
  expect_identical(table$duration, c("5", "1.5", "3", "0"))
  expect_identical(table$after, c("", "dig_the_trench + 2 elapsed days", "task_2nd_lay_pipes", ""))
  expect_identical(table$done, c("", "", "40 %", ""))
  expect_identical(table$finished[4], "2027-03-02")
  # dates say which way round relations are meant
  turned <- ics(todo_of("UID:a", "SUMMARY:First", "DTSTART;VALUE=DATE:20270301", "DUE;VALUE=DATE:20270302", "RELATED-TO;RELTYPE=FINISHTOSTART:b"),
    todo_of("UID:b", "SUMMARY:Second", "DTSTART;VALUE=DATE:20270303", "DUE;VALUE=DATE:20270304"))
  expect_identical(as.data.frame(read_tasks(turned))$after, c("", "first"))
})

test_that("faulty files are told", {
  expect_fault(read_holidays(ics(event_of("SUMMARY:x", "DTSTART:20270230")), "2027-01-01", "2027-12-31"), "file", "date that exists")
  expect_fault(read_holidays(ics(event_of("SUMMARY:x", "DTSTART:20270203", "RRULE:FREQ=SECONDLY")), "2027-01-01", "2027-12-31"), "file", "whole days")
  expect_fault(read_holidays(ics(event_of("SUMMARY:x")), "2027-01-01", "2027-12-31"), "file", "DTSTART")
  expect_fault(read_holidays(ics("BEGIN:VEVENT", "DTSTART:20270203"), "2027-01-01", "2027-12-31"), "file", "END")
  expect_fault(read_holidays(ics(), "2027-12-31", "2027-01-01"), "argument", "from")
  plain <- withr::local_tempfile(lines = "name,duration")
  expect_fault(read_holidays(plain, "2027-01-01", "2027-12-31"), "file", "iCalendar")
  expect_fault(read_tasks(ics()), "file", "VTODO")
  expect_fault(read_tasks(ics(todo_of("UID:a", "SUMMARY:x", "RELATED-TO;RELTYPE=FINISHTOSTART:nobody"))), "file", "nobody")
  expect_fault(read_tasks(ics(todo_of("UID:a", "SUMMARY:x", "DURATION:3 days"))), "file", "length of time")
  expect_fault(read_tasks(withr::local_tempfile(fileext = ".json", lines = "[1, 2]")), "file", "list of tasks")
  expect_fault(read_tasks(withr::local_tempfile(fileext = ".json", lines = "{")), "file", "JSON")
})
