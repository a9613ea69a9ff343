# What each day costs, told by days: of tasks of whole days that begin in the morning, with the days that a calendar works.
spent_by_days <- function(d, tasks, worked, steps) {
  paid <- matrix(0, nrow(d), length(steps))
  put <- function(run, day, amount) {
    k <- match(TRUE, as.double(steps) >= as.double(day))
    paid[run, k] <<- paid[run, k] + amount
  }
  for (name in names(tasks)) {
    for (run in seq_len(nrow(d))) {
      start <- d[[paste0(name, "[start]")]][run]
      finish <- d[[paste0(name, "[finish]")]][run]
      days <- seq(start, finish, by = 1)
      days <- days[worked(days, name)]
      task <- tasks[[name]]
      for (day in as.list(days)) put(run, day, task$per_day + if (task$paid == "spread") task$cost / length(days) else 0)
      if (task$paid != "spread") put(run, (if (task$paid == "start") start else finish) + task$lag, task$cost)
    }
  }
  paid
}

whole_days <- function(...) law_discrete(c(...))

cash_runs <- function(study, n) as.data.frame(simulate(study, n, 3, progress = NULL))

paying_study <- function(...) study() |> add_calendars(crew = calendar("Mon-Fri", holidays = "2027-03-08")) |>
  add_tasks(
    a = task(whole_days(2, 4, 7), cost_per_day = 3),
    b = task(whole_days(3, 5, 9), cost = 40, paid = "start"),
    c = task(whole_days(2, 6), after = "a, b", cost = 60, cost_per_day = 2, paid = "finish + 10 days"),
    d = task(whole_days(1, 3, 8), after = "a", cost = -70, paid = "finish", calendar = "every day"),
    e = task(whole_days(3, 5), after = "c, d SS + 2 days", cost = 30),
    .start = "2027-03-01", .calendar = "crew", ...)

test_that("what is spent in each period is what a count by days comes to", {
  res <- simulate(paying_study(), 200, 4, progress = NULL)
  d <- as.data.frame(res)
  tasks <- list(a = list(cost = 0, per_day = 3, paid = "spread"), b = list(cost = 40, per_day = 0, paid = "start", lag = 0),
    c = list(cost = 60, per_day = 2, paid = "finish", lag = 10), d = list(cost = -70, per_day = 0, paid = "finish", lag = 0),
    e = list(cost = 30, per_day = 0, paid = "spread"))
  worked <- function(days, name) name == "d" | !(format(days, "%u") %in% c("6", "7") | days == as.Date("2027-03-08"))
  for (by in c("day", "week", "month")) {
    money <- cash_flow(res, by)
    steps <- quantity_steps(money$study, "spent")
    paid <- spent_by_days(d, tasks, worked, steps)
    expect_equal(unname(run_column(money, "spending")), paid, tolerance = 1e-12)
    expect_equal(unname(run_column(money, "spent")), t(apply(paid, 1, cumsum)), tolerance = 1e-12)
  }
  expect_equal(rowSums(run_column(cash_flow(res, "week"), "spending")), d$project_cost)
  table <- as.data.frame(cash_table(res, "week", budget = 90, percentiles = c(25, 75)))
  spent <- run_column(cash_flow(res, "week"), "spent")
  expect_equal(table$chance, colMeans(spent > 90))
  expect_equal(table$ever, colMeans(t(apply(spent, 1, cummax)) > 90))
  expect_equal(table$spent_mean, colMeans(spent))
  expect_equal(table$spent_P75, apply(spent, 2, stats::quantile, 0.75, names = FALSE))
  need <- peak_need(cash_flow(res, "week"))
  expect_equal(need$median, stats::median(apply(spent, 1, max)))
  expect_identical(need$total, all(apply(spent, 1, max) == spent[, ncol(spent)]))
})

