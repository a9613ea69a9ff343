findings_of <- function(study, ...) review(study, ...)

test_that("the demo study and the README's are clean", {
  # the demo's one weak spot is meant: a level that stands in a formula as a bare number
  for (found in list(review(read_study(demo_file()), nsim = 10000, percentiles = c(5, 10, 50, 90, 95)), review(gravity_main()))) {
    expect_equal(as.data.frame(found)[c("severity", "about", "seen")], data.frame(severity = "hint", about = "pressure",
      seen = "In `spring - 12`, `12` has no unit, and `spring` is in m."), ignore_attr = TRUE)
  }
})

# The finding about `name` whose words hold `words`; and none about it once the study is mended.
expect_finding <- function(study, name, words, mended = NULL, ..., severity = "warning") {
  found <- review(study, ...)
  hit <- found[found$about == name & grepl(words, found$seen, fixed = TRUE), ]
  expect_identical(nrow(hit), 1L, label = paste(name, words))
  expect_identical(hit$severity, severity)
  expect_gt(nchar(hit$todo), 10)
  if (!is.null(mended)) expect_false(any(grepl(words, review(mended, ...)$seen, fixed = TRUE)),
    label = paste("mended", words))
}

base <- function(...) study() |> add_inputs(...)

test_that("each usual mistake is found, and not where there is none", {
  idle <- base(a = law_normal(1, 1), b = law_normal(2, 1)) |> add_outputs(y = a)
  expect_finding(idle, "b", "No output uses it", idle |> remove_inputs(b))
  expect_finding(idle |> fix_inputs(a), "a", "is fixed", idle, severity = "hint")
  expect_finding(idle |> fix_inputs(a), "y", "No uncertain input reaches it", idle)
  length <- function(law) base(d = input(law, positive = TRUE)) |> add_outputs(y = d)
  expect_finding(length(law_normal(0.25, 0.2)), "d", "11 % of its law lies below 0",
    length(law_lognormal(mean = 0.25, sd = 0.2)))
  share <- function(law) base(s = input(law, lower = 0, upper = 1)) |> add_outputs(y = s)
  expect_finding(share(law_normal(0.9, 0.1)), "s", "16 % of its law lies above 1",
    share(law_beta(mean = 0.9, sd = 0.05)))
  based <- function(at) base(d = input(law_pert(28, 34, 48), base = at)) |> add_outputs(y = d)
  expect_finding(based(60), "d", "outside its law", based(40))
  expect_finding(based(47.5), "d", "at P", based(40))
  cut <- function(min) base(d = law_truncated(law_normal(1, 1), min = min)) |> add_outputs(y = d)
  expect_finding(cut(0), "d", "cuts 16 %", cut(-2))
  failing <- base(d = input(law_uniform(-1, 1), base = -0.5)) |> add_outputs(y = sqrt(d))
  expect_finding(failing, "y", "fails in the base case")
})

test_that("a count times one draw of a size is found, however it is written", {
  counted <- function(s) s |> add_inputs(n = law_poisson(7), cost = law_gamma(mean = 900, sd = 400), fixed = 3)
  for (s in list(
    counted(study()) |> add_outputs(y = n * cost), counted(study()) |> add_outputs(y = 2 + cost * fixed * (n)),
    counted(study()) |> add_outputs(y = max(0, n * 2 * cost) / 3)
  )) expect_finding(s, "y", "count `n` by one draw of `cost`")
  expect_false(any(grepl("count", review(counted(study()) |> add_outputs(y = n * 900 + cost + fixed * n))$seen)))
})

test_that("units that do not go together are found", {
  s <- base(a = input(law_normal(1, 1), unit = "m"), b = input(law_normal(1, 1), unit = "mm"), c = law_normal(0, 1))
  expect_finding(s |> add_outputs(y = a + b), "y", "`a` [m] and `b` [mm]", s |> add_outputs(y = a + b / 1000))
  expect_finding(s |> add_outputs(y = 3 * max(a - 12, c, b)), "y", "`a - 12` [m] and `b` [mm]")
  expect_finding(s |> add_outputs(y = output(a - 12, unit = "L")), "y", "Its formula gives m, and its unit is L.")
  expect_finding(s |> add_outputs(y = a) |> add_specs(far = a > b), "far", "[m] and `b` [mm]")
})

test_that("too few runs for what is asked are found", {
  s <- base(a = law_normal(1, 1)) |> add_outputs(y = a) |> add_specs(good = y > 0)
  expect_finding(s, "P99", "lie beyond it", nsim = 200, percentiles = c(50, 99))
  expect_finding(s, "good", "cannot tell a pass rate", nsim = 50)
  expect_identical(nrow(review(s, nsim = 1000, percentiles = c(1, 99))), 0L)
})

test_that("correlations at and beyond the edge are found", {
  s <- base(a = law_normal(0, 1), b = law_normal(0, 1), c = law_normal(0, 1)) |> add_outputs(y = a + b + c)
  edge <- s |> add_correlation(a, b, 0.9) |> add_correlation(b, c, 0.9) |> add_correlation(a, c, 0.64)
  expect_finding(edge, "a, b, c", "near the edge", s |> add_correlation(a, b, 0.9), severity = "hint")
  expect_finding(s |> add_correlation(a, b, 0.9) |> add_correlation(b, c, 0.9), "a, b, c", "No joint law",
    severity = "error")
  expect_identical(nrow(review(s |> add_correlation(a, b, 1))), 0L)
})

test_that("inputs that look alike are found", {
  like <- function(...) base(a = input(law_normal(0, 1), ...), b = input(law_normal(0, 1), ...)) |>
    add_outputs(y = a + b)
  expect_finding(like(group = "metals"), "a, b", "same group", like(group = "metals") |> add_correlation(a, b, 0.5),
    severity = "hint")
  expect_finding(like(note = "copper price, May"), "a, b", "same source", severity = "hint")
  expect_finding(like(label = "Demand"), "a, b", "same label")
  expect_fault(review(3), "argument", "a study")
  expect_fault(review(like(), nsim = 0), "argument", "`nsim`")
})

test_that("a review holds for any study, and says everything in words", {
  reference <- read_study(system.file("studies", "reference.yml", package = "ensayo"))
  found <- review(reference, nsim = 10, percentiles = 99)
  expect_named(found, c("severity", "about", "seen", "todo"))
  expect_true(all(nzchar(unlist(found))))
  expect_false(is.unsorted(match(found$severity, c("error", "warning", "hint"))))
  expect_identical(nrow(review(study())), 0L)
  expect_identical(nrow(review(study() |> add_inputs(a = 3))), 0L)
  lines <- review_lines(found)
  expect_match(lines, "Review \\([0-9]+ findings\\)", all = FALSE)
  expect_lte(max(nchar(lines)), 100)
  expect_identical(review_lines(found[0, ])[3], "  Nothing found.")
  # linked inputs and shared ones count as used, and as belonging together
  linked <- study() |> add_inputs(rate = law_gamma(7, 1), n = law_poisson(~ rate),
    a = input(law_normal(1, 1), group = "g")) |>
    copy_law(a, to = "b", shared = TRUE) |> add_outputs(y = n + a + b)
  expect_identical(nrow(review(linked)), 0L)
})
