# Compound sums: exact values, an independent recursion, and what cannot be.

test_that("cumulative probabilities are those of exact series and finite sums", {
  near <- function(got, exact) expect_lt(max(abs(got - exact)), 1e-8, label = paste(format(got, digits = 12), collapse = " "))
  exponential <- law_compound(law_poisson(15), law_exponential(1))
  near(cumulative(exponential, c(2, 15)), c(0.000433610758, 0.536572973241))
  near(quantile(exponential, c(0.5, 0.9999)) / c(14.4971152031, 41.6422534), 1)
  near(density_at(exponential, 10), 0.0586495972168)
  geometric <- law_compound(law_geometric(0.25), law_exponential(2))
  x <- c(0, 0.001, 0.5, 5, 50, 140)
  near(cumulative(geometric, x), 1 - 0.75 * exp(-x / 8))
  expect_equal(cumulative(geometric, c(140, 180), "upper"), 0.75 * exp(-c(140, 180) / 8), tolerance = 1e-4)
  binomial <- law_compound(law_binomial(20, 0.1), law_gamma(shape = 2.5, scale = 1))
  near(c(cumulative(binomial, 5), quantile(binomial, 0.9)), c(0.568218071016, 10.5067708345))
  near(cumulative(law_compound(law_poisson(0.01), law_gamma(shape = 0.5, scale = 1)), 0.1), 0.993472983924)
  near(cumulative(law_compound(law_poisson(10), law_normal(1, 2)), 0), 0.065396878488)
  steps <- law_compound(law_poisson(3), law_discrete(c(1, 2, 5), c(0.5, 0.3, 0.2)))
  near(cumulative(steps, 5), 0.490052558099)
  expect_identical(cumulative(steps, 5.5), cumulative(steps, 5))
  many <- law_compound(law_poisson(1e5), law_gamma(shape = 2, scale = 1))
  near(cumulative(many, 200000), 0.500343355003)
  expect_equal(cumulative(many, 203000, "upper"), 5.645715e-5, tolerance = 1e-6)
  # a Pareto law of the least value 1 and the exponent 1.5
  heavy <- law_pareto(1, 1 / 1.5, 1 / 1.5)
  near(cumulative(law_compound(law_poisson(15), heavy), 50, "upper"), 0.237861596)
  near(cumulative(law_compound(law_poisson(1000), heavy), 3500, "upper"), 0.0762857003)
  cover <- law_compound(law_poisson(5), law_lognormal(meanlog = 0, sdlog = 1), deductible = 0.5, limit = 3)
  near(cumulative(cover, c(0, 4.5)), c(0.0228350870, 0.553788718))
  near(cumulative(cover, 3) - cumulative(cover, 3 - 1e-12), 0.0120050893)
  single <- law_lognormal(mean = 3, sd = 9)
  near(cumulative(law_compound(law_bernoulli(0.3), single), c(0, 1, 10, 1e4)), 0.7 + 0.3 * cumulative(single, c(0, 1, 10, 1e4)))
})

test_that("quantiles from P0.1 to P99.99 are those of exact probabilities", {
  for (name in names(known_compounds())) {
    missed <- compound_misses(known_compounds()[[name]])
    expect_lt(missed[["probability"]], 1e-8, label = name)
    expect_lt(missed[["quantile"]], 1e-5, label = name)
  }
})

# Panjer (1981), Recursive evaluation of a family of compound distributions, ASTIN Bulletin 12: for Poisson counts.
panjer <- function(mean, shares, most) {
  g <- numeric(most + 1)
  g[1] <- exp(-mean * (1 - shares[1]))
  for (s in seq_len(most)) {
    k <- seq_len(min(s, length(shares) - 1))
    g[s + 1] <- mean / s * sum(k * shares[k + 1] * g[s - k + 1])
  }
  g
}

test_that("sums on a grid are those of the recursion, to the last digits that it has", {
  shares <- dbinom(0:9, 9, 0.35)
  law <- law_compound(law_poisson(6.5), 0.25 * law_binomial(9, 0.35))
  exact <- panjer(6.5, shares, 200)
  expect_equal(density_at(law, 0.25 * 0:200), exact, tolerance = 1e-12)
  expect_lt(max(abs(cumulative(law, 0.25 * 0:200) - cumsum(exact))), 1e-12)
  expect_true(all(quantile(law, c(0.001, 0.5, 0.999)) %% 0.25 == 0))
  halves <- law_compound(law_poisson(6.5), law_discrete(c(-0.5, 0.5, 1.5), c(1, 2, 1)), deductible = 0)
  expect_equal(unlist(moments(halves)[1:2]), c(mean = 6.5 * 0.5, sd = sqrt(6.5 * (0.5 + 0.25))))
  expect_lt(quantile(halves, 0.01), 0)
  # a number stands for a size that never varies
  expect_equal(cumulative(law_compound(law_poisson(3), 12), 24), ppois(2, 3))
  most <- law_compound(law_poisson(3), 12, limit_in_all = 30)
  expect_equal(c(cumulative(most, 29), density_at(most, 30)), c(ppois(2, 3), ppois(2, 3, lower.tail = FALSE)))
})

