# What every law must answer; the families' own values stand in their own files.

test_that("quantiles invert cumulative probabilities in both tails", {
  for (law in law_grid()) {
    for (tail in c("lower", "upper")) {
      for (p in list(small_probabilities, 1 - small_probabilities)) {
        expect_true(all(inverts(law, p, tail)), label = paste(format(law), tail))
      }
    }
    expect_equal(quantile(law, 0), support(law)[["min"]])
    expect_equal(quantile(law, 1), support(law)[["max"]])
    expect_equal(quantile(law, 0, tail = "upper"), support(law)[["max"]])
  }
})

test_that("the two tails add up to one and logarithms agree", {
  for (law in law_grid()) {
    x <- quantile(law, c(0.01, 0.3, 0.5, 0.9, 0.999))
    expect_equal(cumulative(law, x) + cumulative(law, x, tail = "upper"), rep(1, 5))
    expect_equal(cumulative(law, x, log = TRUE), log(cumulative(law, x)))
    expect_equal(cumulative(law, x, tail = "upper", log = TRUE), log(cumulative(law, x, tail = "upper")))
    expect_equal(density_at(law, x, log = TRUE), log(density_at(law, x)))
    outside <- support(law) + c(-1, 1) * (1 + abs(support(law)))
    expect_equal(density_at(law, outside[is.finite(outside)]), rep(0, sum(is.finite(outside))))
    expect_equal(unname(cumulative(law, support(law))), c(0, 1))
  }
})

# Laws whose spread can be told from their place: numerical integration needs the digits.
spread_out <- function(laws) Filter(function(law) moments(law)$sd > 1e-5 * abs(mean(law)), laws)

test_that("densities are the slope of the cumulative probability and integrate to one", {
  for (law in spread_out(law_grid())) {
    ends <- c(quantile(law, c(1e-6, 0.001, 0.1, 0.5, 0.9, 0.999, 1 - 1e-6)), kinks_of(law))
    ends <- ends[is.finite(density_at(law, ends))]
    ends <- sort(unique(ends[ends >= quantile(law, 1e-6) & ends <= quantile(law, 1 - 1e-6)]))
    origin <- support(law)[["min"]]
    parts <- mapply(function(from, to) {
      # where a piece spans several powers of ten, over the logarithm of the distance from the lower end
      wide <- is.finite(origin) && from > origin && (to - origin) > 3 * (from - origin)
      f <- if (wide) function(t) density_at(law, origin + exp(t)) * exp(t) else
        function(t) density_at(law, from + t * (to - from)) * (to - from)
      limits <- if (wide) log(c(from, to) - origin) else c(0, 1)
      stats::integrate(f, limits[1], limits[2], rel.tol = 1e-10, subdivisions = 1000)$value
    }, ends[-length(ends)], ends[-1])
    expect_lt(max(abs(parts - diff(cumulative(law, ends)))), 1e-8, label = format(law))
  }
})

test_that("moments agree with numerical integration", {
  for (law in spread_out(law_grid())) {
    m <- moments(law)
    if (!is.finite(m$excess_kurtosis)) next  # heavy tails: their closed forms are tested by family
    expect_named(m, c("mean", "sd", "variance", "skewness", "excess_kurtosis"))
    # of the standardised law, over the normal scale: x = Q(Phi(z)), whose integrand is smooth in both tails
    known <- new.env()
    at <- function(z, tail) {  # all powers look at the same places
      key <- paste(tail, z[1], z[length(z)])
      if (is.null(known[[key]])) known[[key]] <- (quantile(law, pnorm(z), tail = tail) - m$mean) / m$sd
      known[[key]]
    }
    power <- function(k) {
      f <- function(z, tail) at(z, tail)^k * dnorm(z)
      stats::integrate(f, -37, 0, tail = "lower", rel.tol = 1e-11, subdivisions = 1000)$value +
        stats::integrate(f, -37, 0, tail = "upper", rel.tol = 1e-11, subdivisions = 1000)$value
    }
    rough <- max(1e-8, 1e-14 * abs(m$mean) / m$sd)
    expect_lt(abs(power(1)), rough)
    expect_lt(abs(power(2) - 1), rough * 2)
    expect_lt(abs(power(3) - m$skewness), max(1, abs(m$skewness)) * 1e-6 + rough)
    heavy <- m$excess_kurtosis > 1e4  # a lognormal whose fourth power outgrows the range of integration
    if (!heavy) expect_lt(abs(power(4) - 3 - m$excess_kurtosis), max(1, m$excess_kurtosis) * 1e-6 + rough)
  }
})

