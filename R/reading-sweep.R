#' Decisions under the analyst's control
#'
#' Simulates a study with one input, or several, held at each value of a grid, with the same random numbers for all the others: how
#' the mean, percentiles and pass rate go with the decision, which value is best, also among those that keep to a spec, and where
#' a target is just met.
#'
#' @param .study A study.
#' @param ... Inputs as `name = values`: at least two numbers each. They may have laws or be constants; of several all
#'   combinations are simulated.
#' @param .nsim,.seed As for [simulate()][simulate.ensayo_study], the same for every value.
#' @param .outputs Names of outputs with one value a run, bare or as text; all of them when left out.
#' @param .workers As `workers` of [simulate()][simulate.ensayo_study].
#' @return `sweep_input()`: a data frame with a row for each value, figure and output or spec: `input` and `value`, or for several
#'   inputs a column under the name of each; `about` (an output, a spec or `all specs`), `statistic` (`"mean"`, `"sd"`, the
#'   study's percentiles and planning percentile, or `"pass rate"`), `sense`, `figure`, `low` and `high` (its 95 % confidence
#'   interval, for lack of runs) and `unit`.
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
#' best_value(sweep, "cost", better = "low", where = c("velocity <= 0.9" = 0.98))
#' value_where(sweep, "velocity <= 0.9", "pass rate", target = 0.95)
#'
#' # two decisions at once: when to call for water, and how much
#' tank <- study("Tank") |>
#'   add_inputs(inflow = input(law_normal(40, 5), steps = 60), call_at = 150, lot = 100) |>
#'   add_steps(
#'     level = state(level + inflow + before(called, 3) * lot - 45, start = 300),
#'     waits = before(called) + before(called, 2),
#'     called = state(if (level < call_at && waits == 0) 1 else 0, start = 0),
#'     cost = state(cost + called * (300 + 4 * lot), start = 0),
#'     .keep = level, .last = cost) |>
#'   add_specs(never_empty = all(level > 0))
#' sweep <- sweep_input(tank, call_at = c(50, 100, 150), lot = c(60, 120), .nsim = 200, .seed = 11)
#' best_value(sweep, "cost", better = "low", where = c(never_empty = 0.98))
#' @export
sweep_input <- function(.study, ..., .nsim = 10000, .seed = NULL, .outputs = NULL, .workers = NULL) {
  check_study(.study)
  grid <- sweep_grid(.study, rlang::dots_list(..., .homonyms = "error"))
  outputs <- resolve_names(rlang::enquo(.outputs), scalar_outputs(.study), "an output of the study with one value a run")
  seed <- check_seed(.seed)
  rows <- with_workers(.workers, lapply(seq_len(nrow(grid)), function(i) {
    point <- as.list(grid[i, , drop = FALSE])
    result <- simulate(fix_inputs(.study, !!!point), .nsim, seed, progress = NULL)
    told <- if (length(point) == 1) list(input = names(point), value = point[[1]]) else point
    cbind(as.data.frame(told, optional = TRUE), figures_of(result, outputs))
  }))
  new_table(as.list(do.call(rbind, rows)))
}

# All combinations of the values, the first input's going round slowest.
sweep_grid <- function(study, given, call = rlang::caller_env()) {
  if (length(given) == 0) {
    stop_ensayo("argument", "Name an input with its values.", "You gave none.",
      "Such as `sweep_input(study, diameter = seq(0.2, 0.3, 0.02))`.", call = call)
  }
  names(given) <- names_of(given, call)
  values <- Map(function(values, name) {
    check_known_input(study, name, call)
    values <- check_numeric(values, name, call)
    if (length(values) < 2 || anyNA(values)) stop_argument(name, "at least two numbers", values, call = call)
    sort(unique(values))
  }, given, names(given))
  clash <- intersect(names(given), sweep_columns)
  if (length(given) > 1 && length(clash)) {
    stop_ensayo("name", "Of several inputs each has a column under its name.", sprintf("%s is the name of another column.",
      quoted(clash[1])), sprintf("Rename it: `rename_inputs(study, other = %s)`.", clash[1]), name = clash[1], call = call)
  }
  grid <- do.call(expand.grid, c(rev(values), KEEP.OUT.ATTRS = FALSE))
  grid[rev(names(grid))]
}

