# Inputs that are drawn anew at each step, persist, or are stretches of what was recorded.

walk_study <- function(steps = 40, ..., design = "latin") {
  study("Walk") |> add_inputs(begin = law_normal(10, 2), move = input(law_normal(0.3, 1.5), steps = steps, ...)) |>
    add_steps(place = state(place + move, start = begin))
}

test_that("a random walk with drift has its mean, spread and percentiles at each step", {
  res <- quietly(walk_study(), 4000, 5)
  place <- output_values(res, place)
  k <- seq_len(40)
  sd <- sqrt(4 + k * 2.25)
  expect_lt(max(abs(colMeans(place) - 10 - 0.3 * k) / sd), 3 / sqrt(4000))
  expect_equal(unname(apply(place, 2, sd)), sd, tolerance = 0.05)
  table <- percentiles(res, c(5, 90), place)
  exact <- 10 + 0.3 * rep(k, each = 2) + qnorm(c(0.05, 0.9)) * rep(sd, each = 2)
  expect_gt(mean(table$low <= exact & exact <= table$high), 0.85)
  # a Latin hypercube at each step, and the same in every part
  u <- draw_values(quietly(study() |> add_inputs(a = input(law_uniform(0, 1), steps = 5)) |> add_outputs(y = sum(a)), 500, 3), a)
  for (step in 1:5) expect_identical(sort(floor(u[, step] * 500)), as.double(0:499))
  expect_lt(max(abs(cor(u) - diag(5))), 0.15)
})

test_that("the chance of ever crossing a line is that of the reflected paths", {
  n <- 25
  up <- 0.45
  s <- study() |> add_inputs(move = input(law_discrete(c(-1, 1), c(1 - up, up)), steps = n)) |>
    add_steps(place = state(place + move, start = 0))
  res <- quietly(s, 6000, 2)
  ends <- 2 * (0:n) - n
  p <- dbinom(0:n, n, up)
  for (line in c(2, 4, 6)) {
    exact <- sum(p[ends >= line]) + sum(((1 - up) / up)^(ends - line)[ends > line] * p[ends > line])
    found <- chance(res, !!rlang::expr(any(place >= !!line)))
    expect_lt(abs(found$chance - exact), 3 * found$error)
    by_step <- chance_by_step(res, !!rlang::expr(place >= !!line))
    expect_equal(by_step$ever[n], found$chance)
    expect_true(all(diff(by_step$ever) >= 0) && all(by_step$ever >= by_step$chance))
  }
})

test_that("what persists has its law at each step and its correlation over the steps", {
  for (design in c("latin", "random")) {
    s <- study() |> add_inputs(heat = input(law_normal(5, 2), steps = 12, persistence = 0.8),
      rain = input(law_lognormal(meanlog = 0, sdlog = 1), steps = 12, persistence = -0.5)) |> add_outputs(y = max(heat) + sum(rain))
    res <- quietly(s, 5000, 4, design = design)
    heat <- draw_values(res, heat)
    near <- 4 / sqrt(5000)
    expect_lt(max(abs(colMeans(heat) - 5)), 2 * near)
    expect_lt(max(abs(apply(heat, 2, sd) - 2)), 2 * near)
    kept <- 2 * sin(pi * 0.8 / 6)
    lags <- abs(outer(1:12, 1:12, "-"))
    expect_lt(max(abs(cor(heat) - kept^lags)), 1.2 * near)
    rain <- draw_values(res, rain)
    expect_lt(max(abs(apply(rain, 2, quantile, pnorm(c(-1, 0, 1.5))) / exp(c(-1, 0, 1.5)) - 1)), 0.2)
    expect_lt(abs(cor(rain[, 5], rain[, 6], method = "spearman") + 0.5), near)
  }
})

