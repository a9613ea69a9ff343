# Events: how often they happen, together and apart, what formulas see of them, files and registers.

works <- function() {
  study("Works") |>
    add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(560, 620, 800)) |>
    add_events(
      rock = event(0.3, percent_of(trench, law_pert(5, 10, 30)), unit = "kEUR", label = "Rock in the trench",
        response = response(cost = 6, probability = 0.05, label = "Trial pits")),
      burst = event(0.15, law_pert(20, 50, 120), category = "ground"),
      claims = event(rate = 2, impact = law_lognormal(mean = 4, sd = 6)),
      strike = event(0.4, list(cost = law_pert(2, 4, 9), weeks = law_uniform(1, 4)), needs = burst)
    ) |>
    add_outputs(cost = output(pipe + trench + sum(events) + sum(responses) + sum(events[cost]), unit = "kEUR"),
      weeks = 10 + sum(events[weeks]), hit = happened(rock) && happened(burst), ground_cost = sum(ground))
}

columns_of_events <- function(study, n, seed = 3, ...) as.data.frame(simulate(study, n, seed, ..., progress = NULL))

test_that("events happen as often as they are said to, and their impacts are what they are said to be", {
  d <- columns_of_events(works(), 4e4)
  happened <- function(name) d[[sprintf("%s[happened]", name)]]
  # a Latin hypercube meets a single probability to a run
  expect_equal(c(mean(happened("rock")), mean(happened("burst"))), c(0.3, 0.15), tolerance = 1e-4)
  expect_equal(mean(happened("claims")), 1 - exp(-2), tolerance = 1e-3)
  expect_lt(abs(mean(happened("strike")) - 0.06), 3 * sqrt(0.06 * 0.94 / 4e4))
  expect_true(all(happened("burst")[happened("strike")]))
  expect_identical(d$rock != 0, happened("rock"))
  expect_equal(d$rock[happened("rock")], (d$trench * d[["rock[impact]"]] / 100)[happened("rock")])
  expect_identical(d$hit, happened("rock") & happened("burst"))
  expect_identical(d$ground_cost, d$burst)
  expect_equal(d$cost, d$pipe + d$trench + d$rock + d$burst + d$claims + d[["strike[cost]"]])
  # one severity for both consequences
  both <- happened("strike")
  expect_equal(rank(d[["strike[cost]"]][both]), rank(d[["strike[weeks]"]][both]))
  each <- works() |> add_events(other = event(0.5, list(a = law_uniform(0, 1), b = law_uniform(0, 1)), severity = "each")) |>
    columns_of_events(2000)
  expect_lt(abs(stats::cor(each[["other[impact on a]"]], each[["other[impact on b]"]])), 0.1)
  expect_equal(columns_of_events(works(), 200, design = "random", threads = 1), columns_of_events(works(), 200, design = "random"))
})

test_that("exclusive events keep their probabilities and never meet; a common cause has the correlation that is stated", {
  apart <- study() |> add_inputs(base = 100) |>
    add_events(a = event(0.3, 10, excludes = b), b = event(0.25, 20, excludes = c(a, c)), c = event(0.45, 5, excludes = a)) |>
    add_outputs(total = base + sum(events))
  d <- columns_of_events(apart, 4e4)
  shares <- colMeans(d[sprintf("%s[happened]", c("a", "b", "c"))])
  expect_true(all(abs(shares - c(0.3, 0.25, 0.45)) < 3 * sqrt(0.25 / 4e4)))
  expect_identical(max(rowSums(d[sprintf("%s[happened]", c("a", "b", "c"))])), 1)
  # probabilities 0.1 and 0.2 and a normal copula with 0.5: both happen in 0.05149709
  both <- 0.05149709
  caused <- study() |> add_events(a = event(0.1, 1), b = event(0.2, 1)) |>
    add_common_cause(a, b, .correlation = (both - 0.02) / sqrt(0.09 * 0.16)) |> add_outputs(total = sum(events))
  score <- 2 * sin(pi / 6 * caused$correlations$r)
  expect_equal(score, 0.5, tolerance = 1e-5)
  for (design in c("latin", "random")) {
    d <- columns_of_events(caused, 4e4, design = design)
    expect_lt(abs(mean(d$total == 2) - both), 3 * sqrt(both / 4e4))
  }
  against <- study() |> add_events(a = event(0.5, 1), b = event(0.5, 1)) |> add_common_cause(a, b, .correlation = -1) |>
    add_outputs(total = sum(events))
  expect_true(all(columns_of_events(against, 1000)$total == 1))
})

