# Cost trees: totals, ranges, allowances, currencies, files; tables, parts of a reserve, gains, bridges and forecasts.

tree <- function(...) {
  data.frame(code = c("1", "1.1", "1.2", "2", "2.1", "2.2", "3"), label = c("Pipes", "Main", "Valves", "Works", "Trench", "Road", "Site"),
    quantity = c(NA, "420", "12", NA, "400", NA, NA), price = c(NA, "pert(0.8, 0.9, 1.3)", "4", NA, "1.5", NA, NA),
    amount = c(NA, NA, NA, NA, NA, "pert(90, 100, 150)", NA), percent = c(rep(NA, 6), "8"), of = c(rep(NA, 6), "1; 2"),
    `low %` = c(NA, NA, -10, NA, -15, NA, NA), `high %` = c(NA, NA, 20, NA, 60, NA, NA), group = c(NA, "steel", "steel", NA, "ground", "ground", NA),
    check.names = FALSE, ...)
}
run <- function(study, n = 4000, seed = 11, ...) simulate(study, n, seed, ..., progress = NULL)

test_that("each code is the total of what stands under it, and items are what their figures say", {
  res <- run(study("Renewal") |> add_costs(tree(), .currency = "kEUR"))
  d <- as.data.frame(res)
  part <- function(code) d[[sprintf("costs[%s]", code)]]
  expect_equal(part("1"), part("1.1") + part("1.2"))
  expect_equal(part("3"), 0.08 * (part("1") + part("2")))
  expect_equal(d$costs, part("1") + part("2") + part("3"))
  expect_equal(part("1.1"), 420 * d[["costs[1.1 price]"]])
  expect_equal(range(part("1.2")) / 48, c(0.9, 1.2), tolerance = 0.01)
  expect_equal(as.double(res$base$outputs$costs), 1.08 * (420 * 0.9 + 48 + 600 + 100))
  expect_identical(summary(res)$output, "costs")
  # leaves are drivers, whatever they are calculated from
  expect_identical(drivers(res, costs)$input[1], "costs[2.1]")
  used <- study() |> add_costs(tree()) |> add_outputs(x = costs["2.1"] + costs[1.2] + costs)
  expect_setequal(used$outputs$x$formula$uses, c("costs[2.1]", "costs[1.2]", "costs"))
})

test_that("items of one group hang together, and currencies and price levels are converted by what is said", {
  together <- study() |> add_costs(tree(), .together = list(steel = 0.7)) |> run()
  expect_equal(cor(as.data.frame(together)[["costs[1.1]"]], as.data.frame(together)[["costs[1.2]"]], method = "spearman"), 0.7, tolerance = 0.02)
  mixed <- tree()
  mixed$currency <- c(NA, "kEUR", "USD", rep(NA, 4))
  mixed$`price level` <- c(NA, NA, NA, NA, "2024", NA, NA)
  expect_fault(study() |> add_costs(mixed), "argument", "currencies")
  expect_fault(study() |> add_costs(mixed, .currency = "kEUR"), "argument", "USD")
  expect_fault(study() |> add_costs(mixed, .currency = "kEUR", .rates = list(USD = 0.9), .price_level = "2026"), "argument", "2024")
  d <- as.data.frame(run(study() |> add_costs(mixed, .currency = "kEUR", .rates = list(USD = law_uniform(0.85, 0.95)), .price_level = "2026",
    .indices = list(`2024` = 1.05))))
  expect_equal(d[["costs[1.2]"]], 48 * d[["costs[1.2 range]"]] * d[["costs[USD]"]])
  expect_equal(d[["costs[2.1]"]], 600 * d[["costs[2.1 range]"]] * 1.05)
})

test_that("a tree goes to files and comes back the same", {
  first <- study("Renewal") |> add_costs(tree(), .currency = "kEUR", .together = list(steel = 0.4)) |>
    add_events(rock = event(0.3, percent_of("costs[2.1]", law_pert(5, 10, 30)), on = costs)) |> add_outputs(total = costs)
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(first, file)
  expect_identical(as.data.frame(run(read_study(file), 100)), as.data.frame(run(first, 100)))
  csv <- withr::local_tempfile(fileext = ".csv")
  write_costs(first, csv)
  expect_identical(cost_items(read_costs(csv)), first$costs$costs$items)
  blank <- withr::local_tempfile(fileext = ".csv")
  write_costs(study(), blank)
  expect_identical(nrow(read_costs(blank)), 0L)
  expect_identical(as.double(run(study() |> add_costs(read_costs(blank)) |> add_inputs(x = law_uniform(0, 1)) |> add_outputs(y = costs + x), 10)$base$outputs$costs), 0)
})

