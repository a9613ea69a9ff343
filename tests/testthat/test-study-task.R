# Tasks and calendars: what is described, files and tables, events on tasks, and what cannot be.

site <- function() {
  study("Works") |>
    add_calendars(crew = calendar("Mon-Fri", hours = "07:00-12:00, 13:00-16:00", holidays = "2027-03-08"),
      quarry = calendar("Mon-Thu", lost = lost_days(law_pert(0, 2, 6), months = 3:4), closures = list(flood = closed_days("2027-03-10",
        law_uniform(3, 6), within = 20, probability = 0.3)))) |>
    add_inputs(length = law_pert(180, 200, 260), rate = 20, wait = law_uniform(1, 3)) |>
    add_tasks(
      survey = task(law_pert(4, 5, 9), group = "ground"),
      dig = task(length / rate, after = "survey", group = "ground", calendar = "quarry", label = "Trench"),
      order = task(law_triangular(20, 25, 45), after = "survey SS + 50 %", calendar = "every day"),
      lay = task(8, after = "dig SS + 3 days, order, dig FF + wait", not_before = "2027-03-15", not_after = "2027-05-01"),
      test = task(law_uniform(1, 2), after = "ground, lay + 1 elapsed day"),
      ready = task(0, after = "test"),
      .start = "2027-03-01", .promised = "2027-05-14", .calendar = "crew"
    ) |>
    add_events(rock = event(0.3, law_pert(2, 5, 12), on = dig), strike = event(0.2, law_uniform(3, 9), on = c(dig, order), beside = TRUE),
      leak = event(0.25, 0)) |>
    add_tasks(repair = task(law_uniform(2, 4), after = "test", when = leak), open = task(0, after = "repair, ready"))
}

runs_of <- function(study, n = 400, seed = 3, ...) as.data.frame(simulate(study, n, seed, ..., progress = NULL))

test_that("tasks are quantities of the study, and formulas, specs and chances use them", {
  study <- site() |> add_outputs(gap = float(lay), took = finish(ground) - start(ground), late = finish(lay) > date("2027-04-20"),
    effort = duration(dig) * 3) |> add_specs(early = start(lay) <= date("2027-04-01"))
  res <- simulate(study, 400, 3, progress = NULL)
  d <- as.data.frame(res)
  expect_s3_class(d$project_finish, "Date")
  expect_identical(d$gap, d[["lay[float]"]])
  expect_equal(as.double(d$took), as.double(pmax(d[["survey[finish]"]], d[["dig[finish]"]]) - pmin(d[["survey[start]"]], d[["dig[start]"]])))
  expect_identical(d$late, as.double(d[["lay[finish]"]]) > as.double(as.Date("2027-04-20")))
  expect_equal(d$effort, 3 * d$length / 20)
  expect_setequal(names(study$specs), c("on_time", "lay_in_time", "early"))
  expect_equal(pass_rate(res)$pass_rate[1], mean(d$project_finish <= as.Date("2027-05-14")))
  expect_equal(chance(res, critical(order))$chance, mean(d[["order[critical]"]]))
  expect_equal(chance(res, finish(lay) <= !!as.Date("2027-04-20"))$chance, chance(res, finish(lay) <= date("2027-04-20"))$chance)
  # nothing starts on a day off, and what the links say holds
  expect_false(any(format(d[["lay[start]"]], "%u") %in% 6:7))
  expect_true(all(d[["lay[finish]"]] > d[["dig[finish]"]]))
  expect_false(any(format(d[["dig[start]"]], "%u") %in% 5:7))
  expect_setequal(summary(res)$output, c("project_finish", "gap", "took", "late", "effort"))
  expect_output(print(res), "Schedule")
  expect_output(print(study), "Tasks \\(8\\)")
})

