#' Screening by elementary effects
#'
#' For dozens or hundreds of inputs and a dear run: from each of a few starts every input is moved once, and the
#' changes of the output tell which inputs matter at all, and which of them bend or work through others.
#'
#' @param study A study.
#' @param repeats Whole number of at least 2: how many starts. Each takes one run more than there are inputs.
#' @param seed As for [simulate()][simulate.ensayo_study].
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @param workers,announce,progress As for [variance_indices()].
#' @return A data frame with a row for each output and input that varies, the largest `mu_star` first: `output`,
#'   `input`, `mu_star` (the mean size of the effects, in the output's unit for the whole scale of probability), `mu`
#'   (their mean), `sigma` (their standard deviation), `error` (the standard error of `mu_star`), `rank`, `remark`
#'   (by sigma over mu_star: `"linear"` below 0.1, `"steady"` below 0.5, else `"curved or interacting"`; `"no
#'   effect"`) and `model_runs`.
#' @details Inputs start at the places of a Latin hypercube and move inwards by a quarter to a half of their
#'   probability scale, by another amount in each repeat: steps that are all equal can miss a periodic effect
#'   altogether. An effect is the change of the output over the step.
#' @section Sources: Morris (1991, Technometrics 33(2)); mu_star by Campolongo, Cariboni and Saltelli (2007,
#'   Environmental Modelling & Software 22(10)); radial designs by Campolongo, Saltelli and Cariboni (2011, Computer
#'   Physics Communications 182(4)).
#' @section Errors: `ensayo_error_correlation` where inputs are correlated or depend on each other;
#'   `ensayo_error_argument` for other arguments.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' elementary_effects(main, repeats = 10, seed = 11)
#' @export
elementary_effects <- function(study, repeats = 20, seed = NULL, outputs = NULL, workers = NULL, announce = announce_runs,
                               progress = show_progress) {
  check_study(study)
  validate_study(study)
  repeats <- check_count(repeats, at_least = 2)
  outputs <- resolve_names(rlang::enquo(outputs), scalar_outputs(study), "an output of the study")
  inputs <- names(index_groups(study, FALSE))
  seed <- check_seed(seed)
  runs <- repeats * (length(inputs) + 1)
  if (!is.null(announce)) {
    announce(sprintf("%s of the model: %s starts, from each of which %s is moved.", count_of(runs, "run"),
      format_given(repeats), if (length(inputs) == 1) "the input" else sprintf("each of %d inputs", length(inputs))))
  }
  design <- radial_design(study, inputs, repeats, seed)
  draws <- Map(function(name, u) draw_from(study$inputs[[name]]$law, u), inputs, design$u)
  plan <- list(seed = seed, nsim = runs, threads = threads_to_use())
  values <- with_workers(workers,
    evaluate_draws(study, stats::setNames(draws, inputs), plan, 0, runs, progress, by_plan = FALSE)$values)
  new_table(as.list(do.call(rbind,
    lapply(outputs, function(name) effect_rows(as.double(values[[name]]), design, inputs, name, runs)))))
}

# Probabilities of each input in each run: a start, and the same with one input moved inwards by a quarter to a half
# of the scale; `change` is by how much.
radial_design <- function(study, inputs, repeats, seed) {
  draw <- function(name, index) stream_uniforms(study$inputs[[name]]$stream, seed, "latin", repeats, index = index)
  columns <- function(of) matrix(vapply(inputs, of, numeric(repeats)), repeats)
  start <- columns(function(name) draw(name, 0))
  change <- (0.25 + columns(function(name) draw(name, 1)) / 4) * ifelse(start < 0.5, 1, -1)
  list(u = lapply(stats::setNames(seq_along(inputs), inputs), function(i) {
    moved <- matrix(start[, i], repeats, length(inputs) + 1)
    moved[, i + 1] <- moved[, i + 1] + change[, i]
    as.vector(moved)
  }), change = change)
}

effect_rows <- function(y, design, inputs, output, runs) {
  y <- matrix(y, nrow(design$change))
  rows <- lapply(seq_along(inputs), function(i) {
    effect <- (y[, i + 1] - y[, 1]) / design$change[, i]
    effect <- effect[is.finite(effect)]
    n <- length(effect)
    mu_star <- if (n) mean(abs(effect)) else NA_real_
    sigma <- if (n > 1) stats::sd(effect) else NA_real_
    remark <- if (n == 0) "every run failed" else if (mu_star == 0) "no effect" else if (is.na(sigma)) "" else
      c("linear", "steady", "curved or interacting")[1 + (sigma / mu_star > 0.1) + (sigma / mu_star > 0.5)]
    data.frame(output = output, input = inputs[i], mu_star = mu_star, mu = if (n) mean(effect) else NA_real_,
      sigma = sigma, error = if (n > 1) stats::sd(abs(effect)) / sqrt(n) else NA_real_, remark = remark)
  })
  table <- do.call(rbind, rows)
  table <- table[order(-table$mu_star), ]
  table$rank <- seq_len(nrow(table))
  cbind(table[c("output", "input", "mu_star", "mu", "sigma", "error", "rank", "remark")], model_runs = runs)
}
