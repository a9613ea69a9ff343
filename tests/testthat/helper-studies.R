# The study of the README, and small ones with known answers.

gravity_main <- function() {
  study("Gravity main, dry-season peak") |>
    add_inputs(
      demand   = input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand"),
      diameter = input(law_triangular(0.246, 0.250, 0.252), unit = "m"),
      friction = law_lognormal(mean = 0.021, sd = 0.003),
      spring   = input(law_normal(mean = 61.5, sd = 0.4), unit = "m"),
      length   = 4200
    ) |>
    add_correlation(demand, friction, 0.4) |>
    add_outputs(
      velocity = output(demand / 1000 / (pi * diameter^2 / 4), unit = "m/s"),
      headloss = friction * length / diameter * velocity^2 / (2 * 9.81),
      pressure = output(spring - 12 - headloss, unit = "m", label = "Pressure at the last tap")
    ) |>
    add_specs(pressure >= 38, velocity >= 0.3 & velocity <= 1)
}

# Inputs a, b, c standard normal; nothing else.
three_normals <- function() {
  study("Three normals") |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1), c = law_normal(0, 1))
}

# Outputs of given columns, as simulate() calculates them.
evaluated <- function(study, columns) study_evaluator(study)(columns, seq_along(columns[[1]]))

quietly <- function(study, nsim = 200, seed = 1, ...) simulate(study, nsim, seed = seed, ..., progress = NULL)

# One error, of the stated cause, whose message holds each of the texts.
expect_fault <- function(expr, cause, ...) {
  error <- expect_error(expr, class = paste(c("ensayo_error", cause), collapse = "_"))
  expect_s3_class(error, "ensayo_error")
  for (text in c(...)) expect_match(conditionMessage(error), text, fixed = TRUE)
  invisible(error)
}

demo_file <- function() system.file("studies", "gravity-main.yml", package = "ensayo", mustWork = TRUE)

# One of the package's records with something added, until the test's end.
local_record <- function(name, value, frame = parent.frame()) {
  space <- asNamespace("ensayo")
  old <- get(name, space)
  unlockBinding(name, space)
  assign(name, value, space)
  withr::defer({
    unlockBinding(name, space)
    assign(name, old, space)
    lockBinding(name, space)
  }, frame)
}

# A study file whose program repeats its input.
harmless_file <- function(dir) {
  file <- file.path(dir, "echo.yml")
  writeLines(c("ensayo: 1", "inputs: {a: {law: uniform, min: 0, max: 1}}", "models:", "  echo:",
    "    program: [echo, \"@[a]\"]", "    outputs: {y: {line: 1, unit: m}}", "run: {runs: 20, seed: 1}"), file)
  file
}