test_that("events add to tasks, run beside them, or bring a task of their own", {
  d <- runs_of(site())
  plain <- d[["dig[duration]"]]
  expect_equal(d[["dig[work]"]], pmax(plain + d$rock, d$strike))
  expect_equal(d[["order[work]"]], pmax(d[["order[duration]"]], d$strike))
  happened <- d[["leak[happened]"]]
  expect_equal(d[["repair[work]"]], ifelse(happened, d[["repair[duration]"]], 0))
  expect_identical(d[["repair[finish]"]][!happened], d[["test[finish]"]][!happened])
  # an event that cannot happen changes nothing
  none <- runs_of(close_events(site(), rock = 0, strike = 0, leak = 0))
  plainly <- runs_of(remove_events(remove_tasks(site(), repair, open), rock, strike, leak))
  expect_identical(none$project_finish, plainly$project_finish)
  gains <- as.data.frame(schedule_gains(simulate(site(), 2000, 3, progress = NULL), "events"))
  expect_setequal(gains$name, c("rock", "strike", "leak"))
  without <- runs_of(close_events(site(), leak = 0), 2000)
  with <- runs_of(site(), 2000)
  expect_equal(gains$mean_gain[gains$name == "leak"], mean(as.double(with$project_finish - without$project_finish)), tolerance = 0.15)
})

test_that("durations are what they were when the task was added", {
  d <- 5
  study <- study() |> add_tasks(a = task(d), b = task(law_uniform(1, d), "a"))
  d <- 9
  again <- add_events(study, rock = event(0.5, 3, on = a))
  expect_identical(lapply(again$tasks, function(task) task$duration), list(a = 5, b = law_uniform(1, 5)))
  rate <- 2
  formula <- study() |> add_inputs(length = 20) |> add_tasks(a = task(length / rate))
  rate <- 4
  expect_equal(runs_of(add_tasks(formula, b = task(1, "a")), 5)$project_finish, rep(11, 5))
})

test_that("what events do to an input, a lag or a part of a task reaches the schedule", {
  study <- study() |> add_inputs(length = law_uniform(10, 20), wait = 2, spare = law_uniform(0, 1)) |>
    add_tasks(dig = task(length / 2), lay = task(3, "dig + wait")) |>
    add_events(rock = event(0.5, 8, on = length), frost = event(0.3, 4, on = wait), mud = event(0.4, percent_of(dig, 50), on = lay))
  d <- runs_of(study)
  expect_equal(d$project_finish, (d$length + d$rock) / 2 + 2 + d$frost + 3 + d$mud)
  expect_equal(d$mud[d[["mud[happened]"]]], 0.5 * (d$length / 2 + d$rock / 2)[d[["mud[happened]"]]])
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(study, file)
  expect_equal(runs_of(read_study(file))$project_finish, d$project_finish)
  writeLines(sub("^outputs:.*", "", readLines(file)), file)
  expect_equal(runs_of(read_study(file))$project_finish, d$project_finish)
  expect_equal(runs_of(rename_inputs(study, long = length, pause = wait))$project_finish, d$project_finish)
  gains <- as.data.frame(schedule_gains(simulate(study, 400, 3, progress = NULL), "events"))
  for (name in c("rock", "frost", "mud")) {
    without <- runs_of(close_events(study, !!name := 0))
    expect_equal(gains$mean_gain[gains$name == name], mean(d$project_finish - without$project_finish))
  }
})

test_that("parts of tasks are named in readings as they are in formulas", {
  res <- simulate(site(), 50, 1, progress = NULL)
  expect_identical(percentiles(res, 50, finish(lay))$output, "lay[finish]")
  expect_identical(percentiles(res, 50, c(finish(lay), "dig[start]"))$output, c("lay[finish]", "dig[start]"))
  expect_identical(unique(drivers(res, finish(lay))$output), "lay[finish]")
  expect_fault(percentiles(res, 50, finish(nothing)), "name", "nothing")
})

test_that("inputs of tasks are changed, held and given other base values, and stay so", {
  works <- study("Works") |> add_tasks(dig = task(law_uniform(5, 6), cost_per_day = law_uniform(1, 2)), .start = "2027-03-01")
  quick <- replace_inputs(works, "dig[duration]" = law_uniform(1, 2), "dig[cost per day]" = 3)
  expect_identical(quick[names(works)], replace_tasks(works, dig = task(law_uniform(1, 2), cost_per_day = 3))[names(works)])
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(add_tasks(quick, lay = task(2, "dig")), file)
  d <- runs_of(read_study(file), 20)
  expect_lt(max(d[["dig[duration]"]]), 2)
  expect_equal(d$project_cost, 3 * d[["dig[duration]"]])
  held <- fix_inputs(works, "dig[duration]" = 5.25) |> add_tasks(lay = task(2, "dig"))
  expect_identical(held$inputs[["dig[duration]"]]$fixed, 5.25)
  expect_equal(base_case(simulate(set_base(works, "dig[duration]" = 5.75) |> add_tasks(lay = task(2, "dig")), 5, 1, progress = NULL))$value[1], 5.75)
  expect_identical(replace_inputs(works, "dig[duration]" = 0)$models$schedule$plan$tasks$milestone, TRUE)
})

