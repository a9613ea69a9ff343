# Whole paths: bands, picked runs, changes since the start; and chances step by step.

path_study <- function() {
  study("Paths") |> add_inputs(v = law_uniform(0, 10), a = input(law_normal(0, 1), steps = 15)) |>
    add_steps(x = state(output(x + a, unit = "m"), start = v)) |> add_outputs(low = min(x)) |>
    add_specs(above = all(x > -2), reached = any(x > 12))
}

test_that("bands hold their share at each step, or of whole runs", {
  res <- quietly(path_study(), 1500, 3)
  x <- unname(output_values(res, x))
  bands <- series_bands(res, x, c(0.5, 0.9))
  expect_identical(nrow(bands), 30L)
  for (share in c(0.5, 0.9)) {
    band <- bands[bands$share == share, ]
    for (k in c(1, 8, 15)) {
      expect_equal(c(band$low[k], band$high[k]), unname(quantile(x[, k], 0.5 + c(-0.5, 0.5) * share)))
      expect_gte(mean(x[, k] >= band$low[k] & x[, k] <= band$high[k]), share - 0.002)
    }
    within <- function(low, high) mean(vapply(seq_len(1500), function(i) all(x[i, ] >= low & x[i, ] <= high), NA))
    expect_gte(within(band$path_low, band$path_high), share)
    expect_lt(within(band$path_low, band$path_high), share + 0.02)
    expect_equal(band$inside[1], within(band$low, band$high))
    expect_lt(band$inside[1], share)
    expect_true(all(band$path_low <= band$low & band$path_high >= band$high))
  }
  # of runs that are all the same the band is that run
  same <- quietly(study() |> add_inputs(u = law_uniform(0, 1)) |> add_steps(x = step + 0 * u, .steps = 3), 10)
  expect_identical(series_bands(same, x)$path_high, c(1, 2, 3))
  expect_identical(series_bands(quietly(path_study(), 1), x)$path_low, as.double(output_values(quietly(path_study(), 1), x)))
  expect_fault(series_bands(res, low), "name", "a series of the result")
  expect_fault(series_bands(res, x, 90), "argument", "Divide percentages")
})

test_that("runs are picked by the rule that is stated", {
  res <- quietly(path_study(), 800, 5)
  x <- unname(output_values(res, x))
  picked <- pick_paths(res, x, by = "lowest", percentiles = c(5, 50))
  expect_identical(picked$picked, c("typical", "worst", "P5", "P50"))
  lowest <- apply(x, 1, min)
  expect_identical(picked$run[2], which.min(lowest))
  expect_identical(picked$value[2:4], c(min(lowest), unname(quantile(lowest, c(0.05, 0.5), type = 1))))
  expect_identical(lowest[picked$run[3]], picked$value[3])
  ranks <- apply(x, 2, rank)
  expect_identical(unname(picked$run[1]), which.max(apply(pmin(ranks, 801 - ranks), 1, min)))
  expect_identical(pick_paths(res, x, by = "last", worst = "high")$run[2], which.max(apply(x, 1, max)))
  expect_identical(pick_paths(res, a, percentiles = 50)$picked[3], "P50")
  expect_identical(as.double(run_details(res, picked$run[1])$outputs$x), x[picked$run[1], ])
  some <- given(res, v > 5)
  expect_true(all(pick_paths(some, x)$run %in% run_numbers(some)))
  failing <- quietly(study() |> add_inputs(u = law_uniform(-1, 0)) |> add_steps(x = sqrt(u), .steps = 3), 5) |> suppressWarnings()
  expect_fault(pick_paths(failing, x), "argument", "good runs")
})

test_that("changes since the start say what they are on every label", {
  res <- quietly(path_study(), 400, 2)
  x <- unname(output_values(res, x))
  lost <- from_start(res, x, as = "percent", positive = "loss")
  expect_equal(unname(output_values(lost, x)), 100 * (x[, 1] - x) / abs(x[, 1]))
  expect_match(format(lost), "% of the start", all = FALSE)
  expect_match(format(lost), "loss of x since 1", all = FALSE)
  expect_identical(lost$low, res$low)
  expect_length(lost$study$specs, 0)
  gained <- from_start(res, x)
  end <- at_step(gained, "last")
  expect_equal(summary(end)$mean[summary(end)$output == "x"], mean(x[, 15] - x[, 1]))
  expect_equal(expected_shortfall(at_step(lost, 9), x, 90)$mean_beyond, mean(sort(100 * (x[, 1] - x[, 9]) / abs(x[, 1]), decreasing = TRUE)[1:40]))
  expect_equal(series_table(gained, x)$mean[series_table(gained)$of == "first"], 0)
  expect_fault(add_runs(gained, 10), "argument", "as they are")
  expect_fault(from_start(res, x, as = "share"), "argument", "percent")
})

