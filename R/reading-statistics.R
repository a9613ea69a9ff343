#' Statistics of every output
#'
#' @param object A result.
#' @param ... Names of outputs, bare or as text, as `outputs`.
#' @param percentiles Numeric from 0 to 100: the percentiles that get a column, in the study's sense; `NULL` for the
#'   study's own ([add_readings()]).
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @param type The percentiles' convention, as in [percentiles()].
#' @param sort The name of a column to sort by, from large to small, such as `"sd"` or `"P95"`; with a minus before it,
#'   `"-mean"`, from small to large; `NULL` for the order of definition.
#' @return A data frame with one row an output:
#'   * `output`, `unit`, `kind` (`"number"`, `"whole"`, `"date"` or `"yes/no"`): name, unit, what it is;
#'   * `runs`, `failed`: number of good runs, over which all statistics are, and of failed ones;
#'   * `base`: the base case; `base_at`: the percentile at which it sits, from 0 to 100 (runs below it, and half of
#'     those equal to it; in the study's sense); `base_met`: the chance of meeting the base case, from 0 to 1: not to
#'     exceed it, or in the sense of values exceeded to reach it;
#'   * `mean` and its simulation error `mean_error`, a standard error; `sd` (divisor n - 1; `NA` of one run), `cv` (sd over the mean's
#'     size; not of dates), `skewness` (g1), `excess_kurtosis` (g2: 0 for a normal law; both `NaN` for a constant),
#'     `mode`;
#'   * `min`, `P5`, ..., `max`; `iqr` (from the quarter to the three quarters not exceeded) and `p10_to_p90`, the widths
#'     of the ranges that hold 50 and 80 % of runs; `sense`: what a percentile is.
#'
#'   Figures are in the output's unit. Dates are days since 1970-01-01, which print as dates, and their spreads days.
#'   The share of yes is the mean of a yes/no output.
#' @section Source: percentiles as in [percentiles()]; g1 and g2 as in Joanes and Gill (1998), The Statistician 47(1).
#'   The mode of counts, dates and yes/no outputs is the most frequent value (the first of several), of numbers the
#'   top of a Gaussian kernel density with Silverman's (1986, equation 3.31) bandwidth. The standard error is sd /
#'   sqrt(runs), which a Latin hypercube betters for outputs that follow their inputs; with five replicates or more it comes from
#'   between these. Below 25 times the squared skewness runs, intervals by it miss the mean too often (Cochran 1977,
#'   Sampling Techniques, section 2.15); `ensayo show` and the report say so.
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100 or an unknown column;
#'   `ensayo_error_name` for an unknown output.
#' @seealso [contingency()] for percentiles less the base case; [given()] for statistics under a condition.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' summary(res)
#' @export
summary.ensayo_result <- function(object, ..., percentiles = NULL, outputs = NULL, type = NULL, sort = NULL) {
  dots <- rlang::enquos(...)
  named <- nzchar(names(dots))
  if (any(named)) do.call(check_no_dots, c(dots[named], list(.options = c("percentiles", "outputs", "type", "sort"))))
  outputs <- if (any(!named)) unlist(lapply(unname(dots[!named]), resolve_outputs, result = object))
    else resolve_outputs(rlang::enquo(outputs), object)
  asked <- sort(unique(check_percentiles(percentiles %||% shown_percentiles(object$study$readings), "percentiles")))
  check_type(type)
  table <- sorted_by(statistics_table(object, outputs, asked, type), sort)
  typed_table(table, c("base", "mode", "min", "max", if (all(table$kind == "date")) "mean", percentile_names(asked)))
}

statistics_table <- function(result, outputs = main_outputs(result), percentiles = shown_percentiles(result$study$readings),
                             type = NULL, sense = result$study$readings$sense) {
  replicates <- telling_replicates(result)
  new_table(stacked(lapply(outputs, function(name) {
    output_statistics(result, name, percentiles, type, replicates, sense)
  })))
}

output_statistics <- function(result, name, percentiles, type, replicates, sense) {
  values <- column_of(result, name)
  kind <- output_kind_of(result, name)
  m <- moments_of(values)
  n <- m$count
  none <- if (n == 0) NA_real_ else NULL
  base <- as.double(result$base$outputs[[name]])
  failed <- run_count(result) - n
  good <- if (failed == 0) values else good_values(values)
  if (failed > 0 && !is.null(replicates)) replicates <- replicates[is.finite(values)]
  at <- percentile_values(good, c(not_exceeded(percentiles, sense), 10, 25, 75, 90), type %||% kind_type(kind))
  spread <- at[length(percentiles) + 1:4]
  sd <- none %||% sd_of(m)
  shown <- at[seq_along(percentiles)]
  if (kind == "date") shown <- floor(shown)
  do.call(rows_of, c(list(
    output = name, unit = quantity_unit(result$study, name) %||% "", kind = kind, runs = n, failed = failed,
    base = base, base_at = percentile_in_sense(good, base, sense), base_met = base_met(good, base, sense),
    mean = none %||% m$mean, mean_error = none %||% if (is.null(replicates)) sd / sqrt(n) else
      mean_error(good, replicates),
    sd = sd, cv = if (kind == "date") NA_real_ else none %||% (sd / abs(m$mean)),
    skewness = none %||% (m$m3 / m$m2^1.5), excess_kurtosis = none %||% (m$m4 / m$m2^2 - 3),
    mode = none %||% mode_of(some_values(good), kind, sd, spread, m), min = none %||% m$min),
  stats::setNames(as.list(shown), percentile_names(percentiles)),
  list(max = none %||% m$max, iqr = spread[3] - spread[2], p10_to_p90 = spread[4] - spread[1], sense = sense)))
}

