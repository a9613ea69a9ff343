# Rare chances: importance sampling around the places where a condition comes true, which a surrogate of its margin finds.

#' Chances of one in a thousand to one in a million
#'
#' A chance of 1e-4 takes a million runs to be read off plain runs. `rare_chance()` looks for the places where a condition comes true with
#' few runs of the model, guided by a surrogate of its margin, and then draws runs around them, which count by how much likelier they are
#' there than under the inputs' laws. The surrogate guides alone; the chance and its interval are of runs of the model.
#'
#' @param study A study.
#' @param condition A comparison of outputs and inputs with numbers or each other, such as `pressure < 20`; several may be joined by `&` and
#'   `|`.
#' @param ... Not used; anything here is an error.
#' @param most Whole number: how many runs of the model to make at most, from 200.
#' @param seed As for [simulate()][simulate.ensayo_study].
#' @param confidence Number between 0 and 1.
#' @param workers,progress As for [simulate()][simulate.ensayo_study].
#' @return A data frame of one row: `condition`; `chance`; `low`, `high` (the interval, for lack of runs); `runs` (of the model, in all);
#'   `met` (runs drawn around the places in which the condition held); `effective` (the number of equally likely runs that would tell as
#'   much); `places` (how many were found); `distance` (of the nearest, in standard deviations of a normal score, which is the
#'   reliability index); `failed`, runs of the model that failed, which have not met the condition; `trusted`; and `findings`, codes with blanks
#'   between them: `never_met` (no run met the condition: `high` is what runs around the nearest place do not rule out, and may be far too
#'   low), `few_effective` (below 50), `one_dominates` (a single run is more than a tenth of the sum), `missed_place` (runs
#'   far from all places that were found meet it, too, and are more than a fiftieth of the chance), `not_rare` (plain runs do:
#'   [chance()]), `several_places` (for information; each was drawn around).
#' @section How: in the space of independent standard normal scores a Gaussian process of the margin is fitted to a spread of runs; subset
#'   simulation on it (Au and Beck 2001, Probabilistic Engineering Mechanics 16(4)) tells where it falls below 0; runs of the model go
#'   where its sign is least sure (Echard, Gayton and Lemaire 2011, Structural Safety 33(2)), until it is, for three tenths of the runs and 300 at
#'   most. The rest are drawn from normal laws about the likeliest point of each place, with a wider one about the origin, so that no
#'   weight is without bound (Melchers 1989, Structural Safety 6(1); Hesterberg 1995, Technometrics 37(2)). Where a third of
#'   them shows a place that was not known, it joins, and only later runs count.
#' @section When not to trust it: a place that no run came near is not in the chance, and nothing tells so where it is small and far from
#'   the others. `trusted` is `FALSE` where the runs themselves show that something is amiss.
#' @section Errors: `ensayo_error_argument` where the condition is not made of comparisons of numbers, and for inputs that are drawn over
#'   steps; `ensayo_error_model` where every run fails.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_normal(34, 3), friction = law_lognormal(mean = 0.021, sd = 0.003)) |>
#'   add_outputs(pressure = 49.5 - friction * 14.2 * demand^2 / 1000 * 20)
#' rare_chance(main, pressure < 30, most = 400, seed = 11)
#' @export
rare_chance <- function(study, condition, ..., most = 2000, seed = NULL, confidence = 0.95, workers = NULL, progress = show_progress) {
  check_study(study)
  check_no_dots(..., .options = c("most", "seed", "confidence", "workers", "progress"))
  check_count(most, at_least = 200)
  check_confidence(confidence)
  check_single_inputs(study)
  condition <- rlang::enquo(condition)
  margin <- margin_model(study, condition, check_seed(seed), most, progress)
  with_workers(workers, {
    places <- rare_places(margin, min(0.3 * most, 300))
    drawn <- rare_runs(margin, places, most)
  })
  if (!is.null(progress)) call_progress(progress, most, most, function() NULL)
  rare_row(margin, drawn, confidence)
}

