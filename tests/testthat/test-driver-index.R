ishigami <- function() {
  study("Ishigami") |> add_inputs(x1 = law_uniform(-pi, pi), x2 = law_uniform(-pi, pi), x3 = law_uniform(-pi, pi)) |>
    add_outputs(y = sin(x1) + 7 * sin(x2)^2 + 0.1 * x3^4 * sin(x1))
}
# Homma and Saltelli (1996), with a = 7, b = 0.1
ishigami_truth <- function() {
  v1 <- (1 + 0.1 * pi^4 / 5)^2 / 2
  v2 <- 49 / 8
  v13 <- 0.01 * pi^8 * (1 / 18 - 1 / 50)
  list(first = c(v1, v2, 0) / (v1 + v2 + v13), total = c(v1 + v13, v2, v13) / (v1 + v2 + v13),
    pair = v13 / (v1 + v2 + v13))
}
indices <- function(study, ...) variance_indices(study, ..., announce = NULL, progress = NULL)
of <- function(table, measure, inputs) table$value[table$measure == measure][match(inputs,
  table$input[table$measure == measure])]

test_that("Ishigami's indices are within 0.01 at 327,680 runs, and inside their intervals as often as is said", {
  truth <- ishigami_truth()
  expect_equal(round(c(truth$first, truth$total), 3), c(0.314, 0.442, 0, 0.558, 0.442, 0.244))
  inputs <- c("x1", "x2", "x3")
  s <- ishigami()
  table <- indices(s, 65536, 1)
  expect_identical(table$model_runs[1], 327680)
  expect_lt(max(abs(of(table, "first_order", inputs) - truth$first)), 0.01)
  expect_lt(max(abs(of(table, "total", inputs) - truth$total)), 0.01)
  pairs <- indices(s, 65536, 2, second_order = TRUE)
  expect_lt(max(abs(of(pairs, "second_order", c("x1 and x3", "x1 and x2", "x2 and x3")) - c(truth$pair, 0, 0))), 0.02)
  covered <- vapply(1:1000, function(seed) {
    table <- indices(s, 1000, seed, design = "random")
    true <- c(truth$first, truth$total)[match(paste(table$measure, table$input),
      paste(rep(c("first_order", "total"), each = 3), inputs))]
    (table$low <= true & true <= table$high)[order(table$measure, table$input)]
  }, logical(6))
  expect_gte(min(rowMeans(covered)), 0.92)
  expect_lte(max(rowMeans(covered)), 0.975)
})

test_that("the g function in eight inputs and additive functions come out, whatever their mean", {
  a <- c(0, 1, 4.5, 9, 99, 99, 99, 99)
  terms <- paste(sprintf("(abs(4 * x%d - 2) + %s) / (1 + %s)", 1:8, a, a), collapse = " * ")
  g <- study() |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), 8), paste0("x", 1:8))) |>
    add_outputs(y = !!str2lang(terms))
  part <- 1 / 3 / (1 + a)^2
  all <- prod(1 + part) - 1
  total <- part * vapply(1:8, function(i) prod(1 + part[-i]), 0) / all
  table <- indices(g, 20000, 1)
  expect_lt(max(abs(of(table, "first_order", paste0("x", 1:8)) - part / all)), 0.02)
  expect_lt(max(abs(of(table, "total", paste0("x", 1:8)) - total)), 0.02)
  s <- study() |> add_inputs(a = law_normal(0, 0.6), b = law_normal(0, 0.8)) |> add_outputs(y = a + b,
    far = 1e6 + a + b)
  table <- indices(s, 20000, 1)
  expect_lt(max(abs(table$value - ifelse(table$input == "a", 0.36, 0.64))), 0.02)
  expect_equal(table$value[table$output == "far"], table$value[table$output == "y"], tolerance = 1e-6)
  for (design in c("random", "sobol")) {
    expect_lt(max(abs(indices(s, 16384, 1, outputs = y, design = design)$value - c(0.64, 0.36, 0.64, 0.36))), 0.03)
  }
})