test_that("what cannot be is told, with its row", {
  fault <- function(changed, kind, text) {
    made <- tree()
    for (key in names(changed)) made[[key]][changed[[key]][[1]]] <- changed[[key]][[2]]
    expect_fault(study() |> add_costs(made), kind, text)
  }
  fault(list(code = list(3, "1.1")), "file", "rows 2 and 3")
  fault(list(code = list(3, "4.2")), "file", "no `4`")
  fault(list(amount = list(1, "50")), "file", "no costs of its own")
  fault(list(amount = list(2, "50")), "file", "more than one")
  fault(list(price = list(5, NA)), "file", "both `quantity` and `price`")
  fault(list(`high %` = list(3, NA)), "file", "both `low %`")
  fault(list(percent = list(7, NA)), "file", "none")
  fault(list(of = list(7, "1; 9")), "name", "9")
  fault(list(of = list(7, "3")), "cycle", "circle")
  fault(list(code = list(3, "1..2")), "file", "1.2.3")
  expect_fault(study() |> add_costs(cbind(tree(), colour = "red")), "file", "colour")
  expect_fault(study() |> add_costs(3), "argument", "data frame")
  expect_fault(cost_table(run(study() |> add_inputs(a = law_uniform(0, 1)) |> add_outputs(b = a), 20)), "argument", "must have costs")
})

test_that("a cost table shows why percentiles do not add up, and allotments that do", {
  res <- run(study("Renewal") |> add_costs(tree(), .currency = "kEUR") |> add_events(rock = event(0.3, 40)) |> add_outputs(total = costs + rock))
  table <- as.data.frame(cost_table(res))
  expect_identical(table$code, c("", tree()$code))
  top <- table$level == 1
  expect_equal(sum(table$mean[top]), table$mean[1])
  expect_equal(sum(table$P80[top]), table$sum_of_parts[1])
  expect_gt(table$sum_of_parts[1], table$P80[1])
  expect_equal(sum(table$allotment[top]), table$allotment[1], tolerance = 1e-9)
  expect_equal(table$allotment[1], table$P80[1] - table$base[1], tolerance = 1e-9)
  all <- as.data.frame(allotments(res, total))
  expect_equal(sum(all$allotment[all$level == 1]), all$allotment[1], tolerance = 1e-9)
  expect_equal(all$allotment[1], contingency(res)$contingency[contingency(res)$output == "total" & contingency(res)$percentile == 80], tolerance = 1e-9)
  # below the mean it is the lower tail
  low <- as.data.frame(allotments(res, total, percentile = 20))
  expect_equal(sum(low$allotment[low$level == 1]), low$allotment[1], tolerance = 1e-9)
})

test_that("allotments of normal parts are what is known of them, and their errors are right", {
  normal <- study() |> add_inputs(a = law_normal(10, 2), b = law_normal(20, 5), c = law_normal(30, 3)) |>
    add_correlation(a, b, 0.5, kind = "score") |> add_correlation(b, c, -0.6, kind = "score") |> add_outputs(t = a + b + c)
  exact <- c(4.60974935, 1.3829248, 3.2268245, 0)
  found <- lapply(100 + 1:60, function(seed) as.data.frame(allotments(simulate(normal, 2000, seed, design = "random", progress = NULL), t)))
  values <- vapply(found, function(table) table$allotment, numeric(4))
  expect_true(all(abs(rowMeans(values) - exact) < 4 * apply(values, 1, sd) / sqrt(60) + 0.02))
  ratio <- apply(values, 1, sd) / rowMeans(vapply(found, function(table) table$error, numeric(4)))
  expect_true(all(ratio > 0.7 & ratio < 1.4), label = paste(round(ratio, 2), collapse = " "))
})

