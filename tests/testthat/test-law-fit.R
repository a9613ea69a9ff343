test_that("estimates lie within three standard errors, without bias", {
  # `make test-long` holds the bias to 0.2 errors over 200 sets and more
  for (family in names(regular_laws)) {
    errors <- fit_errors(family, 20)
    expect_gte(mean(abs(errors) < 3), 0.97, label = family)
    expect_lt(max(abs(rowMeans(errors))), 0.15 + 2.5 / sqrt(20), label = family)
  }
})

test_that("the right law comes first, or within 2 of the first, in most data sets", {
  for (family in c("normal", "lognormal", "gamma", "weibull", "gumbel")) {
    near <- vapply(1:12, function(seed) {
      data <- data_of(regular_laws[[family]], 500, seed)
      rivals <- c("normal", "gumbel", "logistic", if (min(data) > 0) c("lognormal", "gamma", "weibull"))
      table <- as.data.frame(fit_law(data, rivals))
      table$aic[table$law == family] <= table$aic[1] + 2
    }, TRUE)
    expect_gte(mean(near), 0.8, label = family)
  }
})

test_that("fitted ends come near the true ones", {
  for (law in list(law_uniform(2, 5), law_triangular(0, 3, 10), law_pert(0, 3, 10))) {
    family <- .subset2(law, "family")
    fit <- fit_parameters(fit_law(data_of(law, 5000, 1), family))
    width <- diff(support(law))
    expect_lt(max(abs(fit$estimate - unlist(parameters(law)[fit$parameter]))), 0.1 * width, label = family)
    expect_true(all(is.na(fit$standard_error)))
  }
})

test_that("likelihoods, criteria and distances are what they are called", {
  data <- data_of(law_gamma(2, 3), 60, 7)
  table <- as.data.frame(fit_law(data, "normal"))
  sd <- sqrt(mean((data - mean(data))^2))
  expect_equal(table$log_likelihood, sum(dnorm(data, mean(data), sd, log = TRUE)))
  expect_equal(c(table$aic, table$bic), -2 * table$log_likelihood + 2 * c(2, log(60)))
  expect_equal(table$kolmogorov_smirnov, unname(ks.test(data, "pnorm", mean(data), sd)$statistic))
  # Anderson and Darling's integral, by brute force
  f <- function(x) (ecdf(data)(x) - pnorm(x, mean(data), sd))^2 / (pnorm(x, mean(data), sd) * pnorm(x, mean(data), sd,
    lower.tail = FALSE)) *
    dnorm(x, mean(data), sd)
  knots <- c(mean(data) - 10 * sd, sort(data), mean(data) + 10 * sd)
  brute <- sum(mapply(function(a, b) integrate(f, a + 1e-12, b - 1e-12)$value, knots[-62], knots[-1]))
  expect_equal(table$anderson_darling, 60 * brute, tolerance = 1e-4)
  # the gamma law's likelihood equations: digamma(shape) - log(shape) = mean(log x) - log(mean x)
  shape <- fit_parameters(fit_law(data, "gamma"))$estimate[1]
  expect_equal(digamma(shape) - log(shape), mean(log(data)) - log(mean(data)), tolerance = 1e-5)
})

test_that("other methods, held parameters and p-values", {
  data <- data_of(law_gamma(2, 3), 200, 7)
  by_moments <- fitted_law(fit_law(data, "gamma", method = "moments"))
  expect_equal(c(mean(by_moments), moments(by_moments)$sd), c(mean(data), sd(data)), tolerance = 1e-7)
  by_percentiles <- fitted_law(fit_law(data, "gamma", method = "percentiles"))
  expect_equal(quantile(by_percentiles, c(0.25, 0.75)), unname(quantile(data, c(0.25, 0.75))), tolerance = 1e-7)
  expect_equal(support(fitted_law(fit_law(data + 10, "gamma", held = list(min = 10))))[["min"]], 10)
  fit <- fit_law(data, c("gamma", "normal"), bootstrap = 39, seed = 1)
  expect_gt(fit$table$p_ad[fit$table$law == "gamma"], 0.05)
  expect_lt(fit$table$p_ad[fit$table$law == "normal"], 0.05)
  expect_identical(fit$table, fit_law(data, c("gamma", "normal"), bootstrap = 39, seed = 1)$table)
})