test_that("gains without an event are those of the runs without it and what needs it", {
  study <- study() |> add_tasks(dig = task(law_pert(8, 10, 18)), lay = task(law_pert(6, 8, 14), "dig SS + 2 days"), test = task(2, "lay")) |>
    add_events(rock = event(0.4, law_uniform(2, 9), on = dig), claim = event(0.5, 6, on = test, needs = rock),
      strike = event(rate = 0.8, impact = 3, on = c(dig, lay), beside = TRUE)) |> add_tasks(end = task(0, "test, dig"))
  res <- simulate(study, 3000, 3, progress = NULL)
  gains <- as.data.frame(schedule_gains(res, "events"))
  finish <- as.data.frame(res)$project_finish
  without <- list(rock = close_events(study, rock = 0), claim = close_events(study, claim = 0), strike = close_events(study, strike = 0))
  for (name in names(without)) {
    fresh <- runs_of(without[[name]], 3000)$project_finish
    row <- gains[gains$name == name, ]
    expect_equal(c(row$mean_gain, row$gain), c(mean(finish - fresh), percentile_values(finish, 80) - percentile_values(fresh, 80)))
  }
  expect_identical(schedule_gains(res, "events", percentile = 50)$percentile, rep(50, 3))
  tasks <- as.data.frame(schedule_gains(res, c("least", "certain")))
  least <- study |> replace_tasks(lay = task(min(as.data.frame(res)[["lay[duration]"]]), "dig SS + 2 days"))
  expect_equal(tasks$mean_gain[tasks$name == "lay" & tasks$kind == "least"], mean(finish - runs_of(least, 3000)$project_finish))
  expect_fault(schedule_gains(res, "longer"), "argument", "shorter")
})

test_that("closed days are days off, whichever way they are said", {
  closed <- function(...) study() |> add_calendars(crew = calendar("Mon-Sat", ...)) |>
    add_tasks(a = task(law_uniform(3, 30)), b = task(law_uniform(2, 9), "a SS + 2 days, a FF + 1 day"), .start = "2027-03-01", .calendar = "crew") |>
    runs_of(300)
  holidays <- closed(holidays = "2027-03-10/2027-03-16")
  expect_identical(closed(closures = list(flood = closed_days("2027-03-10", 7)))[names(holidays)], holidays)
  whole <- closed(holidays = "2027-04-01/2027-04-30")
  expect_identical(closed(lost = lost_days(40, months = 4))[names(whole)], whole)
  some <- closed(lost = lost_days(law_pert(0, 3, 9), months = 3:4))
  expect_true(all(some$project_finish >= closed()$project_finish))
  expect_gt(mean(as.double(some$project_finish - closed()$project_finish)), 2)
  likely <- closed(closures = list(flood = closed_days("2027-03-10", 7, probability = 0.25)))
  expect_equal(mean(likely[["crew[flood]"]] > 0), 0.25)
})

test_that("calendars count exactly", {
  crew <- unclass(calendar("Mon-Fri", hours = c("Mon-Thu" = "07:00-12:00, 13:00-16:00", Fri = "07:00-13:00"), holidays = "2027-03-08"))
  table <- calendar_table(crew, as.double(as.Date("2027-03-01")), 14)
  at <- function(what, x) cpp_calendar(table, what, x)
  expect_equal(at("done", c(0, 7.5 / 24, 12.5 / 24, 1, 5, 7, 8)), c(0, 0.5 / 8, 5 / 8, 1, 4 + 6 / 8, 4 + 6 / 8, 4 + 6 / 8))
  expect_equal(at("earliest", 1), 16 / 24)
  expect_equal(at("next", 1), 1 + 7 / 24)
  # over the holiday, and beyond the table, where the week goes on
  expect_equal(at("next", 4.75), 8 + 7 / 24)
  weeks <- 4.75 + 3.75 + 4.75 * 50
  expect_equal(at("earliest", weeks), 2 * 7 + 49 * 7 + 7 - 3 + 13 / 24)
  expect_equal(at("done", at("earliest", weeks)), weeks)
  expect_equal(at("done", -7 + 7.5 / 24), -4.75 + 0.5 / 8)
  expect_equal(unclass(calendar("every day"))$workday, 86400000)
})