test_that("correlations hold within each step, also of inputs that persist", {
  s <- study() |> add_inputs(a = input(law_normal(0, 1), steps = 6), b = input(law_pert(0, 2, 5), steps = 6),
    c = input(law_normal(0, 1), steps = 6, persistence = 0.6), d = input(law_uniform(0, 1), steps = 6, persistence = 0.7), e = law_normal(0, 1)) |>
    add_correlation(a, b, -0.6) |> add_correlation(c, d, 0.5) |> add_outputs(y = sum(a * b) + sum(c * d) + e)
  res <- quietly(s, 4000, 9)
  x <- lapply(stats::setNames(nm = c("a", "b", "c", "d")), function(name) draw_values(res, !!name))
  for (k in 1:6) {
    expect_equal(cor(x$a[, k], x$b[, k], method = "spearman"), -0.6, tolerance = 0.01)
    expect_equal(cor(x$c[, k], x$d[, k], method = "spearman"), 0.5, tolerance = 0.08)
  }
  expect_lt(abs(cor(x$a[, 2], x$b[, 3])), 0.05)
  expect_equal(cor(x$d[, 2], x$d[, 3], method = "spearman"), 0.7, tolerance = 0.05)
  expect_identical(sort(floor(punif(pnorm(x$a[, 4])) * 4000)), as.double(0:3999))
  expect_fault(add_correlation(s, a, e, 0.3), "correlation", "drawn alike", "at each of 6 steps", "once a run")
  expect_fault(study() |> add_inputs(p = input(law_normal(0, 1), steps = 3, persistence = 0.95), q = input(law_normal(0, 1), steps = 3)) |>
    add_correlation(p, q, 0.8), "correlation", "at every step", "0.95 and 0")
})

test_that("draws do not depend on chunks, threads, workers, folders or on which runs are asked for", {
  s <- study() |> add_inputs(v = law_uniform(0, 1), a = input(law_pert(0, 2, 5), steps = 30), b = input(law_normal(0, 1), steps = 30),
    h = input(law_gamma(shape = 2, scale = 1), steps = 30, persistence = 0.5)) |> add_correlation(a, b, 0.4) |>
    add_steps(x = state(x + a - b + h, start = v), .keep = x) |> add_outputs(top = max(b), y = last(x))
  one <- quietly(s, 3000, 8, threads = 1)
  expect_identical(output_values(quietly(s, 3000, 8, threads = 2), x), output_values(one, x))
  dir <- withr::local_tempdir()
  simulate_into(s, dir, 3000, seed = 8, overwrite = TRUE, progress = NULL)
  folder <- read_result(dir)
  for (name in c("a", "h")) expect_identical(draw_values(folder, !!name), draw_values(one, !!name))
  expect_identical(output_values(folder, x), output_values(one, x))
  expect_identical(output_values(quietly(s, 3000, 8, workers = 2), x), output_values(one, x))
  part <- draw_inputs(s, 3000, 8, runs = c(1501, 1600))
  expect_identical(part[["h[30]"]], unname(draw_values(one, h)[1501:1600, 30]))
  expect_identical(part[["a[7]"]], unname(draw_values(one, a, 7)[1501:1600]))
  some <- given(one, y > 60)
  expect_identical(draw_values(some, b), draw_values(one, b)[run_numbers(some), ])
  # far apart, in any order, and some of them twice
  runs <- c(2999, 7, 1500, 7, 1)
  drawn <- series_of_runs(s, plan_again(one$provenance), c("a", "h"), runs, window = 100)
  for (name in c("a", "h")) expect_identical(unname(drawn[[name]]), unname(draw_values(one, !!name))[runs, ])
  expect_true(all(run_details(one, 1234)$recorded == ""))
  expect_identical(repeat_runs(one, c(5, 2900))$same, rep(TRUE, 4))
  # one input more changes no other draw
  more <- quietly(add_inputs(s, z = input(law_normal(0, 1), steps = 30)), 3000, 8)
  expect_identical(output_values(more, x), output_values(one, x))
  table <- as.data.frame(one)
  expect_identical(table[["b[3]"]], unname(draw_values(one, b, 3)))
  again <- add_runs(quietly(s, 500, 8, design = "random"), 100, progress = NULL)
  expect_identical(draw_values(again, h), draw_values(quietly(s, 600, 8, design = "random"), h))
})

