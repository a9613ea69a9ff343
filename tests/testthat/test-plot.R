layers_data <- function(figure) lapply(seq_along(figure$layers), function(i) ggplot2::layer_data(figure, i))

test_that("the distribution figure shows the numbers of the result", {
  res <- quietly(gravity_main(), 1000)
  data <- distribution_plot_data(res, "pressure", c(10, 50, 90))
  y <- res$outputs$pressure
  expect_equal(sum(data$bars$share), 1)
  expect_equal(data$bars$share[3], mean(y >= data$bars$from[3] & y < data$bars$to[3]))
  expect_equal(data$markers$value, unname(quantile(y, c(0.1, 0.5, 0.9))))
  expect_equal(data$lines$value, c(res$base$outputs$pressure, 38))
  expect_match(data$lines$text[2], "spec >= 38: met by [0-9.]+ %")
  expect_match(data$title, "^Pressure at the last tap: 80 % of runs from [0-9.]+ to [0-9.]+ m$")
  figure <- plot_distribution(res, pressure)
  expect_s3_class(figure, "ggplot")
  expect_equal(layers_data(figure)[[1]]$ymax, data$bars$share)
  expect_equal(distribution_plot_data(res, "velocity", c(10, 90))$lines$value[-1], c(0.3, 1))
  expect_fault(plot_distribution(res, presure), "name", "`pressure`")
  expect_fault(plot_distribution(res), "argument", "an output of the result")
  expect_fault(plot_distribution(res, pressure, percentiles = 200), "argument")
})

test_that("figures hold for constants, few runs, yes/no outputs and failures", {
  s <- study() |> add_inputs(a = law_normal(0, 1), k = 3) |>
    add_outputs(k2 = k * 2, yes = a > 0, root = sqrt(a), count = round(a))
  for (n in c(1, 2, 50)) {
    res <- suppressWarnings(quietly(s, n))
    for (name in names(res$outputs)) {
      expect_type(layers_data(plot_distribution(res, name)), "list")
      expect_type(layers_data(plot_tornado(res, name)), "list")
    }
  }
  expect_match(distribution_plot_data(res, "k2", 50)$title, "k2 is 6 in every run")
  expect_match(plot_tornado(res, k2)$labels$title, "no input makes it vary")
  expect_match(distribution_plot_data(res, "root", 50)$subtitle, "25 runs failed")
  expect_warning(broken <- quietly(study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = 1 / (a - a))))
  expect_match(plot_distribution(broken)$labels$title, "no good runs")
})

test_that("the tornado shows the drivers, strongest first, with their signs", {
  res <- quietly(gravity_main(), 1000)
  data <- tornado_plot_data(res, "pressure", "rank", 3)
  table <- drivers(res, outputs = pressure)
  expect_equal(data$bars$value, table$value[1:3])
  expect_equal(as.character(data$bars$label), c("Peak-hour demand", "friction", "spring"))
  expect_equal(data$bars$effect, c("lowers", "lowers", "raises"))
  expect_match(data$note[2], "1 weaker input")
  expect_match(data$title, "Peak-hour demand .* and friction .* drive pressure at the last tap")
  expect_equal(unique_labels(c("Pump", "Pump", "Pipe"), c("a", "b", "c")), c("Pump (a)", "Pump (b)", "Pipe"))
})

test_that("a law's picture shows its density", {
  data <- law_plot_data(law_pert(28, 34, 48))
  expect_equal(range(data$curve$value), c(28, 48))
  expect_equal(data$curve$density, density_at(law_pert(28, 34, 48), data$curve$value))
  withr::with_pdf(withr::local_tempfile(), expect_s3_class(plot(law_normal(0, 1)), "ggplot"))
})

test_that("numbers read well", {
  expect_identical(format_number(c(0, 1234.5678, 0.000123456, 123456.7, 1e-7, NA, NaN, Inf, -2.5)),
    c("0", "1235", "0.0001235", "123 500", "1e-07", "-", "NaN", "Inf", "-2.5"))
  expect_identical(format_share(c(0, 0.00001, 0.5, 0.99999, 1, NA)),
    c("0.0 %", "<0.1 %", "50.0 %", ">99.9 %", "100.0 %", "-"))
})

test_that("pictures of laws show their curves", {
  data <- laws_plot_data(list(pert = law_pert(28, 34, 48), count = law_poisson(30)), c(10, 90))
  own <- data$curve[data$curve$law == "pert" & data$curve$panel == "Density", ]
  expect_equal(own$height, density_at(law_pert(28, 34, 48), own$value))
  expect_equal(data$markers$value[1:2], quantile(law_pert(28, 34, 48), c(0.1, 0.9)))
  for (law in c(law_grid(), discrete_grid())) {
    curve <- laws_plot_data(list(law = law), c(10, 90))$curve
    expect_true(all(is.finite(curve$value)) && !anyNA(curve$height), info = format(law))
    expect_setequal(as.character(unique(curve$panel)), as.character(unique(data$curve$panel)))
  }
  drawn <- list(law_normal(0, 1), law_poisson(3), law_piecewise(1:3, c(0, 40, 100)), law_bernoulli(0.1),
    law_mixture(list(law_discrete(0), law_normal(3, 1))), law_truncated(law_gamma(0.3, 1), min = 0.01))
  for (law in drawn) expect_type(layers_data(plot_law(law)), "list")
  for (n in 1:6) expect_s3_class(plot_law(rep(list(law_normal(0, 1)), n)), "ggplot")
  expect_fault(plot_law(), "argument", "one to six laws")
  expect_fault(plot_law(law_discrete(c("a", "b"))), "argument", "categories")
  expect_fault(plot_law(3), "argument", "law")
})

