columns <- list(a = c(1, -2, 3, NA), b = c(4, 5, -6, 1), c = c(0, 1, 2, 3))
value_of <- function(...) evaluated(three_normals() |> add_outputs(...), columns)$values[["y"]]

test_that("several quantities are combined within each run", {
  expect_equal(value_of(y = min(b, c)), c(0, 1, -6, 1))
  expect_equal(value_of(y = max(b, c, 2)), c(4, 5, 2, 3))
  expect_equal(value_of(y = sum(b, c, 1)), c(5, 7, -3, 5))
  expect_equal(value_of(y = mean(b, c)), c(2, 3, -2, 2))
  expect_equal(value_of(y = mean(c(b, c), 5)), c(3, 11 / 3, 1 / 3, 3))
  expect_equal(value_of(y = prod(b, c)), c(0, 5, -12, 3))
  expect_equal(value_of(y = any(b > 4, c > 2)), c(FALSE, TRUE, FALSE, TRUE))
  expect_equal(value_of(y = all(b > 0, c < 3)), c(TRUE, TRUE, FALSE, FALSE))
  expect_equal(value_of(y = c %in% c(0, 3)), c(TRUE, FALSE, FALSE, TRUE))
})

test_that("only the branch that is taken can warn or fail", {
  expect_silent(out <- evaluated(three_normals() |> add_outputs(y = if (b > 0) sqrt(b) else -1), columns))
  expect_equal(out$values$y, c(2, sqrt(5), -1, 1))
  expect_equal(nrow(out$failures), 0)
  expect_equal(value_of(y = ifelse(c > 1, if (b < 0) log(-b) else 0, 9)), c(9, 9, log(6), 0))
  expect_equal(value_of(y = if (2 > 1) b else log(-1)), columns$b)
  expect_equal(value_of(y = c > 0 && b / c > 0), c(FALSE, TRUE, FALSE, TRUE))
  expect_equal(value_of(y = c == 0 || 1 / c > 0.4), c(TRUE, TRUE, TRUE, FALSE))
  careful <- function(x) if (x > 0) x else stop("not for me")
  out <- evaluated(three_normals() |> add_outputs(y = if (b > 0) careful(b) else 0), columns)
  expect_equal(out$values$y, c(4, 5, 0, 1))
  expect_equal(nrow(out$failures), 0)
})

test_that("failed runs are told by their reason", {
  s <- three_normals() |> add_outputs(
    root = sqrt(a), ratio = 1 / c, choice = if (a > 0) 1 else 0, given = a, after = root + 1, kept = is.na(a) | FALSE
  )
  f <- evaluated(s, columns)$failures
  reason <- function(output, run) f$reason[f$output == output & f$run == run]
  expect_identical(reason("root", 2), "not a number (NaN) in `sqrt(a)`")
  expect_identical(reason("root", 4), "missing (NA)")
  expect_identical(reason("ratio", 1), "infinite (Inf) in `1/c`")
  expect_identical(reason("choice", 4), "the condition of `if` is NA")
  expect_identical(reason("given", 4), "missing (NA)")
  expect_identical(reason("after", 2), "`root` failed")
  expect_false("kept" %in% f$output)
  # the condition's failure stands though the rest of the formula would hide it
  out <- evaluated(three_normals() |> add_outputs(y = if (is.na(if (a > 0) 1 else 0)) 5 else 6), columns)
  expect_identical(out$values$y[4], NA_real_)
})

