# JCGM 101:2008, 9.2: standard uncertainty and the symmetric and shortest 95 % intervals, to the published digits.
test_that("the published sums of four inputs come out", {
  sum_of <- function(laws) study() |> add_inputs(!!!laws) |> add_outputs(y = x1 + x2 + x3 + x4)
  named <- function(...) stats::setNames(list(...), paste0("x", 1:4))
  rectangle <- function(sd) law_uniform(-sd * sqrt(3), sd * sqrt(3))
  check <- function(laws, u, end, digits) {
    res <- quietly(sum_of(laws), 1e7, 1)
    row <- summary(res, percentiles = 50)
    expect_equal(signif(row$sd, 3), u)
    expect_lt(abs(row$mean), 0.005)
    ends <- coverage_interval(res, y, 0.95)
    expect_equal(abs(ends$low), rep(end, 2), tolerance = 0.6 * 10^-digits / end)
    expect_equal(ends$high, rep(end, 2), tolerance = 0.6 * 10^-digits / end)
  }
  check(named(law_normal(0, 1), law_normal(0, 1), law_normal(0, 1), law_normal(0, 1)), 2, 3.92, 2)
  check(named(rectangle(1), rectangle(1), rectangle(1), rectangle(1)), 2, 3.88, 2)
  check(named(rectangle(1), rectangle(1), rectangle(1), rectangle(10)), 10.1, 17, 1)
})

test_that("the shortest interval is the shortest, by brute force", {
  res <- quietly(study() |> add_inputs(a = law_exponential(mean = 2)) |> add_outputs(y = a,
    late = date("2027-01-01") + a), 400)
  table <- coverage_interval(res, y, c(0.5, 0.9))
  sorted <- sort(res$outputs$y)
  widths <- outer(1:400, 1:400, function(i, j) ifelse(j - i >= 360, sorted[j] - sorted[i], Inf))
  expect_equal(table$width[4], min(widths))
  expect_equal(mean(sorted > table$low[1] & sorted <= table$high[1]), 0.5)
  expect_equal(mean(sorted < table$low[3]), 0.05, tolerance = 0.06)
  expect_match(format(coverage_interval(res, late)), "2027-01", all = FALSE)
  expect_match(coverage_interval(res, y, 0.999)$remark[1], "too few")
  expect_fault(coverage_interval(res, y, 95), "argument", "Divide percentages")
  expect_fault(coverage_interval(res, y, interval = "narrow"), "argument", "shortest")
})
