# Samples of n values from a law's quantile, addressed by the package's own streams.
samples <- function(law, n, repeats, design) {
  lapply(seq_len(repeats), function(seed) quantile(law, stream_uniforms("x", seed, design, n)))
}

covered <- function(samples, truth, percentiles, type) {
  hits <- vapply(samples, function(x) {
    read <- percentile_estimates(x, percentiles, type, 0.95)
    read$low <= truth & truth <= read$high
  }, logical(length(percentiles)))
  rowMeans(hits)
}

test_that("intervals of percentiles cover the truth in 2,000 repeats of 1,000 runs", {
  at <- c(5, 50, 95)
  law <- law_lognormal(mean = 3, sd = 2)
  truth <- quantile(law, at / 100)
  random <- covered(samples(law, 1000, 2000, "random"), truth, at, 7)
  expect_gte(min(random), 0.935)
  expect_lte(max(random), 0.97)
  expect_gte(min(covered(samples(law, 1000, 2000, "latin"), truth, at, 7)), 0.935)
  counts <- law_poisson(4)
  expect_gte(min(covered(samples(counts, 1000, 2000, "random"), quantile(counts, at / 100), at, 1)), 0.935)
})

test_that("intervals of proportions cover at least 95 %, by enumeration", {
  for (n in c(5, 40, 300)) {
    ends <- proportion_interval(0:n, rep(n, n + 1))
    for (p in c(0.001, 0.01, 0.07, 0.3, 0.5, 0.86, 0.995)) {
      covers <- ends$low <= p & p <= ends$high
      expect_gte(sum(dbinom((0:n)[covers], n, p)), 0.95)
    }
  }
  # binom.test() is the same interval
  expect_equal(unlist(proportion_interval(3, 40)), as.numeric(binom.test(3, 40)$conf.int), ignore_attr = TRUE)
})

test_that("standard errors from replicates are the true scatter; runs' own are conservative under a Latin hypercube", {
  model <- three_normals() |> add_outputs(y = a + b + 0.3 * a * b, met = y > 1) |> add_specs(y > 1)
  read <- vapply(1:300, function(seed) {
    res <- quietly(model, 2000, seed, replicates = 20)
    row <- summary(res, outputs = y)
    p90 <- percentiles(res, 90, y)
    rate <- pass_rate(res)
    half <- (p90$high - p90$low) / 2 / qt(0.975, 19)
    c(row$mean, row$mean_error, p90$value, half, rate$pass_rate, rate$error)
  }, numeric(6))
  for (k in c(1, 3, 5)) {
    expect_lt(abs(sqrt(mean(read[k + 1, ]^2)) / sd(read[k, ]) - 1), 0.15)
  }
  one <- quietly(model, 2000)
  expect_gt(summary(one, outputs = y)$mean_error, 3 * sd(read[1, ]))
  few <- quietly(model, 2000, replicates = 4)
  expect_equal(summary(few, outputs = y)$mean_error, sd(few$outputs$y) / sqrt(2000))
  # nothing met, or all: the interval is that of the runs
  rare <- quietly(model, 2000, replicates = 20)
  expect_equal(unlist(chance(rare, y > 1e6)[c("low", "high")]), unlist(proportion_interval(0, 2000)),
    ignore_attr = TRUE)
})