test_that("sums on a grid reach as far as counts that have no end do", {
  # a geometric number of geometric sizes from 1 on is nothing, or geometric itself
  p <- 0.02
  r <- 0.25
  sizes <- law_discrete(1:120, dgeom(0:119, r))
  law <- law_compound(law_geometric(p), sizes)
  x <- c(0, 10, 500, 2000, 6000)
  expect_equal(cumulative(law, x, "upper"), (1 - p) * (1 - p * r)^x, tolerance = 1e-6)
  expect_lt(abs(quantile(law, 1e-9, "upper") - log(1e-9 / (1 - p)) / log1p(-p * r)), 2)
  # of sizes that never vary the sum is the count
  wide <- law_negative_binomial(mean = 4, sd = 20)
  q <- c(0, 50, 400, 1000)
  expect_equal(cumulative(law_compound(wide, 3), 3 * q, "upper"), cumulative(wide, q, "upper"), tolerance = 1e-8)
})

test_that("moments are those of cumulants, and those of the tables where a limit cuts them", {
  for (law in list(law_compound(law_poisson(4), law_gamma(2, 3)), law_compound(law_negative_binomial(mean = 6, sd = 4), law_pert(1, 2, 9)),
    law_compound(law_binomial(7, 0.3), law_normal(5, 2)), law_compound(law_integers(2, 6), law_triangular(0, 1, 5)))) {
    expect_equal(unlist(ask(law, "moments")), integrated_moments(ready_law(law)), tolerance = 1e-6)
    # the base value needs no tables
    expect_equal(base_of_law(law)$value, mean(law))
  }
  # without a limit in all, a thin one far out changes nothing
  free <- law_compound(law_poisson(4), law_gamma(2, 3), deductible = 2)
  cut <- law_compound(law_poisson(4), law_gamma(2, 3), deductible = 2, limit_in_all = 1e4)
  expect_equal(moments(cut), moments(free), tolerance = 1e-7)
  part <- law_compound(law_poisson(4), law_gamma(2, 3), limit_in_all = 30)
  exact <- integrate(function(x) cumulative(law_compound(law_poisson(4), law_gamma(2, 3)), x, "upper"), 0, 30, rel.tol = 1e-10)$value
  expect_equal(mean(part), exact, tolerance = 1e-8)
  expect_identical(support(part), c(min = 0, max = 30))
  expect_identical(moments(law_compound(law_poisson(4), law_pareto(1, 1, 0.7)))$variance, Inf)
})

test_that("quantiles invert probabilities in both tails, and draws are the law's at a million runs", {
  laws <- list(law_compound(law_poisson(7.5), law_lognormal(mean = 4, sd = 12)), law_compound(law_poisson(0.2), law_pert(20, 50, 120)),
    law_compound(law_poisson(30), law_pareto(1, 1 / 1.5, 1 / 1.5)), law_compound(law_poisson(12), law_normal(1, 2)),
    law_compound(law_poisson(5), law_gamma(0.5, 2), deductible = 0.5, limit = 3, limit_in_all = 12))
  for (law in laws) {
    p <- 10^-(1:9)
    for (tail in c("lower", "upper")) {
      x <- quantile(law, p, tail)
      below <- ask(law, if (tail == "lower") "strict" else "cumulative", x, tail == "lower", FALSE)
      above <- ask(law, if (tail == "lower") "cumulative" else "strict", x, tail == "lower", FALSE)
      expect_true(all(below <= p * (1 + 1e-9) & above >= p * (1 - 1e-9)), label = paste(format(law), tail))
      expect_false(is.unsorted(if (tail == "lower") rev(x) else x))
    }
    x <- draw_from(law, stream_uniforms("x", 3, "latin", 1e6))
    expect_lte(max(x), quantile(law, 1e-7, "upper"))
    # one draw in each of a million slices
    at <- quantile(law, c(0.1, 0.5, 0.9, 0.9999))
    expect_lt(max(abs(vapply(at, function(q) mean(x <= q), 0) - cumulative(law, at))), 2e-6)
  }
})