test_that("functions and formulas get series as they get those of models, with the bits of lines", {
  days <- as.Date("2026-07-01") + 0:9
  s <- study() |> add_inputs(v = law_uniform(0, 5), a = input(law_normal(1, 1), steps = days)) |>
    add_steps(x = state(max(0, x + a), start = v)) |>
    add_model(function(v, a) {
      x <- v
      path <- numeric(10)
      for (i in 1:10) path[i] <- x <- max(0, x + a[i])
      list(by_hand = path)
    }) |> add_outputs(high = max(a), on = highest_step(a), at3 = at(a, date("2026-07-03")))
  res <- quietly(s, 300, 6)
  expect_identical(res$base$outputs$by_hand, 2.5 + 1:10)
  expect_identical(unname(output_values(res, x)), unname(output_values(res, by_hand)))
  checked <- quietly(add_specs(s, wet = max(a) > 0, all(x > -1)), 20)
  case <- evaluate(checked$study, a = -2)
  expect_identical(case$value[match(c("high", "wet"), case$output)], list(-2, FALSE) |> unlist())
  expect_identical(pass_rate(checked)$pass_rate[1], mean(checked$high > 0))
  expect_no_error(write_report(checked, withr::local_tempfile(fileext = ".html")))
  a <- unname(draw_values(res, a))
  expect_identical(res$high, apply(a, 1, max))
  expect_identical(res$on, days[apply(a, 1, which.max)])
  expect_identical(res$at3, a[, 3])
  expect_identical(base_case(res)$value[base_case(res)$name == "high"], 1)
  held <- quietly(fix_inputs(s, a = 2), 50, 6)
  expect_equal(held$high, rep(2, 50))
  expect_equal(unname(output_values(held, x)[, 10]), held$v + 20)
  expect_match(format(s), "anew at each of 10 steps", all = FALSE)
})

test_that("stretches of recorded data stay together, and begin anywhere", {
  recorded <- c(3, 1, 4, 1.5, 9, 2.6, 5)
  s <- study() |> add_inputs(flow = input(law_empirical(recorded), steps = 8, block = 3)) |> add_outputs(y = sum(flow))
  flow <- unname(draw_values(quietly(s, 700, 2), flow))
  at <- matrix(match(flow, recorded), 700)
  for (begin in c(1, 4, 7)) {
    expect_equal(as.vector(table(at[, begin])), rep(100, 7))
    for (k in seq_len(min(2, 8 - begin))) expect_equal(at[, begin + k], (at[, begin] + k - 1) %% 7 + 1)
  }
  summer <- data.frame(rain = c(0, 3, 8, 1), use = c(5, 4, 2, 6))
  both <- study() |> add_rows(summer, .steps = 6, .block = 2) |> add_outputs(y = sum(use - rain))
  res <- quietly(both, 40, 3)
  rain <- match(draw_values(res, rain), summer$rain)
  expect_identical(rain, match(draw_values(res, use), summer$use))
  rain <- matrix(rain, 40)
  expect_equal(rain[, 4], rain[, 3] %% 4 + 1)
  # where stretches begin may be correlated
  tied <- study() |> add_inputs(a = input(law_empirical(1:50), steps = 6, block = 3), b = input(law_empirical(1:50), steps = 6, block = 3)) |>
    add_correlation(a, b, 0.7) |> add_outputs(y = sum(a + b))
  res <- quietly(tied, 2000, 1)
  for (k in c(1, 4)) expect_equal(cor(draw_values(res, a, k), draw_values(res, b, k), method = "spearman"), 0.7, tolerance = 0.02)
  expect_equal(draw_values(res, a, 2), draw_values(res, a, 1) %% 50 + 1)
  expect_fault(input(law_normal(0, 1), steps = 5, block = 2), "argument", "recorded values")
  expect_fault(input(law_empirical(recorded), steps = 5, block = 9), "argument", "block")
  expect_fault(input(law_empirical(recorded), steps = 5, block = 2, persistence = 0.3), "argument", "stretches")
})

test_that("growth from a record has its drift and spread", {
  recorded <- c(100, 103, 101, 108, 112)
  growth <- diff(log(recorded))
  law <- law_growth(recorded, over = 12)
  expect_equal(parameters(law)$meanlog, 12 * mean(growth))
  expect_equal(parameters(law)$sdlog, sqrt(12) * sd(growth))
  expect_equal(median(law_growth(recorded, drift = 0)), 1)
  s <- study() |> add_inputs(g = input(law_growth(recorded), steps = 20)) |> add_steps(price = state(price * g, start = 112))
  price <- output_values(quietly(s, 4000, 3), price)
  expect_equal(mean(log(price[, 20] / 112)), 20 * mean(growth), tolerance = 0.02)
  expect_equal(sd(log(price[, 20])), sqrt(20) * sd(growth), tolerance = 0.05)
  expect_fault(law_growth(c(1, 2)), "argument", "at least 3")
  expect_fault(law_growth(c(1, 0, 2)), "argument", "positive")
  expect_fault(law_growth(c(1, 2, 4)), "argument", "varies")
})

