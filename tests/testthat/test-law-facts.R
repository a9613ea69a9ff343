test_that("facts are met to 1e-8, whatever the family and scale", {
  cases <- list(
    list("triangular", P10 = 30, mode = 34, P90 = 45), list("lognormal", P20 = 3, P80 = 12),
    list("beta", mean = 0.22, P95 = 0.30), list("normal", P5 = 1e6, P95 = 1000001), list("gamma", P10 = 2, P90 = 2000),
    list("weibull", P1 = 2, P99 = 200), list("uniform", P10 = 2, P90 = 200), list("pert", P10 = 28, mode = 34,
      P90 = 48),
    list("pert", P10 = 28, P50 = 34, P90 = 42), list("pert", min = 20, mode = 34, max = 60, P90 = 48),
    list("beta", P10 = 2, P90 = 8, min = 0, max = 10), list("student", P1 = -1, P10 = 2, P50 = 3),
    list("student", df = 4, P10 = 2, P50 = 3), list("pareto", location = 10, P50 = 12, P99 = 60),
    list("gumbel", P50 = 12, P1 = 6, tail = "smallest"), list("exponential", P50 = 3), list("logistic", mean = -5,
      sd = 2),
    list("exponential", P50 = 3, P90 = 6), list("lognormal", P10 = 13, P50 = 15, P90 = 22), list("arcsine", P10 = -5,
      P90 = 2),
    list("lognormal", cv = 0.3, median = 100), list("laplace", P10 = -1e-6, P90 = 2e-6), list("gamma", mean = 900,
      sd = 400)
  )
  for (case in cases) {
    law <- do.call(law_from_facts, case)
    facts <- case[-1]
    for (name in grep("^P", names(facts), value = TRUE)) {
      expect_lt(abs(cumulative(law, facts[[name]]) - as.double(sub("P", "", name)) / 100), 1e-8,
        label = paste(case[[1]], name))
    }
    m <- moments(law)
    if (!is.null(facts$mean)) expect_lt(abs(m$mean - facts$mean), 1e-7 * m$sd)
    if (!is.null(facts$sd)) expect_equal(m$sd, facts$sd, tolerance = 1e-7)
    if (!is.null(facts$cv)) expect_equal(m$sd / m$mean, facts$cv, tolerance = 1e-7)
    if (!is.null(facts$median)) expect_equal(median(law), facts$median, tolerance = 1e-7)
    for (name in intersect(names(facts), c("mode", "min", "max", "df", "location"))) {
      expect_identical(parameters(law)[[name]], facts[[name]])
    }
  }
  # by hand: a lognormal law's parameters from two percentiles
  law <- law_from_facts("lognormal", P20 = 3, P80 = 12)
  expect_equal(parameters(law)$meanlog, log(6))
  expect_equal(parameters(law)$sdlog, log(2) / qnorm(0.8))
})

test_that("facts that no law of the family has are refused with the nearest", {
  # of a triangular law (P90 - P50) / (P50 - P10) is at most 1.62
  expect_fault(law_from_facts("triangular", P10 = 30, P50 = 35, P90 = 45), "argument", "No triangular law", "P10 = 29.95 instead of 30")
  expect_fault(law_from_facts("normal", mean = 8, P95 = 3), "argument", "No normal law", "nearest")
  expect_fault(law_from_facts("triangular", P10 = 30, mode = 50, P90 = 45), "argument", "nearest")
  expect_fault(law_from_facts("normal", P10 = 5, P90 = 3, sense = "not exceeded"), "argument", "P10 must be below P90")
  expect_fault(law_from_facts("pert", P10 = 5, P50 = 3, P90 = 6), "argument", "P10 must be below P50")
  expect_fault(law_from_facts("normal", P10 = 5), "argument", "needs 2 facts", "You gave 1")
  expect_fault(law_from_facts("normal", P10 = 5, P50 = 6, P90 = 7), "argument", "needs 2 facts")
  expect_fault(law_from_facts("normal", P10 = 5, spread = 3), "argument", "`spread` is none")
  expect_fault(law_from_facts("normal", P0 = 5, P90 = 7), "argument", "between P0 and P100")
  expect_fault(law_from_facts("normal", 5, 7), "argument", "no name")
  expect_fault(law_from_facts("normal", mean = 5, sd = -1), "argument", "`sd`")
  expect_fault(law_from_facts("poisson", P10 = 5), "argument", "`family`")
})

test_that("a law says how it was stated", {
  law <- law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45)
  expect_identical(format(law), "triangular(P10 = 30, mode = 34, P90 = 45)")
  expect_output(print(law), "that is triangular\\(min = 25.12")
  expect_identical(input(law)$base, 34)
})

test_that("facts that say the same twice are refused, wide ones are met, and two laws are both named", {
  for (family in c("normal", "uniform", "logistic", "laplace", "arcsine")) {
    expect_fault(law_from_facts(family, mean = 5, P50 = 5), "argument", "say the same")
  }
  expect_fault(law_from_facts("student", mean = 5, P50 = 5, df = 4), "argument", "say the same")
  expect_fault(law_from_facts("pert", mean = 5, P50 = 5, mode = 5), "argument", "say the same")
  wide <- law_from_facts("lognormal", P5 = 1e-4, P95 = 1e4)
  expect_equal(parameters(wide)$sdlog, 4 * log(10) / qnorm(0.95))
  for (law in list(law_weibull(0.2, 3), law_gamma(0.12, 3))) {
    ends <- quantile(law, c(0.1, 0.9))
    found <- law_from_facts(family_name(law), P10 = ends[1], P90 = ends[2])
    expect_equal(unlist(parameters(found)), unlist(parameters(law)), tolerance = 1e-6)
  }
  # meanlog + sdlog^2 / 2 = log 5 and meanlog + 1.645 sdlog = log 19: sdlog solves a square equation
  roots <- qnorm(0.95) + c(-1, 1) * sqrt(qnorm(0.95)^2 - 2 * log(19 / 5))
  error <- expect_fault(law_from_facts("lognormal", mean = 5, P95 = 19), "argument", "Two lognormal laws", "another fact")
  named <- regmatches(conditionMessage(error), gregexpr("(?<=sdlog = )[0-9.]+", conditionMessage(error), perl = TRUE))
  expect_equal(as.double(named[[1]]), roots, tolerance = 1e-7)
})

test_that("the sense of percentiles holds whichever way they are told and whenever the study says it", {
  stated <- law_from_facts("normal", P10 = 30, P90 = 10, sense = "exceeded")
  expect_equal(quantile(stated, c(0.1, 0.9)), c(10, 30))
  expect_message(fallen <- law_from_facts("normal", P10 = 30, P90 = 10), "P90 is below P10: taken as values exceeded")
  expect_identical(fallen, stated)
  before <- study() |> add_readings(.sense = "exceeded") |> add_inputs(x = stated) |> add_outputs(y = x)
  after <- study() |> add_inputs(x = fallen) |> add_outputs(y = x) |> add_readings(.sense = "exceeded")
  expect_identical(before$inputs, after$inputs)
  expect_fault(law_from_facts("normal", mean = 30, P20 = 40), "argument", "sense = \"exceeded\"")
  rising <- law_from_facts("normal", P10 = 10, P90 = 30)
  expect_fault(study() |> add_inputs(x = rising) |> add_readings(.sense = "exceeded"), "argument", "Input `x`",
    "whose percentiles are exceeded")
})