sweep_columns <- c("input", "value", "about", "statistic", "sense", "figure", "low", "high", "unit")

# The inputs of a sweep.
swept_inputs <- function(sweep) if ("input" %in% names(sweep)) "value" else setdiff(names(sweep), sweep_columns)

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
#' @param where `NULL`, or the least pass rates of specs, numbers from 0 to 1 with the specs as names: only values that keep to
#'   them are looked at.
#' @return `best_value()`: a data frame of one row: `input`, `about`, `statistic`, `value` (the best on the grid),
#'   `figure`, `low`, `high`, `refined` (the top of the parabola through it and its neighbours; `NA` at an end of the grid, where a
#'   better value may lie beyond, and with `where`), and `from`, `to`: the values whose figure is not told apart from the best, by
#'   their intervals. Of several inputs a column under the name of each, and `as_good`: how many points of the grid, itself among
#'   them, are not told apart. With `where` the lowest `pass_rate` among the specs it names, and `pass_low`, the low end of its
#'   confidence interval: below the target, more runs may decide otherwise; `remark` says so. No row where no value keeps to it.
#' @export
best_value <- function(sweep, about, statistic = "mean", better = "high", where = NULL) {
  better <- check_choice(better, c("high", "low"))
  rows <- swept(sweep, about, statistic)
  passes <- passes_of(sweep, where)
  sign <- if (better == "high") 1 else -1
  asked <- which(if (is.null(passes)) is.finite(rows$figure) else is.finite(rows$figure) & passes$met)
  if (!any(is.finite(rows$figure))) stop_ensayo("argument", "The figure must be known for some value.", "Every run failed.")
  at <- asked[which.max(sign * rows$figure[asked])]
  reach <- asked[if (length(at) == 0) 0 else if (sign == 1) rows$high[asked] >= rows$low[at] else rows$low[asked] <= rows$high[at]]
  as_good <- union(at, reach)
  told <- list(about = rep(about, length(at)), statistic = rep(statistic, length(at)), figure = rows$figure[at], low = rows$low[at],
    high = rows$high[at])
  told <- if ("input" %in% names(rows)) {
    near <- if (is.null(where) && length(at) && at > 1 && at < nrow(rows)) rows[at + -1:1, ]
    c(list(input = rows$input[at]), told[1:2], list(value = rows$value[at]), told[3:5],
      list(refined = if (is.null(near)) rep(NA_real_, length(at)) else parabola_top(near$value, near$figure),
        from = if (length(at)) min(rows$value[as_good]) else numeric(), to = if (length(at)) max(rows$value[as_good]) else numeric()))
  } else c(lapply(rows[swept_inputs(sweep)], `[`, at), told, list(as_good = rep(length(as_good), length(at))))
  new_table(c(told, list(unit = rows$unit[at]), if (!is.null(passes)) lapply(passes[c("pass_rate", "pass_low", "remark")], `[`, at)))
}