test_that("what should be known of the data is said", {
  expect_match(fit_law(c(1, 2.5, 4))$warnings[1], "3 observations tell little")
  expect_match(fit_law(round(data_of(law_normal(0, 1), 100, 1), 1), "normal")$warnings, "repeated", all = FALSE)
  expect_match(fit_law(c(data_of(law_normal(0, 1), 100, 1), 50), "normal")$warnings, "1 observation lies far",
    all = FALSE)
  two <- c(data_of(law_normal(0, 1), 200, 1), data_of(law_normal(8, 1), 200, 2))
  expect_match(fit_law(two, "normal")$warnings, "2 humps", all = FALSE)
  expect_null(fit_law(data_of(law_normal(0, 1), 500, 1), "normal")$warnings)
  expect_identical(as.data.frame(fit_law(data_of(law_poisson(4), 200, 1)))$kind[1], "discrete")
})

test_that("bad data and families are refused", {
  expect_fault(fit_law(c(1, NA, 3)), "argument", "Leave missing observations out")
  expect_fault(fit_law("a"), "argument", "numbers")
  expect_fault(fit_law(c(1, 1, 2)), "argument", "three different")
  expect_fault(fit_law(c(-1, 2, 3), "lognormal"), "argument", "not above 0")
  expect_fault(fit_law(c(1, 2, 3), "beta"), "argument", "not between 0 and 1")
  expect_fault(fit_law(c(1.5, 2, 3), "poisson"), "argument", "whole numbers")
  expect_fault(fit_law(c(1, 2, 3), "binomial"), "argument", "held = list(size")
  expect_fault(fit_law(c(1, 2, 3), "mixture"), "argument", "`families`")
  expect_fault(fitted_law(fit_law(c(1, 2, 4), "normal"), "gamma"), "argument")
  expect_fault(fitted_law(3), "argument", "fit_law()")
})

test_that("moments and percentiles of the data are met by each law that can", {
  data <- data_of(law_gamma(4, 3), 300, 3)
  by_moments <- fit_law(data, method = "moments")
  for (family in setdiff(by_moments$table$law, c("pareto"))) {
    law <- fitted_law(by_moments, family)
    expect_equal(mean(law), mean(data), tolerance = 1e-7, label = family)
    if (family != "exponential") expect_equal(moments(law)$sd, sd(data), tolerance = 1e-7, label = family)
  }
  by_percentiles <- fit_law(data, method = "percentiles")
  quartiles <- unname(quantile(data, c(0.25, 0.75)))
  for (family in c("normal", "lognormal", "gamma", "weibull", "gumbel", "logistic", "laplace", "uniform")) {
    expect_equal(quantile(fitted_law(by_percentiles, family), c(0.25, 0.75)), quartiles, tolerance = 1e-7,
      label = family)
  }
  expect_equal(median(fitted_law(by_percentiles, "exponential")), median(data), tolerance = 1e-7)
  expect_true(all(is.na(fit_parameters(by_moments)$standard_error)))
})

test_that("every family that can be fitted is, and the table and the prints say how", {
  fit <- fit_law(data_of(law_gamma(2, 3), 80, 2))
  expect_setequal(fit$table$law, setdiff(fit_families$continuous, "beta"))
  expect_false(is.unsorted(fit$table$aic))
  counts <- fit_law(data_of(law_negative_binomial(2, 0.3), 80, 2), held = list(size = 60))
  expect_true(all(c("poisson", "negative_binomial", "geometric", "binomial", "integers") %in% counts$table$law))
  expect_setequal(fit_law(data_of(law_beta(2, 3), 80, 2), c("beta", "uniform"))$table$law, c("beta", "uniform"))
  expect_output(print(fit), "ends fitted")
  expect_output(print(counts), "compare discrete laws with each other")
  expect_identical(as.data.frame(fit), fit$table)
  # a threshold taken from the data counts as a parameter
  row <- fit$table[fit$table$law == "pareto", ]
  expect_equal(row$aic, 2 * 3 - 2 * row$log_likelihood)
  expect_snapshot(print(fit_law(c(410, 520, 610, 480, 930, 720, 560, 450, 1240, 690, 540, 830),
    c("normal", "lognormal", "gamma"))))
})

test_that("standard errors are those of theory where it has them", {
  data <- data_of(law_normal(3, 2), 400, 5)
  sd <- sqrt(mean((data - mean(data))^2))
  expect_equal(fit_parameters(fit_law(data, "normal"))$standard_error, sd / sqrt(c(400, 800)), tolerance = 1e-3)
  counts <- data_of(law_poisson(4), 400, 5)
  expect_equal(fit_parameters(fit_law(counts, "poisson"))$standard_error, sqrt(mean(counts) / 400), tolerance = 1e-3)
  waits <- data_of(law_exponential(mean = 5), 400, 5)
  expect_equal(fit_parameters(fit_law(waits, "exponential"))$standard_error, mean(waits) / 20, tolerance = 1e-3)
  # scale of a Gumbel law: sqrt(6) / pi scale / sqrt(n) (Johnson, Kotz and Balakrishnan 1995, section 22.9)
  found <- fit_parameters(fit_law(data_of(law_gumbel(5, 2), 4000, 5), "gumbel"))
  expect_equal(found$standard_error[2], sqrt(6) / pi * 2 / sqrt(4000), tolerance = 0.05)
})

