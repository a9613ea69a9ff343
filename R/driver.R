#' What drives each output
#'
#' How strongly each input and each output move together over the runs that are there: one shape of answer for many
#' measures, each with its confidence interval and with what it cannot see.
#'
#' @param result A result.
#' @param measure Text: one of those below under Measures.
#' @param outputs Names of outputs, bare or as text; all when left out. They may also come first: `drivers(res, pressure)`.
#' @param condition A condition such as `pressure >= 38`: the drivers of its chance, in place of outputs.
#'   Correlations are then with 1 where it holds and 0 where it does not.
#' @param by `"input"`, or `"group"`: one row for the inputs of each group (of an [input()]), for the measures
#'   `"rank"` and `"pearson"` (the multiple correlation with all of them) and `"variance_share"` (their sum).
#' @param through Names of outputs that stand for the inputs that feed them: each gets a row of its own, and inputs that
#'   act by way of it alone get none; the remarks tell which, and which act in two ways.
#' @param bands Whole number: bands of equal probability for the measures that compare bands; `NULL` for as many as
#'   the runs bear, at most 20 (swing: 10).
#' @param statistic For `"swing"`: `"mean"`, `"sd"` or a percentile such as `"P95"`, in the study's sense.
#' @param confidence Number between 0 and 1: of the intervals, and of the test against noise.
#' @return A data frame with a row for each output and each input that varies (or group), sorted by output and then
#'   from the strongest driver to the weakest:
#'   * `output` (or the condition), `input`, `measure`, `value`, and `low` and `high`, its confidence interval;
#'   * `sign`: `"raises"`, `"lowers"`, or `""` where the measure has no sign or the value is noise;
#'   * `share`: of variance, from 0 to 1: the value of `"variance_share"` and `"first_order"`; of other measures `NA`;
#'   * `rank`: 1 for the strongest; `beyond_noise`: whether it is distinguishable from an idle input at this number
#'     of runs;
#'   * `r_squared`: how much of the variance (of ranks, where ranks are used) the inputs explain together, for the
#'     measures that rest on a regression;
#'   * `findings`: what to beware of, as codes with a blank between them: `idle` (the input does not enter the output,
#'     and moves with one that does), `curved` and `interacts` (relations that this measure does not show),
#'     `up_and_down`, `not_told_apart` from other inputs, `still` (it does not vary), `still_output`, `few_runs`,
#'     `few_for_bands`, `few_to_test`, `stands_for` (other inputs), `behind_another`, `shown_output`;
#'   * `remark`: the same in words.
#' @section Measures:
#' What `measure` can be:
#'
#' ```{r, echo = FALSE, results = "asis"}
#' cat(sprintf("* `\"%s\"`: %s\n", names(driver_measures), vapply(driver_measures, function(m) m$about, "")), sep = "")
#' ```
#' @details Of more than ten million runs the first ten million are read: they know a share to 0.1 points. Failed runs are
#'   left out. Intervals: rank correlations by Fisher's z with the variance of Bonett and Wright
#'   (2000, Psychometrika 65(1)); the moment-independent measure, between the distance in the runs and the one
#'   taken from runs in which it was not looked for, by the scatter of both, which is rather wide than narrow;
#'   differences of percentiles over bands by the error of a percentile (Maritz and Jarrett 1978, JASA 73); the others
#'   by a jackknife that leaves out a twentieth of the runs at a time, correlations on Fisher's scale, and below 30 runs
#'   by the theory of normal residuals. All take runs for independent: of a Latin hypercube they hold the true value
#'   rather more often than they say. Noise: correlations, regression and shares of variance by t; bands by F; the moment-independent measure
#'   and the swing of another statistic than the mean by permutation. Of many idle inputs about 1 - confidence are called
#'   drivers by chance.
#' @section Sources: shares that hold under correlation are the relative weights of Genizi (1993, Statistica Sinica
#'   3(2)) and Johnson (2000, Multivariate Behavioral Research 35(1)): they are not negative and add up to R squared.
#'   First-order indices from given runs: the correlation ratio over bands (Plischke, Borgonovo and Smith 2013,
#'   European Journal of Operational Research 226(3)), less what idle inputs have (Kelley 1935, PNAS 21(9)).
#'   Moment-independent: the mean over bands of the Kolmogorov-Smirnov distance (Baucells and Borgonovo 2013,
#'   Management Science 59(11)).
#' @section Errors: `ensayo_error_argument` for an unknown measure, or one that the runs cannot bear (more inputs
#'   than runs); `ensayo_error_name` for an unknown output.
#' @seealso [variance_indices()], [one_at_a_time()] and [elementary_effects()], which run the model again; [in_words()].
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' drivers(res)
#' drivers(res, "swing", condition = velocity > 0.8)
#' @export
drivers <- function(result, measure = "variance_share", outputs = NULL, condition = NULL, by = "input", through = NULL,
                    bands = NULL, statistic = "mean", confidence = 0.95) {
  check_result(result)
  result <- with_leading_runs(result)
  asked <- rlang::enquo(measure)
  if (!rlang::quo_is_symbolic(asked) && isTRUE(rlang::quo_get_expr(asked) %in% names(driver_measures))) {
    given <- list(outputs = rlang::enquo(outputs), other = measure)
  } else given <- outputs_and_other(rlang::enquo(outputs), asked, result)
  measure <- check_choice(given$other %||% names(driver_measures)[1], names(driver_measures), "measure")
  by <- check_choice(by, c("input", "group"))
  outputs <- resolve_outputs(given$outputs, result)
  through <- rlang::enquo(through)
  through <- if (rlang::quo_is_null(through)) driven_through(result$study) else
    resolve_names(through, output_names(result), "an output of the result")
  if (by == "group" && !isTRUE(driver_measures[[measure]]$groups)) {
    stop_argument("by", sprintf("\"input\" with the measure \"%s\"", measure), by,
      "Groups have \"rank\", \"pearson\" and \"variance_share\", and `variance_indices(groups = TRUE)`.")
  }
  if (!is.null(bands)) bands <- check_count(bands, at_least = 2, at_most = 100)
  check_statistic(statistic)
  check_confidence(confidence)
  condition <- rlang::enquo(condition)
  options <- list(bands = bands, statistic = statistic, confidence = confidence, sense = result$study$readings$sense)
  if (!rlang::quo_is_null(condition)) {
    return(driver_table(result, condition_effect(result, condition), measure, by, through, options))
  }
  # of very many runs in a folder one output at a time, so that no more columns than needed are in memory
  together <- if (result$store$kind == "folder" && run_count(result) > 2e6) as.list(outputs) else list(outputs)
  new_table(stacked(lapply(together, function(outputs) {
    if (length(together) > 1) gc(FALSE)  # R would let the last output's columns stay for a while
    driver_table(result, output_effects(result, outputs), measure, by, through, options)
  })))
}