# For each point of a sweep whether it keeps to the pass rates asked for, and the lowest of them.
passes_of <- function(sweep, where, call = rlang::caller_env()) {
  if (is.null(where)) return(NULL)
  if (!is.numeric(where) || is.null(names(where)) || anyNA(where) || any(where < 0 | where > 1)) {
    stop_argument("where", "least pass rates, numbers from 0 to 1, by the names of specs", where, "Such as `c(never_empty = 0.98)`.", call)
  }
  rates <- lapply(names(where), function(spec) swept(sweep, spec, "pass rate", call))
  above <- Map(function(rate, least) rate$figure - least, rates, where)
  tightest <- max.col(-matrix(unlist(above), ncol = length(where)), ties.method = "first")
  of <- function(column) vapply(seq_along(tightest), function(i) rates[[tightest[i]]][[column]][i], 0)
  met <- Reduce(pmin, above) >= 0
  low <- of("low")
  list(met = met, pass_rate = of("figure"), pass_low = low,
    remark = ifelse(met & low < where[tightest], "the pass rate is not told from its target by these runs", ""))
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
#' @param along Text: of several inputs the one along which the target is looked for; the first when left out.
#' @return `value_where()`: a data frame with a row for each crossing of the target, along straight lines between
#'   grid values: `input`, `about`, `statistic`, `target`, `value`; `from` and `to`, between which the figure is not told from the
#'   target by these runs (`NA` where that is beyond the grid); and `direction`: whether the figure rises or falls there. Of
#'   several inputs a column under the name of each of the others. No row where the target is not crossed within the grid.
#' @export
value_where <- function(sweep, about, statistic = "mean", target, along = NULL) {
  check_number(target)
  rows <- swept(sweep, about, statistic)
  inputs <- swept_inputs(sweep)
  if (length(inputs) == 1) {
    crossed <- crossings(rows, rows$value, about, statistic, target)
    return(new_table(c(list(input = rep(rows$input[1], length(crossed$value))), crossed)))
  }
  along <- check_choice(along %||% inputs[1], inputs, "along")
  others <- setdiff(inputs, along)
  groups <- split(seq_len(nrow(rows)), rows[others], drop = TRUE)
  found <- lapply(unname(groups), function(at) {
    crossed <- crossings(rows[at, ], rows[[along]][at], about, statistic, target)
    list2DF(c(lapply(rows[others], function(column) rep(column[at[1]], length(crossed$value))),
      list(input = rep(along, length(crossed$value))), crossed))
  })
  new_table(stacked(found))
}

crossings <- function(rows, x, about, statistic, target) {
  here <- places_crossed(x, rows$figure - target)
  # the same of the ends of the confidence interval: the nearest one that goes the same way
  edge <- function(column) {
    there <- places_crossed(x, rows[[column]] - target)
    vapply(seq_along(here$at), function(i) {
      alike <- there$at[there$rising == here$rising[i]]
      if (length(alike)) alike[which.min(abs(alike - here$at[i]))] else NA_real_
    }, 0)
  }
  ends <- list(edge("low"), edge("high"))
  n <- length(here$at)
  list(about = rep(about, n), statistic = rep(statistic, n), target = rep(target, n), value = here$at, from = do.call(pmin, ends),
    to = do.call(pmax, ends), direction = c("falling", "rising")[1 + here$rising])
}

# Where a broken line crosses 0, and which way.
places_crossed <- function(x, gap) {
  from <- which(gap[-1] * gap[-length(gap)] < 0 | gap[-length(gap)] == 0)
  at <- x[from] - gap[from] * (x[from + 1] - x[from]) / (gap[from + 1] - gap[from])
  at[gap[from] == 0] <- x[from][gap[from] == 0]
  rising <- gap[from + 1] > gap[from]
  if (utils::tail(gap, 1) %in% 0) {
    at <- c(at, utils::tail(x, 1))
    rising <- c(rising, utils::tail(diff(gap), 1) > 0)
  }
  list(at = at, rising = rising)
}

swept <- function(sweep, about, statistic, call = rlang::caller_env()) {
  if (!is.data.frame(sweep) || !all(setdiff(sweep_columns, c("input", "value")) %in% names(sweep)) || length(swept_inputs(sweep)) == 0) {
    stop_argument("sweep", "what `sweep_input()` gives", sweep, call = call)
  }
  if (!about %in% sweep$about) stop_unknown_name(about, unique(sweep$about), "an output or spec of the sweep",
    call = call)
  known <- unique(sweep$statistic[sweep$about == about])
  if (!statistic %in% known) stop_unknown_name(statistic, known, "a figure of the sweep", call = call)
  unclass_table(sweep)[sweep$about == about & sweep$statistic == statistic, ]
}
