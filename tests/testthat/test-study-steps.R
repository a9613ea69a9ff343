# Models that go step by step, against the same written as a function of R, run by run.

tank_study <- function(.steps = 60, ...) {
  study("Tank") |>
    add_inputs(volume = law_uniform(300, 500), inflow = law_normal(47, 5), demand = law_pert(35, 45, 60), limit = 100) |>
    add_steps(
      use = demand * week,
      level = state(min(600, max(0, level + inflow - use + 30 * before(called, 4))), start = volume, unit = "m3", label = "Water"),
      called = state(if (level < limit && before(called, 3) == 0) 1 else 0, start = 0),
      spent = state(spent + called * 250, start = 0),
      .steps = .steps, .known = list(week = rep_len(c(1, 1, 1, 1, 1.1, 1.3, 1.2), if (length(.steps) == 1) .steps else length(.steps))), ...
    )
}

tank_by_hand <- function(volume, inflow, demand, steps) {
  week <- rep_len(c(1, 1, 1, 1, 1.1, 1.3, 1.2), steps)
  level <- volume
  spent <- 0
  calls <- rep(0, 4)
  path <- matrix(0, steps, 4)
  for (day in seq_len(steps)) {
    use <- demand * week[day]
    level <- min(600, max(0, level + inflow - use + 30 * calls[4]))
    called <- if (level < 100 && calls[3] == 0) 1 else 0
    calls <- c(called, calls[1:3])
    spent <- spent + called * 250
    path[day, ] <- c(use, level, called, spent)
  }
  path
}

test_that("a model that goes step by step has the bits of the same function run by run, whatever runs stand together", {
  n <- 700  # more than a block
  res <- quietly(tank_study(), n, 11)
  expect_identical(names(res$study$outputs), c("use", "level", "called", "spent"))
  runs <- as.data.frame(res)
  series <- lapply(c("use", "level", "called", "spent"), function(name) unname(output_values(res, name)))
  for (i in c(1, 2, 512, 513, 700)) {
    expect_identical(vapply(series, function(x) x[i, ], numeric(60)), tank_by_hand(runs$volume[i], runs$inflow[i], runs$demand[i], 60))
  }
  setting <- run_setting(1)
  setting$threads <- 1
  one <- study_evaluator(res$study, setting)
  columns <- c(lapply(res$store$columns[c("volume", "inflow", "demand")], function(x) x[513]), list(limit = 100))
  expect_identical(unname(one(columns, 513)$values$level), series[[2]][513, , drop = FALSE])
  expect_identical(output_values(quietly(tank_study(), n, 11), "level"), output_values(res, "level"))
  expect_output(print(res$study), "60 steps of 4 lines")
})

test_that("series of steps are read as any series, by formulas, specs and readings", {
  days <- seq(as.Date("2026-07-01"), by = "day", length.out = 30)
  s <- tank_study(days, .keep = level) |>
    add_outputs(lowest = min(level), low_on = first_step(level < 150, never = date("2026-08-01"))) |> add_specs(all(level > 20))
  res <- quietly(s, 300, 2)
  level <- output_values(res, level)
  expect_identical(colnames(level)[30], "2026-07-30")
  expect_identical(res$lowest, unname(apply(level, 1, min)))
  expect_equal(pass_rate(res)$pass_rate, mean(apply(level > 20, 1, all)))
  expect_equal(percentiles(res, 50, level, step = "2026-07-30")$value, unname(quantile(level[, 30], 0.5)))
  # what is not kept is calculated all the same
  expect_identical(unname(level), unname(output_values(quietly(tank_study(30), 300, 2), "level")))
  expect_identical(names(s$outputs), c("level", "lowest", "low_on"))
  renamed <- rename_inputs(s, supply = inflow)
  expect_identical(quietly(renamed, 300, 2)$lowest, res$lowest)
  expect_false(study_hash(s) == study_hash(tank_study(days, .keep = c(level, spent))))
})

test_that("of some lines the last value alone is kept", {
  s <- tank_study(30, .keep = level, .last = c(spent, called))
  res <- quietly(s, 600, 4)
  all <- quietly(tank_study(30), 600, 4)
  expect_identical(res$spent, output_values(all, spent, "last"))
  expect_identical(names(s$outputs), c("level", "called", "spent"))
  expect_identical(names(tank_study(30, .last = spent)$outputs), "spent")
  expect_identical(chance(res, spent > 0)$chance, mean(res$spent > 0))
  file <- withr::local_tempfile(fileext = ".yml")
  for (study in list(s, tank_study(30, .last = spent))) {
    write_study(study, file, overwrite = TRUE)
    expect_identical(read_study(file), study)
  }
  expect_fault(tank_study(30, .keep = level, .last = level), "name", "`level` is asked for twice")
})

