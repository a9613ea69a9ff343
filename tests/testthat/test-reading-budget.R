# Budgets against the examples of JCGM 100 and 101, closed forms, and simulation.

test_that("the end gauge of JCGM 100, H.1, has its published figures", {
  b <- budget(end_gauge(), length, coverage = 0.99)
  r <- budget_result(b)
  expect_equal(1e6 * r$standard, 31.666406, tolerance = 1e-7)
  expect_equal(r$df, 16.75708, tolerance = 1e-6)
  expect_equal(r$k, 2.920782, tolerance = 1e-6)
  expect_equal(1e6 * r$expanded, 92.49066, tolerance = 1e-6)
  expect_identical(c(r$stated_value, r$stated_expanded), c("50.000838", "0.000092"))
  # second order (H.1.7): what the difference in expansion does through the temperature, which swings by 0.41 degrees in all
  expect_equal(1e6 * r$second_order, 33.808912, tolerance = 1e-5)
  expect_equal(1e6 * sqrt(sum(as.data.frame(b)$second_order) + r$standard^2), 1e6 * r$second_order)
  rows <- as.data.frame(b)
  expect_equal(sum(rows$share), 1)
  expect_identical(rows$input[1:2], c("standard", "temperature_difference"))
  expect_equal(budget_result(budget(end_gauge(), length, second_order = TRUE))$standard, r$second_order)
  expect_equal(budget_result(budget(end_gauge(), length, k = 2))$k, 2)
})

test_that("a factor that is given is stated with what it covers", {
  four <- of_inputs(a, a = law_observed(n = 5, mean = 1, sd = 1, of = "mean"))
  r <- budget_result(budget(four, k = 2, coverage = 0.99))
  expect_equal(r$coverage, 2 * pt(2, 4) - 1)
  expect_match(format_lines(budget(four, k = 2)), "k = 2.00, coverage 88.4 %", fixed = TRUE)
  known <- of_inputs(a, a = law_normal(1, 1))
  expect_match(format_lines(budget(known, k = 2)), "k = 2.00, coverage 95.45 %", fixed = TRUE)
  expect_match(format_lines(budget(known)), "k = 1.96, coverage 95 %", fixed = TRUE)
  # the verdict's interval is that of the factor
  v <- budget_verdict(budget(known, k = 3), simulate(known, 20000, 1, replicates = 10), digits = 1)
  expect_identical(as.data.frame(v)$verdict[3:4], c("validated", "validated"))
})

test_that("correlated readings of JCGM 100, H.2, have theirs", {
  s <- impedance()
  published <- list(R = c(127.732170, 0.0710714), X = c(219.846512, 0.295582), Z = c(254.259702, 0.236336))
  for (name in names(published)) {
    r <- budget_result(budget(s, name))
    expect_equal(c(r$value, r$standard), published[[name]], tolerance = 2e-6)
    expect_equal(r$df, 4)
  }
  lines <- format_lines(budget(s, R))
  expect_match(lines, "come from the same points and count as one, with 4 degrees of freedom")
  expect_match(lines, "181.1 %")
  # 2 c c u u r of V and phi, by the derivatives of R and the readings' own figures
  se <- vapply(impedance_readings, sd, 0) / sqrt(5)
  m <- colMeans(impedance_readings)
  c <- c(V = cos(m[["phi"]]) / m[["I"]] * 1000, phi = -m[["V"]] / m[["I"]] * 1000 * sin(m[["phi"]]))
  expect_equal(ensayo:::correlation_terms(budget(s, R))$term[2], 2 * prod(c) * se[["V"]] * se[["phi"]] * cor(impedance_readings)["V", "phi"], tolerance = 1e-6)
})

test_that("Welch and Satterthwaite hold for independent inputs, and sets that hang together count as one", {
  s <- of_inputs(a + b, a = law_observed(n = 4, mean = 1, sd = 2, of = "mean"), b = law_measured(3, expanded = 1, k = 2, df = 10))
  u <- c(1, 0.5)
  expect_equal(budget_result(budget(s))$df, sum(u^2)^2 / sum(u^4 / c(3, 10)))
  unequal <- of_inputs(a + b, a = law_observed(n = 4, mean = 1, sd = 2, of = "mean"), b = law_observed(n = 9, mean = 1, sd = 2, of = "mean")) |>
    add_correlation(a, b, 0.5)
  expect_equal(budget_result(budget(unequal))$df, 3)
  expect_match(format_lines(budget(unequal)), "unequal length")
  mixed <- of_inputs(a + b, a = law_observed(n = 4, mean = 1, sd = 2, of = "mean"), b = law_normal(0, 1)) |> add_correlation(a, b, 0.5)
  expect_match(format_lines(budget(mixed)), "do not cover that")
  expect_equal(budget_result(budget(of_inputs(a + 1, a = law_curvilinear(-1, 1, within = 0.1))))$df, 50)
  expect_identical(budget_result(budget(of_inputs(a + b, a = law_normal(0, 1), b = law_uniform(0, 1))))$df, Inf)
})