# An event is one driver, its occurrence and its impact together; so is an item of a cost tree.
driven_through <- function(study) c(impact_outputs(study), uncertain_items(study))

output_effects <- function(result, outputs) {
  lapply(stats::setNames(nm = outputs), function(name) list(values = values_of(result, name), uses = name))
}

# A condition as 0 and 1, missing where it failed.
condition_effect <- function(result, quosure) {
  conditions <- read_conditions(rlang::new_quosures(list(quosure)) |> stats::setNames(""),
    quantity_vocabulary(result$study), "Condition", rlang::caller_env(2))
  held <- evaluate_conditions(result, conditions)[[1]]
  stats::setNames(list(list(values = as.double(held), uses = conditions[[1]]$uses)), names(conditions))
}

driver_table <- function(result, effects, measure, by = "input", through = character(), options = driver_options) {
  draws <- numeric_columns(result, draw_names(result))
  scene <- driver_scene(result, draws, measure, through)
  whole <- whole_effects(effects, draws, through)
  at_once <- correlations_at_once(whole, draws, measure)
  shapes <- shapes_at_once(whole, draws, measure)
  products <- products_at_once(whole, draws, measure)
  parts <- lapply(names(effects), function(name) {
    problem <- driver_problem(result, effects[[name]], scene)
    # inputs that stand aside are not among the problem's
    among <- match(names(problem$x), names(draws))
    problem$r <- at_once[[name]][among]
    problem$shapes <- shapes[[name]][among, ]
    if (problem$n == run_count(result)) {
      problem$products <- products
      problem$output <- name
    }
    groups <- if (by == "group") text_of(names(problem$x), function(input) result$study$inputs[[input]]$group)
    finish_drivers(name, problem, measure, groups, options)
  })
  new_table(stacked(c(list(no_drivers), parts)))
}

