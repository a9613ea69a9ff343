# Occurrences that are drawn one by one, against the law of their sum and of what is taken of them.

bursts <- function(count = law_poisson(7.5), size = law_lognormal(mean = 4, sd = 6), ...) {
  study("Bursts in a year") |>
    add_inputs(repairs = occurrences(count, size, ...), worst = from_occurrences(repairs, "largest"),
      many = from_occurrences("repairs", "number"), dear = from_occurrences(repairs, "number above", above = 8),
      dear_sum = from_occurrences(repairs, "sum above", above = 8)) |>
    add_outputs(rest = repairs - dear_sum)
}

# The farthest that a sample's shares are from a law's probabilities.
distance_from <- function(x, law) {
  at <- unique(c(quantile(law, ppoints(150)), 0))
  max(abs(vapply(at, function(q) mean(x <= q), 0) - cumulative(law, at)))
}

test_that("what is taken of occurrences has the law that is said of it, and the parts fit together", {
  n <- 1e4
  for (study in list(bursts(), bursts(law_negative_binomial(mean = 3, sd = 4), law_pert(0, 5, 30), deductible = 2, limit = 9),
    bursts(law_binomial(12, 0.4), law_weibull(0.8, 6)), bursts(law_poisson(2), law_discrete(c(0, 5, 9, 20))))) {
    draws <- as.data.frame(simulate(study, n, seed = 4, progress = NULL))
    for (name in names(study$inputs)) {
      # 1.95 is exceeded once in a thousand of Kolmogorov's statistics
      expect_lt(sqrt(n) * distance_from(draws[[name]], study$inputs[[name]]$law), 1.95, label = name)
    }
    expect_true(all(draws$worst <= draws$repairs + 1e-9 & draws$dear <= draws$many & draws$dear_sum <= draws$repairs + 1e-9))
    expect_true(all((draws$dear_sum > 0) == (draws$dear > 0)))
    expect_true(all(draws$repairs[draws$many == 0] == 0))
    expect_identical(draws$worst[draws$many == 1], draws$repairs[draws$many == 1])
  }
})

test_that("an occurrence is found by its run and number, whoever asks and whatever else there is", {
  law <- law_lognormal(meanlog = 1, sdlog = 0.8)
  study <- study() |> add_inputs(a = occurrences(law_poisson(3), law, by = "runs")) |> add_outputs(b = a)
  whole <- draw_inputs(study, 3000, seed = 5)$a
  expect_identical(draw_inputs(study, 3000, seed = 5, runs = c(1021, 1100))$a, whole[1021:1100])
  expect_identical(draw_inputs(study, 3000, seed = 5, threads = 1)$a, whole)
  # one by one, from the words of the stream
  number <- quantile(law_poisson(3), stream_uniforms("a", 5, "latin", 3000))
  by_hand <- vapply(which(number == 2)[1:20], function(run) {
    drawn <- cpp_draw_occurrences(stream_address("a", 5), 0, NULL, list(deductible = 0, limit = Inf, take = "sum", above = 0), run - 1, 2, 1)
    sum(quantile(law, drawn$u))
  }, 0)
  expect_equal(whole[which(number == 2)[1:20]], by_hand, tolerance = 1e-14)
  # a higher rate adds occurrences and changes none
  more <- draw_inputs(study |> replace_inputs(a = occurrences(law_poisson(4), law, by = "runs")), 3000, seed = 5)$a
  expect_true(all(more >= whole))
  expect_identical(draw_inputs(study |> add_inputs(z = 3, y = law_uniform(0, 1)), 3000, seed = 5)$a, whole)
  expect_identical(draw_inputs(study, 3000, seed = 5, index = 1)$a == whole, number == 0 &
    quantile(law_poisson(3), stream_uniforms("a", 5, "latin", 3000, index = 1)) == 0)
})

test_that("by the law or by runs is decided by the runs and the rate, and can be said", {
  drawn <- function(law, nsim) draws_by_runs(law, list(nsim = nsim))
  few <- occurrences(law_poisson(7.5), law_uniform(0, 1))
  expect_identical(c(drawn(few, 1e4), drawn(few, 10001)), c(TRUE, FALSE))
  expect_false(drawn(occurrences(law_poisson(21), law_uniform(0, 1)), 100))
  expect_true(drawn(occurrences(law_poisson(21), law_uniform(0, 1), by = "runs"), 1e6))
  expect_true(drawn(bursts()$inputs$repairs$law, 1e6))
  by_law <- study() |> add_inputs(x = occurrences(law_poisson(7.5), law_uniform(0, 1), by = "law")) |> add_outputs(y = x)
  as_law <- study() |> add_inputs(x = law_compound(law_poisson(7.5), law_uniform(0, 1))) |> add_outputs(y = x)
  expect_identical(draw_inputs(by_law, 500, seed = 1)$x, draw_inputs(as_law, 500, seed = 1)$x)
})

test_that("those that take from an input follow it, in files too, and slips are told", {
  changed <- bursts() |> replace_inputs(repairs = occurrences(law_poisson(2), law_uniform(0, 9)))
  expect_identical(parameters(changed$inputs$worst$law)$size, law_uniform(0, 9))
  file <- withr::local_tempfile(fileext = ".yml")
  write_study(bursts(), file)
  expect_identical(draw_inputs(read_study(file), 50, seed = 2), draw_inputs(bursts(), 50, seed = 2))
  expect_fault(bursts() |> replace_inputs(repairs = law_uniform(0, 9)), "argument", "made by `occurrences()`")
  expect_fault(study() |> add_inputs(worst = from_occurrences(repair, "largest")), "argument", "no input")
  expect_fault(bursts() |> add_inputs(x = from_occurrences(worst, "number")), "argument", "worst")
  expect_fault(bursts(by = "law"), "argument", "Leave `by` out")
  expect_fault(bursts(size = law_normal(3, 2)), "argument", "not below 0")
  expect_fault(from_occurrences(repairs, "number above"), "argument", "above")
  expect_fault(from_occurrences(repairs, "number", above = 3), "argument", "left out")
  expect_fault(from_occurrences(repairs, "biggest"), "argument", "largest")
})