test_that("moments that are integrated agree with integrals of the density", {
  for (law in derived_laws()) {
    m <- moments(law)
    knots <- sort(unique(c(quantile(law, c(1e-15, 1e-9, 1e-4, 0.05, 0.3, 0.6, 0.9, 0.999)),
      quantile(law, c(1e-6, 1e-9, 1e-12, 1e-15), tail = "upper"), kinks_of(law))))
    power <- function(k) {
      f <- function(x) ((x - m$mean) / m$sd)^k * density_at(law, x)
      sum(mapply(function(from, to) stats::integrate(f, from, to, rel.tol = 1e-10, subdivisions = 500,
        stop.on.error = FALSE)$value,
        knots[-length(knots)], knots[-1]))
    }
    expect_equal(c(power(0), power(1), power(2)), c(1, 0, 1), tolerance = 1e-8, label = format(law))
    expect_equal(c(power(3), power(4)), c(m$skewness, m$excess_kurtosis + 3), tolerance = 1e-7, label = format(law))
  }
})

test_that("discrete quantiles are the smallest values with enough probability", {
  for (law in discrete_grid()) {
    ends <- support(law)
    p <- c(10^-(c(300, 100, 12:1)), 0.2, 0.35, 0.5, 0.9, 0.99)
    for (tail in c("lower", "upper")) {
      x <- quantile(law, p, tail = tail)
      here <- cumulative(law, x, tail = tail)
      before <- cumulative(law, x * (1 - 1e-9 * sign(x)) - 1e-9, tail = tail)
      if (tail == "lower") expect_true(all(p <= here * (1 + 1e-14) & before < p * (1 + 1e-14)), label = format(law))
      else expect_true(all(here <= p * (1 + 1e-14) & p < before * (1 + 1e-14)), label = format(law))
    }
    expect_equal(quantile(law, c(0, 1)), unname(ends), label = format(law))
    expect_equal(unname(cumulative(law, ends[is.finite(ends)], tail = "lower")),
      c(density_at(law, ends[1]), 1)[is.finite(ends)],
      ignore_attr = TRUE, label = format(law))
  }
})

test_that("discrete masses add up to one and to the moments", {
  for (law in discrete_grid()) {
    x <- unique(c(quantile(law, seq(0, 1, length.out = 20001)[-c(1, 20001)]), quantile(law, 10^-(300:4)),
      quantile(law, 10^-(300:4), tail = "upper")))
    if (diff(range(x)) < 1e5) {
      x <- sort(unique(c(x, if (all(x == round(x))) seq(min(x), max(x)))))
      mass <- density_at(law, x)
      m <- moments(law)
      expect_equal(sum(mass), 1, tolerance = 1e-10, label = format(law))
      expect_equal(sum(x * mass), m$mean, tolerance = 1e-10, label = format(law))
      expect_equal(sum((x - m$mean)^2 * mass), m$variance, tolerance = 1e-9, label = format(law))
      expect_equal(sum((x - m$mean)^3 * mass) / m$sd^3, m$skewness, tolerance = 1e-7, label = format(law))
      expect_equal(sum((x - m$mean)^4 * mass) / m$sd^4 - 3, m$excess_kurtosis, tolerance = 1e-7, label = format(law))
    }
    expect_identical(density_at(law, 0.123456), 0)
  }
})

test_that("a law is one value", {
  law <- law_pert(28, 34, 48)
  expect_length(law, 1)
  expect_false(is.na(law))
  expect_equal(law$mode, 34)
  expect_fault(law$mo, "name", "in full")
  expect_fault(c(law, law), "argument", "list()")
  expect_fault(rep(law, 2), "argument")
  expect_fault(range(law), "argument", "support(law)")
  expect_fault(exp(law), "argument", "add_outputs()")
  expect_fault(law + law, "argument", "add_outputs()")
  expect_fault(2 / law, "argument")
  expect_fault(law * 0, "argument", "never varies")
  expect_fault(law * NA, "argument", "finite number")
  expect_fault(as.data.frame(law), "argument", "summary(law)")
  expect_identical(as.character(law), "pert(min = 28, mode = 34, max = 48)")
  expect_output(str(law), "law pert")
  copy <- tempfile()
  saveRDS(law, copy)
  expect_identical(readRDS(copy), law)
  expect_identical(quantile(readRDS(copy), 0.3), quantile(law, 0.3))
})