test_that("what acts across runs is refused when the output is added", {
  s <- three_normals()
  expect_fault(add_outputs(s, y = mean(a)), "across_runs", "Output `y`", "`mean(a)`", "across runs")
  expect_fault(add_outputs(s, y = max(c(a))), "across_runs", "Output `y`")
  expect_fault(add_outputs(s, y = a - sum(a)), "across_runs")
  expect_fault(add_outputs(s, y = cumsum(a)), "across_runs", "`cumsum()`")
  expect_fault(add_outputs(s, y = base::rank(a)), "across_runs", "`rank()`")
  expect_fault(add_outputs(s, y = a[1]), "across_runs", "`a[1]`")
  expect_fault(add_outputs(s, y = quantile(a, 0.5)), "across_runs")
  expect_fault(add_outputs(s, y = a + rnorm(1)), "formula", "`rnorm()`", "law")
  expect_fault(add_outputs(s, y = a + as.numeric(Sys.time())), "formula", "clock")
  expect_fault(add_outputs(s, y = k <<- a), "formula", "`<<-`")
  expect_fault(add_outputs(s, y = { z <- a; z }), "formula", "one expression")
  expect_fault(add_outputs(s, y = if (a > 0) 1), "formula", "two branches")
  expect_fault(add_outputs(s, y = a %in% c(b, 1)), "formula", "right side")
  expect_fault(add_outputs(s, y = c(a, b)), "formula", "`c`")
  expect_fault(add_outputs(s, y = max(a, b, na.rm = TRUE)), "formula", "na.rm")
  expect_fault(add_outputs(s, y = (function(x) x)(a)), "formula", "by their names")
})

test_that("functions of the user's own are scanned, bound and called as they must be", {
  s <- three_normals()
  running <- function(x) cumsum(x)
  expect_fault(add_outputs(s, y = running(a)), "across_runs", "In `running`", "cumsum")
  inner <- function(x) rev(x)
  outer_one <- function(x) inner(x) + 1
  expect_fault(add_outputs(s, y = outer_one(a)), "across_runs", "rev")
  picks <- function(x) x[1]
  expect_fault(add_outputs(s, y = picks(a)), "across_runs", "x[1]")
  noisy <- function(x) x + runif(1)
  expect_fault(add_outputs(s, y = noisy(a)), "formula", "runif")

  scale <- 10  # a session value under the name of a function that acts across runs
  table <- c(0, 1, 4)
  looked_up <- function(x) table[findInterval(x, c(0, 1, 2))] * scale
  capped <- function(x) min(x, 5)
  plain <- function(x) x * 2
  s <- add_outputs(s, l = looked_up(c), m = capped(b), p = plain(b), whole = output(capped(b), vectorised = TRUE))
  expect_false(s$outputs$l$formula$functions$looked_up$each)
  expect_true(s$outputs$m$formula$functions$capped$each)
  expect_false(s$outputs$p$formula$functions$plain$each)
  expect_false(s$outputs$whole$formula$functions$capped$each)
  scale <- 99
  rm(table)
  s$outputs$whole <- NULL
  out <- evaluated(s, list(a = c(1, 1), b = c(4, 9), c = c(0, 2)))$values
  expect_equal(out$l, c(0, 40))
  expect_equal(out$m, c(4, 5))
  expect_equal(out$p, c(8, 18))
  copy <- tempfile()
  saveRDS(s, copy)
  expect_identical(study_hash(readRDS(copy)), study_hash(s))
})

test_that("a function's errors fail their own runs and no others", {
  fussy <- function(x) { if (x < 0) stop("below zero"); sqrt(x) }
  two <- function(x) if (x > 4) c(x, x) else x
  s <- three_normals() |> add_outputs(y = fussy(b), z = two(b), v = output(fussy(b), vectorised = TRUE))
  out <- evaluated(s, columns)
  expect_equal(out$values$y, c(2, sqrt(5), NA, 1))
  expect_identical(out$failures$reason[out$failures$output == "y"], "`fussy()` failed: below zero")
  expect_identical(out$failures$reason[out$failures$output == "z"], "`two()` returned 2 numbers, not one value")
  expect_equal(out$values$v, c(2, sqrt(5), NA, 1))
  chatty <- function(x) { warning("mind the step"); x }
  expect_identical(quietly(three_normals() |> add_outputs(y = chatty(a)))$warnings,
    data.frame(output = "y", message = "mind the step"))
})

test_that("a run must have the value it has alone", {
  capped <- function(x) x - min(x, 5)
  s <- three_normals() |> replace_inputs(a = law_normal(3, 1))
  expect_fault(quietly(add_outputs(s, y = output(capped(a), vectorised = TRUE)), 10000), "across_runs", "`y`",
    "In run", "alone")
  # hidden from the scan, and off by a little in the highest runs alone
  rare <- function(x) x + 1e-3 * (x > get("mean")(x) + 3.5)
  expect_fault(quietly(add_outputs(s, y = rare(a)), 10000), "across_runs", "`y`")
  sum_of <- function(x) sum(x)
  expect_fault(quietly(add_outputs(s, y = output(sum_of(a), vectorised = TRUE))), "across_runs",
    "returned 1 for 200 runs")
})