test_that("searches go on to the end: far from 0, with an outlier, from several starts", {
  data <- 1e6 + data_of(law_normal(0, 1), 200, 3)
  found <- fit_parameters(fit_law(data, "weibull"))
  k <- found$estimate[1]
  z <- data / 1e6
  # the likelihood equation of the shape
  expect_equal(1 / k, sum(z^k * log(z)) / sum(z^k) - mean(log(z)), tolerance = 1e-6)
  expect_true(all(found$standard_error > 0))
  outlier <- c(data_of(law_student(4), 100, 3), 1e4)
  likelihood <- function(t) sum(dt((outlier - t[2]) / exp(t[3]), exp(t[1]), log = TRUE) - t[3])
  brute <- optim(c(1, 0, 0), function(t) -likelihood(t), control = list(maxit = 5000, reltol = 1e-14))
  expect_equal(fit_law(outlier, "student")$table$log_likelihood, -brute$value, tolerance = 1e-7)
})

test_that("a likelihood that grows without bound is left out, with the value it piles up on", {
  floored <- pmax(data_of(law_lognormal(meanlog = 0, sdlog = 1), 60, 1), 0.8)
  fit <- fit_law(floored)
  expect_false(any(c("pareto", "student") %in% fit$table$law))
  expect_match(fit$warnings, "pareto is left out. Its likelihood grows without bound on the value 0.8", all = FALSE)
  expect_match(fit$warnings, "give them as `below`", all = FALSE)
  expect_fault(fit_law(floored, "pareto"), "argument", "without bound")
  # ties by rounding are no reason
  rounded <- round(data_of(law_exponential(mean = 5), 200, 2), 1)
  expect_true(all(c("pareto", "student") %in% fit_law(rounded)$table$law))
})

test_that("observations below a limit count by their probability", {
  data <- data_of(law_lognormal(meanlog = 0, sdlog = 1), 80, 4)
  seen <- data[data >= 0.8]
  below <- rep(0.8, sum(data < 0.8))
  fit <- fit_law(seen, "lognormal", below = below)
  brute <- optim(c(0, 0), function(t) -sum(dlnorm(seen, t[1], exp(t[2]), log = TRUE)) -
    length(below) * plnorm(0.8, t[1], exp(t[2]), log.p = TRUE), control = list(reltol = 1e-14))
  expect_equal(fit_parameters(fit)$estimate, c(brute$par[1], exp(brute$par[2])), tolerance = 1e-4)
  expect_equal(fit$table$log_likelihood, -brute$value, tolerance = 1e-8)
  expect_equal(fit$table$bic, 2 * log(80) + 2 * brute$value, tolerance = 1e-8)
  expect_match(fit$warnings, "of 80 observations lie below a limit", all = FALSE)
  expect_s3_class(ggplot2::ggplot_build(plot_fit(fit)), "ggplot_built")
  expect_equal(empirical_shares(1:4, NULL), (1:4 - 0.5) / 4)
  # one below 2.5 may be anywhere among the two that are; then as by hand
  expect_equal(empirical_shares(1:4, 2.5), c(0.25 * 0.6, 0.75 * 0.6, 0.7, 0.9))
  # the truth within three standard errors, and no bias
  errors <- vapply(1:100, function(seed) {
    data <- data_of(law_weibull(1.7, 4), 200, seed)
    found <- fit_parameters(fit_law(data[data >= 2], "weibull", below = rep(2, sum(data < 2))))
    (found$estimate - c(1.7, 4)) / found$standard_error
  }, numeric(2))
  expect_gte(mean(abs(errors) < 3), 0.97)
  expect_lt(max(abs(rowMeans(errors))), 0.3)
  expect_false("uniform" %in% fit_law(seen, below = below)$table$law)
  expect_fault(fit_law(seen, "uniform", below = 0.8), "argument", "end is fitted")
  expect_fault(fit_law(seen, below = below, method = "moments"), "argument", "likelihood")
  expect_fault(fit_law(seen, below = NA_real_), "argument", "finite")
})