test_that("arithmetic with numbers shifts and stretches", {
  law <- law_triangular(1, 2, 4)
  expect_equal(quantile(2 * law + 1, 0.3), 2 * quantile(law, 0.3) + 1)
  expect_equal(quantile(-law, 0.3), -quantile(law, 0.3, tail = "upper"))
  expect_equal(unname(unlist(moments(law / 10 - 3))), c(7 / 30 - 3, moments(law)$sd / 10, moments(law)$variance / 100,
    moments(law)$skewness, -0.6))
  expect_equal(most_likely(3 - law), 1)
  expect_equal(moments(-law)$skewness, -moments(law)$skewness)
  expect_identical(format(2 * (3 * law + 1)), "6 * triangular(min = 1, mode = 2, max = 4) + 2")
  expect_identical(+law, law)
  expect_identical((law + 1) - 1, law)
})

test_that("accessors refuse what they cannot answer", {
  law <- law_normal(0, 1)
  expect_fault(quantile(law, 1.5), "argument", "from 0 to 1", "100")
  expect_fault(quantile(law, -1), "argument")
  expect_fault(quantile(law, 0.5, tail = "left"), "argument", "\"lower\"")
  expect_fault(quantile(law, 0.5, tial = "lower"), "argument", "tail")
  expect_fault(cumulative(3, 1), "argument", "must be a law")
  expect_fault(cumulative(law, "a"), "argument", "numbers")
  expect_identical(quantile(law, c(NA, 0.5)), c(NA, 0))
  expect_identical(quantile(law, numeric()), numeric())
  expect_fault(density_at(law, 1, log = NA), "argument", "TRUE or FALSE")
})

test_that("print and summary tell what a reader asks", {
  expect_snapshot(print(law_pert(28, 34, 48)))
  expect_named(summary(law_normal(0, 1)),
    c("law", "min", "max", "mean", "sd", "skewness", "excess_kurtosis", "P10", "P50", "P90"))
  expect_s3_class(summary(law_normal(0, 1)), "data.frame")
  expect_equal(median(law_lognormal(meanlog = 1, sdlog = 2)), exp(1))
})

test_that("far tails keep their digits", {
  for (law in law_grid()) {
    for (tail in c("lower", "upper")) {
      expect_true(all(inverts(law, c(1e-30, 1e-100, 1e-280), tail)), label = paste(format(law), tail))
    }
  }
})

test_that("missing values and nothing at all pass through every law", {
  for (law in c(law_grid(), discrete_grid())) {
    expect_identical(is.na(quantile(law, c(NA, 0.5))), c(TRUE, FALSE), label = format(law))
    expect_identical(is.na(cumulative(law, c(NA, median(law)))), c(TRUE, FALSE), label = format(law))
    expect_identical(is.na(density_at(law, c(NA, median(law)))), c(TRUE, FALSE), label = format(law))
    expect_length(quantile(law, numeric()), 0)
    expect_length(cumulative(law, numeric()), 0)
    expect_true(cumulative(law, 1e300) > 0.999 && cumulative(law, -1e300) < 0.001, label = format(law))
  }
})

test_that("quantiles never fall, and order does not matter", {
  p <- c(0.9, 1e-9, 0.5, 0.50001, 0.1, 1 - 1e-9, 0.3)
  for (law in c(law_grid(), discrete_grid())) {
    x <- quantile(law, p)
    expect_false(is.unsorted(x[order(p)]), label = format(law))
    expect_identical(vapply(p, function(one) quantile(law, one), 0), x, label = format(law))
    expect_equal(quantile(law, 0.3), quantile(law, 0.7, tail = "upper"), label = format(law))
  }
})

test_that("every law prints its place, its spread and its percentiles", {
  for (law in c(law_grid(), discrete_grid())) {
    printed <- capture.output(print(law))
    expect_match(printed[1], "^Law: ", label = format(law))
    expect_match(printed, "mean .*, sd ", all = FALSE, label = format(law))
    expect_match(printed, "P10 .*, P50 .*, P90 .* \\(not exceeded\\)", all = FALSE, label = format(law))
    expect_identical(nrow(summary(law)), 1L)
  }
  expect_snapshot({
    print(law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45))
    print(law_around(34, "10 %", "25 %", shape = "pert"))
    print(law_truncated(law_normal(2, 1), min = 0))
    print(law_mixture(list(ana = law_pert(20, 30, 50), ben = law_triangular(25, 28, 35)), c(2, 1)))
    print(law_discrete(c("rock", "gravel", "clay"), c(10, 60, 30)))
    print(law_observed(n = 12, mean = 4.2, sd = 0.3, of = "next"))
    print(2 * law_poisson(3) - 1)
  })
})