test_that("names are bound by value, known study names first", {
  a <- 100
  k <- 3
  rates <- c(1, 2, 6)
  tariff <- list(night = 0.5)
  s <- three_normals() |> add_outputs(y = a * k + mean(rates) + tariff$night + rates[2])
  expect_equal(evaluated(s, columns)$values$y, columns$a * 3 + 3 + 0.5 + 2)
  expect_output(print(s), "mean(rates) = 3", fixed = TRUE)
  expect_output(print(s), "k = 3", fixed = TRUE)
  expect_fault(add_outputs(s, z = a * rates), "formula", "`rates` is 3 numbers")
  expect_fault(add_outputs(s, z = a * demnd), "name", "`demnd`")
  expect_fault(add_outputs(three_normals() |> add_inputs(demand = 3), z = demnd), "name", "Did you mean `demand`?")
  expect_fault(add_outputs(s, z = sample(rates)), "formula", "sample")
})

test_that("values and functions of one name do not clash", {
  beta <- 2
  c <- 3
  max <- 100
  s <- study() |> add_inputs(gamma = law_normal(0, 1), length = 4) |>
    add_outputs(y = beta * gamma(length) + beta(1, 1) + c + max(max, gamma) + if (gamma %in% c(1, 2)) 1 else 0)
  expect_equal(evaluated(s, list(gamma = c(1, 5), length = 4))$values$y, c(12 + 1 + 3 + 100 + 1, 12 + 1 + 3 + 100))
})

test_that("outputs may come in any order but not in a circle", {
  s <- three_normals() |> add_outputs(z = y + 1, y = a * 2)
  expect_equal(evaluated(s, columns)$values$z, columns$a * 2 + 1)
  expect_fault(add_outputs(three_normals(), u = v, v = w, w = u), "cycle", "`u` needs `v` needs `w` needs `u`")
  expect_fault(add_outputs(three_normals(), u = u + 1), "cycle", "`u` needs `u`")
})

test_that("outputs come from lists, tables and output() alike", {
  o <- output(a + b, unit = "m")
  first <- three_normals() |> add_outputs(y = output(a + b, unit = "m"))
  expect_identical(three_normals() |> add_outputs(y = !!o), first)
  expect_identical(three_normals() |> add_outputs(list(y = o)), first)
  expect_identical(three_normals() |> add_outputs(data.frame(name = "y", formula = "a + b", unit = "m")), first)
  expect_fault(three_normals() |> add_outputs(data.frame(name = "y", formula = "system('ls')")), "formula", "system")
  expect_fault(three_normals() |> add_outputs(data.frame(name = "y")), "argument", "`formula`")
})

test_that("an output that is no number is refused", {
  expect_fault(three_normals() |> add_outputs(y = "a + b"), "formula", "Output `y`", "without quotation marks")
  expect_fault(three_normals() |> add_outputs(a + b), "name", "needs a name")
  expect_fault(three_normals() |> add_outputs(y = output()), "argument", "must be one formula", "add_model()")
  expect_identical(add_outputs(three_normals()), three_normals())
  expect_fault(quietly(three_normals() |> add_outputs(y = if (a > 0) "high" else "low")), "model", "`y`", "number")
  expect_fault(quietly(three_normals() |> add_outputs(y = exp("a"))), "model", "`y`")
})

test_that("long sums are read and deep nesting is refused", {
  long <- str2lang(paste(rep("a", 450), collapse = " + "))
  expect_equal(evaluated(three_normals() |> add_outputs(y = !!long), columns)$values$y, 450 * columns$a)
  too_long <- str2lang(paste(rep("a", 600), collapse = " + "))
  expect_fault(add_outputs(three_normals(), y = !!too_long), "formula", "nested")
  deep <- Reduce(function(x, i) call("sqrt", x), 1:150, quote(a))
  expect_fault(add_outputs(three_normals(), y = !!deep), "formula", "nested")
})