# The margin of a condition: `of` gives it for scores, below 0 where the condition holds, and counts the `runs` and those that `failed`;
# `draw` gives normal numbers, the same for the same seed.
margin_model <- function(study, quosure, seed, most, progress, call = rlang::caller_env()) {
  conditions <- read_conditions(rlang::new_quosures(list(quosure)) |> stats::setNames(""), quantity_vocabulary(study), "Condition", call)
  formula <- conditions[[1]]
  expr <- margin_expression(with_constants(formula$expr, formula$constants))
  if (is.null(expr)) {
    stop_ensayo("argument", "The condition must compare numbers, so that it is known how far a run is from it.",
      sprintf("%s does not tell.", quoted(formula$text)), "Such as `pressure < 20`, or several joined by `&` and `|`.", argument = "condition", call = call)
  }
  name <- free_name("margin", quantity_names(study))
  study <- add_outputs(study, !!name := !!expr)
  study <- study_for(study, needed_outputs(study, name))
  plan <- draw_plan(most, seed, "random", 1, NULL, NULL)
  margin <- list2env(list(runs = 0, failed = 0, drawn = 0, inputs = scored_inputs(study), text = names(conditions)))
  margin$of <- function(scores) {
    columns <- columns_of_scores(study, scores)
    made <- evaluate_draws(study, columns, plan, margin$runs, nrow(scores), progress_after(progress, margin$runs, most), by_plan = FALSE)
    margin$runs <- margin$runs + nrow(scores)
    values <- as.double(made$values[[name]])
    margin$failed <- margin$failed + sum(!is.finite(values))
    values
  }
  margin$draw <- function(rows, columns) {
    margin$drawn <- margin$drawn + 1
    matrix(stats::qnorm(stream_uniforms("rare chance", seed, "random", rows * columns, index = margin$drawn)), rows)
  }
  margin
}

# `a < b` is `a - b`; both hold where the larger is below 0, one of them where the smaller is.
margin_expression <- function(expr) {
  if (rlang::is_call(expr, "(", n = 1)) return(margin_expression(expr[[2]]))
  if (rlang::is_call(expr, "!", n = 1)) {
    inner <- margin_expression(expr[[2]])
    return(if (!is.null(inner)) call("-", inner))
  }
  if (rlang::is_call(expr, c("<", "<="), n = 2)) return(call("-", expr[[2]], call("(", expr[[3]])))
  if (rlang::is_call(expr, c(">", ">="), n = 2)) return(call("-", expr[[3]], call("(", expr[[2]])))
  joined <- if (rlang::is_call(expr, c("&", "&&", "all"))) "max" else if (rlang::is_call(expr, c("|", "||", "any"))) "min"
  if (is.null(joined)) return(NULL)
  parts <- lapply(as.list(expr)[-1], margin_expression)
  if (any(vapply(parts, is.null, NA))) NULL else as.call(c(as.name(joined), parts))
}

rare_row <- function(margin, drawn, confidence) {
  weights <- drawn$weights * drawn$met
  n <- length(weights)
  chance <- mean(weights)
  z <- stats::qnorm((1 + confidence) / 2)
  met <- sum(drawn$met)
  effective <- if (met > 0) sum(weights)^2 / sum(weights^2) else 0
  error <- if (n > 1) stats::sd(weights) / sqrt(n) else NaN
  # on the logarithm, which a sum of weights is nearer to normal on; without a run that met it, what would be seen once in three
  range <- if (met > 0) chance * exp(c(-1, 1) * z * error / chance) else c(0, -log(1 - confidence) / n * max(drawn$weights))
  findings <- c(if (met == 0) "never_met", if (met > 0 && effective < 50) "few_effective",
    if (met > 0 && max(weights) > 0.1 * sum(weights)) "one_dominates", if (drawn$surprise > 0.02) "missed_place")
  trusted <- length(findings) == 0
  findings <- c(findings, if (chance > 0.05) "not_rare", if (nrow(drawn$places) > 1) "several_places")
  new_table(rows_of(condition = margin$text, chance = chance, low = range[1], high = min(range[2], 1), runs = margin$runs, met = met,
    effective = effective, places = nrow(drawn$places), distance = if (nrow(drawn$places)) min(sqrt(rowSums(drawn$places^2))) else NA_real_,
    failed = margin$failed, trusted = trusted, findings = paste(findings, collapse = " ")))
}