test_that("correlations are those of the values, whatever the laws", {
  # of two uniform laws whose scores have r: Pearson's is 6/pi asin(r/2), the rank correlation
  s <- of_inputs(a + b, a = law_uniform(-1, 1), b = law_uniform(0, 4)) |> add_correlation(a, b, 0.7)
  expect_equal(budget(s)$r[1, 2], 0.7, tolerance = 1e-6)
  # of two lognormal laws: (exp(r s t) - 1) / sqrt((exp(s^2) - 1) (exp(t^2) - 1))
  s <- of_inputs(a + b, a = law_lognormal(meanlog = 0, sdlog = 0.5), b = law_lognormal(meanlog = 1, sdlog = 0.8)) |>
    add_correlation(a, b, 0.6, kind = "score")
  expect_equal(budget(s)$r[1, 2], (exp(0.6 * 0.4) - 1) / sqrt((exp(0.25) - 1) * (exp(0.64) - 1)), tolerance = 1e-6)
  s <- of_inputs(a - b, a = law_normal(0, 1), b = -1 * law_normal(0, 2)) |> add_correlation(a, b, 0.5, kind = "score")
  expect_equal(budget(s)$r[1, 2], 0.5, tolerance = 1e-9)
  # of one uncertainty in two inputs it is 1, with its sign
  one <- study("t") |> add_inputs(a = law_around(10, "10 %", shape = "uniform"), b = law_triangular(18, 20, 22)) |> add_outputs(y = a - b)
  one$inputs$b$shares <- "a"
  p <- (seq_len(1e5) - 0.5) / 1e5
  expect_equal(budget(one)$r[1, 2], cor(p, quantile(law_triangular(18, 20, 22), p)), tolerance = 1e-5)
  same <- study("t") |> add_inputs(a = law_uniform(9, 11), b = law_uniform(18, 22)) |> add_outputs(y = 2 * a - b)
  same$inputs$b$shares <- "a"
  expect_equal(budget_result(budget(same))$standard, 0, tolerance = 1e-7)
  rows <- study("t") |> add_rows(data.frame(p = c(1, 2, 4, 7), q = c(5, 4, 4, 1))) |> add_outputs(y = p + q)
  expect_equal(budget_result(budget(rows))$standard, sd(c(6, 6, 8, 8)) * sqrt(3 / 4))
})

test_that("budgets of linear equations agree with their simulation", {
  set <- withr::with_seed(5, lapply(1:20, function(i) {
    k <- sample(2:5, 1)
    list(c = round(rnorm(k), 2), mean = round(rnorm(k, 10, 5), 2), sd = round(exp(rnorm(k, -1)), 3), uniform = runif(k) < 0.5)
  }))
  for (one in set) {
    names <- letters[seq_along(one$c)]
    laws <- Map(function(mean, sd, uniform) if (uniform) law_uniform(mean - sd * sqrt(3), mean + sd * sqrt(3)) else law_normal(mean, sd),
      one$mean, one$sd, one$uniform)
    expr <- Reduce(function(a, b) call("+", a, b), Map(function(c, name) call("*", c, as.symbol(name)), one$c, names))
    s <- study("linear") |> add_inputs(!!!stats::setNames(laws, names)) |> add_outputs(y = !!expr)
    r <- budget_result(budget(s))
    expect_equal(r$value, sum(one$c * one$mean))
    expect_equal(r$standard, sqrt(sum((one$c * one$sd)^2)))
    v <- as.data.frame(budget_verdict(budget(s), simulate(s, 10000, 11, replicates = 10)))
    expect_true(all(abs(v$difference[1:2]) <= 2 * v$error[1:2]))
  }
})

