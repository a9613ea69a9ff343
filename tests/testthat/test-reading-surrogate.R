ishigami_of <- function(nsim, seed) {
  study("Ishigami") |> add_inputs(a = law_uniform(-pi, pi), b = law_uniform(-pi, pi), c = law_uniform(-pi, pi)) |>
    add_outputs(y = sin(a) + 7 * sin(b)^2 + 0.1 * c^4 * sin(a)) |> simulate(nsim, seed)
}
test_that("Ishigami's function is known from 200 runs: predictive R squared, indices, which inputs act together", {
  fast <- surrogate(ishigami_of(200, 1))
  row <- summary(fast)
  expect_gt(row$r_squared, 0.9)
  expect_true(row$low <= row$r_squared && row$r_squared <= row$high)
  fresh <- as.data.frame(ishigami_of(5000, 99))
  truth <- 1 - mean((predict(fast, fresh[c("a", "b", "c")])$y - fresh$y)^2) / var(fresh$y)
  expect_true(row$low <= truth && truth <= row$high)
  v <- c((1 + 0.1 * pi^4 / 5)^2 / 2, 49 / 8, 0, 0.01 * pi^8 * (1 / 18 - 1 / 50))
  first <- v[1:3] / sum(v)
  total <- c(v[1] + v[4], v[2], v[4]) / sum(v)
  for (one in list(fast, surrogate(ishigami_of(200, 1), kinds = "gaussian"))) {
    near <- if (identical(one, fast)) 0.05 else 0.08
    indices <- variance_indices(one, seed = 1)
    of <- function(measure) {
      rows <- indices[indices$measure == measure, ]
      rows[match(c("a", "b", "c"), rows$input), ]
    }
    expect_lt(max(abs(of("first_order")$value - first)), near)
    expect_lt(max(abs(of("total")$value - total)), near)
    expect_true(all(of("total")$low <= total & total <= of("total")$high))
  }
  words <- paste(in_words(fast), collapse = " ")
  expect_match(words, "what inputs do together, most of it `a` and `c`")
  expect_match(words, "Single inputs make 76 % of it|Single inputs make 75 % of it|Single inputs make 77 % of it")
  parts <- surrogate_inputs(fast)
  expect_identical(parts$idle, parts$low <= 0)
  expect_identical(surrogate_scores(fast)$surrogate[1], row$surrogate)
  expect_identical(sum(surrogate_regions(fast)$about == "y"), 3L)
})

test_that("of nine inputs the four idle ones are found, and left out; stated scores hold on fresh runs", {
  expect_identical(idle_missed(100, 1:3), list())
  expect_lte(length(c(scores_missed("ridge", 100, 1:4, 4000), scores_missed("noisy", 100, 1:4, 4000))), 1)
})

test_that("scores are honest where little can be known", {
  inputs <- function(s) add_inputs(s, a = law_uniform(0, 1), b = law_uniform(0, 1))
  noise <- study("Noise") |> inputs() |> add_model(function(a) a + stats::rnorm(1), outputs = "y") |> simulate(100, 1, progress = NULL)
  row <- summary(surrogate(noise))
  expect_lt(row$r_squared, 0.5)
  expect_match(row$findings, "poor")
  # most of the spread is three runs
  rare <- study("Rare") |> inputs() |> add_outputs(y = if (a * b > 0.85) 5 else 1 + 0.001 * a) |> simulate(200, 4)
  expect_true(sum(rare$y > 3) %in% 1:5)
  expect_match(summary(surrogate(rare))$findings, "rests_on_few")
  step <- study("Step") |> inputs() |> add_outputs(y = if (a > 0.6) 1 else 0) |> simulate(60, 1)
  fast <- surrogate(step)
  fresh <- as.data.frame(simulate(study_of(step), 4000, 2))
  truth <- 1 - mean((predict(fast, fresh[c("a", "b")])$y - fresh$y)^2) / var(fresh$y)
  expect_gt(truth, summary(fast)$low)
  still <- surrogate(study("Still") |> inputs() |> add_outputs(y = 3 + 0 * a) |> simulate(30, 1))
  expect_identical(summary(still)$findings, "still")
  expect_equal(predict(still, data.frame(a = 0.5))$y, 3)
  expect_identical(as.character(in_words(still)), "y has the same value in every run.")
  # the same inputs twice give other values: noise
  twice <- as.data.frame(noise)[1:20, c("a", "b", "y")]
  twice$y <- twice$y + 0.5
  again <- summary(surrogate(noise, runs = twice))
  expect_match(again$findings, "noise")
  expect_identical(c(again$runs, again$repeated), c(120L, 20L))
})