test_that("a response changes runs in which the event happens and no others, and costs what it says", {
  before <- columns_of_events(works(), 4000)
  after <- columns_of_events(respond(works(), rock), 4000)
  same <- !before[["rock[happened]"]] | after[["rock[happened]"]]
  expect_identical(abs(after$cost - 6 - before$cost) < 1e-9, same)
  drawn <- setdiff(names(before), c("cost", "rock", "rock[happened]", "rock[response]", "hit", "sum(events)",
    "sum(responses)"))
  expect_identical(before[drawn], after[drawn])
  expect_true(all(before[["rock[happened]"]][after[["rock[happened]"]]]))
  expect_identical(respond(respond(works(), rock), burst) |> tryCatch(error = class) |> head(1), "ensayo_error_argument")
  # an event that is certain, or impossible, changes nothing else
  for (p in c(0, 1)) {
    other <- works() |> add_events(extra = event(p, 7)) |> columns_of_events(500)
    same <- works() |> columns_of_events(500)
    expect_identical(other$pipe, same$pipe)
    expect_identical(other$rock, same$rock)
    expect_true(all(other$extra == 7 * p))
  }
  expect_equal(other$cost, same$cost + 7)
  cheap <- works() |> add_events(leak = event(0.5, 10, response = response(cost = 3, impact = 4, when = "occurs"))) |> respond(leak) |>
    columns_of_events(500)
  expect_equal(cheap$leak, ifelse(cheap[["leak[happened]"]], 4, 0))
  expect_equal(cheap[["leak[response]"]], ifelse(cheap[["leak[happened]"]], 3, 0))
})

test_that("the base case holds no event that is less likely than not", {
  likely <- study() |> add_inputs(base = 100) |> add_events(a = event(0.4, 10), b = event(0.6, 20), c = event(rate = 0.2, impact = 5)) |>
    add_outputs(total = base + sum(events))
  res <- simulate(likely, 1000, 1, progress = NULL)
  expect_equal(contingency(res)$base[1], 120)
  expect_equal(base_case(res)$value[base_case(res)$name == "total"], 120)
  expect_identical(summary(res)$output, "total")
  expect_setequal(drivers(res)$input, c("a", "b", "c"))
})

test_that("events are replaced and taken out, and the others keep their draws", {
  before <- columns_of_events(works(), 500)
  after <- columns_of_events(works() |> replace_events(rock = event(0.5, 30)), 500)
  expect_identical(after[c("burst", "claims", "strike[cost]", "pipe")], before[c("burst", "claims", "strike[cost]", "pipe")])
  expect_true(all(after$rock[after[["rock[happened]"]]] == 30))
  expect_true(all(after[["rock[happened]"]][before[["rock[happened]"]]]))
  less <- columns_of_events(works() |> add_common_cause(burst, rock, .correlation = 0.1) |> remove_events(claims), 500)
  expect_identical(less$pipe, before$pipe)
  expect_false("claims" %in% names(less))
  expect_equal(less[["sum(events)"]], less$rock + less$burst)
  expect_fault(works() |> remove_events(burst), "name", "hit")
  expect_fault(works() |> remove_events(rock), "name", "hit")
  expect_fault(works() |> replace_events(rocks = event(0.1, 1)), "name", "rock")
  expect_fault(works() |> replace_events(rock = 3), "argument", "event()")
})

test_that("impacts may be put on an output, whose own formula is kept", {
  on <- study() |> add_inputs(base = law_uniform(90, 110)) |> add_outputs(total = base * 2) |>
    add_events(a = event(0.5, 10, on = total), b = event(0.5, percent_of(total_before, 10))) |> tryCatch(error = identity)
  expect_s3_class(on, "ensayo_error_name")
  on <- study() |> add_inputs(base = law_uniform(90, 110)) |> add_outputs(total = base * 2) |> add_events(a = event(0.5, 10, on = total))
  d <- columns_of_events(on, 100)
  expect_equal(d$total, 2 * d$base + d$a)
  expect_identical(output_record(on$outputs$total), "base * 2")
  d <- columns_of_events(on |> replace_outputs(total = base * 3), 100)
  expect_equal(d$total, 3 * d$base + d$a)
})

