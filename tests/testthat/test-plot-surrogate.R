built <- function(figure) ggplot2::ggplot_build(figure)

test_that("figures of a surrogate show its own figures, for few and many inputs", {
  slow <- function(slope, flow) {
    if (flow > 0.75 && slope < 0.9) stop("no convergence")
    60 - 40 * flow^1.85 / (slope + 0.2)
  }
  main <- study("Slow") |> add_inputs(slope = input(law_uniform(0.5, 1.5), unit = "%"), flow = law_uniform(0.4, 0.9),
    zone = law_discrete(c("hill", "town"), c(0.5, 0.5)), idle = law_normal(0, 1)) |>
    add_model(slow, outputs = list(pressure = output(unit = "m", label = "Pressure"))) |> add_outputs(by_zone = pressure + (if (zone == "hill") 5 else 0))
  fast <- surrogate(simulate(main, 80, 11, progress = NULL), c(pressure, by_zone))
  runs <- surrogate_runs(fast)
  predictions <- plot_predictions(fast, pressure)
  expect_identical(nrow(predictions$data), sum(runs$output == "pressure"))
  off <- with(runs[runs$output == "pressure", ], sum(abs(predicted - observed) > 1.96 * error))
  expect_match(predictions$labels$subtitle, sprintf("; %d of %d runs outside", off, nrow(predictions$data)))
  expect_match(predictions$labels$title, known_share(summary(fast)$r_squared[1]), fixed = TRUE)
  effects <- plot_effects(fast, by_zone)
  expect_setequal(unique(effects$data$input), c("slope", "flow", "zone"))
  expect_setequal(effects$data$level[effects$data$input == "zone"], c("hill", "town"))
  table <- surrogate_effects(fast, by_zone)
  expect_equal(abs(diff(table$effect[table$input == "zone"])), 5, tolerance = 0.05)
  expect_true(all(table$low <= table$effect & table$effect <= table$high))
  parts <- plot_input_parts(fast, pressure)
  expect_match(parts$labels$title, "Without `flow`")
  surface <- surrogate_surface(fast, slope, flow, pressure, points = 10)
  expect_identical(nrow(surface), 100L)
  at <- surface[surface$failing < 0.1 & !surface$outside, ][1:5, ]
  expect_equal(at$value, 60 - 40 * at$flow^1.85 / (at$slope + 0.2), tolerance = 0.01)
  for (figure in list(predictions, effects, parts, plot_surface(fast, slope, flow, by_zone, at = list(zone = "town")), plot_failing(fast, slope, flow))) {
    expect_s3_class(figure, "ggplot")
    expect_silent(built(figure))
  }
  expect_match(plot_surface(fast, slope, flow, by_zone, at = list(zone = "town"))$labels$subtitle, "zone = town")
  whole <- surrogate(simulate(study("W") |> add_inputs(a = law_uniform(0, 1)) |> add_outputs(y = a), 20, 1))
  expect_silent(built(plot_effects(whole)))
  expect_error(plot_failing(whole, a, a), class = "ensayo_error_argument")
  expect_error(plot_surface(fast, slope, zone, pressure), class = "ensayo_error_name")
})
