plan_of_works <- function() study("Works") |> add_calendars(crew = calendar("Mon-Fri")) |> add_inputs(hardening = law_uniform(1, 3)) |>
  add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(10, 14, 30), calendar = "every day"), lay = task(law_pert(6, 8, 14), "dig, order"),
    test = task(2, "lay + hardening"), .start = "2027-03-01", .calendar = "crew") |>
  add_events(rock = event(0.4, law_uniform(2, 9), on = dig))
result_of <- function(study) simulate(study, 2000, 3, progress = NULL)
# The study with the events of another.
replace_events_as <- function(study, other) {
  study$events <- other$events
  with_events(study)
}
finish_percentile <- function(result, p = 80) percentile_values(schedule_pass(result)$exact, p)

test_that("one thing that changes is the whole change, and equals what simulating says", {
  from <- plan_of_works()
  changes <- list(dig = replace_tasks(from, dig = task(law_pert(6, 7, 10))), rock = close_events(from, rock = 0),
    hardening = replace_inputs(from, hardening = law_uniform(4, 9)))
  old <- result_of(from)
  for (name in names(changes)) {
    new <- result_of(changes[[name]])
    bridge <- as.data.frame(bridge_results(old, new, project_finish))
    expect_identical(bridge$name, c("project_finish", name, "project_finish"), label = name)
    expect_equal(bridge$change[2], finish_percentile(new) - finish_percentile(old))
    expect_equal(bridge$mean_change[2], mean(schedule_pass(new)$exact - schedule_pass(old)$exact))
    expect_identical(bridge$value[c(1, 3)], as.Date(c(as.data.frame(schedule_table(old))$finish_P80[5], as.data.frame(schedule_table(new))$finish_P80[5])))
  }
})

test_that("several changes add up, and each is the mean of both orders", {
  from <- plan_of_works()
  to <- from |> replace_tasks(dig = task(law_pert(6, 7, 10)), test = task(2, "lay + hardening, dig SS + 20 days")) |> close_events(rock = 0) |>
    add_tasks(paper = task(3, "test"))
  old <- result_of(from)
  new <- result_of(to)
  bridge <- as.data.frame(bridge_results(old, new, project_finish, percentile = 50))
  parts <- bridge[bridge$row == "part", ]
  expect_setequal(parts$name, c("(plan)", "dig", "rock"))
  expect_equal(sum(parts$change), finish_percentile(new, 50) - finish_percentile(old, 50))
  # the order of the work: the plan, what the tasks are, events; and the other way round
  states <- list(from, to |> replace_tasks(dig = from$tasks$dig |> structure(class = "ensayo_task")) |> replace_events_as(from),
    to |> replace_events_as(from), to)
  forward <- diff(vapply(states, function(study) finish_percentile(result_of(study), 50), 0))
  states <- list(from, from |> close_events(rock = 0), from |> close_events(rock = 0) |> replace_tasks(dig = task(law_pert(6, 7, 10))), to)
  back <- rev(diff(vapply(states, function(study) finish_percentile(result_of(study), 50), 0)))
  expect_equal(parts$change[match(c("(plan)", "dig", "rock"), parts$name)], (forward + back) / 2)
  expect_true(all(parts$error >= 0))
  title <- plot_bridge(bridge_results(old, new, project_finish))$labels$title
  expect_match(title, format(as.data.frame(schedule_table(new))$finish_P80[6]))
})

test_that("schedules without dates, nothing that moved, and results that share nothing", {
  plain <- study() |> add_tasks(a = task(law_uniform(2, 5)), b = task(law_uniform(1, 2), "a"))
  old <- result_of(plain)
  same <- as.data.frame(bridge_results(old, old, project_finish))
  expect_identical(same$row, c("from", "to"))
  expect_s3_class(plot_bridge(bridge_results(old, old, project_finish)), "ggplot")
  longer <- result_of(replace_tasks(plain, b = task(law_uniform(2, 4), "a")))
  moved <- as.data.frame(bridge_results(old, longer, project_finish))
  expect_identical(moved$unit[1], "days")
  expect_equal(moved$value[3] - moved$value[1], moved$change[2])
  expect_fault(bridge_results(old, simulate(plain, 500, 4, progress = NULL), project_finish), "argument", "same seed")
})