test_that("one step, the step itself and texts are understood", {
  s <- study() |> add_inputs(a = law_normal(0, 1), soil = law_discrete(c("rock", "clay"), c(1, 2))) |>
    add_steps(x = state(x + step * (if (soil == "rock") 2 else 1), start = if (soil == "rock") 10 else a), .steps = 1)
  res <- quietly(s, 50, 1)
  expect_identical(as.double(output_values(res, x)), ifelse(res$soil == "rock", 12, res$a + 1))
  long <- study() |> add_inputs(a = law_normal(0, 1)) |> add_steps(total = state(total + a, start = 0), .steps = 100000, .keep = total)
  made <- output_values(quietly(long, 3, 1), total)
  expect_identical(dim(made), c(3L, 100000L))
  expect_equal(made[, 100000], 1e5 * quietly(long, 3, 1)$a, ignore_attr = TRUE)
  dated <- study() |> add_inputs(a = 1) |> add_steps(x = a * (step - date("2026-01-01")), .steps = as.Date("2026-01-01") + 0:2)
  expect_identical(as.double(output_values(suppressWarnings(quietly(dated, 2, 1)), x)[1, ]), c(0, 1, 2))
})

test_that("a run that fails at a step is told with the line, the step and where", {
  s <- study() |> add_inputs(a = law_uniform(-1, 1)) |>
    add_steps(s = state(s + a, start = 1), r = sqrt(s), .steps = 5) |> add_outputs(z = last(r))
  res <- quietly(s, 50, 1)
  failed <- failures(res)
  first <- ceiling(-1 / res$a)
  broken <- which(res$a < 0 & first <= 5 & 1 + first * res$a < 0)
  expect_identical(unique(failed$run), as.double(broken))
  row <- failed[failed$run == broken[1] & failed$output == "r", ]
  expect_identical(row$reason, "not a number (NaN) in `sqrt(s)`, in line `r`")
  expect_identical(row$step, format(first[broken[1]]))
  # the same fault at several steps is one reason
  expect_length(unique(failed$reason[failed$output == "r"]), 1)
  expect_gt(length(unique(failed$step[failed$output == "r"])), 1)
  expect_match(gsub("\\s+", " ", paste(format(res), collapse = " ")), "in line `r`, at [0-9] different steps")
  expect_match(format(run_details(res, broken[1])), sprintf("in line `r`, at step %d", first[broken[1]]), all = FALSE)
  dir <- withr::local_tempdir()
  write_result(res, dir)
  expect_identical(failures(read_result(dir)), failed)
  simulate_into(s, file.path(dir, "into"), 50, seed = 1, progress = NULL)
  expect_identical(failures(read_result(file.path(dir, "into"))), failed)
  expect_identical(failed$reason[failed$run == broken[1] & failed$output == "z"], "`r` failed")
  expect_true(all(is.na(output_values(res, s)[broken, ])))
  begun <- study() |> add_inputs(a = law_uniform(-1, 1)) |> add_steps(x = state(x, start = log(a)), .steps = 3)
  expect_match(failures(quietly(begun, 20, 1))$reason, "in the starting value of `x`", all = TRUE)
  missing <- study() |> add_inputs(a = law_uniform(-1, 1)) |> add_outputs(b = sqrt(a)) |> add_steps(x = state(x + b, start = 0), .steps = 3)
  expect_match(failures(quietly(missing, 20, 1))$reason[1:2], "NaN|`b` failed", all = TRUE)
})