no_drivers <- data.frame(output = character(), input = character(), measure = character(), value = numeric(),
  low = numeric(), high = numeric(), sign = character(), share = numeric(), rank = integer(), beyond_noise = logical(),
  r_squared = numeric(), findings = character(), remark = character())

# Outputs without failed runs, which all look at the same columns of inputs; of other outputs these are cut one by one.
whole_effects <- function(effects, draws, through) {
  if (length(draws) == 0 || length(through)) return(list())
  Filter(function(values) length(values) > 2 && all_finite(values), lapply(effects, function(effect) effect$values))
}

# Correlations of all inputs with all such outputs in one go.
correlations_at_once <- function(whole, draws, measure) {
  if (length(whole) == 0 || !measure %in% c("rank", "pearson")) return(NULL)
  r <- correlations_between(draws, whole, measure == "rank")
  stats::setNames(lapply(seq_along(whole), function(j) r[, j]), names(whole))
}

# What the measure does not see of them.
shapes_at_once <- function(whole, draws, measure) {
  if (length(whole) == 0 || !sees_shapes(measure, length(whole[[1]]))) return(NULL)
  stats::setNames(shapes_between(draws, whole), names(whole))
}

# Whether they are looked for: of what does not see them itself, in runs enough to see them.
sees_shapes <- function(measure, n) isTRUE(driver_measures[[measure]]$blind) && n >= 50

# Their sums and products in one pass.
products_at_once <- function(whole, draws, measure) {
  if (length(whole) && measure %in% c("variance_share", "pearson", "partial", "regression")) products_of(c(draws, whole))
}

driver_options <- list(bands = NULL, statistic = "mean", confidence = 0.95, sense = "not exceeded")

# What is the same for all outputs.
driver_scene <- function(result, draws, measure, through) {
  study <- result$study
  list(draws = draws, ranks = if (measure %in% c("partial_rank", "rank_regression")) mid_ranks(draws), through = through,
    reach = reach_of(study), aside = aside_names(study), stepped = stepped_names(study),
    in_parts = c(impact_outputs(study), cost_items_of(study)))
}

# One output's columns: what may drive it and itself, over its good runs; which inputs enter it, and what an output
# that stands for inputs hides.
driver_problem <- function(result, effect, scene) {
  study <- result$study
  draws <- scene$draws
  ranks <- scene$ranks
  through <- setdiff(scene$through, effect$uses)
  paths <- if (length(through)) reach_of(study, through)(effect$uses) else scene$reach(effect$uses)
  hidden <- lapply(stats::setNames(nm = intersect(through, paths)), scene$reach)
  # what an event is calculated with is no driver of what it does not enter
  behind <- c(unlist(hidden), scene$aside)
  shown <- names(draws)[!names(draws) %in% behind[!behind %in% paths]]
  x <- c(draws[shown], numeric_columns(result, names(hidden)))
  y <- effect$values
  whole <- all_finite(y) && all(vapply(x[names(hidden)], all_finite, NA))
  if (!whole) {
    good <- is.finite(y)
    for (column in x[names(hidden)]) good <- good & is.finite(column)
    x <- lapply(x, `[`, good)
    y <- y[good]
  }
  enters <- names(x) %in% c(paths, names(hidden))
  findings <- findings_where(!enters, "idle")
  if (length(hidden)) findings <- hiding_findings(findings, hidden, names(x), paths, scene)
  findings <- join_findings(findings, findings_where(enters & names(x) %in% scene$stepped, "over_steps"))
  list(x = x, y = y, n = length(y), enters = enters, findings = findings,
    ranks = if (whole && !is.null(ranks)) c(ranks[shown], if (length(hidden)) mid_ranks(x[names(hidden)])))
}