test_that("variance indices and drivers take an input over steps as a whole, and by step", {
  res <- quietly(walk_study(20), 4000, 1)
  whole <- variance_indices(walk_study(20) |> add_outputs(end = last(place), first = at(place, 1)), 4000, seed = 2, outputs = end,
    announce = NULL, progress = NULL)
  shares <- c(begin = 4, move = 20 * 2.25) / (4 + 20 * 2.25)
  total <- whole[whole$measure == "total", ]
  expect_equal(total$value[match(names(shares), total$input)], unname(shares), tolerance = 0.08)
  by_step <- drivers_by_step(res, place)
  place <- output_values(res, place)
  so_far <- rowMeans(draw_values(res, move)[, 1:7])
  expect_equal(by_step$value[by_step$input == "move" & by_step$step == 7], cor(so_far, place[, 7], method = "spearman"))
  expect_equal(by_step$value[by_step$input == "begin" & by_step$step == 20], cor(res$begin, place[, 20], method = "spearman"))
  at7 <- drivers(at_step(res, 7), "rank")
  expect_equal(at7$value[at7$input == "move"], cor(so_far, place[, 7], method = "spearman"))
  s <- walk_study(20) |> add_outputs(peak = max(move))
  single <- quietly(s, 1000, 1)
  steps <- drivers_by_step(single, peak)
  expect_identical(unique(steps$input), "move")
  expect_equal(steps$value[3], cor(draw_values(single, move)[, 3], single$peak, method = "spearman"))
  expect_match(drivers(single, outputs = peak)$remark, "by its mean over the steps", all = FALSE)
  expect_match(paste(format(single), collapse = " "), "single +steps")
  effects <- elementary_effects(walk_study(20) |> add_outputs(end = last(place)), 4, seed = 1, outputs = end, announce = NULL, progress = NULL)
  expect_setequal(effects$input, c("begin", "move"))
  expect_fault(drivers_by_step(quietly(three_normals() |> add_outputs(y = a), 20), y), "argument", "depends on none")
})

test_that("a Sobol' design, linked laws and shared uncertainty go over steps", {
  s <- study() |> add_inputs(m = law_uniform(1, 2), a = input(law_normal(~m, 0.1), steps = 4), b = input(law_uniform(0, 1), steps = 4)) |>
    add_outputs(y = mean(a), z = mean(b))
  res <- quietly(s, 1024, 3, design = "sobol")
  expect_equal(cor(res$y, res$m), 1, tolerance = 0.02)
  expect_equal(unname(rowMeans(draw_values(res, a))), res$y)
  b <- draw_values(res, b)
  for (k in 1:4) expect_identical(sort(floor(b[, k] * 1024)), as.double(0:1023))
  expect_lt(sd(rowMeans(b) - mean(b)) / sqrt(1024), 0.02)
  expect_fault(study() |> add_inputs(a = input(law_normal(0, 1), steps = 4), m = law_normal(~a, 1)), "formula", "each of 4 steps")
  expect_fault(study() |> add_inputs(a = input(law_normal(0, 1), steps = 4), m = law_normal(~max(a), 1)), "argument", "each of 4 steps")
  both <- study() |> add_inputs(a = input(law_uniform(1, 2), steps = 3), c = input(law_normal(~a, 0.01), steps = 3)) |> add_outputs(y = max(c - a))
  found <- quietly(both, 100, 1)
  expect_lt(max(abs(draw_values(found, c) - draw_values(found, a))), 0.05)
})

test_that("a study file holds inputs over steps", {
  file <- withr::local_tempfile(fileext = ".yml")
  days <- as.Date("2026-07-01") + 0:5
  s <- study("Over steps") |> add_inputs(a = input(law_normal(0, 1), steps = 6, persistence = 0.5, unit = "m"),
    b = input(law_empirical(c(1, 2, 5)), steps = days, block = 2), c = input(law_pert(1, 2, 3), steps = c(1, 2, 5))) |>
    add_outputs(y = sum(a) + sum(b) + max(c))
  write_study(s, file)
  expect_identical(read_study(file), s)
  expect_identical(study_hash(read_study(file)), study_hash(s))
  expect_false(study_hash(s) == study_hash(replace_inputs(s, a = input(law_normal(0, 1), steps = 6, persistence = 0.4, unit = "m"))))
  renamed <- rename_inputs(s, wet = a)
  expect_identical(quietly(renamed, 30)$y, quietly(s, 30)$y)
  expect_identical(replace_inputs(s, a = law_normal(0, 2))$inputs$a$persistence, 0.5)
})