test_that("Sobol' sequences, the default, know indices several times better, and their intervals hold", {
  truth <- ishigami_truth()
  true <- c(truth$first, truth$total)
  s <- ishigami()
  off <- function(design, rows) vapply(1:20, function(seed) {
    table <- indices(s, rows, seed, design = design)
    value <- c(of(table, "first_order", c("x1", "x2", "x3")), of(table, "total", c("x1", "x2", "x3")))
    held <- table$low <= true[match(paste(table$measure, table$input), paste(rep(c("first_order", "total"), each = 3), c("x1", "x2", "x3")))]
    c(value - true, mean(held & table$high >= true[match(paste(table$measure, table$input), paste(rep(c("first_order", "total"), each = 3), c("x1", "x2", "x3")))]))
  }, numeric(7))
  sobol <- off(NULL, 4096)
  latin <- off("latin", 4096)
  expect_lt(sqrt(mean(sobol[1:6, ]^2)), 0.5 * sqrt(mean(latin[1:6, ]^2)))
  expect_gt(mean(sobol[7, ]), 0.9)
  stepped <- study() |> add_inputs(a = input(law_normal(0, 1), steps = 3)) |> add_outputs(y = sum(a))
  expect_fault(indices(stepped, 64, 1, design = "sobol"), "argument", "over steps")
})

test_that("groups are taken together, and inputs that are not independent are refused", {
  main <- gravity_main()
  expect_fault(indices(main, 100, 1), "correlation", "`demand` and `friction` are correlated", "variance_share")
  table <- indices(main, 4000, 1, outputs = pressure, groups = list(use = c("demand", "friction")))
  expect_setequal(table$input, c("use", "diameter", "spring"))
  expect_equal(sum(table$value[table$measure == "first_order"]), 1, tolerance = 0.06)
  grouped <- study() |> add_inputs(a = input(law_normal(0, 1), group = "g"), b = input(law_normal(0, 1), group = "g"),
    c = law_normal(0, 1)) |> add_outputs(y = a * b + c)
  table <- indices(grouped, 20000, 1, groups = TRUE)
  expect_lt(max(abs(of(table, "first_order", c("g", "c")) - 0.5)), 0.03)
  linked <- study() |> add_inputs(rate = law_gamma(2, 1), n = law_poisson(mean = ~rate)) |> add_outputs(y = n)
  expect_fault(indices(linked, 100, 1), "correlation", "depend on each other")
  expect_fault(indices(grouped, 100, 1, groups = list(c("a", "b"))), "argument", "named list")
  expect_fault(indices(grouped, 100, 1, groups = list(g = c("a", "z"))), "name", "`z`")
  expect_fault(indices(grouped, 3), "argument", "at least 10")
  expect_fault(indices(study() |> add_inputs(a = 1) |> add_outputs(y = a), 100), "model", "varies")
})

test_that("runs are told before they start, failures leave rows out, constants are said", {
  said <- NULL
  done <- NULL
  s <- study() |> add_inputs(a = law_normal(1, 1), b = law_normal(0, 1)) |> add_outputs(root = sqrt(a) + b,
    still = 0 * a + 2)
  table <- suppressWarnings(variance_indices(s, 200, 1, announce = function(text) said <<- text,
    progress = function(part, all) done <<- c(part, all)))
  expect_match(said, "800 runs of the model: 200 rows for 2 inputs and two more")
  expect_equal(done, c(800, 800))
  expect_match(table$remark[table$output == "root"], "rows left out", all = TRUE)
  expect_match(table$remark[table$output == "still"], "does not vary", all = TRUE)
  expect_message(variance_indices(s |> replace_outputs(root = b), 20, 1, progress = NULL), "80 runs")
})

test_that("one input at a time is the model at its percentiles", {
  table <- one_at_a_time(gravity_main(), pressure)
  demand <- table[table$input == "demand", ]
  q <- quantile(law_pert(28, 34, 48), c(0.1, 0.9))
  at <- function(value) evaluate(gravity_main(), demand = value)$value[3]
  expect_equal(unlist(demand[c("input_low", "input_high", "at_low", "at_high")]), c(q, at(q[1]), at(q[2])),
    ignore_attr = TRUE)
  expect_identical(table$rank, 1:4)
  bent <- one_at_a_time(study() |> add_inputs(x = law_uniform(-1, 1)) |> add_outputs(y = x^2))
  expect_match(bent$remark, "bends")
  expect_fault(one_at_a_time(gravity_main(), low = 90, high = 10), "argument", "below `high`")
  grid <- two_way_table(gravity_main(), demand, friction, pressure, c(10, 90))
  expect_equal(nrow(grid), 4)
  expect_equal(grid$pressure[4], evaluate(gravity_main(), demand = grid$demand[4],
    friction = grid$friction[4])$value[3])
  expect_fault(two_way_table(gravity_main(), demand, demand, pressure), "argument", "another input")
  soil <- study() |> add_inputs(soil = law_discrete(c("rock", "clay"), c(1, 1)), z = law_normal(0, 1)) |>
    add_outputs(y = z + if (soil == "rock") 3 else 1)
  expect_equal(abs(one_at_a_time(soil)$swing[one_at_a_time(soil)$input == "soil"]), 2)
})