test_that("hours, ends of periods, delays and undated schedules", {
  one <- function(...) {
    study() |> add_inputs(x = law_uniform(0, 1)) |> add_calendars(crew = calendar("Mon-Fri", hours = "07:00-12:00, 13:00-16:00")) |>
      add_tasks(a = task(...), .start = "2027-03-05", .calendar = "crew") |> simulate(1, 1, progress = NULL)
  }
  spent <- function(res, ...) as.data.frame(cash_table(res, ...))[c("step", "base")]
  rows <- spent(one(1.5, cost = 30), "day")
  expect_equal(rows$base[rows$base > 0], c(20, 10))
  expect_identical(rows$step[rows$base > 0], as.Date(c("2027-03-05", "2027-03-08")))
  # a task that ends with the day is paid on that day, and what is paid at a start is paid on its first
  expect_identical(spent(one(1, cost = 5, paid = "finish"), "day")$step, as.Date("2027-03-05"))
  expect_identical(max(spent(one(1, cost = 5, paid = "finish + 30 days"), "day")$step), as.Date("2027-04-04"))
  expect_equal(spent(one(1, cost = 5, paid = "start"), "month")$base, 5)
  expect_equal(spent(one(0, cost = 5), "day")$base, 5)  # a milestone
  months <- spent(one(30, cost_per_day = 1), "month")
  expect_identical(months$step, as.Date(c("2027-03-31", "2027-04-30")))
  expect_equal(months$base, c(19, 11))
  expect_identical(spent(one(30, cost_per_day = 1), "quarter")$step, as.Date(c("2027-03-31", "2027-06-30")))
  undated <- study() |> add_tasks(a = task(law_uniform(3, 5), cost_per_day = 2), b = task(2, "a", cost = 7, paid = "finish")) |>
    simulate(50, 1, progress = NULL)
  table <- as.data.frame(cash_table(undated, by = 2))
  expect_equal(table$step, c(2, 4, 6, 8)[seq_len(nrow(table))])
  expect_equal(table$P50[1], 4)
  expect_equal(sum(table$mean), mean(as.data.frame(undated)$project_cost))
})

test_that("what the days of the project cost, and events on its cost, are paid in full", {
  days <- study() |> add_tasks(a = task(law_uniform(3, 9), cost = 5), .start = "2027-03-01", .cost_per_day = law_uniform(1, 2)) |>
    add_events(fine = event(0.5, 12, on = project_cost)) |> simulate(100, 1, progress = NULL)
  d <- as.data.frame(days)
  expect_equal(d$project_cost, 5 + d[["project_cost[per day]"]] * (as.double(d$project_finish - as.Date("2027-03-01")) + 1) + 12 * d[["fine[happened]"]])
  expect_equal(rowSums(run_column(cash_flow(days, "day"), "spending")), d$project_cost)
  absent <- study() |> add_events(leak = event(0.4, 0)) |> add_tasks(a = task(5), mend = task(3, "a", when = leak, cost = 8, cost_per_day = 2)) |>
    simulate(100, 1, progress = NULL) |> as.data.frame()
  expect_equal(absent[["mend[cost]"]], ifelse(absent[["leak[happened]"]], 14, 0))
})

test_that("costs are formulas, groups sum them, and files keep all of it", {
  works <- study("Works") |> add_inputs(length = law_uniform(90, 110)) |>
    add_tasks(a = task(law_uniform(3, 9), cost = 0.5 * length, paid = "finish + 1 day", group = "Earth"),
      b = task(2, "a", cost_per_day = law_uniform(2, 3), group = "Earth"), .start = "2027-03-01", .budget = 60, .currency = "kEUR",
      .cost_per_day = 0.5) |>
    add_outputs(share = cost(Earth) / project_cost)
  d <- cash_runs(works, 50)
  expect_equal(d[["Earth[cost]"]], 0.5 * d$length + 2 * d[["b[cost per day]"]])
  expect_equal(d$share, d[["Earth[cost]"]] / d$project_cost)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(works, file)
  again <- cash_runs(read_study(file), 50)
  expect_identical(again[names(d)], d)
  csv <- withr::local_tempfile(fileext = ".csv")
  write_tasks(works, csv)
  expect_identical(unclass(task_table(study() |> add_inputs(length = law_uniform(90, 110)) |> add_tasks(read_tasks(csv)))), unclass(task_table(works)))
  expect_true("in_budget" %in% names(works$specs))
  factor <- 2
  bound <- study() |> add_inputs(length = law_uniform(1, 2)) |> add_tasks(a = task(1, cost = length * factor))
  factor <- 5
  expect_equal(cash_runs(add_tasks(bound, b = task(1)), 10)[["a[cost]"]], 2 * cash_runs(bound, 10)$length)
})

