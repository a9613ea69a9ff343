test_that("a sweep shares its random numbers, and finds the best value and where a target is met", {
  s <- study() |> add_inputs(a = law_normal(3, 0.2), size = 1) |>
    add_outputs(y = output(-(size - a)^2, unit = "EUR"), z = size * 2 - a) |> add_specs(z >= 0)
  sweep <- sweep_input(s, size = c(2, 2.5, 3, 3.5, 4), .nsim = 500, .seed = 2)
  expect_equal(sweep$figure[sweep$value == 2.5 & sweep$about == "y" & sweep$statistic == "mean"],
    mean(quietly(s |> fix_inputs(size = 2.5), 500, 2)$outputs$y))
  best <- best_value(sweep, "y")
  expect_equal(best$value, 3)
  a <- quietly(s, 500, 2)$draws$a
  expect_equal(best$refined, mean(a), tolerance = 1e-6)  # the mean is a parabola in size
  expect_true(best$from <= 3 && best$to >= 3)
  expect_true(is.na(best_value(sweep, "z", better = "low")$refined))
  where <- value_where(sweep, "y", "mean", -0.29)
  expect_identical(where$direction, c("rising", "falling"))
  mean_y <- function(x) mean(-(x - a)^2)
  line <- (-0.29 - mean_y(2)) / (mean_y(2.5) - mean_y(2))
  expect_equal(where$value[1], 2.5 - 0.5 + 0.5 * line, tolerance = if (line <= 1) 1e-9 else 1)
  expect_equal(nrow(value_where(sweep, "y", "mean", 5)), 0)
  expect_s3_class(value_where(sweep, "z >= 0", "pass rate", 0.99), "data.frame")
  expect_fault(sweep_input(s, size = 1), "argument", "at least two numbers")
  expect_fault(sweep_input(s), "argument", "Name an input")
  expect_fault(sweep_input(s, sise = 1:3), "name", "`size`")
  expect_fault(best_value(sweep, "x"), "name", "sweep")
  expect_fault(value_where(sweep, "y", "P33", 1), "name", "a figure of the sweep")
})