sd_of <- function(moments) {
  if (moments$count < 2) return(NA_real_)
  sqrt(moments$m2 * moments$count / (moments$count - 1)) * moments$scale
}

base_met <- function(values, base, sense) {
  if (length(values) == 0 || !is.finite(base)) return(NA_real_)
  counts <- counts_about(values, base)
  below <- counts[["below"]]
  (if (sense == "exceeded") length(values) - below else below + counts[["equal"]]) / length(values)
}

mode_of <- function(values, kind, sd, spread, moments) {
  if (moments$min == moments$max || length(values) == 1) return(moments$min)
  if (kind == "number") return(density_mode(values, sd, spread, moments))
  if (kind == "date") values <- floor(values)
  if (moments$max - moments$min > 1e6) {
    runs <- rle(sort(values))
    return(runs$values[which.max(runs$lengths)])
  }
  floor(moments$min) - 1 + which.max(tabulate(values - floor(moments$min) + 1))
}

# The top of a Gaussian kernel density over the middle 98 % or so of a long-tailed output: counts on a fine grid,
# smoothed.
density_mode <- function(values, sd, spread, moments, cells = 2048) {
  iqr <- spread[3] - spread[2]
  bandwidth <- 0.9 * min(sd, if (iqr > 0) iqr / 1.34 else Inf) * length(values)^-0.2
  ends <- c(spread[1], spread[4]) + c(-2, 2) * max(spread[4] - spread[1], 4 * bandwidth)
  # twice the range of 80 % to either side may reach past the runs
  ends <- c(max(ends[1], moments$min), min(ends[2], moments$max))
  width <- diff(ends) / cells
  if (!is.finite(bandwidth / width)) return(NA_real_)  # values that doubles hardly tell apart
  reach <- min(cells - 1, ceiling(4 * bandwidth / width))
  top <- cpp_smoothed_top(cpp_cell_counts(values, ends[1], width, cells), stats::dnorm(0:reach * width, sd = bandwidth),
    ends[1] <= moments$min, ends[2] >= moments$max)
  ends[1] + (top - 0.5) * width
}

#' @rdname percentiles
#' @return `contingency()`: a data frame with a row for each output and percentile: `output`, `percentile`, `sense`,
#'   `value`, `base` (the base case), `contingency` (value less base: what must be held in reserve to be that sure),
#'   `percent_of_base`, `unit`, `kind`, and `planning`: `TRUE` for the study's planning percentile.
#' @export
contingency <- function(result, percentiles = NULL, outputs = NULL) {
  check_result(result)
  given <- outputs_and_other(rlang::enquo(outputs), rlang::enquo(percentiles), result)
  outputs <- resolve_outputs(given$outputs, result)
  asked <- check_percentiles(given$other %||% shown_percentiles(result$study$readings), "percentiles")
  typed_table(contingency_table(result, sort(unique(asked)), outputs), c("value", "base"))
}

contingency_table <- function(result, asked, outputs) {
  table <- percentile_table(result, outputs, asked)
  base <- vapply(result$base$outputs[table$output], as.double, 0, USE.NAMES = FALSE)
  reserve <- table$value - base
  percent <- ifelse(table$kind == "date" | base == 0, NA, 100 * reserve / abs(base))
  new_table(list(output = table$output, percentile = table$percentile, sense = table$sense, value = table$value,
    base = base, contingency = reserve, percent_of_base = percent, unit = table$unit, kind = table$kind,
    planning = table$percentile == result$study$readings$planning))
}

# A table in the order of one of its columns, large to small, or small to large after a minus.
sorted_by <- function(table, column, call = rlang::caller_env()) {
  if (is.null(column)) return(table)
  name <- sub("^-", "", check_string(column, "sort", call = call))
  if (!name %in% names(table)) stop_unknown_name(name, names(table), "a column of the table", call = call)
  table <- table[order(table[[name]], decreasing = !startsWith(column, "-")), ]
  rownames(table) <- NULL
  table
}