test_that("gains are those of fresh runs without the event, and exact for two yes-or-no events", {
  two <- study() |> add_inputs(base = 100) |> add_events(a = event(0.3, 10), b = event(0.25, 20)) |> add_outputs(cost = base + sum(events))
  gains <- as.data.frame(removal_gain(run(two, 10000), cost, cost <= 115))
  expect_identical(gains$name, c("b", "a"))
  expect_equal(gains$gain, c(10, 0))
  expect_equal(gains$mean_gain, c(5, 3), tolerance = 1e-3)
  expect_equal(gains$chance_gain, c(0.25, 0), tolerance = 1e-2)
  works <- study() |> add_inputs(pipe = law_pert(370, 410, 520), road = input(law_pert(100, 120, 180), group = "roads")) |>
    add_events(rock = event(0.3, percent_of(pipe, law_pert(5, 10, 30)), category = "ground", response = response(6, probability = 0.1)),
      flood = event(0.1, 80), claims = event(rate = 1.5, impact = law_lognormal(mean = 6, sd = 6)), late = event(0.5, 15, needs = rock)) |>
    add_outputs(cost = (pipe + road) * 1.02 + sum(events) + sum(responses))
  res <- run(works, 20000, design = "random")
  gains <- as.data.frame(removal_gain(res, cost, of = c("events", "inputs", "groups", "responses")))
  q <- function(study, seed = 99) {
    x <- simulate(study, 40000, seed, design = "random", progress = NULL)
    c(percentiles(x, 80)$value[1], mean(as.data.frame(x)$cost))
  }
  whole <- q(works)
  without <- list(rock = works |> close_events(rock = 0), flood = works |> close_events(flood = 0), claims = works |> close_events(claims = 0),
    pipe = works |> fix_inputs(pipe), roads = works |> fix_inputs(road), response = works |> respond(rock))
  for (name in names(without)) {
    row <- if (name == "response") gains[gains$kind == "response", ] else gains[gains$name == name & gains$kind != "response", ][1, ]
    fresh <- whole - q(without[[name]])
    expect_lt(abs(row$gain - fresh[1]), 4 * row$error * sqrt(1.5) + 0.3, label = name)
    expect_lt(abs(row$mean_gain - fresh[2]), 4 * row$mean_error * sqrt(1.5) + 0.3, label = name)
  }
  expect_equal(gains$cost[gains$name == "rock" & gains$kind == "event"], 6)
  expect_fault(removal_gain(res, cost, pipe > 400), "argument", "alone")
  expect_fault(removal_gain(res, cost, of = "all"), "argument", "events")
})

test_that("intervals of gains hold what fresh runs say", {
  for (kind in c("sum", "product")) {
    held <- gain_coverage(gain_studies()[[kind]], c(sum = 1200, product = 470)[[kind]], 1:12, 2000, 1e5)
    expect_gte(mean(as.matrix(held)), 0.9)
  }
})

test_that("gains reach what is calculated: causes, cost groups, responses paid where they happen, runs that are chosen", {
  frost <- study() |> add_inputs(base = law_uniform(90, 110)) |> add_costs(tree()) |>
    add_events(ice = event(0.3, 40), slip = event(0.2, 30), dust = event(0.25, 20, response = response(law_uniform(5, 9), probability = 0.05,
      when = "occurs"))) |>
    add_common_cause(ice, slip, .correlation = 0.5) |>
    add_outputs(cost = base + costs + sum(events) + sum(responses))
  res <- run(frost)
  d <- as.data.frame(res)
  gains <- as.data.frame(removal_gain(res, cost, of = c("causes", "groups", "events", "responses")))
  row <- function(name, kind) gains[gains$name == name & gains$kind == kind, ]
  p80 <- function(x) percentile_values(x, 80)
  cause <- row("ice + slip", "cause")
  expect_equal(c(cause$gain, cause$mean_gain), c(p80(d$cost) - p80(d$cost - d$ice - d$slip), mean(d$ice + d$slip)))
  expect_equal(cause$happens, mean(d$ice != 0 | d$slip != 0))
  # without ranges, steel is what the plan says; the allowance of all items goes with it
  steel <- 1.08 * (d[["costs[1]"]] - 420 * 0.9 - 48)
  expect_setequal(gains$name[gains$kind == "group"], c("steel", "ground"))
  expect_equal(row("steel", "group")$gain, p80(d$cost) - p80(d$cost - steel))
  answered <- as.data.frame(run(frost |> respond(dust)))
  expect_equal(c(row("dust", "response")$gain, row("dust", "response")$mean_gain),
    c(p80(d$cost) - p80(answered$cost), mean(d$cost - answered$cost)))
  hard <- given(res, happened(ice))
  kept <- d[["ice[happened]"]]
  few <- as.data.frame(removal_gain(hard, cost, of = c("events", "responses")))
  expect_equal(few$mean_gain[few$name == "ice"], 40)
  expect_equal(few$mean_gain[few$kind == "response"], mean((d$cost - answered$cost)[kept]))
  # a family of one is a part like any other
  one <- study() |> add_inputs(base = law_uniform(90, 110)) |> add_events(ice = event(0.3, 40)) |> add_outputs(cost = base + sum(events))
  expect_true("ice" %in% as.data.frame(allotments(run(one), cost))$name)
  # all under one code; the total, the only output that is not a part, need not be named
  root <- run(study() |> add_costs(data.frame(code = c("1", "1.1", "1.2"), amount = c(NA, 100, 50), `low %` = c(NA, -10, -20),
    `high %` = c(NA, 30, 60), check.names = FALSE)))
  expect_fault(allotments(root, cost), "name", "`costs`")
  expect_fault(allotments(root, nothing), "name", "Known: `costs`, `costs[1")
  shared <- as.data.frame(allotments(root))
  expect_identical(shared, as.data.frame(allotments(root, costs)))
  expect_identical(shared$name, c("costs", "costs[1]", "costs[1.1]", "costs[1.2]"))
  expect_equal(sum(shared$allotment[3:4]), shared$allotment[1], tolerance = 1e-12)
  expect_equal(shared$allotment[1], contingency(root)$contingency[contingency(root)$planning], tolerance = 1e-12)
  moved <- as.data.frame(bridge_results(run(one), run(close_events(one, ice = 40)), cost))
  expect_identical(moved$name[moved$row == "part"], "ice")
})