test_that("several decisions make a grid, and a spec may be a condition", {
  tank <- study() |> add_inputs(flow = input(law_normal(0, 1), steps = 20), at = 5, lot = 4) |>
    add_steps(
      level = state(level + flow - 1 + before(called, 2) * lot, start = 8),
      called = state(if (level < at && before(called) == 0) 1 else 0, start = 0),
      cost = state(cost + called * (3 + lot), start = 0), .keep = level, .last = cost) |>
    add_specs(never = all(level > 0))
  sweep <- sweep_input(tank, at = c(2, 5, 8), lot = c(2, 4, 6), .nsim = 300, .seed = 2)
  expect_identical(names(sweep)[1:3], c("at", "lot", "about"))
  expect_identical(unique(sweep$about), c("cost", "never"))
  one <- quietly(fix_inputs(tank, at = 5, lot = 6), 300, 2)
  rows <- sweep[sweep$at == 5 & sweep$lot == 6, ]
  expect_equal(rows$figure[rows$statistic == "mean"], mean(one$cost))
  expect_equal(rows$figure[rows$about == "never"], pass_rate(one)$pass_rate)
  cost <- unclass_table(sweep[sweep$statistic == "mean", ])
  rate <- unclass_table(sweep[sweep$about == "never", ])
  best <- best_value(sweep, "cost", better = "low", where = c(never = 0.9))
  possible <- cost[rate$figure >= 0.9, ]
  expect_equal(best$figure, min(possible$figure))
  expect_equal(c(best$at, best$lot), unlist(possible[which.min(possible$figure), c("at", "lot")], use.names = FALSE))
  expect_equal(best$pass_rate, rate$figure[rate$at == best$at & rate$lot == best$lot])
  expect_equal(best$as_good, sum(possible$low <= best$high))
  expect_equal(best_value(sweep, "cost", better = "low")$figure, min(cost$figure))
  expect_identical(nrow(best_value(sweep, "cost", better = "low", where = c(never = 1)) |> subset(pass_rate < 1)), 0L)
  tight <- best_value(sweep, "cost", better = "low", where = c(never = rate$figure[rate$at == best$at & rate$lot == best$lot]))
  expect_match(tight$remark, "not told from its target")
  along <- value_where(sweep, "never", "pass rate", 0.7, along = "at")
  expect_true(all(along$from <= along$value & along$value <= along$to, na.rm = TRUE))
  for (i in seq_len(nrow(along))) {
    expect_equal(approx(rate$at[rate$lot == along$lot[i]], rate$figure[rate$lot == along$lot[i]], along$value[i])$y, 0.7)
  }
  expect_s3_class(ggplot2::ggplot_build(plot_sweep(sweep, "cost", better = "low", where = c(never = 0.9)))$plot, "ggplot")
  # values that differ in their last digits have tiles of their own
  close <- sweep_input(tank, at = c(5, 5.00001, 5.00002), lot = c(2, 4), .nsim = 20, .seed = 2)
  tiles <- ggplot2::ggplot_build(plot_sweep(close, "cost", better = "low"))$data[[1]]
  expect_identical(nrow(unique(tiles[c("x", "y")])), 6L)
  single <- sweep_input(tank, at = c(2, 5, 8), .nsim = 200, .seed = 2)
  best <- best_value(single, "cost", better = "low", where = c(never = 0.5))
  expect_identical(best$input, "at")
  expect_s3_class(ggplot2::ggplot_build(plot_sweep(single, "cost", better = "low"))$plot, "ggplot")
  three <- sweep_input(tank, at = c(2, 5), lot = c(2, 4), flow = c(0, 1), .nsim = 20, .seed = 1)
  expect_identical(nrow(best_value(three, "cost")), 1L)
  expect_fault(plot_sweep(three, "cost"), "argument", "one input or two")
  expect_fault(best_value(sweep, "cost", where = 0.9), "argument", "by the names of specs")
  expect_fault(best_value(sweep, "cost", where = c(nevr = 0.9)), "name", "`nevr`")
  expect_fault(sweep_input(rename_inputs(tank, unit = at), unit = 1:2, lot = 1:2), "name", "another column")
  expect_fault(value_where(sweep, "cost", target = 3, along = "flow"), "argument", "along")
  policies <- alternatives(tank, late = list(at = 2), large = list(lot = 6))
  both <- simulate(policies, nsim = 200, seed = 3)
  expect_identical(draw_values(both$late, flow), draw_values(both$large, flow))
})

test_that("tightening tells what each input is worth", {
  s <- study() |> add_inputs(a = law_normal(0, 3), b = law_normal(0, 4), k = law_poisson(2)) |>
    add_outputs(y = a + b + 0 * k) |> add_specs(y <= 5) |> add_readings(.planning = 90)
  table <- tighten_inputs(s, y, a = 100, b = 400, k, .nsim = 20000, .seed = 1)
  expect_identical(table$input, c("b", "a", "k"))
  expect_equal(table$sd_was[1], 5, tolerance = 0.01)
  expect_equal(table$sd[1:2], sqrt(c(9 + 4, 2.25 + 16)), tolerance = 0.01)
  expect_equal(table$planning[1], qnorm(0.9) * sqrt(13), tolerance = 0.02)
  expect_equal(table$pass_rate[1], pnorm(5 / sqrt(13)), tolerance = 0.01)
  expect_equal(table$sd_per_cost[1], (table$sd[1] - table$sd_was[1]) / 400)
  expect_match(table$remark[3], "discrete")
  expect_equal(tighten_inputs(s, y, a, .to = 0, .nsim = 1000, .seed = 1)$sd, 4, tolerance = 0.02)
  expect_fault(tighten_inputs(s, y, c = 3), "name", "varies")
  expect_fault(tighten_inputs(s, y, a = -3), "argument", "at least 1")
  expect_fault(tighten_inputs(s, y, a = 0.5), "argument", "cost of tightening", "`.to = 0.5`")
  expect_fault(tighten_inputs(s, y, .to = 1), "argument", ".to")
})
