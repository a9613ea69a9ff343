# Schedules: exact truths, a plain calculation of every run tick by tick, and what must hold of any network.

truth_network <- function() {
  study() |> add_tasks(A = task(law_discrete(c(2, 4))), B = task(law_discrete(c(3, 5), c(2, 1))), C = task(law_discrete(1:3, c(1, 2, 1)), "A"),
    D = task(law_discrete(c(2, 6)), "A, B"), E = task(law_discrete(c(1, 4), c(3, 1)), "C, D"), F = task(law_discrete(c(5, 8)), "B"))
}

all_cases <- function(study) {
  laws <- lapply(study$inputs, function(input) points_of(input$law))
  values <- expand.grid(lapply(laws, function(points) points$values))
  shares <- Reduce(`*`, expand.grid(lapply(laws, function(points) points$shares)))
  list(values = lapply(values, as.double), shares = shares, n = length(shares))
}

test_that("a network with discrete durations is what complete enumeration says", {
  study <- truth_network()
  cases <- all_cases(study)
  model <- study$models$schedule
  places <- match(LETTERS[1:6], model$plan$names)
  made <- run_schedule(model, cases$values, cases$n, list(total = places, critical = places), paths = TRUE)
  p <- cases$shares
  expect_equal(as.vector(tapply(p, made$exact, sum)) * 192, c(24, 4, 27, 73, 12, 36, 8, 8))
  expect_equal(sum(p * made$exact), 715 / 64)
  expect_equal(vapply(made$critical, function(x) sum(p * x), 0), c(83 / 384, 7 / 8, 17 / 384, 83 / 192, 11 / 24, 5 / 8))
  for (k in 1:6) {
    less <- cases$values
    own <- sprintf("%s[duration]", LETTERS[k])
    less[[own]] <- less[[own]] * 0.9
    gained <- made$exact - run_schedule(model, less, cases$n)$exact
    expect_equal(sum(p * gained), c(1 / 20, 1157 / 3840, 1 / 640, 25 / 128, 3 / 32, 733 / 1920)[k])
  }
  for (path in unique(made$paths)) expect_true(all(diff(path) > 0))
})

test_that("a simulated network is read as enumeration says", {
  res <- simulate(truth_network(), 9600, 5, progress = NULL)
  table <- as.data.frame(schedule_table(res))
  row <- match(LETTERS[1:6], table$name)
  exact <- c(83 / 384, 7 / 8, 17 / 384, 83 / 192, 11 / 24, 5 / 8)
  expect_true(all(abs(table$critical[row] - exact) < 3 * sqrt(exact * (1 - exact) / 9600)))
  expect_equal(table$finish_P50[table$row == "project"], 11)
  expect_equal(table$finish_P80[table$row == "project"], 13)
  expect_lt(abs(mean(as.data.frame(res)$project_finish) - 715 / 64), 3 * sqrt(12999 / 4096 / 9600))
  slip <- as.data.frame(slip_allowed(res, c(0, 1)))
  expect_equal(slip$start_later[match(LETTERS[1:6], slip$name)], c(2, 0, 5, 1, 1, 0))
  expect_equal(slip$start_later[6 + match(LETTERS[1:6], slip$name)], c(3, 1, 6, 2, 2, 3))
  gains <- as.data.frame(schedule_gains(res))
  exact <- c(1 / 20, 1157 / 3840, 1 / 640, 25 / 128, 3 / 32, 733 / 1920)
  row <- match(LETTERS[1:6], gains$name)
  expect_true(all(abs(gains$mean_gain[row] - exact) < 3 * gains$mean_error[row] + 1e-9))
  paths <- as.data.frame(critical_paths(res))
  expect_equal(sum(paths$share), 1)
  expect_identical(sort(paths$path), c("A > C > E", "A > D > E", "B > D > E", "B > F"))
})

test_that("merge bias is that of the largest of independent paths", {
  paths <- stats::setNames(rep(list(task(law_exponential(1))), 10), paste0("path", 1:10))
  res <- simulate(study() |> add_tasks(!!!paths, end = task(0, paste(names(paths), collapse = ", "))), 40000, 2, progress = NULL)
  table <- as.data.frame(schedule_table(res))
  expect_lt(abs(mean(as.data.frame(res)$project_finish) - 7381 / 2520), 3 * sqrt(1.55 / 40000))
  # the median of the largest of ten, less that of one
  expect_equal(table$merge_delay[table$name == "end"], -log(1 - 0.5^(1 / 10)) - log(2), tolerance = 0.02)
})