test_that("schedules go to files and tables and come back the same", {
  study <- site() |> add_outputs(gap = float(lay))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(study, file)
  again <- read_study(file)
  d <- runs_of(study, 100)
  expect_identical(runs_of(again, 100)[names(d)], d)
  expect_identical(task_table(again), task_table(study))
  csv <- withr::local_tempfile(fileext = ".csv")
  plain <- study() |> add_tasks(a = task(law_pert(1, 2, 4), label = "First"), b = task(3, "a SS + 1.5 days, a FF - 2 hours", group = "g"),
    c = task(1, "g, b - 20 %", not_before = "2027-04-01", done = 0.5, started = "2027-03-02"), .start = "2027-03-01")
  write_tasks(plain, csv)
  expect_identical(task_table(add_tasks(study(), read_tasks(csv), .start = "2027-03-01")), task_table(plain))
  blank <- withr::local_tempfile(fileext = ".csv")
  write_tasks(study(), blank)
  expect_identical(nrow(read_tasks(blank)), 0L)
  writeLines(c("name,duration,low,most likely,high,low %,high %,shape,after,done", "a,,2,3,9,,,pert,,", "b,10,,,,-20,50,,a,",
    "c,,1,,4,,,,\"a SS + 1 day, b\","), csv)
  laws <- lapply(add_tasks(study(), read_tasks(csv))$inputs, function(input) input$law)
  expect_identical(laws[["a[duration]"]], law_pert(2, 3, 9))
  expect_equal(unname(support(laws[["b[duration]"]])), c(8, 15))
  expect_identical(laws[["c[duration]"]], law_uniform(1, 4))
  renamed <- rename_inputs(study, long = length, pause = wait)
  expect_identical(runs_of(renamed, 50)$project_finish, runs_of(study, 50)$project_finish)
  expect_fault(remove_inputs(study, wait), "name", "lay")
})

test_that("links are read as they are written", {
  texts <- c("dig", "dig SS", "dig FF + 2 days", "dig - 1 day", "dig + 3 elapsed days", "dig SS + 50 %", "dig - 20 %", "dig SF + 4 hours",
    "phase-1 + hardening", "dig FF - wait")
  expect_identical(vapply(texts, function(text) links_text(read_links(text)), "", USE.NAMES = FALSE), texts)
  expect_fault(task(1, after = "dig + 2"), "argument", "a number needs its unit")
  expect_fault(task(1, after = "dig + 2 weeks"), "argument", "elapsed days")
  expect_fault(task(1, after = "+ 2 days"), "argument", "a task is missing")
  expect_fault(task(1, after = "dig SS - 20 %"), "argument", "at least 0 %")
})

