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
  data <- tornado_plot_data(res, drivers_of(res, "pressure"), "rank", 3)
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

test_that("targets are labelled with the chance of the runs, not read off bars", {
  res <- quietly(gravity_main(), 1000)
  y <- res$outputs$pressure
  data <- distribution_plot_data(res, "pressure", c(10, 90), 39.123)
  expect_equal(unlist(data$target[c("below", "above", "equal")]), c(mean(y < 39.123), mean(y > 39.123), 0),
    ignore_attr = TRUE)
  expect_match(plot_distribution(res, pressure, target = 39.123)$labels$title, format_share(mean(y < 39.123)),
    fixed = TRUE)
  shaded <- layers_data(plot_distribution(res, pressure, target = 39.123))[[2]]
  expect_equal(max(shaded$xmax), 39.123)
  falls <- layers_data(plot_distribution(res, pressure, show = "exceedance"))[[1]]
  expect_equal(falls$y, rev(sort(falls$y)))
  expect_fault(plot_distribution(res, pressure, show = "pie"), "argument", "exceedance")
  expect_fault(plot_distribution(res, pressure, target = as.Date("2027-01-01")), "argument", "no date")
})

test_that("dates, counts and long tails are drawn as what they are", {
  s <- study() |> add_inputs(a = law_uniform(0, 20), k = law_poisson(3), x = law_lognormal(meanlog = 0, sdlog = 2.5)) |>
    add_outputs(finish = date("2027-03-01") + 7 * floor(a / 7) + min(a %% 7, 4), n = k, tail = x, yes = a > 5)
  res <- quietly(s, 2000)
  bars <- distribution_plot_data(res, "finish", c(10, 90))$bars
  occurred <- sort(unique(floor(res$outputs$finish)))
  expect_equal((bars$from + bars$to) / 2, occurred)  # days that cannot occur leave gaps
  expect_equal(sum(bars$share), 1)
  finish <- plot_distribution(res, finish, target = as.Date("2027-03-10"))
  expect_match(finish$labels$title, "2027-03-10")
  expect_s3_class(plot_distribution(res, finish, target = "2027-03-10"), "ggplot")
  expect_equal(distribution_plot_data(res, "n", 50)$bars$share[1], mean(res$outputs$n == 0))
  tail <- distribution_plot_data(res, "tail", c(10, 90))
  beyond <- sum(res$outputs$tail > tail$view[2])
  expect_gt(beyond, 0)
  expect_match(tail$note, count_of(beyond, "run"), fixed = TRUE, all = FALSE)
  expect_equal(sum(tail$bars$share), 1 - beyond / 2000)
  expect_match(plot_distribution(res, yes)$labels$title, "yes in [0-9.]+ % of runs")
})