test_that("a task that is never critical has no gain, whatever its correlation", {
  res <- study() |> add_inputs(x = law_discrete(0:2)) |>
    add_tasks(L = task(30 + 5 * x), P = task(15 + x), Q = task(25 + x, "P")) |> simulate(3000, 3, progress = NULL)
  table <- as.data.frame(schedule_table(res))
  expect_equal(table[table$name == "L", c("correlation", "critical", "cruciality")], data.frame(correlation = 1, critical = 0, cruciality = 0),
    ignore_attr = TRUE)
  gains <- as.data.frame(schedule_gains(res))
  expect_equal(gains$mean_gain[match(c("L", "P", "Q"), gains$name)], c(0, 8 / 5, 13 / 5), tolerance = 1e-9)
})

test_that("links and lags count in the calendars that they should", {
  plain <- function(...) {
    study <- study() |> add_calendars(week = calendar("Mon-Fri")) |> add_tasks(A = task(5), ..., .start = "2027-03-01", .calendar = "week")
    base <- simulate(study, 2, 1, progress = NULL)$base$outputs
    format(as_day(unlist(base[c("X[start]", "X[finish]")], use.names = FALSE)), "%m-%d")
  }
  expect_identical(plain(X = task(3, "A")), c("03-08", "03-10"))
  expect_identical(plain(X = task(3, "A + 2 days")), c("03-10", "03-12"))
  expect_identical(plain(X = task(3, "A + 2 elapsed days")), c("03-08", "03-10"))
  expect_identical(plain(X = task(3, "A + 3 elapsed days")), c("03-09", "03-11"))
  expect_identical(plain(X = task(3, "A - 1 day")), c("03-05", "03-09"))
  expect_identical(plain(X = task(4, "A FF + 1 day")), c("03-01", "03-08"))
  expect_identical(plain(X = task(4, "A SS + 50 %")), c("03-03", "03-09"))
  expect_identical(plain(X = task(3, "A", calendar = "every day")), c("03-06", "03-08"))
  expect_identical(plain(X = task(0, "A")), c("03-05", "03-05"))
  expect_identical(plain(X = task(4, "A - 50 %")), plain(X = task(4, "A SS + 50 %")))
  expect_identical(plain(X = task(3, "A", not_before = "2027-03-20")), c("03-22", "03-24"))
  expect_identical(plain(X = task(3, "A", finished = "2027-03-04")), c("03-04", "03-04"))
  expect_identical(plain(X = task(4, started = "2027-03-02", done = 0.5), Y = task(1, "X"), B = task(1)), c("03-02", "03-02"))
  early <- study() |> add_tasks(X = task(4, finished = "2027-02-24"), Y = task(2, "X"), .start = "2027-03-01")
  base <- simulate(early, 2, 1, progress = NULL)$base$outputs
  expect_identical(format(as_day(unlist(base[c("X[start]", "X[finish]", "Y[start]")], use.names = FALSE))), c("2027-02-24", "2027-02-24", "2027-03-01"))
  # with the status after the start, the rest begins there
  late <- study() |> add_calendars(week = calendar("Mon-Fri")) |> add_tasks(X = task(4, started = "2027-03-02", done = 0.5), .start = "2027-03-01",
    .status = "2027-03-08", .calendar = "week")
  expect_identical(format(as_day(simulate(late, 2, 1, progress = NULL)$base$outputs$project_finish)), "2027-03-09")
  # a task of six days every day from a Monday, then one on a weekday: one day of float, and critical
  float <- study() |> add_calendars(week = calendar("Mon-Fri")) |> add_tasks(A = task(6, calendar = "every day"), B = task(1, "A",
    calendar = "week"), .start = "2027-03-01")
  base <- simulate(float, 2, 1, progress = NULL)$base$outputs
  expect_equal(base[["A[float]"]], 1)
  expect_true(base[["A[critical]"]])
  # stretched, not unbroken (Wiest 1981)
  for (b in c(4, 10)) {
    chain <- study() |> add_tasks(A = task(10), B = task(b, "A FF"), C = task(10, "B SS"))
    expect_equal(simulate(chain, 2, 1, progress = NULL)$base$outputs$project_finish, 10)
  }
})

test_that("every run is what a plain calculation tick by tick says, with all links and calendars", {
  # `make test-long` looks at 1,000 networks, and the next test's 20
  faults <- unlist(lapply(1:12, schedule_faults))
  expect_identical(faults, NULL)
})

test_that("slip allowed is what simulating each delay says", {
  expect_identical(unlist(lapply(1:3, slip_faults)), NULL)
})