test_that("a total splits into plan, ranges and events; a bridge's parts add up and leave out what did not change", {
  plan <- study("Works") |> add_inputs(pipe = law_pert(370, 410, 520), road = law_pert(150, 180, 260), same = law_uniform(10, 60)) |>
    add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.1, law_pert(20, 60, 100))) |>
    add_outputs(cost = output(pipe + road + same + sum(events), unit = "kEUR"))
  before <- run(plan)
  parts <- as.data.frame(split_total(before, cost))
  expect_identical(parts$part, c("plan", "ranges alone", "events alone", "both"))
  expect_equal(parts$mean[2] + parts$mean[3] - parts$mean[1], parts$mean[4])
  expect_equal(parts$P80[4], percentiles(before, 80)$value[1])
  after <- run(plan |> replace_inputs(pipe = law_pert(430, 440, 460)) |> close_events(rock = 64))
  bridge <- as.data.frame(bridge_results(before, after, cost))
  expect_equal(sum(bridge$change, na.rm = TRUE), diff(bridge$value[c(1, nrow(bridge))]), tolerance = 1e-9)
  expect_setequal(bridge$name, c("cost", "rock", "pipe"))
  back <- as.data.frame(bridge_results(after, before, cost))
  expect_equal(back$change[back$name == "rock"], -bridge$change[bridge$name == "rock"], tolerance = 1e-2)
  expect_fault(bridge_results(before, run(plan, seed = 12), cost), "argument", "seed")
  forecast <- as.data.frame(forecast_total(after, cost, reserve = 60))
  value <- function(part) forecast$value[forecast$part == part]
  expect_equal(value("spent"), 64)
  expect_equal(value("spent") + value("remaining") + value("ranges") + value("events"), value("mean"))
  expect_equal(value("mean"), mean(as.data.frame(after)$cost))
  expect_equal(value("chance"), mean(as.data.frame(after)$cost <= 64 + 440 + 180 + 35 + 60))
  # an event that is more likely than not is in the plan, and the reserve is one figure
  likely <- run(plan |> add_events(repairs = event(rate = 7.5, impact = law_pert(2, 4, 9))))
  forecast <- as.data.frame(forecast_total(likely, cost))
  expect_equal(value("spent") + value("remaining"), likely$base$outputs$cost)
  expect_equal(value("spent") + value("remaining") + value("ranges") + value("events"), value("mean"))
  expect_equal(value("reserve needed"), as.data.frame(contingency(likely, 80, cost))$contingency)
  expect_fault(plan |> close_events(rocks = 0), "name", "rock")
  expect_fault(plan |> close_events(rock = "no"), "argument", "what the event cost")
})

test_that("items under way are spent and remain, and what was thought impossible is warned of", {
  first <- study() |> add_costs(tree())
  now <- tree(spent = c(NA, 300, 47, NA, NA, NA, NA), done = c(NA, NA, "yes", NA, NA, NA, NA))
  now$quantity[2] <- "100"
  now[3, c("quantity", "price", "low %", "high %")] <- NA
  d <- as.data.frame(run(first |> replace_costs(now)))
  expect_true(all(d[["costs[1.2]"]] == 47))
  expect_equal(d[["costs[1.1]"]], 300 + 100 * d[["costs[1.1 price]"]])
  expect_identical(d[["costs[2.2]"]], as.data.frame(run(first))[["costs[2.2]"]])
  now$spent[2] <- 700
  expect_warning(first |> replace_costs(now), "more than its greatest value", class = "ensayo_warning_overspent")
})