test_that("impacts may be put on an input, which formulas take with them", {
  on <- study() |> add_inputs(flow = input(law_uniform(90, 110), unit = "L/s"), price = 3) |> add_outputs(paid = flow * price) |>
    add_events(heat = event(0.5, percent_of(flow, 10), on = flow), fair = event(0.4, 7, on = flow)) |> add_outputs(half = flow / 2)
  d <- columns_of_events(on, 200)
  expect_equal(d$paid, 3 * (d$flow + d$heat + d$fair))
  expect_equal(d$half, (d$flow + d$heat + d$fair) / 2)
  expect_equal(range(d$heat / d$flow), c(0, 0.1))
  renamed <- rename_inputs(on, peak = flow)
  expect_equal(columns_of_events(renamed, 200)$paid, d$paid)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(renamed, file)
  expect_equal(columns_of_events(read_study(file), 200)$half, d$half)
  without <- columns_of_events(remove_events(renamed, heat, fair), 200)
  expect_equal(without$paid, 3 * d$flow)
  # base: neither event is likelier than not
  base <- base_case(simulate(on, 50, 1, progress = NULL))
  expect_equal(base$value[base$name == "paid"], 300)
  model <- study() |> add_inputs(flow = law_uniform(90, 110)) |> add_model(function(flow) list(level = flow / 2))
  expect_fault(add_events(model, heat = event(0.5, 7, on = flow)), "argument", "as it is drawn")
})

test_that("events go to files and registers and come back the same", {
  study <- works() |> add_events(a = event(0.1, 1, excludes = b), b = event(0.2, 2), c = event(law_pert(0.1, 0.2, 0.4), 3, owner = "Ana", note = "n")) |>
    add_common_cause(burst, c, .correlation = 0.2) |> respond(rock)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(study, file)
  again <- read_study(file)
  expect_equal(columns_of_events(again, 200)[names(columns_of_events(study, 200))], columns_of_events(study, 200))
  expect_identical(event_register(again), event_register(study))
  csv <- withr::local_tempfile(fileext = ".csv")
  single <- study() |> add_inputs(trench = 600) |> add_events(rock = event(0.3, percent_of(trench, law_pert(5, 10, 30)), owner = "Ana",
    response = response(6, 0.05, label = "Trial pits")), a = event(0.1, law_uniform(1, 2), needs = rock),
    b = event(rate = 0.2, impact = 2, response = response(law_uniform(1, 2), rate = 0.1, impact = 1, when = "occurs")), c = event(0.2, 5),
    d = event(0.3, 6), e = event(0.4, 7)) |>
    add_common_cause(c, d, .correlation = 0.4) |> add_common_cause(c, e, .correlation = -0.1) |> respond(b) |> close_events(rock = 31)
  expect_fault(write_events(works(), csv), "file", "several")
  write_events(single, csv)
  expect_identical(add_events(study() |> add_inputs(trench = 600), read_events(csv))$events, single$events)
  expect_identical(read.csv(csv, check.names = FALSE)$with[4], "d: 0.4; e: -0.1")
  blank <- withr::local_tempfile(fileext = ".csv")
  write_events(study(), blank)
  expect_identical(nrow(read_events(blank)), 0L)
  empty <- study() |> add_inputs(base = law_uniform(1, 2)) |> add_events(read_events(blank)) |> add_outputs(total = base + sum(events) + sum(responses))
  d <- columns_of_events(empty, 50)
  expect_identical(d$total, d$base)
  writeLines(c("name,label,probability,low,most likely,high,excludes", "a,First,15 %,1,2,5,b", "b,Second,0.2,3,,3,"), csv)
  filled <- study() |> add_events(read_events(csv))
  expect_identical(filled$events$a$probability, 0.15)
  expect_identical(filled$events$a$impacts[[1]]$amount, law_triangular(1, 2, 5))
  expect_identical(filled$events$b$impacts[[1]]$amount, 3)
})

