# A good example of each law's arguments; bad ones are made from it.
examples <- list(
  normal = list(mean = 3, sd = 2), lognormal = list(mean = 3, sd = 1, min = 0), uniform = list(min = 0, max = 1),
  triangular = list(min = 0, mode = 1, max = 3), pert = list(min = 0, mode = 1, max = 3, weight = 4),
  trapezoidal = list(min = 0, from = 1, to = 2, max = 3), curvilinear = list(min = 0, max = 1, within = 0.1),
  arcsine = list(min = 0, max = 1), beta = list(shape1 = 2, shape2 = 3, min = 0, max = 1),
  gamma = list(shape = 2, scale = 3, min = 0), exponential = list(mean = 2, min = 0), weibull = list(shape = 2,
    scale = 3, min = 0),
  gumbel = list(location = 0, scale = 1, tail = "largest"), pareto = list(location = 0, scale = 1, shape = 0.1),
  logistic = list(location = 0, scale = 1), laplace = list(location = 0, scale = 1), student = list(df = 4,
    location = 0, scale = 1),
  piecewise = list(values = 1:3, percentiles = c(0, 50, 100)), histogram = list(breaks = 1:3, weights = 1:2),
  discrete = list(values = 1:2, probabilities = 1:2), integers = list(min = 1,
    max = 6), bernoulli = list(probability = 0.2),
  binomial = list(size = 5, probability = 0.2), poisson = list(mean = 3), negative_binomial = list(size = 2,
    probability = 0.4),
  geometric = list(probability = 0.3), hypergeometric = list(marked = 5, unmarked = 6, drawn = 4),
  empirical = list(data = c(1, 2, 5), interpolate = TRUE), truncated = list(of = law_normal(0, 1), min = 0, max = 2),
  mixture = list(of = list(law_normal(0, 1), law_normal(3, 1)), weights = 1:2), largest = list(of = law_normal(0, 1),
    k = 3),
  smallest = list(of = law_normal(0, 1), k = 3), compound = list(count = law_poisson(3), size = law_normal(5, 1)),
  custom = list(quantile = function(p) p)
)
make <- function(family, arguments) do.call(paste0("law_", family), arguments)

test_that("every argument of every law refuses what it cannot be, by its name", {
  expect_setequal(names(examples), law_family_names)
  bad <- list(NA, "x", list(1), NULL, data.frame(a = 1), as.Date("2027-01-01"), Inf, NaN, TRUE, numeric(), c(1, NA))
  for (family in names(examples)) {
    good <- examples[[family]]
    expect_s3_class(make(family, good), "ensayo_law")
    for (name in names(good)) {
      asked <- family_record(family)$parameters[[name]]
      for (value in bad) {
        fits <- identical(value, Inf) && asked == "limit" || isTRUE(value) && asked == "flag" || is.null(value) ||
          identical(value, "x") && asked == "values" || asked == "laws" && is.list(value)
        if (fits) next
        error <- tryCatch(make(family, replace(good, name, list(value))), error = identity)
        expect_s3_class(error, "ensayo_error_argument")
        expect_match(conditionMessage(error), name, fixed = TRUE, label = paste(family, name, class(value)[1]))
      }
    }
  }
})

test_that("a formula of an input may stand for any number, and for numbers alone", {
  for (family in setdiff(names(examples), "custom")) {
    for (name in names(examples[[family]])) {
      asked <- family_record(family)$parameters[[name]]
      given <- replace(examples[[family]], name, list(~ m))
      if (asked %in% c("number", "spread", "positive", "share", "factor", "whole", "count")) {
        expect_true(is_linked(make(family, given)), label = paste(family, name))
      } else expect_s3_class(tryCatch(make(family, given), error = identity), "ensayo_error_argument")
    }
  }
})

test_that("columns of parameters give each run the law of its own numbers", {
  u <- ppoints(7)
  for (family in names(Filter(function(record) isTRUE(record$elementwise),
    lapply(stats::setNames(nm = law_family_names), family_record)))) {
    good <- examples[[family]]
    numeric <- names(good)[vapply(good, is.numeric, TRUE)]
    # every number moved a little further in each run, which keeps them in order
    column <- function(i) {
      moved <- good
      moved[numeric] <- lapply(good[numeric], function(x) if (family == "bernoulli") x +
        i / 100 else x * (1 + i / 100) + i / 1000)
      moved
    }
    columns <- lapply(stats::setNames(nm = numeric), function(name) vapply(1:7, function(i) column(i)[[name]], 0))
    given <- good
    given[numeric] <- lapply(numeric,
      function(name) stats::as.formula(paste("~", "p_", name) |> gsub(pattern = "_ ", replacement = "_")))
    law <- bind_links(make(family, given), paste0("p_", numeric), "It")
    together <- linked_quantile(law, u, stats::setNames(columns, paste0("p_", numeric)))
    alone <- vapply(1:7, function(i) quantile(make(family, column(i)), u[i]), 0)
    expect_equal(together, alone, tolerance = 1e-14, label = family)
  }
})

test_that("every family can be inverted, and its moments found, from its probabilities alone", {
  laws <- Filter(function(law) {
    m <- moments(law)
    !is_discrete(law) && is.finite(m$excess_kurtosis) && m$excess_kurtosis < 100 && m$sd > 1e-5 * abs(m$mean)
  }, c(law_grid()))
  p <- c(1e-9, 0.01, 0.3, 0.5, 0.9, 0.999)
  for (law in laws) {
    from_probabilities <- ready_law(law)
    from_probabilities$record$composed <- function(par) TRUE
    x <- composed_quantile(from_probabilities, p, TRUE)
    expect_true(all(inverts(law, p, "lower", x)), label = format(law))
    m <- moments(law)
    integrated <- integrated_moments(law)
    rough <- max(1e-8, 1e-13 * abs(m$mean) / m$sd)
    expect_lt(abs(integrated[["mean"]] - m$mean) / m$sd, rough, label = format(law))
    expect_lt(abs(integrated[["variance"]] / m$variance - 1), rough, label = format(law))
    expect_lt(abs(integrated[["skewness"]] - m$skewness), rough * max(1, abs(m$skewness)), label = format(law))
    expect_lt(abs(integrated[["excess_kurtosis"]] - m$excess_kurtosis), 10 * rough * max(1, abs(m$excess_kurtosis)),
      label = format(law))
  }
})

test_that("the most likely value has the greatest density", {
  for (law in c(law_grid(), discrete_grid())) {
    mode <- most_likely(law)
    if (is.na(mode)) next
    height <- density_at(law, mode)
    x <- quantile(law, ppoints(200))
    expect_true(all(density_at(law, x) <= height * (1 + 1e-9)), label = format(law))
  }
})

test_that("shares that do not add up are warned of", {
  expect_warning(law_discrete(1:3, c(0.2, 0.3, 0.4)), class = "ensayo_warning_shares")
  expect_silent(law_discrete(1:3, c(0.2, 0.3, 0.5)))
  expect_silent(law_discrete(1:3, c(20, 30, 40)))
})