test_that("bad costs and periods are told", {
  plain <- simulate(study() |> add_tasks(a = task(law_uniform(1, 2))), 10, 1, progress = NULL)
  expect_fault(cash_flow(plain), "argument", "costs")
  expect_fault(task(3, paid = "start"), "argument", "cost")
  expect_fault(task(3, cost = 2, paid = "monthly"), "argument", "finish + 30 days")
  expect_fault(study() |> add_tasks(a = task(3), .budget = 5), "argument", "costs")
  expect_fault(study() |> add_inputs(project_cost = 3) |> add_tasks(a = task(3, cost = 2)), "name", "project_cost")
  expect_fault(study() |> add_inputs(project_finish = 3) |> add_tasks(a = task(3)), "name", "project_finish")
  res <- simulate(paying_study(), 20, 1, progress = NULL)
  expect_fault(cash_flow(res, "fortnight"), "argument", "month")
  expect_fault(cash_flow(res, budget = c(5, 6)), "argument", "names")
  expect_fault(cash_flow(res, budget = c("2027-02-30" = 6)), "argument", "2027-02-30")
  expect_fault(write_result(cash_flow(res), withr::local_tempfile()), "argument", "cash_flow")
  expect_fault(cash_flow(cash_flow(res)), "argument", "cash_flow")
  own <- paying_study(.budget = 90) |> add_inputs(budget = law_uniform(80, 100), spent = 3) |> simulate(50, 1, progress = NULL)
  expect_true(all(c("spending", "cash_spent", "cash_budget") %in% series_names(cash_flow(own)$study)))
  expect_equal(as.data.frame(cash_table(own, "week"))[c("spent_mean", "chance")], as.data.frame(cash_table(simulate(paying_study(.budget = 90), 50, 1,
    progress = NULL), "week"))[c("spent_mean", "chance")])
  expect_s3_class(plot_cash_flow(own), "ggplot")
  steps <- as.data.frame(cash_table(res, "week", budget = c("2027-03-10" = 50, "2027-03-20" = 500)))
  expect_equal(steps$budget, c(0, 50, rep(500, nrow(steps) - 2)))
})

test_that("the base case is paid in full where no run lasts as long", {
  short <- study() |> add_tasks(a = task(law_uniform(2, 4), cost_per_day = 1)) |> set_base("a[duration]" = 30) |> simulate(20, 1, progress = NULL)
  expect_equal(max(as.data.frame(cash_table(short, by = 2))$spent_base), 30)
})

test_that("a run whose cost fails has no money at any step", {
  res <- study() |> add_inputs(x = law_uniform(-1, 1)) |> add_tasks(a = task(3, cost = sqrt(x)), b = task(2, "a", cost_per_day = 1)) |>
    simulate(100, 1, progress = NULL)
  spent <- run_column(cash_flow(res, by = 1), "spent")
  expect_identical(is.na(spent[, 1]), as.data.frame(res)$x < 0)
  expect_true(all(is.na(spent[is.na(spent[, 1]), ])))
  expect_true(all(is.finite(as.data.frame(cash_table(res, by = 1))$P50)))
})

test_that("the same money comes whatever the threads, the order of the tasks and the store", {
  res <- simulate(paying_study(), 500, 2, progress = NULL)
  folder <- withr::local_tempfile()
  write_result(res, folder)
  expect_identical(unclass(cash_table(read_result(folder), "week")), unclass(cash_table(res, "week")))
  some <- given(res, project_cost > 70)
  money <- cash_flow(some, "week")
  expect_equal(rowSums(run_column(money, "spending")), values_of(some, "project_cost"))
  expect_identical(run_column(given(cash_flow(res, "week"), project_cost > 70), "spent"), run_column(money, "spent")[, seq_len(
    ncol(run_column(given(cash_flow(res, "week"), project_cost > 70), "spent")))])
})