test_that("what cannot be is one clear error", {
  expect_fault(study() |> add_tasks(a = task(1, "b"), b = task(1, "c"), c = task(1, "a")), "cycle", "needs")
  expect_fault(study() |> add_tasks(dig = task(1), lay = task(1, "dgi")), "name", "dig")
  expect_fault(study() |> add_tasks(a = task(1, "a")), "cycle", "itself")
  expect_fault(task(1, not_before = "2027-02-30"), "argument", "exists")
  expect_fault(task(1, started = "2027-03-05", finished = "2027-03-01"), "argument", "finished before")
  expect_fault(calendar("Mon-Fri", hours = "16:00-07:00"), "argument", "later one")
  expect_fault(calendar("Mon-Fri", hours = "07:00-25:00"), "argument", "later one")
  expect_fault(calendar("Mon-Fri", holidays = "2027-02-29"), "argument", "exist")
  expect_fault(calendar("Mo-Xx"), "argument", "days of the week")
  expect_fault(calendar("Mon", hours = c(Tue = "07:00-07:00")), "argument")
  expect_fault(study() |> add_tasks(a = task(1, not_before = "2027-03-01")), "argument", "must have a start")
  expect_fault(study() |> add_tasks(a = task(1, calendar = "crw")) , "name", "calendar")
  expect_fault(study() |> add_tasks(a = task(-1)), "argument", "from 0 on")
  expect_fault(study() |> add_tasks(a = task(nothing / 3)), "name", "nothing")
  expect_fault(study() |> add_tasks(a = task(1, when = flood)), "name", "event")
  expect_fault(study() |> add_tasks(a = task(1), a = task(2)), "name")
  expect_fault(study() |> add_tasks(a = 3), "argument", "task()")
  expect_fault(site() |> add_outputs(x = finish(digg)), "formula", "dig")
  expect_fault(remove_tasks(site(), dig), "name", "dig")
  plain <- study() |> add_tasks(a = task(1), b = task(2))
  expect_fault(plain |> add_outputs(x = finish(b)) |> remove_tasks(b), "name", "`x` does")
  expect_fault(plain |> add_events(rock = event(0.1, 2, on = b)) |> remove_tasks(b), "name", "`rock` does")
  expect_named(remove_tasks(plain, b)$tasks, "a")
  expect_null(remove_tasks(plain, a, b)$models)
  expect_fault(plain |> add_events(rock = event(0.1, 2, on = bb)), "name", "task of the study")
  expect_fault(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x) |> add_specs(on_time = y < 1) |>
    add_tasks(a = task(1), .start = "2027-03-01", .promised = "2027-04-01"), "name", "on_time")
  few <- study() |> add_tasks(a = task(1), b = task(2, "a", not_after = "2027-03-09"), .start = "2027-03-01", .keep = a)
  expect_named(few$specs, "b_in_time")
  none <- study() |> add_tasks(a = task(1), b = task(2, "a"), .keep = a)
  expect_fault(add_outputs(none, x = finish(b)), "name", ".keep")
  expect_fault(replace_tasks(site(), digg = task(1)), "name", "dig")
  expect_fault(study() |> add_tasks(a = task(1, group = "g"), b = task(1, "g SS")), "argument", "finish of a group")
  expect_fault(schedule_table(simulate(study() |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = x), 10, 1, progress = NULL)), "argument",
    "must have tasks")
  expect_fault(slip_allowed(simulate(site(), 20, 1, progress = NULL), -1), "argument", "from 0 on")
})

test_that("a review finds what is wrong with a network", {
  bad <- study() |> add_tasks(a = task(20), b = task(3, "a + 8 days"), c = task(4, "b - 6 days"), d = task(2, "a SS"), e = task(2, "a SF"),
    f = task(3, "c", not_before = "2027-05-01"), C = task(4, "b - 6 days", label = "c"), .start = "2027-03-01")
  seen <- paste(as.data.frame(review(bad))$seen, collapse = " ")
  for (word in c("nothing after them", "wait of five days", "overlaps", "SF", "no range", "fixed date", "label and the links")) expect_match(seen, word)
  apart <- study() |> add_calendars(x = calendar("Mon"), y = calendar("Tue")) |> add_tasks(a = task(1, calendar = "x"), b = task(1, "a",
    calendar = "y"), .start = "2027-03-01")
  expect_match(paste(as.data.frame(review(apart))$seen, collapse = " "), "no day in common")
  idle <- study() |> add_calendars(crew = calendar("Mon-Fri")) |>
    add_tasks(a = task(law_uniform(10, 15), calendar = "crew"), b = task(law_uniform(3, 8)), c = task(law_uniform(9, 20)), end = task(0, "a, b, c"),
      .start = "2027-03-01")
  seen <- as.data.frame(review(idle))
  expect_identical(seen$about[grepl("critical path", seen$seen)], "b")
  res <- simulate(idle, 2000, 1, progress = NULL)
  expect_identical(with(as.data.frame(schedule_table(res)), name[critical %in% 0]), "b")
  dates <- study() |> add_tasks(a = task(law_uniform(2, 5), not_before = "2027-04-01"), b = task(3, "a", start_on = "2027-03-20"),
    c = task(4, "b", started = "2027-03-02"), .start = "2027-03-01")
  seen <- paste(as.data.frame(review(dates))$seen, collapse = " ")
  expect_match(seen, "on a day on which `a`, which it comes after, cannot be done", fixed = TRUE)
  expect_match(seen, "It was started before `b`, which it comes after, was finished", fixed = TRUE)
})

test_that("large schedules are built and run", {
  many <- stats::setNames(lapply(1:2000, function(i) task(1 + i %% 3, if (i > 1) sprintf("t%d", c(max(i - 1, 1), max(i %/% 2, 1))) |> unique() |>
    paste(collapse = ", "))), paste0("t", 1:2000))
  study <- study() |> add_tasks(!!!many)
  res <- simulate(study, 20, 1, progress = NULL)
  expect_equal(res$base$outputs$project_finish, sum(1 + 1:2000 %% 3))
  expect_length(res$study$models$schedule$gives, 1)
})
