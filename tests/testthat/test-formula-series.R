walk <- function(steps = 1:6) {
  study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1)) |>
    add_model(rlang::inject(function(a, b) data.frame(step = !!steps, x = sin(a * (1:6)) + b, z = a + (1:6))),
      name = "walk")
}

test_that("formulas read series over their steps", {
  s <- walk() |> add_outputs(top = max(x), low = min(x), all = sum(x), avg = mean(x), end = last(x), mid = at(x, 3),
    ever = any(x > 1.5), always = all(x < 1.5), when = first_step(x > 1, never = 7), gap = max(z - x) + b,
    both = sum(x * z > 0.5), product = prod(x), gentle = max(if (b > 0) x else -x))
  res <- quietly(s, 200)
  x <- unname(output_values(res, x))
  z <- unname(output_values(res, z))
  d <- as.data.frame(res)
  expect_equal(d$top, apply(x, 1, max))
  expect_equal(d$low, apply(x, 1, min))
  expect_equal(d$all, rowSums(x))
  expect_equal(d$avg, rowMeans(x))
  expect_equal(d$end, x[, 6])
  expect_equal(d$mid, x[, 3])
  expect_identical(d$ever, apply(x, 1, max) > 1.5)
  expect_identical(d$always, apply(x, 1, max) < 1.5)
  expect_equal(d$when, apply(x > 1, 1, function(met) c(which(met), 7)[1]))
  expect_equal(d$gap, apply(z - x, 1, max) + d$b)
  expect_equal(d$both, rowSums(x * z > 0.5))
  expect_equal(d$product, apply(x, 1, prod))
  expect_equal(d$gentle, ifelse(d$b > 0, apply(x, 1, max), apply(-x, 1, max)))
  # each run alone
  one <- study_evaluator(s)(list(a = d$a[7], b = d$b[7]), 7)$values
  expect_equal(one$gap, d$gap[7])
  expect_equal(chance(res, at(x, 2) > 1, max(x) > 1)$chance, c(mean(x[, 2] > 1), mean(d$top > 1)))
  expect_identical(s$outputs$when$formula$text, "first_step(x > 1, never = 7)")
})

test_that("steps may be dates, and a first step is one", {
  days <- as.Date("2026-06-01") + c(0:4, 10)
  s <- walk(days) |> add_outputs(when = first_step(x > 1, never = date("2026-07-01")), y = at(x, date("2026-06-11")),
    late = when > date("2026-06-05"))
  res <- quietly(s, 100)
  expect_s3_class(res$when, "Date")
  x <- unname(output_values(res, x))
  expect_identical(as.double(res$when), apply(x > 1, 1, function(met) as.double(c(days[met], as.Date("2026-07-01"))[1])))
  expect_equal(res$y, x[, 6])
  expect_identical(output_values(res, x, "2026-06-11"), x[, 6])
  expect_identical(res$late, as.double(res$when) > as.double(as.Date("2026-06-05")))
  expect_fault(walk(days) |> add_outputs(y = at(x, date("2026-06-08"))), "formula", "step of the series", "2026-06-11")
  expect_fault(walk(days) |> add_outputs(y = first_step(x > 1, never = 3) > date("2026-06-08")), "formula", "date")
})

test_that("series that are read wrongly are refused with how to", {
  expect_fault(walk() |> add_outputs(y = x + 1), "formula", "last(x)", "6 steps")
  expect_fault(walk() |> add_outputs(y = at(x, 7)), "formula", "`7` is none", "1 to 6")
  expect_fault(walk() |> add_outputs(y = at(x, a)), "formula", "step of the series")
  expect_fault(walk() |> add_outputs(y = last(a)), "formula", "`last()` reads a series")
  expect_fault(walk() |> add_outputs(y = last()), "formula", "needs a series")
  expect_fault(walk() |> add_outputs(y = first_step(x > 1)), "formula", "never")
  expect_fault(walk() |> add_outputs(y = max(last(x) - x)), "formula", "inside another")
  expect_fault(walk() |> add_outputs(y = max(a)), "across_runs")
  other <- walk() |> add_model(function(a) data.frame(step = 1:3, w = a), name = "other")
  expect_fault(other |> add_outputs(y = max(x - w)), "formula", "same steps")
  # without series the words are free
  last <- function(x) x + 1
  d <- as.data.frame(quietly(three_normals() |> add_outputs(y = last(a)), 10))
  expect_equal(d$y, d$a + 1)
})

test_that("a run whose series failed has failed in what reads it", {
  s <- study() |> add_inputs(u = law_uniform(0, 1)) |>
    add_model(function(u) if (u > 0.8) stop("dry") else data.frame(step = 1:3, x = u * (1:3)), name = "m") |>
    add_outputs(top = max(x), when = first_step(x > 1, never = 4))
  res <- quietly(s, 100)
  expect_equal(sum(is.na(res$top)), 20)
  expect_setequal(failures(res)$reason, c("`m()` failed: dry", "`x` failed"))
})
