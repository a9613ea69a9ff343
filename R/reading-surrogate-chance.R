# Chances from a surrogate, corrected by the runs themselves.

#' A chance from a surrogate, corrected by true runs
#'
#' The share of very many surrogate runs in which a condition holds, corrected by the runs of the model: by how many of them met the
#' condition where a prediction that did not know them says otherwise, and the other way round.
#'
#' @param .surrogate A surrogate, made by [surrogate()].
#' @param ... Conditions on its outputs and the inputs, such as `pressure < 30`, if wanted named.
#' @param .nsim Whole number: surrogate runs.
#' @param .seed As for [simulate()][simulate.ensayo_study].
#' @return A data frame with a row for each condition: `condition`; `chance` (corrected), `low`, `high` (95 %); `surrogate` (what surrogate
#'   runs alone say); `missed` and `false` (model runs that met the condition though predicted not to, and the reverse) of `runs`;
#'   `unsure` (the share of surrogate runs that lie closer to an output's limit than 1.96 standard errors of their prediction; `NA` where
#'   the condition does not compare an output with a number).
#' @details The model's runs are those of the design alone, for suggested ones are no sample of the inputs' laws. Those that failed are among
#'   them, and have not met the condition, as in [chance()]. The interval adds the
#'   intervals of Clopper and Pearson (1934) of both shares, and the surrogate's own simulation error: it is wide where there are few
#'   runs, for a hundred runs that all agree with their predictions do not rule out that three in a hundred others would not. Below a chance of
#'   about 1 / `runs` take [rare_chance()]. Source of the correction: control variates (Hammersley and Handscomb 1964, Monte Carlo Methods,
#'   section 5.5).
#' @section Errors: as for [chance()].
#' @examples
#' res <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9)) |>
#'   add_outputs(pressure = 60 - 40 * flow^1.85 / (slope + 0.2)) |>
#'   simulate(nsim = 50, seed = 11)
#' surrogate_chance(surrogate(res), pressure < 30, .nsim = 10000, .seed = 11)
#' @export
surrogate_chance <- function(.surrogate, ..., .nsim = 100000, .seed = NULL) {
  check_surrogate(.surrogate)
  study <- surrogate_study(.surrogate)
  conditions <- read_conditions(rlang::enquos(..., .ignore_empty = "all"), quantity_vocabulary(study), "Condition")
  if (length(conditions) == 0) stop_ensayo("argument", "Give at least one condition.", NULL, sprintf("Such as `surrogate_chance(fast, %s > 0)`.", .surrogate$outputs[1]))
  drawn <- simulate(study, check_count(.nsim, at_least = 100), .seed, progress = NULL)
  said <- chances_of(drawn, conditions)
  checked <- checked_predictions(.surrogate, study, conditions)
  new_table(stacked(lapply(seq_along(conditions), function(i) {
    truth <- checked$truth[[i]]
    predicted <- checked$predicted[[i]]
    n <- length(truth)
    missed <- sum(truth & !predicted)
    false <- sum(!truth & predicted)
    more <- proportion_interval(missed, n, 0.975)
    less <- proportion_interval(false, n, 0.975)
    chance <- said$chance[i]
    rows_of(condition = names(conditions)[i], chance = min(max(chance + (missed - false) / n, 0), 1), low = max(said$low[i] + more$low - less$high, 0),
      high = min(said$high[i] + more$high - less$low, 1), surrogate = chance, missed = missed, false = false, runs = n,
      unsure = unsure_share(.surrogate, conditions[[i]], drawn))
  })))
}

# The conditions in the runs of the design, as they came and as predicted by fits that did not know them. A run that failed has met none,
# and is predicted by the surrogate as it is, which was not fitted to it; one that is predicted to fail is predicted to meet none.
checked_predictions <- function(surrogate, study, conditions) {
  data <- ready_surrogate(surrogate$data)
  rows <- which(surrogate$taught$designed)
  own <- surrogate$outputs
  kept <- setdiff(output_order(study$outputs), study$models[[1]]$gives)
  formulas <- c(lapply(study$outputs[kept], function(output) output$formula), stats::setNames(conditions, sprintf("condition%d", seq_along(conditions))))
  evaluator <- new_evaluator(formulas)
  held <- lapply(Filter(Negate(varies), surrogate$study$inputs), held_value)
  of <- function(values, failed) {
    columns <- c(held, lapply(surrogate$taught$columns, column_at, rows), values)
    lapply(evaluator(columns, rows)$values[sprintf("condition%d", seq_along(conditions))], function(met) as.logical(met) %in% TRUE & !failed)
  }
  predicted <- lapply(stats::setNames(nm = own), function(name) {
    output <- data$outputs[[name]]
    value <- as.matrix(surrogate_values(output, data$runs))
    value[output$rows, ] <- output$found$held
    value <- rounded_to_kind(value[rows, , drop = is.null(output$loadings)], study$models[[1]]$kinds[[name]])
    if (is.matrix(value)) colnames(value) <- step_keys(study$outputs[[name]]$steps)
    value
  })
  failing <- if (is.null(data$failing)) rep(FALSE, length(rows)) else data$failing$found$held[rows] > 0.5
  list(truth = of(lapply(surrogate$taught$values[own], column_at, rows), surrogate$taught$failed[rows]), predicted = of(predicted, failing))
}

unsure_share <- function(surrogate, condition, drawn) {
  expr <- with_constants(condition$expr, condition$constants)
  for (name in surrogate$outputs) {
    limits <- comparisons_of(expr, name)
    if (length(limits) == 0 || is.matrix(surrogate$taught$values[[name]])) next
    rows <- leading_parts(run_count(drawn), 5000)
    data <- ready_surrogate(surrogate$data)
    x <- coordinate_matrix(data$coordinates, lapply(store_columns(drawn$store, names(surrogate$taught$columns)), column_at, rows))
    near <- Reduce(pmin, lapply(limits, function(one) abs(surrogate_values(data$outputs[[name]], x) - one$limit)))
    return(mean(near < 1.96 * surrogate_values(data$outputs[[name]], x, "error")))
  }
  NA_real_
}
