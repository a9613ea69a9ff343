works <- function() {
  study("Works") |> add_inputs(days = law_pert(40, 60, 110), fee = law_uniform(1, 2)) |>
    add_outputs(finish = date("2027-03-01") + days, weeks = ceiling(days / 7))
}

test_that("days are known from a formula's shape", {
  start <- as.Date("2027-03-01")
  s <- works() |> add_outputs(
    later = max(finish, date("2027-05-01")), took = finish - start, also = if (finish > start) finish else start,
    cost = (finish - date("2027-01-01")) * fee, whole = floor(finish), last = as.Date("2027-12-31") - days)
  kinds <- vapply(s$outputs, function(output) output$kind %||% "", "")
  expect_identical(names(kinds)[kinds == "date"], c("finish", "later", "also", "whole", "last"))
  res <- quietly(s)
  days <- res$draws$days
  expect_equal(res$outputs$finish, as.double(start) + days)
  expect_equal(res$outputs$took, days)
  expect_equal(res$outputs$later, pmax(as.double(start) + days, as.double(as.Date("2027-05-01"))))
  expect_s3_class(as.data.frame(res)$finish, "Date")
  expect_type(as.data.frame(res)$took, "double")
})

test_that("days stand beside days alone", {
  expect_fault(works() |> add_outputs(late = finish > 20000), "formula", "Output `late`", "a date beside a number",
    "date(")
  expect_fault(works() |> add_outputs(two = finish + date("2027-01-01")), "formula", "two dates")
  expect_fault(works() |> add_outputs(x = if (days > 50) finish else days), "formula", "a date beside a number")
  expect_fault(works() |> add_specs(finish <= "2027-05-01"), "formula", "a date beside a text", "date(\"2027-05-01\")")
  expect_fault(chance(quietly(works()), finish > days), "formula", "a date beside a number")
  # long sums are walked in a loop
  long <- str2lang(paste(c("finish", rep("days", 400)), collapse = " + "))
  expect_identical((works() |> add_outputs(y = !!long))$outputs$y$kind, "date")
})

test_that("dates are read as days that occurred, and printed as dates", {
  res <- quietly(works(), 500)
  finish <- res$outputs$finish
  table <- percentiles(res, c(10, 50), finish)
  expect_identical(table$kind, c("date", "date"))
  expect_identical(table$value, as_day(quantile(finish, c(0.1, 0.5), type = 1)))
  expect_s3_class(c(table$low, table$high), "Date")
  expect_match(format(table)[2], format(as_day(table$value[1])), fixed = TRUE)
  row <- summary(res, outputs = finish)
  withr::local_options(cli.width = 400)
  expect_equal(row$sd, sd(finish))
  expect_match(paste(format(row), collapse = " "), format(as_day(row$max)), fixed = TRUE)
  expect_equal(as.double(row$mode), as.double(names(which.max(table(floor(finish))))))
  expect_identical(summary(res, outputs = weeks)$kind, "whole")
  expect_equal(chance(res, finish <= date("2027-05-01"))$chance,
    mean(floor(finish) <= as.double(as.Date("2027-05-01"))))
  on_the_day <- chance(res, finish == date("2027-05-01"), finish != date("2027-05-01"))$chance
  expect_equal(on_the_day[1], mean(floor(finish) == as.double(as.Date("2027-05-01"))))
  expect_equal(sum(on_the_day), 1)
  expect_match(format(res), "2027-0", all = FALSE)
  expect_true(is.na(expected_shortfall(res, finish)$shortfall))
  expect_equal(expected_shortfall(res, finish, reference = "base")$shortfall,
    mean(sort(finish, decreasing = TRUE)[1:25]) - res$base$outputs$finish)
})

test_that("dates and kinds keep through files", {
  dir <- withr::local_tempdir()
  s <- works() |> add_outputs(given = output(days + 20000, kind = "date", group = "ends")) |>
    add_readings(late = finish > date("2027-05-10"), .percentiles = c(20, 80), .planning = 90, .sense = "exceeded")
  s <- s |> add_outputs(over = if (finish > date("2027-05-01")) 1 else 0) |> add_specs(in_time = finish <= date("2027-05-20"))
  expect_match(study_lines(s), "finish <= date", fixed = TRUE, all = FALSE)
  expect_identical(spec_limits(s, "finish")$limit, as.double(as.Date("2027-05-20")))
  file <- file.path(dir, "s.yml")
  write_study(s, file)
  expect_identical(read_study(file), s)
  res <- quietly(s)
  write_result(res, file.path(dir, "r"))
  expect_identical(read_result(file.path(dir, "r"))$outputs, res$outputs)
  expect_fault(output(1 + 1, kind = "day"), "argument", "\"date\"")
})
