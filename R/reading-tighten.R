#' What knowing or holding an input better would bring
#'
#' Makes the spread of each input smaller in turn, with the same random numbers, and tells what the spread, the planning
#' percentile and the pass rate become: where the next unit of money is best spent.
#'
#' @param .study A study.
#' @param .output Name of an output, bare or as text; may be left out where there is one only.
#' @param ... Names of inputs, bare or as text; all that vary when left out. With a number, `demand = 1500`, the cost of
#'   tightening that input, at least 1 (take another unit for less).
#' @param .to Number from 0 up to, but not with, 1: what is left of each spread about the input's mean.
#' @param .nsim,.seed As for [simulate()][simulate.ensayo_study].
#' @return A data frame with a row for each input, the greatest change of spread first: `input`, `sd_was`, `sd`,
#'   `sd_change` (a share: -0.3 is 30 % less), `planning_was`, `planning` (the planning percentile),
#'   `planning_change` (in the output's unit), `percentile`, `sense`, `pass_rate_was`, `pass_rate`,
#'   `pass_rate_change` (of all specs; `NA` without specs), `cost`, and by unit of cost `sd_per_cost`,
#'   `planning_per_cost` and `pass_rate_per_cost`; `unit`; `remark`: inputs that cannot be tightened (discrete, or
#'   with parameters that are formulas, or without a mean).
#' @details An input x becomes m + to (x - m), where m is its mean.
#' @section Errors: `ensayo_error_name` for an unknown input or output; `ensayo_error_argument` for other arguments.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' tighten_inputs(main, velocity, flow = 1500, diameter = 400, .nsim = 1000, .seed = 11)
#' @export
tighten_inputs <- function(.study, .output, ..., .to = 0.5, .nsim = 10000, .seed = NULL) {
  check_study(.study)
  output <- resolve_name(rlang::enquo(.output), scalar_outputs(.study), "an output of the study")
  to <- check_number(.to, ".to", at_least = 0, below = 1)
  costs <- tightening_costs(.study, rlang::enquos(...))
  seed <- check_seed(.seed)
  run <- function(study) tightened_figures(simulate(study, .nsim, seed, progress = NULL), output)
  was <- run(.study)
  rows <- lapply(names(costs), function(name) {
    remark <- tightening_fault(.study$inputs[[name]])
    now <- if (nzchar(remark)) was * NA else {
      law <- .study$inputs[[name]]$law
      run(if (to == 0) fix_inputs(.study, !!name := mean(law))
        else replace_inputs(.study, !!name := to * law + (1 - to) * mean(law)))
    }
    data.frame(input = name, sd_was = was[[1]], sd = now[[1]], sd_change = now[[1]] / was[[1]] - 1,
      planning_was = was[[2]], planning = now[[2]], planning_change = now[[2]] - was[[2]],
      percentile = .study$readings$planning, sense = .study$readings$sense,
      pass_rate_was = was[[3]], pass_rate = now[[3]], pass_rate_change = now[[3]] - was[[3]], cost = costs[[name]],
      sd_per_cost = (now[[1]] - was[[1]]) / costs[[name]], planning_per_cost = (now[[2]] - was[[2]]) / costs[[name]],
      pass_rate_per_cost = (now[[3]] - was[[3]]) / costs[[name]],
      unit = quantity_unit(.study, output) %||% "", remark = remark)
  })
  table <- do.call(rbind, rows)
  new_table(as.list(table[order(table$sd), ]))
}

tightening_costs <- function(study, quosures, call = rlang::caller_env()) {
  varying <- varying_names(study)
  if (length(quosures) == 0) return(stats::setNames(rep(list(NA_real_), length(varying)), varying))
  out <- list()
  for (i in seq_along(quosures)) {
    name <- normal_name(names(quosures)[i])
    if (nzchar(name)) {
      if (!name %in% varying) stop_unknown_name(name, varying, "an input that varies", call = call)
      out[[name]] <- check_number(rlang::eval_tidy(quosures[[i]]), name, at_least = 1, call = call,
        mend = paste("It is the cost of tightening that input, in a unit in which it is 1 or more. What is left of each",
          "spread is `.to`, such as `.to = 0.5`."))
    } else for (one in resolve_names(quosures[[i]], varying, "an input that varies", call)) out[[one]] <- NA_real_
  }
  out
}

tightening_fault <- function(input) {
  if (is_linked(input$law)) "its parameters are formulas"
  else if (is_discrete(input$law)) "it is discrete"
  else if (!is.finite(mean(input$law))) "its law has no mean"
  else ""
}

# Standard deviation, planning percentile and pass rate of all specs.
tightened_figures <- function(result, output) {
  readings <- result$study$readings
  values <- finite_values(result, output)
  c(stats::sd(values), percentile_values(values, not_exceeded(readings$planning, readings$sense)),
    all_specs_rate(result))
}