test_that("runs that fail are learned, and a surrogate fails where the model probably would", {
  slow <- function(slope, flow) {
    if (flow > 0.7 && slope < 0.9) stop("no convergence")
    60 - 40 * flow^1.85 / (slope + 0.2)
  }
  main <- study("Slow") |> add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9), idle = law_lognormal(mean = 1, sd = 3)) |>
    add_model(slow, outputs = list(pressure = output(unit = "m"))) |> add_outputs(head = pressure / 10) |> add_specs(pressure >= 35, head < 9)
  res <- simulate(main, 120, 11, progress = NULL)
  fast <- surrogate(res)
  expect_identical(summary(fast)$failed, length(unique(failures(res)$run)))
  told <- predict(fast, data.frame(slope = c(0.6, 1.3), flow = c(0.85, 0.5)))
  expect_gt(told$failing[1], 0.5)
  expect_lt(told$failing[2], 0.2)
  expect_equal(told$pressure[2], slow(1.3, 0.5), tolerance = 1e-3)
  quick <- simulate(fast, 2000, 5)
  true <- simulate(main, 2000, 5, progress = NULL)
  failed <- function(result) as.data.frame(result)$failed
  expect_gt(mean(failed(quick) == failed(true)), 0.95)
  both <- !failed(quick) & !failed(true)
  expect_lt(max(abs(quick$pressure - true$pressure)[both]), 0.5)
  expect_equal(quick$head, quick$pressure / 10)
  expect_true("outside" %in% names(study_of(quick)$outputs))
  expect_match(paste(format(quick), collapse = "\n"), "Predicted by a surrogate, not by the model")
  expect_match(paste(format(quick), collapse = "\n"), "lie outside those")
  # drivers, sweeps and specs work on it
  expect_identical(drivers(quick, "pressure")$input[1], "flow")
  expect_identical(nrow(pass_rate(quick)), nrow(pass_rate(true)))
  sweep <- sweep_input(study_of(fast), flow = c(0.5, 0.7), .nsim = 200, .seed = 1, .outputs = "pressure")
  expect_true(diff(sweep$figure[sweep$about == "pressure" & sweep$statistic == "mean"]) < 0)
  expect_output(print(fast), "Where runs fail is predicted, too")
  # a chance counts runs that fail as not met, in the surrogate and in the runs that correct it
  found <- surrogate_chance(fast, pressure < 45, .nsim = 20000, .seed = 2)
  truth <- chance(true, pressure < 45)$chance
  expect_identical(found$runs, 120L)
  expect_true(found$low <= truth && truth <= found$high)
  expect_lt(abs(found$chance - truth), 0.03)
  sea <- surrogate(simulate(study("Zones") |> add_inputs(a = law_uniform(0, 1), zone = law_discrete(c("hill", "town"), c(0.5, 0.5))) |>
    add_outputs(y = a + (if (zone == "hill") 1 else 0)), 40, 1))
  expect_identical(predict(sea, data.frame(a = 0.5, zone = c("hill", "sea")))$outside, c(FALSE, TRUE))
})

test_that("points outside the runs are told, in ends and in hollows", {
  corr <- study("Corr") |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1)) |> add_correlation(a, b, 0.95) |> add_outputs(y = a + b^2) |> simulate(80, 1)
  told <- predict(surrogate(corr), data.frame(a = c(0, 1.5, 9), b = c(0, -1.5, 9)))
  expect_identical(told$outside, c(FALSE, TRUE, TRUE))
})

test_that("series, dates, whole numbers, yes/no outputs and categories are predicted as such", {
  path <- function(a, b) data.frame(level = 100 * exp(-a * (1:30) / 10) + b * sin((1:30) / 5))
  s <- study("Series") |> add_inputs(a = law_uniform(0.5, 1.5), b = law_normal(10, 3)) |> add_model(path) |> add_outputs(low = min(level))
  fast <- surrogate(simulate(s, 60, 1, progress = NULL))
  expect_gt(summary(fast)$r_squared, 0.99)
  told <- predict(fast, data.frame(a = 1, b = 10))
  expect_lt(max(abs(unlist(told[paste0("level[", 1:30, "]")]) - path(1, 10)$level)), 1)
  quick <- simulate(fast, 300, 2)
  expect_equal(quick$low, apply(output_values(quick, level), 1, min))
  kinds <- study("Kinds") |> add_inputs(x = law_uniform(0, 1), n = law_poisson(3), zone = law_discrete(c("hill", "town", "mill"), c(0.2, 0.3, 0.5))) |>
    add_outputs(when = date("2027-01-01") + 30 * x + 5 * n, ok = x + n > 2, by_zone = if (zone == "hill") 5 + x else if (zone == "town") 2 else -x)
  res <- simulate(kinds, 150, 3)
  fast <- surrogate(res)
  expect_true(all(summary(fast)$r_squared > 0.95))
  quick <- simulate(fast, 200, 1)
  expect_s3_class(quick$when, "Date")
  expect_type(quick$ok, "logical")
  true <- simulate(kinds, 200, 1)
  expect_lt(mean(abs(quick$by_zone - true$by_zone)), 0.1)
  expect_gt(mean(quick$ok == true$ok), 0.95)
})

