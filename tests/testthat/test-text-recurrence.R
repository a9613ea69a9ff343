# The examples of RFC 5545, section 3.8.5.3, on days.
days_of <- function(rule, start, end = "2030-12-31") format(recurring_days(read_recurrence(rule, "a rule"), as.Date(start), as.Date(end)))
in_year <- function(year, ...) paste0(year, "-", c(...))

test_that("rules give the days of the standard's own examples", {
  expect_identical(days_of("FREQ=DAILY;COUNT=10", "1997-09-02"), in_year(1997, sprintf("09-%02d", 2:11)))
  expect_identical(days_of("FREQ=DAILY;INTERVAL=10;COUNT=5", "1997-09-02"), in_year(1997, "09-02", "09-12", "09-22", "10-02", "10-12"))
  expect_length(days_of("FREQ=DAILY;UNTIL=19971224T000000Z", "1997-09-02"), 114)
  every_january <- days_of("FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA", "1998-01-01")
  expect_identical(every_january, days_of("FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1", "1998-01-01"))
  expect_length(every_january, 93)
  expect_identical(days_of("FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH", "1997-09-02"),
    in_year(1997, "09-02", "09-04", "09-16", "09-18", "09-30", "10-02", "10-14", "10-16"))
  expect_identical(days_of("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO", "1997-08-05"), in_year(1997, "08-05", "08-10", "08-19", "08-24"))
  expect_identical(days_of("FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU", "1997-08-05"), in_year(1997, "08-05", "08-17", "08-19", "08-31"))
  expect_identical(days_of("FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "1997-09-05"), c(in_year(1997, "09-05", "10-03", "11-07", "12-05"),
    in_year(1998, "01-02", "02-06", "03-06", "04-03", "05-01", "06-05")))
  expect_identical(days_of("FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU", "1997-09-07"), c(in_year(1997, "09-07", "09-28", "11-02", "11-30"),
    in_year(1998, "01-04", "01-25", "03-01", "03-29", "05-03", "05-31")))
  expect_identical(days_of("FREQ=MONTHLY;COUNT=6;BYDAY=-2MO", "1997-09-22"), c(in_year(1997, "09-22", "10-20", "11-17", "12-22"),
    in_year(1998, "01-19", "02-16")))
  expect_identical(days_of("FREQ=MONTHLY;BYMONTHDAY=-3", "1997-09-28", "1998-02-28"), c(in_year(1997, "09-28", "10-29", "11-28", "12-29"),
    in_year(1998, "01-29", "02-26")))
  expect_identical(days_of("FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1", "1997-09-30"), c(in_year(1997, "09-30", "10-01", "10-31", "11-01", "11-30",
    "12-01", "12-31"), in_year(1998, "01-01", "01-31", "02-01")))
  expect_identical(days_of("FREQ=YEARLY;COUNT=10;BYMONTH=6,7", "1997-06-10"), as.vector(rbind(in_year(1997:2001, "06-10"), in_year(1997:2001, "07-10"))))
  expect_identical(days_of("FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200", "1997-01-01"), c(in_year(1997, "01-01", "04-10", "07-19"),
    in_year(2000, "01-01", "04-09", "07-18"), in_year(2003, "01-01", "04-10", "07-19"), in_year(2006, "01-01")))
  expect_identical(days_of("FREQ=YEARLY;BYDAY=20MO", "1997-05-19", "1999-12-31"), c("1997-05-19", "1998-05-18", "1999-05-17"))
  expect_identical(days_of("FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "1997-05-12", "1999-12-31"), c("1997-05-12", "1998-05-11", "1999-05-17"))
  expect_identical(days_of("FREQ=YEARLY;BYWEEKNO=20", "1997-05-12", "1999-12-31"), c("1997-05-12", "1998-05-11", "1999-05-17"))
  expect_identical(days_of("FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "1997-03-13", "1998-03-31"), c(in_year(1997, "03-13", "03-20", "03-27"),
    in_year(1998, "03-05", "03-12", "03-19", "03-26")))
  expect_identical(days_of("FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "1997-09-02", "2000-12-31")[-1], c("1998-02-13", "1998-03-13", "1998-11-13",
    "1999-08-13", "2000-10-13"))
  expect_identical(days_of("FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", "1996-11-05", "2004-12-31"),
    c("1996-11-05", "2000-11-07", "2004-11-02"))
  expect_identical(days_of("FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3", "1997-09-04"), in_year(1997, "09-04", "10-07", "11-06"))
  expect_identical(days_of("FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", "1997-09-29", "1998-03-31"), c(in_year(1997, "09-29", "10-30", "11-27",
    "12-30"), in_year(1998, "01-29", "02-26", "03-30")))
  expect_identical(days_of("FREQ=YEARLY", "2024-02-29", "2033-01-01"), c("2024-02-29", "2028-02-29", "2032-02-29"))
  expect_identical(days_of("FREQ=MONTHLY;BYMONTHDAY=31", "2027-01-31", "2027-07-01"), c("2027-01-31", "2027-03-31", "2027-05-31"))
})

test_that("weeks of the year are those of ISO 8601 where weeks begin on Monday", {
  days <- seq(as.Date("2020-01-01"), as.Date("2030-12-31"), by = 1)
  for (week in c(1, 2, 52, 53)) {
    told <- days_of(sprintf("FREQ=YEARLY;BYWEEKNO=%d;BYDAY=MO,TU,WE,TH,FR,SA,SU", week), "2020-01-01")
    expect_identical(setdiff(told, "2020-01-01"), setdiff(format(days[as.integer(format(days, "%V")) == week]), "2020-01-01"))
  }
})

test_that("rules that whole days cannot follow are told", {
  for (rule in c("FREQ=HOURLY", "FREQ=YEARLY;BYHOUR=3", "INTERVAL=2", "FREQ=WEEKLY;BYDAY=2MO", "FREQ=YEARLY;BYMONTH=13", "FREQ", "FREQ=DAILY;BYDAY=XX",
    "FREQ=DAILY;WKST=AA", "FREQ=DAILY;INTERVAL=0")) expect_fault(read_recurrence(rule, "a rule"), "file", "whole days")
})