test_that("pictures of inputs and correlations hold for every kind of input", {
  s <- gravity_main() |>
    add_inputs(soil = law_discrete(c("rock", "clay")), n = law_poisson(3), m = law_normal(~ n, 1)) |>
    add_outputs(extra = if (soil == "rock") n else m)
  res <- quietly(s, 300)
  data <- inputs_plot_data(s, c("demand", "soil", "n"), res)
  expect_equal(data$bars$density[1:2], c(0.5, 0.5))
  expect_equal(sum(data$draws$density * (data$draws$to - data$draws$from)), 1, tolerance = 0.02)
  expect_type(layers_data(plot_inputs(s)), "list")
  expect_type(layers_data(plot_inputs(res)), "list")
  expect_type(layers_data(plot_inputs(res, c(demand, n))), "list")
  expect_equal(layers_data(plot_correlation(res))[[2]]$label,
    formatC(correlations(res)$achieved, format = "f", digits = 2))
  expect_fault(plot_correlation(three_normals()), "model", "add_correlation()")
  expect_fault(plot_inputs(study() |> add_inputs(k = 3)), "model", "varies")
  expect_fault(plot_inputs(s, dmand), "name", "Did you mean `demand`?")
})

test_that("the picture of a fit shows data and law", {
  data <- quantile(law_gamma(2, 3), ppoints(60))
  fit <- fit_law(data, c("gamma", "normal"))
  shown <- fit_plot_data(fit, "gamma")
  points <- shown$points[as.integer(shown$points$panel) == 2, ]
  expect_equal(points$y, sort(data))
  expect_equal(points$x, quantile(fitted_law(fit), (1:60 - 0.5) / 60))
  expect_type(layers_data(plot_fit(fit, c("gamma", "normal"))), "list")
  expect_type(layers_data(plot_fit(fit_law(c(0, 1, 1, 2, 3, 3, 5, 2)))), "list")
  expect_fault(plot_fit(fit, "weibull"), "argument")
})

test_that("pictures say what they show", {
  expect_match(laws_title(list(a = law_uniform(0, 10), b = law_uniform(0, 20)), c(10, 50, 90), "m"),
    "P10 to P90 [m]: a 1 to 9, b 2 to 18", fixed = TRUE)
  expect_match(laws_title(list(x = law_uniform(0, 10)), c(10, 50, 90), "m"),
    "uniform(min = 0, max = 10) has P10 to P90 at 1 to 9 m", fixed = TRUE)
  main <- gravity_main()
  expect_match(plot_inputs(main)$labels$title, "4 inputs that vary; 1 held constant")
  expect_match(plot_inputs(main, most = 2)$labels$title, "the first 2 drawn")
  expect_match(plot_correlation(main)$labels$title,
    "Peak-hour demand and friction go together most (rank correlation 0.40)", fixed = TRUE)
  against <- three_normals() |> add_correlation(a, b, -0.5) |> add_correlation(b, c, 0.3)
  expect_match(plot_correlation(against)$labels$title, "a and b go against each other most")
  data <- correlation_plot_data(against, against$correlations, result = FALSE)
  expect_identical(as.character(data$row), c("b", "c"))
  expect_identical(data$text, c("-0.50", "0.30"))
  fit <- fit_law(quantile(law_gamma(2, 3), ppoints(60)), c("gamma", "normal"))
  expect_match(fit_title(fit, "gamma"), "^The gamma law is nearest to the data")
  expect_match(fit_title(fit, "normal"), "^The normal law is number 2 of 2")
  expect_match(plot_fit(fit_law(c(1, 2, 4), "normal"))$labels$caption, "3 observations tell little")
})

test_that("laws are drawn where they lie", {
  expect_identical(law_range(law_uniform(2, 5)), c(2, 5))
  expect_equal(law_range(law_normal(0, 1)), qnorm(c(0.001, 0.999)))
  expect_equal(law_range(law_lognormal(mean = 100, sd = 1))[1], quantile(law_lognormal(mean = 100, sd = 1), 0.001))
  bars <- law_plot_data(law_poisson(3))$curve
  expect_identical(bars$value, as.double(0:max(bars$value)))
  expect_equal(bars$density, dpois(bars$value, 3))
  spiky <- law_plot_data(law_beta(0.5, 0.5))$curve
  expect_true(all(is.finite(spiky$density)))
  expect_equal(draws_histogram(c(1, 1, 1)), NULL)
})
