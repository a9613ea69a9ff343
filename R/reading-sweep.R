#' An input under the analyst's control
#'
#' Simulates a study with one input held at each value of a grid, with the same random numbers for all the others: how
#' the mean, percentiles and pass rate go with it, which value is best, and where a target is just met.
#'
#' @param .study A study.
#' @param ... One input as `name = values`: at least two numbers. The input may have a law or be a constant.
#' @param .nsim,.seed As for [simulate()][simulate.ensayo_study], the same for every value.
#' @param .outputs Names of outputs, bare or as text; all when left out.
#' @param .workers As `workers` of [simulate()][simulate.ensayo_study].
#' @return `sweep_input()`: a data frame with a row for each value, figure and output or spec: `input`, `value`,
#'   `about` (an output, a spec or `all specs`), `statistic` (`"mean"`, `"sd"`, the study's percentiles and planning
#'   percentile, or `"pass rate"`), `sense`, `figure`, `low` and `high` (its 95 % confidence interval, for lack of
#'   runs) and `unit`.
#' @section Errors: `ensayo_error_name` for an unknown input, output or figure; `ensayo_error_argument` for what is
#'   no grid.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048), diameter = 0.25) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"),
#'     cost = output(200 * diameter + 40 * velocity^2)) |>
#'   add_specs(velocity <= 0.9)
#' sweep <- sweep_input(main, diameter = seq(0.2, 0.3, 0.02), .nsim = 500, .seed = 11)
#' best_value(sweep, "cost", better = "low")
#' value_where(sweep, "velocity <= 0.9", "pass rate", target = 0.95)
#' @export
sweep_input <- function(.study, ..., .nsim = 10000, .seed = NULL, .outputs = NULL, .workers = NULL) {
  check_study(.study)
  given <- rlang::dots_list(..., .homonyms = "error")
  if (length(given) != 1) stop_ensayo("argument", "Name one input with its values.",
    sprintf("You gave %d.", length(given)), "Such as `sweep_input(study, diameter = seq(0.2, 0.3, 0.02))`.")
  name <- names_of(given)
  check_known_input(.study, name)
  values <- check_numeric(given[[1]], name)
  if (length(values) < 2 || anyNA(values)) stop_argument(name, "at least two numbers", given[[1]])
  outputs <- resolve_names(rlang::enquo(.outputs), names(.study$outputs), "an output of the study")
  seed <- check_seed(.seed)
  rows <- with_workers(.workers, lapply(sort(unique(values)), function(value) {
    result <- simulate(fix_inputs(.study, !!name := value), .nsim, seed, progress = NULL)
    cbind(data.frame(input = name, value = value), figures_of(result, outputs))
  }))
  new_table(as.list(do.call(rbind, rows)))
}

# Figures of a result in long form: statistics of outputs, pass rates of specs, with their intervals.
figures_of <- function(result, outputs) {
  readings <- result$study$readings
  statistics <- c("mean", "sd", percentile_names(shown_percentiles(readings)))
  rows <- lapply(outputs, function(name) {
    values <- finite_values(result, name)
    kind <- output_kind_of(result, name)
    read <- if (length(values) == 0) matrix(NA_real_, 3, length(statistics))
      else vapply(statistics, function(statistic) {
      statistic_interval(values, statistic, readings$sense, kind, 0.95)
    }, numeric(3))
    data.frame(about = name, statistic = statistics, sense = readings$sense, figure = read[1, ], low = read[2, ],
      high = read[3, ], unit = quantity_unit(result$study, name) %||% "", row.names = NULL)
  })
  if (length(result$study$specs)) {
    rate <- pass_rate(result)
    rows <- c(rows, list(data.frame(about = rate$spec, statistic = "pass rate", sense = "", figure = rate$pass_rate,
      low = rate$low, high = rate$high, unit = "")))
  }
  do.call(rbind, rows)
}

#' @rdname sweep_input
#' @param sweep What `sweep_input()` gives.
#' @param about Text: the output or spec.
#' @param statistic Text: the figure, as in the column `statistic`.
#' @param better `"high"` or `"low"`: which is good.
#' @return `best_value()`: a data frame of one row: `input`, `about`, `statistic`, `value` (the best on the grid),
#'   `figure`, `refined` (the top of the parabola through it and its neighbours; `NA` at an end of the grid, where a
#'   better value may lie beyond), and `from`, `to`: the values whose figure is not told apart from the best, by
#'   their intervals.
#' @export
best_value <- function(sweep, about, statistic = "mean", better = "high") {
  better <- check_choice(better, c("high", "low"))
  rows <- swept(sweep, about, statistic)
  sign <- if (better == "high") 1 else -1
  at <- which.max(sign * rows$figure)
  if (length(at) == 0) stop_ensayo("argument", "The figure must be known for some value.", "Every run failed.")
  near <- if (at > 1 && at < nrow(rows)) rows[at + -1:1, ]
  reach <- if (sign == 1) rows$high >= rows$low[at] else rows$low <= rows$high[at]
  as_good <- rows$value[which(reach | seq_along(reach) == at)]
  new_table(list(input = rows$input[1], about = about, statistic = statistic, value = rows$value[at],
    figure = rows$figure[at], refined = if (is.null(near)) NA_real_ else parabola_top(near$value, near$figure),
    from = min(as_good), to = max(as_good), unit = rows$unit[1]))
}

# Where the parabola through three points is highest or lowest.
parabola_top <- function(x, y) {
  slope <- diff(y) / diff(x)
  bend <- diff(slope) / (x[3] - x[1])
  if (bend == 0) return(x[2])
  (x[1] + x[2]) / 2 - slope[1] / (2 * bend)
}

#' @rdname sweep_input
#' @param target Number: the value that the figure is to reach, in its unit (a pass rate from 0 to 1).
#' @return `value_where()`: a data frame with a row for each crossing of the target, along straight lines between
#'   grid values: `input`, `about`, `statistic`, `target`, `value`, and `direction`: whether the figure rises or
#'   falls there. No row where the target is not crossed within the grid.
#' @export
value_where <- function(sweep, about, statistic = "mean", target) {
  check_number(target)
  rows <- swept(sweep, about, statistic)
  x <- rows$value
  gap <- rows$figure - target
  from <- which(gap[-1] * gap[-length(gap)] < 0 | gap[-length(gap)] == 0)
  value <- x[from] - gap[from] * (x[from + 1] - x[from]) / (gap[from + 1] - gap[from])
  value[gap[from] == 0] <- x[from][gap[from] == 0]
  rising <- gap[from + 1] > gap[from]
  if (utils::tail(gap, 1) %in% 0) {
    value <- c(value, utils::tail(x, 1))
    rising <- c(rising, utils::tail(diff(gap), 1) > 0)
  }
  n <- length(value)
  new_table(list(input = rep(rows$input[1], n), about = rep(about, n), statistic = rep(statistic, n),
    target = rep(target, n), value = value, direction = ifelse(rising, "rising", "falling")))
}

swept <- function(sweep, about, statistic, call = rlang::caller_env()) {
  if (!is.data.frame(sweep) || !all(c("input", "value", "about", "statistic", "figure") %in% names(sweep))) {
    stop_argument("sweep", "what `sweep_input()` gives", sweep, call = call)
  }
  if (!about %in% sweep$about) stop_unknown_name(about, unique(sweep$about), "an output or spec of the sweep",
    call = call)
  known <- unique(sweep$statistic[sweep$about == about])
  if (!statistic %in% known) stop_unknown_name(statistic, known, "a figure of the sweep", call = call)
  unclass_table(sweep)[sweep$about == about & sweep$statistic == statistic, ]
}