test_that("what a line or its call must not be is said", {
  s <- study() |> add_inputs(a = 1, b = law_normal(0, 1))
  expect_fault(add_steps(s, x = y + 1, y = a, .steps = 3), "name", "`x`", "`y` stands below it")
  expect_fault(add_steps(s, x = x + 1, .steps = 3), "name", "uses itself", "state(x + 1, start = ...)")
  expect_fault(add_steps(s, x = a, y = before(x, 2), .steps = 3), "name", "starting value", "`x` has none")
  expect_fault(add_steps(s, x = state(x + before(x, 0), start = 1), .steps = 3), "formula", "at least 1")
  expect_fault(add_steps(s, x = state(before(a), start = 1), .steps = 3), "name", "`a` is none")
  expect_fault(add_steps(s, x = state(x), .steps = 3), "argument", "starting value")
  expect_fault(add_steps(s, x = state(x + 1, start = z), .steps = 3), "name", "`z`")
  expect_fault(add_steps(s, x = a, .steps = 0), "argument", ".steps")
  expect_fault(add_steps(s, x = a, .steps = c(2, 1)), "argument", "increasing order")
  expect_fault(add_steps(s, x = a), "argument", ".steps", "left out")
  expect_fault(add_steps(s, .steps = 3), "argument", "must have a line")
  expect_fault(add_steps(s, x = a * k, .steps = 3, .known = list(k = 1:2)), "argument", "`k`", "It has 2")
  expect_fault(add_steps(s, x = a, .steps = 2, .known = list(k = c(1, NA))), "argument", "`k`")
  expect_fault(add_steps(s, x = a, .steps = 2, .known = list(a = 1:2)), "name", "`a` is used twice")
  expect_fault(add_steps(s, a = 3, .steps = 3), "name", "`a` is used twice")
  expect_fault(add_steps(s, step = 3, .steps = 3), "name", "`step`")
  expect_fault(add_steps(s, x = rnorm(a), .steps = 3), "formula", "random")
  expect_fault(add_steps(s, x = gamma(a), .steps = 3), "formula", "compiled")
  own <- function(x) x + 1
  expect_fault(add_steps(s, x = own(a), .steps = 3), "formula", "`own` is a function of your own", "add_model")
  expect_fault(add_steps(s, x = cumsum(b), .steps = 3), "across_runs", "cumsum")
  expect_fault(add_steps(s, x = a, .steps = 3, .keep = w), "name", "`w`")
  expect_fault(add_outputs(s, y = before(b)), "formula", "`before`")
  both <- add_steps(s, x = a, .steps = 3)
  expect_fault(add_steps(both, y = a, .steps = 3), "name", "`steps` is taken", ".name")
})

test_that("a study file holds a model that goes step by step, and gives it back", {
  dir <- withr::local_tempdir()
  file <- file.path(dir, "tank.yml")
  writeLines(c("ensayo: 1", "study: Tank", "inputs:", "  volume: {law: uniform, min: 300, max: 500}", "  inflow: normal(47, 5)",
    "  demand: pert(35, 45, 60)", "models:", "  tank:", "    steps: {from: 2026-07-01, to: 2026-07-30}", "    known: {file: week.csv}",
    "    lines:", "      use: demand * week * growth",
    "      level: {state: \"min(600, max(0, level + inflow - use + 30 * before(called, 4)))\", start: volume, unit: m3, label: Water}",
    "      called: {state: \"if (level < 100 && before(called, 3) == 0) 1 else 0\", start: 0}", "    keep: [level]",
    "outputs:", "  growth: 1 + 0 * volume", "  lowest: min(level)", "specs:", "  never_empty: all(level > 0)", "run: {runs: 40, seed: 5}"), file)
  write.csv(data.frame(week = rep_len(c(1, 1, 1, 1, 1.1, 1.3, 1.2), 30)), file.path(dir, "week.csv"), row.names = FALSE)
  s <- read_study(file)
  res <- quietly(s, 40, 5)
  path <- tank_by_hand(res$volume[7], res$inflow[7], res$demand[7], 30)
  expect_identical(unname(output_values(res, level)[7, ]), path[, 2])
  copy <- file.path(dir, "copy.yml")
  write_study(s, copy)
  expect_identical(read_study(copy), s)
  expect_identical(study_hash(read_study(copy)), study_hash(s))
  expect_match(readLines(copy), "from: .2026-07-01", all = FALSE)
  for (steps in list(12, c(1, 2, 5.5), as.Date(c("2026-01-31", "2026-02-28")))) {
    other <- study("Other") |> add_inputs(a = 1) |> add_steps(x = state(x + a, start = 0), .steps = steps)
    write_study(other, copy, overwrite = TRUE)
    expect_identical(read_study(copy), other)
  }
  done <- call_cli("run", file)
  expect_identical(done$code, 0L)
  expect_match(call_cli("check", file)$output, "called +if \\(level < 100", all = FALSE)
  expect_identical(output_values(read_result(file.path(dir, "tank-result")), "level"), output_values(res, "level"))
  bad <- function(from, to, ...) {
    writeLines(sub(from, to, readLines(file), fixed = TRUE), copy)
    expect_fault(read_study(copy), ...)
  }
  bad("start: volume", "begin: volume", "file", "line `level`", "`begin`")
  bad(", start: volume", "", "file", "`state` and `start`")
  bad("to: 2026-07-30", "to: 2026-06-30", "file", "first step to a later one")
  bad("{from: 2026-07-01, to: 2026-07-30}", "20", "argument", "20 steps", "It has 30")
  bad("keep: [level]", "keep: [levl]", "name", "`levl`", "level")
  bad("demand * week", "demnd * week", "name", "Line `use`", "`demnd`")
  bad("use: demand", "used: demand", "name", "`use`")
})

