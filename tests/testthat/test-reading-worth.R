# Worth of information against closed forms: of a normal gain with mean m and standard deviation s it is s dnorm(m/s) - |m| pnorm(-|m|/s).
closed <- function(m, s) s * dnorm(m / s) - abs(m) * pnorm(-abs(m) / s)

two <- function() {
  study("Two") |> add_inputs(x = input(law_normal(0, 3), group = "g"), y = input(law_normal(0, 2), group = "g"), z = law_normal(0, 1)) |>
    add_outputs(a = output(10 + 0 * z, unit = "kEUR"), b = output(11 + x + y, unit = "kEUR"))
}
within <- function(row, truth) row$low <= truth && truth <= row$high

test_that("perfect information has its closed forms, on everything, inputs, groups and halves", {
  w <- as.data.frame(worth_of_knowing(simulate(two(), 10000, 1), c(a, b), "high"))
  rows <- split(w, w$about)
  expect_true(within(rows$everything, closed(1, sqrt(13))))
  expect_true(within(rows$x, closed(1, 3)))
  expect_true(within(rows$y, closed(1, 2)))
  expect_equal(rows$x$worth, closed(1, 3), tolerance = 0.02)
  halves <- c(closed(1, 3 * sqrt(0.75)), closed(1, 2 * sqrt(0.75)))
  expect_equal(c(rows$x$halved, rows$y$halved), halves, tolerance = 0.06)
  expect_true(rows$z$noise)
  expect_false(rows$x$noise)
  expect_identical(unique(w$unit), "kEUR")
  g <- as.data.frame(worth_of_knowing(simulate(two(), 5000, 2), c(a, b), "high", by = "group"))
  expect_true(within(g[g$about == "g", ], closed(1, sqrt(13))))
  # cheap is good: the same decision the other way round
  low <- study("Low") |> add_inputs(x = law_normal(0, 3)) |> add_outputs(a = 10 + 0 * x, b = 9 - x) |> simulate(5000, 1)
  expect_equal(worth_of_knowing(low, c(a, b), "low")$worth[1], closed(1, 3), tolerance = 0.03)
})

test_that("a survey is worth what its readings tell", {
  v <- as.data.frame(worth_of_survey(simulate(two(), 10000, 3), c(a, b), x, n = c(1, 4, 16), sd = 6, better = "high"))
  truth <- vapply(c(1, 4, 16), function(n) closed(1, sqrt(81 * n / (9 * n + 36))), 0)
  expect_true(all(v$low <= truth & truth <= v$high))
  expect_true(all(diff(v$worth) > 0))
})

test_that("intervals hold the truth in repeats, and alternatives of a study do as outputs do", {
  held <- vapply(1:20, function(seed) {
    res <- simulate(two(), 1000, seed)
    w <- as.data.frame(worth_of_knowing(res, c(a, b), "high", inputs = x))
    within(w[2, ], closed(1, 3))
  }, NA)
  expect_gte(sum(held), 17)
  main <- study("Main") |> add_inputs(flow = law_normal(34, 3), cost = law_normal(10, 3)) |> add_outputs(net = flow - cost)
  both <- alternatives(main, other = list(cost = law_normal(11, 1)))
  w <- as.data.frame(worth_of_knowing(simulate(both, 5000, seed = 4), net, "high"))
  # the gain of the other is 2/3 of what cost is off, less 1
  expect_equal(w$worth[w$about == "cost"], closed(1, 2), tolerance = 0.06)
  expect_true(w$noise[w$about == "flow"])
})

test_that("joint effects count within a group, categories are known as they are", {
  s <- study("Joint") |> add_inputs(x = input(law_normal(0, 1), group = "g"), y = input(law_normal(0, 1), group = "g"), soil = law_discrete(c("rock", "clay"), c(0.5, 0.5))) |>
    add_outputs(a = 0 * x, product = x * y, dig = if (soil == "rock") 1 else -1)
  res <- simulate(s, 10000, 5)
  alone <- as.data.frame(worth_of_knowing(res, c(a, product), "high"))
  expect_lt(max(alone$worth[alone$about %in% c("x", "y")]), 0.03)
  group <- as.data.frame(worth_of_knowing(res, c(a, product), "high", by = "group", inputs = c(x, y)))
  # E max(0, xy) = 1/pi
  expect_equal(group$worth[group$about == "g"], 1 / pi, tolerance = 0.05)
  soil <- as.data.frame(worth_of_knowing(res, c(a, dig), "high"))
  expect_equal(soil$worth[soil$about == "soil"], 0.5, tolerance = 0.02)
})

test_that("a gain that never varies is worth nothing to know more of", {
  s <- study("Same") |> add_inputs(x = law_normal(0, 1)) |> add_outputs(a = x, b = x + 2, c = x)
  w <- as.data.frame(worth_of_knowing(simulate(s, 500, 1), c(a, b, c), "high"))
  expect_equal(w$worth, c(0, 0))
  expect_true(all(w$noise))
})

test_that("what is no decision is refused", {
  res <- simulate(two(), 200, 1)
  expect_error(worth_of_knowing(res, a, "high"), "two alternatives", class = "ensayo_error_argument")
  expect_error(worth_of_knowing(res, c(a, b), "best"), class = "ensayo_error_argument")
  expect_error(worth_of_knowing(list(p = res, q = simulate(two(), 200, 2)), a, "high"), "share their random numbers", class = "ensayo_error_argument")
  expect_error(worth_of_knowing(simulate(two(), 50, 1), c(a, b), "high"), "100 runs", class = "ensayo_error_argument")
  expect_error(worth_of_survey(res, c(a, b), q, n = 1, sd = 1, better = "high"), class = "ensayo_error_name")
  expect_error(worth_of_survey(res, c(a, b), x, n = 0, sd = 1, better = "high"), class = "ensayo_error_argument")
  p <- plot_worth(worth_of_knowing(res, c(a, b), "high"))
  expect_s3_class(ggplot2::ggplot_build(p), "ggplot_built")
  expect_error(plot_worth(3), class = "ensayo_error_argument")
})