test_that("what cannot be is told, with the row of a register", {
  expect_fault(event(15, 3), "argument", "write 0.15")
  expect_fault(event(impact = 3), "argument", "neither")
  expect_fault(event(0.5, 3, rate = 2), "argument", "both")
  expect_fault(event(0.5), "argument", "impact")
  expect_fault(event(law_uniform(0, 2), 3), "argument", "from 0 to 1")
  expect_fault(event(0.5, list(1, 2)), "argument", "name of its own")
  expect_fault(event(0.5, 3, response = 5), "argument", "response()")
  two <- list(cost = law_uniform(1, 2), weeks = 3)
  expect_fault(event(0.5, two, on = total), "argument", "several consequences")
  expect_fault(event(impact = two, rate = 2, severity = "each"), "argument", "severity")
  fault <- function(...) study() |> add_events(...)
  expect_fault(fault(a = event(0.5, 3, excludes = a)), "argument", "exclude itself")
  expect_fault(fault(a = event(0.5, 3, needs = a)), "argument", "need itself")
  expect_fault(fault(a = event(0.5, 3, needs = b), b = event(0.5, 3, needs = a)), "cycle", "circle")
  expect_fault(fault(a = event(0.5, 3, needs = bb), b = event(0.5, 3)), "name", "b")
  expect_fault(fault(a = event(0.6, 3, excludes = b), b = event(0.5, 3)), "argument", "1.1")
  expect_fault(fault(a = event(0.1, 3, excludes = b), b = event(0.2, 3, excludes = c), c = event(0.3, 3)), "argument", "`a` and `c`")
  expect_fault(fault(a = event(0.6, 3), b = event(0.1, 3)) |> add_common_cause(a, b, .correlation = 0.9), "correlation", "0.27")
  expect_fault(fault(a = 3), "argument", "event()")
  expect_fault(works() |> add_events(pipe = event(0.1, 1)), "name", "twice")
  expect_fault(works() |> remove_inputs(trench), "name", "rock")
  expect_fault(works() |> add_outputs(x = happened(rocks)), "formula", "rock")
  csv <- withr::local_tempfile(fileext = ".csv")
  row <- function(...) {
    writeLines(c("name,probability,impact", ...), csv)
    read_events(csv)
  }
  expect_fault(row("a,0.1,3", "b,15,3"), "argument", "row 2")
  expect_fault(row("a,0.1,3", "b,150 %,3"), "argument", "row 2")
  expect_fault(row("a,0.1,3", ",0.2,3"), "file", "row 2")
  expect_fault(row("a,0.1,3", "a,0.2,3"), "name", "rows 1 and 2")
  expect_fault(row("a,0.1,"), "file", "impact")
  writeLines(c("name,probabilty,impact", "a,0.1,3"), csv)
  expect_fault(read_events(csv), "file", "probability")
  # what stands before its events, and takes them one by one
  first <- study() |> add_inputs(base = 1) |> add_events(a = event(0.1, 1))
  expect_fault(first |> add_outputs(worst = max(events, 0)) |> add_events(b = event(0.1, 2)), "argument", "before")
  expect_fault(fault(a = event(0.3, 1, excludes = b), b = event(rate = 1, impact = 2)), "argument", "numbers as probabilities")
  many <- stats::setNames(rep(list(event(0.01, law_uniform(1, 2))), 1000), paste0("e", 1:1000))
  large <- study() |> add_inputs(base = 1) |> add_events(many) |> add_outputs(total = base + sum(events))
  expect_equal(mean(columns_of_events(large, 200)$total), 1 + 1000 * 0.01 * 1.5, tolerance = 0.05)
})

test_that("an event that is no amount of the total's has digits of its own", {
  res <- quietly(study() |> add_inputs(crop = input(law_pert(38, 52, 61), unit = "t")) |>
    add_events(hail = event(probability = 0.12, impact = law_uniform(0.2, 0.8)), fee = event(probability = 0.2, impact = 0.25), flood = event(probability = 0.3, impact = law_uniform(2, 8) * 1e4)) |>
    add_outputs(loss = output(crop * 1e5 * hail + flood + fee, unit = "EUR")), 2000)
  cells <- event_cells(res)
  hail <- match("hail", cells$event)
  expect_equal(as.double(cells$`when it happens`[hail]), event_table(res)$when_it_happens[hail], tolerance = 0.01)
  expect_match(cells$`P10 to P90`[hail], "^0[.]2[0-9]+ to 0[.]7[0-9]+$")
  expect_identical(cells$`when it happens`[match("fee", cells$event)], "0.25")
  # to one that is, the total's are enough
  flood <- match("flood", cells$event)
  expect_identical(cells$`when it happens`[flood], format_decimals(event_table(res)$when_it_happens[flood], output_decimals(res, "loss")))
})