test_that("chances are corrected by the runs, and the interval knows how many there are", {
  res <- study("Wavy") |> add_inputs(a = law_uniform(0, 1), b = law_uniform(0, 1)) |> add_outputs(y = a + 0.2 * sin(40 * b)) |> simulate(80, 1)
  fast <- surrogate(res, kinds = "additive")
  found <- surrogate_chance(fast, y > 0.9, both = y > 0.9 & a < 0.95, .nsim = 20000, .seed = 2)
  truth <- chance(simulate(study_of(res), 50000, 7), y > 0.9, y > 0.9 & a < 0.95)$chance
  expect_true(all(found$low <= truth & truth <= found$high))
  expect_identical(found$condition, c("y > 0.9", "both"))
  expect_equal(found$chance, pmax(found$surrogate + (found$missed - found$false) / 80, 0))
  expect_gt(found$unsure[1], 0.2)
  sure <- surrogate_chance(surrogate(ishigami_of(100, 2)), y > 20, .nsim = 1000, .seed = 1)
  expect_identical(c(sure$chance, sure$low), c(0, 0))
  expect_gt(sure$high, 0.02)
})

test_that("what cannot be fitted is refused with its reason", {
  res <- ishigami_of(9, 1)
  expect_error(surrogate(res), "at least 10 good runs", class = "ensayo_error_argument")
  many <- study("Many") |> add_inputs(!!!stats::setNames(rep(list(law_uniform(0, 1)), 20), paste0("x", 1:20))) |> add_outputs(y = x1 + x2)
  expect_error(surrogate(simulate(many, 15, 1)), "at least 22 good runs", class = "ensayo_error_argument")
  bad <- suppressWarnings(study("Bad") |> add_inputs(a = law_uniform(0, 1)) |> add_outputs(y = log(-1 - a)) |> simulate(50, 1))
  expect_error(surrogate(bad), "0 good runs", class = "ensayo_error_argument")
  stepped <- study("Steps") |> add_inputs(a = input(law_uniform(0, 1), steps = 5)) |> add_outputs(y = sum(a)) |> simulate(50, 1)
  expect_error(surrogate(stepped), "drawn anew at each step", class = "ensayo_error_argument")
  good <- ishigami_of(50, 1)
  expect_error(surrogate(good, z), class = "ensayo_error_name")
  expect_error(surrogate(good, kinds = "cubic"), class = "ensayo_error_argument")
  expect_error(surrogate(good, runs = data.frame(a = 1)), "is missing", class = "ensayo_error_argument")
  expect_error(predict(surrogate(good), data.frame(d = 1)), class = "ensayo_error_name")
  expect_error(in_words(3), class = "ensayo_error_argument")
  expect_error(study_of(3), class = "ensayo_error_argument")
})

test_that("a surrogate is data: written, read, and held against what it must be", {
  path <- function(a, b) data.frame(level = a * (1:4) + b)
  s <- study("Kept") |> add_inputs(a = law_uniform(0, 1), b = law_normal(0, 1), zone = law_discrete(c("hill", "town"), c(0.4, 0.6))) |> add_model(path) |>
    add_outputs(low = min(level))
  res <- simulate(s, 40, 1, progress = NULL)
  for (kind in names(surrogate_kinds())) {
    fast <- study_of(surrogate(res, kinds = kind))
    file <- withr::local_tempfile(fileext = ".yml")
    write_study(fast, file)
    read <- read_study(file)
    expect_identical(read, fast, label = kind)
    expect_identical(as.data.frame(simulate(read, 30, 2)), as.data.frame(simulate(fast, 30, 2)))
    dir <- withr::local_tempfile()
    write_result(simulate(read, 30, 2), dir)
    expect_identical(as.data.frame(read_result(dir)), as.data.frame(simulate(fast, 30, 2)))
    renamed <- rename_inputs(fast, slope = a)
    expect_identical(simulate(renamed, 30, 2)$low, simulate(fast, 30, 2)$low)
  }
  # any piece that is not what it was is refused before anything is calculated
  text <- readLines(file)
  broken <- function(from, to) {
    changed <- sub(from, to, text)
    expect_false(identical(changed, text))
    writeLines(changed, file)
    expect_error(simulate(read_study(file), 5, 1), class = "ensayo_error")
  }
  broken("used: i 1.*", "used: i 99")
  broken("rows: i 1 ", "rows: i 0 ")
  broken("kind: gaussian|- gaussian$", "- cubic")
  broken("nugget: n .*", "nugget: n -1")
  broken("calibration: n .*", "calibration: x")
  broken("  lengths: n .*", "  lengths: n 1")
})
