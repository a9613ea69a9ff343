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
    ends <- quantile(law, c(1e-6, 0.1, 0.5, 0.9, 1 - 1e-6))
    parts <- mapply(function(from, to) {
      stats::integrate(function(t) density_at(law, from + t * (to - from)) * (to - from), 0, 1, rel.tol = 1e-10)$value
    }, ends[-5], ends[-1])
    expect_lt(max(abs(parts - diff(cumulative(law, ends)))), 1e-8)
  }
})

test_that("moments agree with numerical integration", {
  for (law in spread_out(law_grid())) {
    m <- moments(law)
    expect_named(m, c("mean", "sd", "variance", "skewness", "excess_kurtosis"))
    # of the standardised law, over the normal scale: x = Q(Phi(z)), whose integrand is smooth in both tails
    power <- function(k) {
      f <- function(z, tail) {
        x <- quantile(law, pnorm(z), tail = tail)
        ((x - m$mean) / m$sd)^k * dnorm(z)
      }
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