test_that("rows in another order change nothing, and longer tasks never finish earlier where links are finish to start", {
  for (seed in 101:112) {
    network <- random_network(seed, 15, "FS")
    study <- study_of_network(network, lapply(seq_len(15), function(i) law_uniform(0.5, 9)))
    first <- as.data.frame(simulate(study, 64, seed, progress = NULL))
    turned <- study
    turned$tasks <- rev(turned$tasks)
    again <- as.data.frame(simulate(with_tasks(turned), 64, seed, progress = NULL))
    expect_identical(again[names(first)], first)
    expect_gte(min(as.matrix(first[grep("float", names(first))])), 0)
    longer <- study
    longer$tasks$t3$duration <- 2 + law_uniform(0.5, 9)
    expect_true(all(as.data.frame(simulate(with_tasks(longer), 64, seed, progress = NULL))$project_finish >= first$project_finish))
  }
  expect_identical(as.data.frame(simulate(study, 600, 2, threads = 1, progress = NULL)), as.data.frame(simulate(study, 600, 2, progress = NULL)))
})

test_that("a run with work that is no number from 0 on has failed, and says so", {
  bad <- study() |> add_inputs(rate = law_uniform(-1, 4)) |> add_tasks(dig = task(rate), lay = task(2, "dig"))
  res <- simulate(bad, 500, 1, progress = NULL)
  failed <- failures(res)
  expect_equal(length(unique(failed$run)), 100)
  expect_match(failed$reason[1], "the work of task `dig`")
  expect_equal(min(as.data.frame(schedule_table(res))$base_finish), 1.5)
  expect_equal(nrow(schedule_gains(res)), 2)
})

test_that("a network of paths in a row and side by side is what convolution says", {
  days <- list(A = c(0.2, 0.5, 0.3), B = c(0.6, 0.4), C = c(0.1, 0.1, 0.3, 0.5), D = c(0.5, 0.5), E = c(0.3, 0.3, 0.4))  # of 1, 2, 3, ... days
  in_a_row <- function(p, q) vapply(seq_len(length(p) + length(q)), function(k) {
    first <- seq_along(p)[k - seq_along(p) >= 1 & k - seq_along(p) <= length(q)]
    sum(p[first] * q[k - first])
  }, 0)
  latest <- function(p, q) {
    n <- max(length(p), length(q))
    diff(c(0, cumsum(c(p, numeric(n - length(p)))) * cumsum(c(q, numeric(n - length(q))))))
  }
  exact <- in_a_row(latest(in_a_row(days$A, days$B), in_a_row(days$C, days$D)), days$E)
  law <- function(name) law_discrete(seq_along(days[[name]]), days[[name]])
  res <- study() |> add_tasks(A = task(law("A")), B = task(law("B"), "A"), C = task(law("C")), D = task(law("D"), "C"),
    E = task(law("E"), "B, D")) |> simulate(20000, 7, design = "random", progress = NULL)
  shares <- tabulate(as.data.frame(res)$project_finish, length(exact)) / 20000
  expect_equal(sum(exact), 1)
  expect_true(all(abs(shares - exact) <= 4 * sqrt(exact * (1 - exact) / 20000)))
})

test_that("leap days are days, and nights on which clocks change are like others", {
  ends <- function(start, days, ...) format(as_day(simulate(study() |> add_inputs(x = law_uniform(0, 1)) |>
    add_tasks(a = task(days, ...), .start = start), 1, 1, progress = NULL)$base$outputs$project_finish))
  expect_identical(ends("2028-02-28", 3), "2028-03-01")
  expect_identical(ends("2027-02-28", 3), "2027-03-02")
  expect_identical(ends("2096-02-28", 1461 * 4), "2112-02-28")  # 2100 is no leap year
  for (zone in c("Europe/Madrid", "America/New_York", "UTC")) {
    withr::local_timezone(zone)
    expect_identical(ends("2027-03-27", 3), "2027-03-29")
    expect_identical(ends("2027-10-30", 2.5), "2027-11-01")
    shift <- study() |> add_inputs(x = law_uniform(0, 1)) |> add_calendars(night = calendar("Mon-Sun", hours = "00:00-06:00, 22:00-24:00")) |>
      add_tasks(a = task(2, calendar = "night"), b = task(1, "a + 12 elapsed hours", calendar = "night"), .start = "2027-03-27")
    base <- simulate(shift, 1, 1, progress = NULL)$base$outputs
    expect_identical(format(as_day(c(base[["a[finish]"]], base[["b[start]"]]))), c("2027-03-28", "2027-03-29"))
  }
})