test_that("the other pictures show their tables' numbers", {
  res <- quietly(gravity_main(), 500)
  bands <- layers_data(plot_pass_rate_by(res, .bands = 5, .inputs = demand))
  expect_equal(bands[[4]]$y, pass_rate_by(res, .bands = 5, .inputs = demand)$pass_rate)
  expect_match(plot_pass_rate_by(res)$labels$title, "Peak-hour demand decides on all specs")
  expect_match(plot_pass_rate_by(res, velocity > 0)$labels$title, "No input")
  one <- plot_convergence(simulate(study_of(res), 1, 1), pressure)
  expect_silent(built <- ggplot2::ggplot_build(one))
  expect_identical(built$layout$panel_params[[1]]$x$get_labels()[!is.na(built$layout$panel_params[[1]]$x$breaks)], "1")
  line <- layers_data(plot_convergence(res, pressure, "P90", points = 8))[[2]]
  expect_equal(line$y, convergence_table(res, pressure, "P90", points = 8)$value)
  runs <- layers_data(plot_runs(res, pressure, most = 100))[[1]]
  expect_true(all(range(res$outputs$pressure) %in% runs$y))
  expect_lte(nrow(runs), 102)
  s <- study() |> add_inputs(zone = rep(list(law_normal(3, 1)), 50)) |>
    add_outputs(data.frame(name = sprintf("node[%d]", 1:50), formula = sprintf("5 - `zone[%d]`", 1:50), unit = "m"))
  many <- quietly(s, 200)
  ranges <- ranges_plot_data(many, names(many$outputs), "P95", 10)
  expect_equal(ranges$rows$high, sort(summary(many)$P95, decreasing = TRUE)[1:10])
  expect_match(ranges$note, "40 more outputs")
  expect_length(layers_data(plot_ranges(many)), 4)
  expect_fault(plot_ranges(res, c(pressure, velocity)), "argument", "one unit")
  lined <- quietly(gravity_main() |> replace_inputs(friction = law_lognormal(mean = 0.016, sd = 0.001)), 500)
  both <- compare_results(as_is = res, lined = lined)
  for (show in c("outline", "density", "cumulative", "exceedance", "ranges", "difference")) {
    expect_type(layers_data(plot_comparison(both, pressure, show)), "list")
  }
  outline <- layers_data(plot_comparison(both, pressure, "outline"))[[1]]
  expect_equal(as.numeric(tapply(outline$y, outline$group, sum)), c(1, 1))
  difference <- layers_data(plot_comparison(both, pressure, "difference"))[[1]]
  expect_equal(sum(difference$ymax), 1)
  expect_match(plot_comparison(both, pressure, "difference")$labels$title, "above 0 in")
  expect_fault(plot_comparison(compare_results(res, quietly(gravity_main(), 500, 9)), pressure, "difference"),
    "argument", "share their random numbers")
  sweep <- sweep_input(gravity_main(), diameter = c(0.24, 0.25, 0.26), .nsim = 200, .seed = 1)
  expect_equal(layers_data(plot_sweep(sweep, "pressure", "P10"))[[2]]$y,
    sweep$figure[sweep$about == "pressure" & sweep$statistic == "P10"])
  expect_match(plot_sweep(sweep, "pressure", "mean", target = 39)$labels$title, "where diameter is")
  broken <- suppressWarnings(quietly(study() |> add_inputs(a = law_normal(0, 1)) |> add_outputs(y = 1 / (a - a)), 50))
  for (figure in list(plot_runs(broken), plot_convergence(broken))) expect_match(figure$labels$title, "no good runs")
})

test_that("figures of one run or two are drawn without a word", {
  demo <- function(name) read_study(system.file("studies", paste0(name, ".yml"), package = "ensayo"))
  two <- simulate(demo("tank"), 2, 1)
  works <- suppressWarnings(simulate(demo("works"), 1, 1))
  finish <- output_names(works)[vapply(output_names(works), output_kind_of, "", result = works) == "date"][1]
  step <- plot_distribution(works, !!finish, show = "cumulative")
  expect_identical(ggplot2::layer_data(step, 1)$y, c(0, 1, 1))
  expect_identical(ggplot2::layer_data(plot_distribution(works, !!finish, show = "exceedance"), 1)$y, c(1, 0, 0))
  for (figure in list(step, plot_distribution(works, !!finish), plot_joint(works), plot_drivers_by_step(two, level), plot_series(two, level),
    plot_scatter(simulate(study_of(two), 1, 1), cost, lowest))) expect_silent(ggplot2::ggplotGrob(figure))
  expect_fault(plot_parallel(works), "argument", "One is.")
  file <- withr::local_tempfile(fileext = ".html")
  expect_silent(write_report(two, file))
})

test_that("curves of counts and days show the shares on either side of each", {
  res <- simulate(study() |> add_inputs(k = law_poisson(3), late = law_exponential(mean = 9)) |>
    add_outputs(y = k, due = date("2027-01-01") + late), 2000, 1)
  for (name in c("y", "due")) {
    x <- floor(as.double(values_of(res, name)))
    for (show in c("cumulative", "exceedance")) {
      drawn <- layers_data(plot_distribution(res, !!name, show = show))[[1]]
      share <- vapply(drawn$x, function(value) mean(if (show == "cumulative") x <= value else x > value), 0)
      expect_equal(drawn$y, share)
      expect_gt(nrow(drawn), 8)
    }
  }
  beside <- layers_data(plot_comparison(compare_results(a = res, b = res), y, "exceedance"))[[1]]
  expect_equal(beside$y[beside$x == 3], rep(mean(res$y > 3), 2))
  # of those in view alone, and of very many
  expect_equal(cumulative_curve(c(1, 2, 2, 9), c(2, 9), "whole")$cumulative, c(0.25, 0.75, 1, 1))
  expect_identical(nrow(cumulative_curve(1:5000, kind = "whole")), 503L)
})
