#' Pass rate by bands of the inputs
#'
#' Each input that varies is cut into bands of equal probability, and the pass rate is read off in each: which input
#' causes failures, and in which direction to move or tighten it. All from the runs that are there.
#'
#' @param .result A result of a study with specs, or any result with a condition.
#' @param ... One condition instead of all specs together, such as `pressure >= 38`; or the name of a spec.
#' @param .bands Whole number from 2 to 100: how many bands. An input with few values has a band for each; never
#'   fewer than 20 runs are in a band where it can be avoided.
#' @param .inputs Names of inputs, bare or as text; all that vary when left out.
#' @return A data frame with a row for each input and band, inputs with the strongest effect first: `input`, `rank`,
#'   `effect` (the standard deviation of the pass rate between bands, less what chance alone makes of it), `p_value` (of
#'   as large a difference by chance alone: a chi-squared test of homogeneity), `direction` (what passes more:
#'   `"lower"`, `"higher"`, `"middle"`, `"ends"`, or `""` where the bands do not differ beyond chance at 1 %), `band`,
#'   `category` (of an input of categories), `from` and `to` (the input's least and greatest draw in it), `runs`, `met`,
#'   `pass_rate`, `low`, `high` (a 95 % interval as in [chance()]).
#' @section Errors: `ensayo_error_argument` without specs or a condition, or for another number of bands;
#'   `ensayo_error_name` for an unknown input.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   add_specs(velocity <= 0.8) |>
#'   simulate(nsim = 1000, seed = 11)
#' pass_rate_by(res, .bands = 5)
#' @export
pass_rate_by <- function(.result, ..., .bands = 10, .inputs = NULL) {
  check_result(.result)
  bands <- check_count(.bands, ".bands", at_least = 2, at_most = 100)
  known <- draw_names(.result)
  inputs <- resolve_names(rlang::enquo(.inputs), known, "an input that varies")
  met <- condition_met(.result, rlang::enquos(...)) %in% TRUE
  rows <- lapply(inputs, function(name) band_rates(.result, name, met, bands))
  in_order_of_effect(rows)
}

in_order_of_effect <- function(rows) {
  order <- order(-vapply(rows, function(rows) rows$effect[1], 0))
  rows <- Map(function(rows, rank) cbind(rows[1], rank = rank, rows[-1]), rows[order], seq_along(order))
  new_table(do.call(rbind, rows))
}

# The runs that meet one condition, one named spec, or all specs.
condition_met <- function(result, quosures, call = rlang::caller_env()) {
  if (length(quosures) > 1) stop_ensayo("argument", "Give one condition.", sprintf("You gave %d.", length(quosures)),
    "Join several with `&`.", call = call)
  if (length(quosures) == 0) {
    check_specs(result, call)
    held <- with_all_specs(evaluate_conditions(result, result$study$specs))
    return(held[[length(held)]])
  }
  expr <- rlang::quo_get_expr(quosures[[1]])
  spec <- if (is.symbol(expr) || rlang::is_string(expr)) normal_name(expr) else deparse1(expr)
  if (spec %in% names(result$study$specs)) return(evaluate_conditions(result, result$study$specs[spec])[[1]])
  conditions <- read_conditions(quosures, quantity_vocabulary(result$study), "Condition", call)
  evaluate_conditions(result, conditions)[[1]]
}

# The runs' bands of one input: equal in probability by their ranks, each distinct value in one band.
bands_of <- function(column, bands) {
  if (is.character(column)) as.integer(factor(column)) else cpp_rank_bands(mid_ranks(list(column))[[1]], bands)
}

# Bands numbered from 1 on without gaps.
compact <- function(band) {
  filled <- tabulate(band) > 0
  if (all(filled)) band else cumsum(filled)[band]
}

band_rates <- function(result, name, met, bands) {
  column <- if (is_drawn_series(result, name)) values_of(result, name) else run_column(result, name)
  band <- bands_of(column, bands)
  count <- max(band)
  runs <- as.double(tabulate(band, count))
  passed <- as.double(tabulate(band[met], count))
  ends <- proportion_interval(passed, runs)
  rate <- passed / runs
  ends_of <- function(f) if (is.character(column)) NA_real_ else as.double(tapply(column, band, f))
  all <- mean(met)
  noise <- all * (1 - all)
  between <- sum(runs * (rate - all)^2)
  p_value <- if (noise > 0 && count > 1) stats::pchisq(between / noise, count - 1, lower.tail = FALSE) else 1
  effect <- sqrt(max(0, (between - (count - 1) * noise) / length(met)))
  data.frame(input = name, effect = effect, p_value = p_value,
    direction = if (p_value < 0.01) passing_direction(rate, runs) else "", band = seq_len(count),
    category = if (is.character(column)) sort(unique(column)) else "", from = ends_of(min), to = ends_of(max),
    runs = runs, met = passed, pass_rate = rate, low = ends$low, high = ends$high)
}

# Where on the input's scale more runs pass: by the third at either end and the one between.
passing_direction <- function(rate, runs) {
  if (length(rate) < 3) return(if (rate[1] > rate[length(rate)]) "lower" else "higher")
  third <- cut(seq_along(rate), 3, labels = FALSE)
  mean_rate <- as.double(tapply(rate * runs, third, sum) / tapply(runs, third, sum))
  most <- which.max(mean_rate)
  if (most == 2) return("middle")
  if (mean_rate[2] == min(mean_rate) && diff(range(mean_rate[c(1, 3)])) < diff(range(mean_rate)) / 2) return("ends")
  if (most == 1) "lower" else "higher"
}