# What outputs hide that stand for inputs, and what of these is also shown.
hiding_findings <- function(findings, hidden, names, paths, scene) {
  behind <- unlist(hidden)
  twice <- unique(behind[duplicated(behind)])
  told <- setdiff(names(hidden), scene$in_parts)
  findings[match(told, names)] <- lapply(hidden[told], function(inputs) {
    inputs <- intersect(names(scene$draws), inputs)
    shared <- intersect(inputs, twice)
    c(list(stands_for = inputs), if (length(shared)) list(behind_another = shared))
  })
  both <- names %in% behind & names %in% paths
  findings[both] <- findings_where(both[both], "shown_output")
  findings
}

# The measure's figures, ranked, with shares, signs and remarks; by groups of inputs where these are given.
finish_drivers <- function(output, problem, measure, groups, options) {
  record <- driver_measures[[measure]]
  k <- length(problem$x)
  if (k == 0) return(NULL)
  read <- if (problem$n < 3) no_figures(k, "few_runs") else record$run(problem, options)
  findings <- join_findings(problem$findings, read$findings %||% no_findings(k))
  if (sees_shapes(measure, problem$n)) findings <- join_findings(findings, shape_findings(problem, read$value))
  beyond <- !is.na(read$p_value) & read$p_value < 1 - options$confidence
  columns <- list(output = rep(output, k), input = names(problem$x), measure = rep(measure, k), value = unname(read$value),
    low = unname(read$low), high = unname(read$high), sign = read$sign %||% driver_signs(read, beyond, record),
    share = if (isTRUE(record$shares)) unname(read$value) else rep(NA_real_, k), rank = rep(NA_integer_, k), beyond_noise = unname(beyond),
    r_squared = rep_len(read$r_squared %||% NA_real_, k), findings = codes_of(findings), remark = remarks_of(findings))
  entering <- problem$enters
  if (!is.null(groups)) {
    columns <- grouped_drivers(as_frame(columns), problem, measure, groups)
    entering <- rep(TRUE, nrow(columns))
  }
  order <- order(!entering, is.na(columns$value), -abs(columns$value))
  table <- lapply(unclass(columns), `[`, order)
  table$rank <- seq_along(order)
  as_frame(table)
}

# Which way an input drives the output, where that is known beyond noise.
driver_signs <- function(read, beyond, record) {
  if (!isTRUE(record$signed)) return(rep("", length(beyond)))
  told <- beyond & is.finite(read$value) & (is.na(read$low) | read$low * read$high > 0)
  unname(ifelse(told, ifelse(read$value > 0, "raises", "lowers"), ""))
}

no_figures <- function(k, code, field = NA) {
  none <- rep(NA_real_, k)
  list(value = rep(NaN, k), low = none, high = none, p_value = none,
    findings = findings_where(rep(TRUE, k), code, field))
}

# One row for the inputs of a group; an input without one stays as it is.
grouped_drivers <- function(table, problem, measure, groups) {
  group <- ifelse(nzchar(groups), groups, names(problem$x))
  rows <- lapply(unique(group), function(name) {
    members <- which(group == name)
    row <- table[members[1], ]
    row$input <- name
    if (length(members) == 1) return(row)
    row$share <- sum(table$share[members])
    row$sign <- ""
    row$beyond_noise <- any(table$beyond_noise[members])
    row$findings <- "stands_for"
    row$remark <- finding_words$stands_for(names(problem$x)[members])
    if (measure == "variance_share") row$value <- sum(table$value[members])
    else row$value <- multiple_correlation(problem, members, measure == "rank")
    row[c("low", "high")] <- NA_real_
    row
  })
  stacked(rows)
}

# The strongest input's shares and the rest in the shape that prints, figures and reports share: of inputs that enter.
drivers_of <- function(result, output, measure = names(driver_measures)[1]) {
  unclass_table(driver_table(result, output_effects(result, output), measure, through = driven_through(result$study)))
}

# Whether an input enters the output, as its row tells.
enters_output <- function(table) !has_finding(table, "idle")

reading_drivers <- list(
  title = "Drivers (share of the output's variance)",
  places = c("print", "json", "report"),
  there = function(result) single_there(result),
  table = function(result, asked) drivers(result, outputs = !!asked$outputs)
)