test_that("what leaves nothing, and what cannot be, is told", {
  expect_identical(cumulative(law_compound(law_poisson(3), law_uniform(0, 1), deductible = 2), 0), 1)
  certain <- law_compound(law_poisson(3), law_uniform(5, 9), deductible = 1, limit = 2)
  expect_equal(cumulative(certain, 4), ppois(2, 3))
  expect_fault(law_compound(law_normal(3, 1), law_uniform(0, 1)), "argument", "whole numbers from 0")
  expect_fault(law_compound(law_discrete(c(1, 2.5)), law_uniform(0, 1)), "argument", "whole numbers from 0")
  expect_fault(law_compound(law_integers(-1, 3), law_uniform(0, 1)), "argument", "whole numbers from 0")
  expect_fault(law_compound(law_poisson(3), law_discrete(c("a", "b"))), "argument", "law of numbers")
  expect_fault(law_compound(law_poisson(3), law_uniform(0, 1), deductible = -1), "argument", "at least 0")
  expect_fault(law_compound(law_poisson(3), law_uniform(0, 1), limit = 0), "argument", "above 0")
  expect_fault(law_compound(law_poisson(3), law_normal(1, 2), limit_in_all = 9), "argument", "not be below 0")
  expect_identical(law_from_text(law_text(law_compound(law_poisson(3), law_uniform(0, 1), limit = 0.5)), "x"),
    law_compound(law_poisson(3), law_uniform(0, 1), limit = 0.5))
})

test_that("far tails are those of the sum, however many occurrences there are", {
  # gamma sizes: a sum over counts of gamma tails
  exact <- function(x, rate, shape) {
    n <- seq(max(1, floor(rate - 12 * sqrt(rate) - 60)), ceiling(rate + 14 * sqrt(rate) + 80))
    sum(dpois(n, rate) * pgamma(x, n * shape, lower.tail = FALSE))
  }
  for (case in list(c(15, 1), c(1e3, 1), c(1e5, 1), c(0.5, 2), c(1e5, 0.05), c(20, 0.01))) {
    law <- law_compound(law_poisson(case[1]), law_gamma(shape = case[2], scale = 1))
    p <- c(1e-6, 1e-8, 1e-9, 1e-10)
    found <- vapply(quantile(law, p, tail = "upper"), exact, 0, case[1], case[2])
    expect_true(all(abs(found / p - 1) < c(1e-4, 1e-3, 2e-3, 1e-2)), info = paste(case, collapse = " "))
  }
  # values of their own alone, on no grid, some of them below 0
  odd <- law_compound(law_poisson(3), law_discrete(c(-1, pi, sqrt(2))))
  expect_warning(found <- quantile(odd, c(0.1, 0.5, 0.9)), "more than 1e-6")
  expect_equal(found, c(-0.858, pi, 8.424), tolerance = 1e-3)
  # one large lognormal occurrence beside the mean of the others, the farther out the more exactly
  size <- law_lognormal(mean = 1, sd = 3)
  for (rate in c(100, 1e3, 1e5)) {
    law <- law_compound(law_poisson(rate), size)
    p <- c(1e-8, 1e-9, 1e-10, 1e-11)
    large <- rate + quantile(size, p / rate, tail = "upper")
    expect_equal(quantile(law, p, tail = "upper"), large, tolerance = 0.01, info = rate)
  }
})

test_that("sums of what is paid back are those of the sizes with the sign turned", {
  # whole sizes: the recursion for Poisson counts (Panjer 1981)
  rate <- 7.5
  f <- c(0.6, 0, 0, 0.4)
  p <- exp(-rate)
  for (k in 1:300) {
    j <- seq_len(min(k, 4))
    p[k + 1] <- rate / k * sum(j * f[j] * p[k + 1 - j])
  }
  whole <- law_compound(law_poisson(rate), law_discrete(c(-4, -1), c(0.4, 0.6)))
  at_least <- rev(cumsum(rev(p)))
  expect_equal(cumulative(whole, -(0:60)) / at_least[1:61], rep(1, 61), tolerance = 1e-8)
  one <- law_compound(law_poisson(2), law_discrete(-3))
  expect_equal(cumulative(one, -3 * (0:12)), ppois(0:12 - 1, 2, lower.tail = FALSE), tolerance = 1e-12)
  expect_identical(quantile(law_compound(law_poisson(2), law_discrete(0)), c(0.1, 0.9)), c(0, 0))
  # sizes with a density: a sum over counts of gamma tails, far out as well
  back <- law_compound(law_poisson(20), -1 * law_gamma(shape = 2, scale = 1))
  x <- c(40, 80, 100, 110)
  exact <- vapply(x, function(x) sum(dpois(1:200, 20) * pgamma(x, 2 * 1:200, lower.tail = FALSE)), 0)
  expect_true(all(abs(cumulative(back, -x) / exact - 1) < 1e-3))
  expect_equal(mean(back), -40)
  drawn <- draw_inputs(study("Returns") |> add_inputs(back = back), 20000, seed = 4)$back
  expect_equal(mean(drawn), -40, tolerance = 1e-3)
  expect_equal(sd(drawn), sqrt(20 * 6), tolerance = 0.01)
  event <- study("Refunds") |> add_events(refund = event(rate = rate, impact = -3)) |> add_outputs(paid = 10 + refund)
  expect_equal(mean(simulate(event, 2000, seed = 2, progress = NULL)$paid), 10 - 3 * rate, tolerance = 0.02)
})