test_that("what takes one number a run takes the mean over the steps, and says so", {
  s <- walk_study(10) |> add_outputs(end = output(last(place), unit = "m")) |> add_specs(far = end > 12)
  res <- quietly(s, 400, 2)
  expect_match(plot_scatter(res, move, end)$scales$get_scales("x")$name, "move, mean over the steps")
  bands <- pass_rate_by(res)
  mean_move <- rowMeans(draw_values(res, move))
  expect_equal(c(bands$from[bands$input == "move" & bands$band == 1], bands$to[bands$input == "move" & bands$band == 10]), range(mean_move))
  expect_fault(reweight_runs(res, move = law_normal(0, 1)), "argument", "drawn at each step")
  expect_identical(try_run(s, move = 2, begin = 1)$outputs$end, 21)
  table <- one_at_a_time(s, end)
  wide <- table[table$input == "move", ]
  expect_equal(c(wide$at_low, wide$at_high), 10 + 10 * (0.3 + c(-1, 1) * qnorm(0.9) * 1.5))
})

test_that("programs get series as JSON, and no series fills a mark", {
  skip_if(!nzchar(Sys.which("awk")))
  s <- study() |> add_inputs(v = law_uniform(0, 1), a = input(law_normal(0, 1), steps = 3))
  program <- c("awk", "{ split($0, part, /[][]/); n = split(part[2], x, \",\"); t = 0; for (i = 1; i <= n; i++) t += x[i]; printf \"%.12f\\n\", t }")
  res <- quietly(add_program(s, program, input = "json", outputs = list(y = from_line(1))) |> add_outputs(z = sum(a)), 5)
  expect_equal(res$y, res$z)
  expect_fault(add_program(s, c("echo", "@[a]"), outputs = list(y = from_line(1))), "name", "`a`")
})

test_that("runs that were made elsewhere have the draws of each step checked", {
  s <- study() |> add_inputs(v = law_uniform(0, 1), a = input(law_normal(0, 1), steps = 3))
  table <- draw_inputs(s, 20, seed = 3)
  table$y <- table$v + table[["a[1]"]] + table[["a[3]"]]
  res <- read_runs(table, study = s, seed = 3, nsim = 20)
  expect_identical(output_names(res), "y")
  expect_identical(unname(draw_values(res, a)[, 2]), table[["a[2]"]])
  table[["a[2]"]][5] <- 0
  expect_fault(read_runs(table, study = s, seed = 3, nsim = 20), "argument", "`a[2]` differs", "Run: 5")
})

test_that("what an input over steps must not be is said", {
  expect_fault(input(law_normal(0, 1), steps = 0), "argument", "steps")
  expect_fault(input(law_normal(0, 1), steps = c(3, 1)), "argument", "increasing")
  expect_fault(input(law_normal(0, 1), persistence = 0.5), "argument", "`steps`")
  expect_fault(input(law_normal(0, 1), steps = 5, persistence = 1), "argument", "leave `steps` out")
  expect_fault(input(law_normal(0, 1), steps = 5, persistence = 1.2), "argument", "persistence")
  expect_fault(input(3, steps = 5), "argument", "constant")
  expect_fault(input(law_discrete(c("a", "b")), steps = 5), "argument", "categories numbers")
  s <- study() |> add_inputs(a = input(law_normal(0, 1), steps = 5))
  expect_fault(add_outputs(s, y = a + 1), "formula", "last(a)")
  expect_fault(add_steps(s, x = state(x + a, start = 0), .steps = 6), "name", "`a`")
  expect_fault(add_steps(s, x = state(x, start = a)), "name", "`a`")
  expect_fault(draw_inputs(s, 5, 1, index = 2), "argument", "index")
  expect_fault(add_steps(add_inputs(s, b = input(law_normal(0, 1), steps = 4)), x = 1), "argument", "different steps")
})