test_that("a stock rule gives what counting all its cases gives", {
  # demand of each of two weeks kinds, whole numbers; ordered goods come two weeks later
  demand <- c(0, 2, 5)
  chances <- c(0.2, 0.5, 0.3)
  cases <- expand.grid(odd = demand, even = demand, lot = c(3, 6))
  weight <- chances[match(cases$odd, demand)] * chances[match(cases$even, demand)] * c(0.25, 0.75)[match(cases$lot, c(3, 6))]
  by_hand <- function(odd, even, lot) {
    stock <- 4
    ordered <- c(0, 0)
    cost <- 0
    short <- 0
    for (week in 1:8) {
      want <- if (week %% 2 == 1) odd else even
      have <- stock + ordered[2]
      short <- short + max(0, want - have)
      stock <- max(0, have - want)
      order <- if (stock < 3 && sum(ordered) == 0) lot else 0
      ordered <- c(order, ordered[1])
      cost <- cost + 0.5 * stock + 2 * order
    }
    c(cost = cost + 10 * short, short = short)
  }
  exact <- mapply(by_hand, cases$odd, cases$even, cases$lot)
  s <- study() |> add_inputs(odd = law_discrete(demand, chances), even = law_discrete(demand, chances), lot = law_discrete(c(3, 6), c(1, 3))) |>
    add_steps(
      want = if (step %% 2 == 1) odd else even,
      have = stock + before(ordered, 2),
      short = state(short + max(0, want - have), start = 0),
      stock = state(max(0, have - want), start = 4),
      ordered = state(if (stock < 3 && ordered + before(ordered, 2) == 0) lot else 0, start = 0),
      cost = state(cost + 0.5 * stock + 2 * ordered, start = 0),
      .steps = 8, .keep = c(short, cost)
    ) |>
    add_outputs(total = last(cost) + 10 * last(short), missed = last(short))
  res <- quietly(s, 4000, 3)
  found <- match(paste(res$odd, res$even, res$lot), paste(cases$odd, cases$even, cases$lot))
  expect_equal(res$total, exact["cost", found], ignore_attr = TRUE)
  expect_equal(res$missed, exact["short", found], ignore_attr = TRUE)
  expect_lt(abs(mean(res$total) - sum(weight * exact["cost", ])), 3 * sd(res$total) / sqrt(4000))
  expect_lt(abs(chance(res, missed > 0)$chance - sum(weight[exact["short", ] > 0])), 3 * chance(res, missed > 0)$error)
})

test_that("a year of twenty series, some of them correlated, is simulated piece by piece", {
  names <- paste0("x", 1:20)
  states <- stats::setNames(lapply(1:20, function(k) {
    bquote(state(.(as.name(paste0("s", k))) + .(as.name(names[k])), start = 0))
  }), paste0("s", 1:20))
  s <- study() |>
    add_inputs(!!!stats::setNames(rep(list(input(law_normal(10, 2), steps = 365)), 20), names)) |>
    add_correlation(x1, x2, 0.5) |> add_correlation(x3, x2, 0.3)
  s <- do.call(add_steps, c(list(s), states, list(.last = as.call(c(as.name("c"), lapply(names(states), as.name))))))
  res <- quietly(s, 10000)
  # sums of 365 draws
  expect_equal(unname(vapply(res$outputs, sd, 0)), rep(2 * sqrt(365), 20), tolerance = 0.03)
  expect_equal(cor(res$outputs$s1, res$outputs$s2), 0.5, tolerance = 0.08)
})