test_that("second order is exact where it can be", {
  # JCGM 101, 9.4: a sum of squares; its exact standard uncertainty is that of second order
  for (x in c(0, 0.01, 0.05)) {
    s <- of_inputs(a^2 + b^2, a = law_normal(x, 0.005), b = law_normal(0, 0.005))
    b <- budget(s)
    expect_equal(budget_result(b)$second_order, sqrt(4 * x^2 * 0.005^2 + 4 * 0.005^4))
    expect_equal(budget_result(b)$shift, 2 * 0.005^2)
  }
  expect_equal(budget_result(budget(of_inputs(a^2 + b^2, a = law_normal(0.05, 0.005), b = law_normal(0, 0.005))))$second_order, 0.000502493781,
    tolerance = 1e-8)
  correlated <- of_inputs(a^2 + b^2, a = law_normal(0, 0.005), b = law_normal(0, 0.005)) |> add_correlation(a, b, 0.9, kind = "score")
  expect_equal(budget_result(budget(correlated))$second_order, 6.72681e-5, tolerance = 1e-5)
  # a product: var(ab) = a^2 v + b^2 u + u v
  b <- budget(of_inputs(a * b, a = law_normal(3, 0.2), b = law_normal(5, 0.4)))
  expect_equal(budget_result(b)$second_order^2, 9 * 0.16 + 25 * 0.04 + 0.04 * 0.16)
})

test_that("programs, steps and functions that take numbers apart are differentiated by stated differences", {
  s <- study("steps") |> add_inputs(rate = law_normal(0.02, 0.001)) |> add_steps(value = state(value * (1 + rate), start = 100), .steps = 10) |>
    add_outputs(end = last(value))
  b <- budget(s, end)
  expect_false(b$derivatives$exact)
  expect_equal(as.data.frame(b)$sensitivity, 1000 * 1.02^9, tolerance = 1e-7)
  expect_true(abs(b$derivatives$first - 0.001 * 1000 * 1.02^9) <= b$derivatives$error + 1e-12)
  expect_match(format_lines(b), "differences of runs, over one standard uncertainty and half of it")
})

test_that("many inputs, none that move, and one run's worth of bad input", {
  names <- paste0("x", 1:250)
  many <- study("many") |> add_inputs(!!!stats::setNames(rep(list(law_normal(1, 0.1)), 250), names)) |>
    add_outputs(data.frame(name = "y", formula = sprintf("sum(%s)", paste(names, collapse = ", "))))
  b <- budget(many)
  expect_equal(budget_result(b)$standard, 0.1 * sqrt(250))
  expect_true(is.na(budget_result(b)$second_order))
  expect_error(budget(study("c") |> add_inputs(a = 3) |> add_outputs(y = a)), "must vary", class = "ensayo_error_argument")
  expect_error(budget(of_inputs(sqrt(a), a = law_normal(-1, 0.1))), "value where all inputs", class = "ensayo_error_argument")
  expect_error(budget(of_inputs(a, a = law_student(df = 0.9))), NA)
  expect_error(budget(of_inputs(a, a = law_pareto(location = 1, scale = 1, shape = 0.7))), "standard uncertainty", class = "ensayo_error_argument")
  expect_error(budget(end_gauge(), lenght), "Did you mean `length`", class = "ensayo_error_name")
  expect_error(budget(end_gauge(), length, coverage = 95), class = "ensayo_error_argument")
  expect_error(budget(end_gauge(), length, digits = 3), class = "ensayo_error_argument")
  day <- study("d") |> add_inputs(a = law_normal(10, 1)) |> add_outputs(day = date("2027-03-01") + a)
  expect_error(budget(day), "must be a number", class = "ensayo_error_argument")
  expect_error(budget_result(3), class = "ensayo_error_argument")
  zero <- budget_result(budget(of_inputs(a^2, a = law_normal(0, 1))))
  expect_identical(c(zero$standard, zero$expanded), c(0, 0))
  expect_true(is.na(budget_result(budget(of_inputs(a - b, a = law_normal(1, 1), b = law_normal(1, 1))))$relative))
})

test_that("another unit changes the figures and nothing else", {
  mm <- budget_result(budget(end_gauge(), length))
  um <- budget_result(budget(end_gauge(), length, unit = "um"))
  expect_equal(um[c("value", "standard", "expanded")], 1000 * mm[c("value", "standard", "expanded")], ignore_attr = TRUE)
  expect_equal(um$df, mm$df)
  expect_identical(um$unit, "um")
  expect_error(budget(end_gauge(), length, unit = "kg"), "dimension", class = "ensayo_error_argument")
})