test_that("screening finds what matters with few runs", {
  s <- study() |> add_inputs(x = rep(list(law_uniform(0, 1)), 20)) |>
    add_outputs(y = 5 * `x[1]` + 3 * (`x[2]` - 0.5)^2 + 2 * `x[3]` * `x[4]`)
  table <- elementary_effects(s, 20, 1, announce = NULL, progress = NULL)
  expect_identical(table$model_runs[1], 420)
  row <- function(name) table[table$input == name, ]
  expect_equal(row("x[1]")$mu_star, 5)
  expect_identical(row("x[1]")$remark, "linear")
  expect_identical(row("x[2]")$remark, "curved or interacting")
  expect_identical(sum(table$remark == "no effect"), 16L)
  # of x3 the effect is 2 x4, uniform: mean 1, sd 0.577
  expect_equal(row("x[3]")$mu, 1, tolerance = 0.1)
  expect_equal(row("x[3]")$sigma, 2 / sqrt(12), tolerance = 0.15)
  expect_gt(min(elementary_effects(ishigami(), 30, 1, announce = NULL, progress = NULL)$mu_star), 3)
  expect_fault(elementary_effects(gravity_main(), 5, 1), "correlation")
  expect_fault(elementary_effects(s, 1), "argument", "at least 2")
})

test_that("pictures of drivers show their tables", {
  res <- quietly(gravity_main(), 500)
  layers <- function(figure) lapply(seq_along(figure$layers), function(i) ggplot2::layer_data(figure, i))
  swing <- layers(plot_tornado(res, pressure, "swing"))[[1]]
  expect_setequal(ifelse(swing$xmin < 0, swing$xmin, swing$xmax), drivers(res, "swing", pressure)$value)
  noise <- quietly(study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1)) |> add_outputs(y = a + 0 * b), 200)
  expect_true(palette_ensayo$noise %in% layers(plot_tornado(noise, y))[[1]]$fill)
  expect_match(plot_tornado(res, condition = pressure >= 38)$labels$title, "pressure >=\\s38")
  p90 <- layers(plot_tornado(res, pressure, "swing", statistic = "P90", bands = 5))[[1]]
  expect_setequal(ifelse(p90$xmin < 0, p90$xmin, p90$xmax),
    drivers(res, "swing", pressure, statistic = "P90", bands = 5)$value)
  expect_fault(plot_tornado(res, pressure, bandz = 3), "argument", "bands")
  scatter <- layers(plot_scatter(res, demand, pressure))
  expect_equal(nrow(scatter[[1]]), 500)
  expect_equal(mean(scatter[[2]]$y), mean(res$outputs$pressure), tolerance = 1e-9)
  expect_match(plot_scatter(res, demand, pressure)$labels$title, "falls with")
  labelled <- layers(plot_scatter(res, demand, pressure, label = c(12, 403)))
  expect_identical(labelled[[4]]$label, c(12L, 403L))
  expect_equal(labelled[[3]]$x, res$demand[c(12, 403)])
  outer <- layers(plot_scatter(res, demand, pressure, label = "outer"))[[4]]
  expect_length(outer$label, 10)
  expect_true(which.min(res$pressure) %in% outer$label)
  expect_fault(plot_scatter(res, demand, pressure, label = 1e9), "argument", "numbers of runs")
  expect_fault(plot_scatter(res, demand, pressure, label = "all"), "argument", "outer")
  expect_length(unique(layers(plot_scatter_matrix(res, line = TRUE))[[1]]$PANEL), 12)
  expect_equal(nrow(layers(plot_driver_map(res))[[1]]), 12)
  expect_fault(plot_scatter(res, demnd, pressure), "name", "`demand`")
  parallel <- layers(plot_parallel(res, .most = 100))[[1]]
  expect_equal(length(unique(parallel$group)), 100)
  free <- study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 2)) |> add_outputs(y = a + b)
  table <- indices(free, 500, 1)
  expect_setequal(layers(plot_indices(table))[[3]]$x, table$value)
  range <- layers(plot_one_at_a_time(one_at_a_time(free)))[[1]]
  expect_equal(max(range$xend), max(one_at_a_time(free)$at_high))
  expect_fault(plot_indices(one_at_a_time(free)), "argument", "variance_indices")
})

test_that("a study in which nothing varies has no panels", {
  still <- study("Still") |> add_inputs(k = 3) |> add_outputs(y = k + 1) |> simulate(20, seed = 1, progress = NULL)
  expect_fault(plot_scatter_matrix(still), "model", "an input that varies")
  expect_fault(plot_inputs(still), "model", "an input that varies")
})