test_that("chances are read at each step, and along the runs up to it", {
  res <- quietly(path_study(), 600, 4)
  x <- unname(output_values(res, x))
  table <- chance_by_step(res, x < 0, wild = abs(a) > 2 && x > v)
  expect_identical(unique(table$condition), c("x < 0", "wild"))
  first <- table[table$condition == "x < 0", ]
  expect_equal(first$chance, colMeans(x < 0))
  expect_equal(first$ever, vapply(1:15, function(k) mean(apply(x[, 1:k, drop = FALSE] < 0, 1, any)), 0))
  expect_true(all(first$low <= first$chance & first$chance <= first$high))
  expect_equal(table$chance[table$condition == "wild" & table$step == 4], mean(abs(draw_values(res, a, 4)) > 2 & x[, 4] > res$v))
  expect_equal(first$ever[15], chance(res, any(x < 0))$chance)
  replicated <- quietly(path_study(), 600, 4, replicates = 10)
  # where replicates tell errors, they tell the same ones
  by_step <- chance_by_step(replicated, x < 0)
  whole <- chance(replicated, any(x < 0), at(x, 4) < 0)
  expect_equal(unlist(by_step[15, c("ever", "ever_low", "ever_high", "ever_error")], use.names = FALSE),
    unlist(whole[1, c("chance", "low", "high", "error")], use.names = FALSE))
  expect_equal(unlist(by_step[4, c("chance", "low", "high", "error")], use.names = FALSE),
    unlist(whole[2, c("chance", "low", "high", "error")], use.names = FALSE))
  expect_fault(chance_by_step(res, v > 3), "argument", "They read none")
  expect_fault(chance_by_step(res, any(x < 0)), "across_runs")
  # margins of specs over steps are those of the worst step, or the best
  rates <- pass_rate(res)
  missed <- -2 - apply(x, 1, min)
  expect_equal(rates$worst_miss[1], max(missed))
  expect_equal(rates$nearest_miss[1], min(missed[missed >= 0]))
  expect_equal(rates$nearest_miss[2], min(pmax(12 - apply(x, 1, max), 0)[apply(x, 1, max) <= 12]))
  at5 <- at_step(res, 5)
  expect_length(at5$study$specs, 0)
  expect_equal(chance(at5, x < 0)$chance, mean(x[, 5] < 0))
  table <- series_table(res)
  expect_equal(table$mean[table$of == "all"], mean(x))
  expect_equal(percentiles(res, 30, a, step = 4)$value, unname(quantile(draw_values(res, a, 4), 0.3)))
})

test_that("stays, falls and recoveries are those of each run by itself", {
  res <- quietly(path_study() |> add_outputs(stay = longest_stay(x < v), fall = deepest_fall(x), back = recovery(x, never = 99),
    top = highest_step(x), bottom = lowest_step(x + a)), 500, 6)
  x <- unname(output_values(res, x))
  a <- unname(draw_values(res, a))
  stay <- function(met) with(rle(met), max(0, lengths[values]))
  expect_equal(res$stay, vapply(1:500, function(i) stay(x[i, ] < res$v[i]), 0))
  expect_equal(res$fall, apply(x, 1, function(path) max(cummax(path) - path)))
  expect_identical(as.double(res$top), as.double(apply(x, 1, which.max)))
  expect_identical(as.double(res$bottom), as.double(apply(x + a, 1, which.min)))
  recovered <- apply(x, 1, function(path) {
    fall <- cummax(path) - path
    trough <- which.max(fall)
    later <- which(seq_along(path) > trough & path >= cummax(path)[trough])
    if (max(fall) == 0) 0 else c(later, trough + 99)[1] - trough
  })
  expect_equal(as.double(res$back), recovered)
  s <- path_study()
  expect_fault(add_outputs(s, y = recovery(x)), "formula", "never = 15", "come back")
  expect_fault(add_outputs(s, y = longest_stay()), "formula", "longest_stay(level < 2)")
  expect_fault(add_outputs(s, y = deepest_fall(v)), "formula", "reads a series")
})

test_that("figures of steps are drawn, and say what bands hold", {
  res <- quietly(path_study(), 300, 7)
  built <- function(figure) expect_s3_class(ggplot2::ggplot_build(figure)$plot, "ggplot")
  fan <- plot_series(res, x, c(5, 95), at = "last")
  built(fan)
  inside <- series_bands(res, x, 0.9)$inside[1]
  expect_match(fan$labels$subtitle, sprintf("%s of runs stay within P5 to P95 all the way", format_share(inside, 0)), fixed = TRUE)
  whole <- plot_series(res, x, c(5, 95), hold = "paths", paths = pick_paths(res, x))
  built(whole)
  expect_match(whole$labels$title, "90 % of runs stay in a band")
  built(plot_series(res, a, paths = c(3, 7), at = 4))
  chances <- plot_chance_by_step(res, x < 0, low = x < -2)
  built(chances)
  expect_match(chances$labels$title, sprintf("%s by the end", format_share(chance(res, any(x < 0))$chance)), fixed = TRUE)
  built(plot_chance_by_step(res, x > 1e6))
  map <- plot_drivers_by_step(res, x)
  built(map)
  expect_match(map$labels$title, "x goes most closely with v, at 1")
  built(plot_drivers_by_step(res, low))
  expect_fault(plot_series(res, x, at = 99), "argument", "goes from 1 to 15")
  # lines of a series of one step go across it
  one <- study() |> add_inputs(rate = law_uniform(0, 0.1)) |>
    add_steps(balance = state(balance * (1 + rate), start = 1000), .steps = 1)
  expect_fault(add_specs(one, balance > 1050), "formula", "of a condition, `all(balance > 0)`")
  one <- simulate(one, 40, 1)
  for (figure in list(plot_series(one, balance, paths = pick_paths(one, balance), at = 1), plot_series(one, balance, runs = 0),
    plot_chance_by_step(one, balance > 1050))) {
    expect_no_message(ggplot2::ggplotGrob(figure))
    expect_identical(range(ggplot2::layer_data(figure, 1)$x), c(0.6, 1.4))
  }
  expect_fault(plot_series(res, x, paths = 9999), "argument", "the number of a run")
})
