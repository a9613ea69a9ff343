#' Percentiles of outputs
#'
#' @param result A result.
#' @param percentiles Numeric from 0 to 100, or text such as `"P90"`, in the study's sense; `NULL` for the study's own. Unless the study says
#'   otherwise ([add_readings()]) a percentile is the value that is **not exceeded** in that share of the good runs:
#'   P90 is exceeded in one run out of ten. The column `sense` tells.
#' @param outputs Names of outputs, bare or as text; all when left out. They may also come first:
#'   `percentiles(res, pressure, 90)`.
#' @param type Whole number from 1 to 9: the convention, as of [stats::quantile()]; `NULL` for type 7 of numbers and
#'   type 1, a value that occurred, of counts, dates and yes/no outputs.
#' @param confidence Number between 0 and 1: of the intervals.
#' @param step Numbers or dates, or `"last"`: the steps at which series are read; `NULL` for all of them. With it, and
#'   where a series is named, the table has a column `step`.
#' @return `percentiles()`: a data frame with a row for each output and percentile: `output`, `percentile`, `sense`,
#'   `value`; `low` and `high`, the ends of the percentile's confidence interval, which tells the **simulation error**
#'   of the figure and not a range of outcomes; `unit`, `kind`, and `remark`: where `low` or `high` is missing, how
#'   many runs bound the percentile. Where all rows are of one kind, values are of it: dates of class Date, counts whole
#'   numbers, yes/no outputs `TRUE` or `FALSE`; among others a date is a number of days since 1970-01-01, which prints as a
#'   date.
#' @details The interval is between two order statistics and holds for any law (Conover 1999, section 3.2), with
#'   independent runs; under a Latin hypercube it is conservative. Of a result with five replicates or more it comes
#'   from between these, by Student's t.
#' @section Source: Hyndman and Fan (1996), The American Statistician 50(4).
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100; `ensayo_error_name` for an unknown
#'   output. When all are below 1 there is a warning, for shares are not percentiles.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' percentiles(res, c(10, 50, 90))
#' value_met(res, velocity, chance = 0.95, met = "at least")
#' @export
percentiles <- function(result, percentiles = NULL, outputs = NULL, type = NULL, confidence = 0.95, step = NULL) {
  check_result(result)
  given <- outputs_and_other(rlang::enquo(outputs), rlang::enquo(percentiles), result, series = TRUE)
  series <- series_of(result)
  outputs <- if (rlang::quo_is_null(given$outputs)) if (is.null(step)) main_outputs(result) else series_names(result$study)
    else resolve_names(given$outputs, c(output_names(result), series), "an output of the result")
  asked <- check_percentiles(given$other %||% shown_percentiles(result$study$readings), "percentiles")
  check_type(type)
  check_confidence(confidence)
  if (!is.null(step) || any(outputs %in% series)) {
    return(stepwise_percentiles(result, outputs, asked, step, type, confidence))
  }
  typed_table(percentile_table(result, outputs, asked, type, confidence), value_columns)
}

stepwise_percentiles <- function(result, outputs, asked, step, type, confidence, call = rlang::caller_env()) {
  single <- setdiff(outputs, series_of(result))
  if (length(single) || length(outputs) == 0) {
    stop_ensayo("argument", "Steps are those of series.",
      if (length(single)) sprintf("%s has one value a run.", quoted(single[1])) else "The result has no series.",
      if (length(single)) "Ask for it by itself.", call = call)
  }
  rows <- lapply(outputs, series_percentiles, result = result, asked = asked, step = step, type = type,
    confidence = confidence)
  typed_table(new_table(stacked(rows)), value_columns)
}

value_columns <- c("value", "low", "high")

percentile_table <- function(result, outputs, asked, type = NULL, confidence = 0.95,
                             sense = result$study$readings$sense) {
  replicates <- telling_replicates(result)
  rows <- lapply(outputs, function(name) {
    read <- percentile_estimates_of(result, name, not_exceeded(asked, sense), type, confidence, replicates)
    data.frame(output = name, percentile = asked, sense = sense, value = read$value, low = read$low, high = read$high,
      unit = quantity_unit(result$study, name) %||% "", kind = read$kind, remark = read$remark)
  })
  new_table(stacked(rows))
}

percentile_estimates_of <- function(result, name, not_exceeded, type, confidence, replicates) {
  column_percentiles(column_of(result, name), output_kind_of(result, name), not_exceeded, type, confidence, replicates)
}

column_percentiles <- function(column, kind, not_exceeded, type, confidence, replicates) {
  good <- if (is_long(column)) TRUE else is_good(column)
  values <- if (is_long(column)) column else if (isTRUE(good)) as.double(column) else as.double(column)[good]
  if (!is.null(replicates) && !isTRUE(good)) replicates <- replicates[good]
  read <- percentile_estimates(values, not_exceeded, type %||% kind_type(kind), confidence, replicates)
  if (kind == "date") read[c("value", "low", "high")] <- lapply(read[c("value", "low", "high")], floor)
  c(read, kind = kind)
}

# TRUE where every run is good, else which are.
is_good <- function(column) if (all_finite(column)) TRUE else is.finite(column)

# Values that occurred where values between them mean nothing.
kind_type <- function(kind) if (kind == "number") 7 else 1

#' @rdname percentiles
#' @param chance Numbers between 0 and 1.
#' @param met `"at least"` or `"at most"`: which values meet the target.
#' @return `value_met()`: a data frame with `output`, `met`, `chance` and the `value` that is met with that chance:
#'   reached or passed (`"at least"`), or not exceeded (`"at most"`), with `low` and `high` as above, `unit`, `kind` and
#'   `remark`.
#' @export
value_met <- function(result, outputs = NULL, chance = c(0.5, 0.8, 0.9, 0.95), met = c("at least", "at most"),
                      confidence = 0.95) {
  check_result(result)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  chance <- check_probabilities(chance)
  met <- check_choice(met[1], c("at least", "at most"), "met")
  check_confidence(confidence)
  sense <- if (met == "at least") "exceeded" else "not exceeded"
  table <- percentile_table(result, outputs, 100 * chance, NULL, confidence, sense)
  new_table(c(list(output = table$output, met = rep(met, nrow(table)), chance = table$percentile / 100),
    as.list(typed_table(table, value_columns)[c(value_columns, "unit", "kind", "remark")])))
}

#' @rdname percentiles
#' @param x A result.
#' @param probs Numeric from 0 to 1: shares of runs in which the value is not exceeded.
#' @param na.rm Not used; there for the generic. Failed runs are left out in any case.
#' @param ... Not used; anything here is an error.
#' @details `quantile()` asks by shares, which are always of values not exceeded. `mean()` and `median()` give a number
#'   for each output, by name.
#' @export
quantile.ensayo_result <- function(x, probs = c(0, 0.25, 0.5, 0.75, 1), ...) {
  check_no_dots(..., .options = "probs")
  typed_table(percentile_table(x, main_outputs(x), 100 * check_probabilities(probs), sense = "not exceeded"), value_columns)
}

#' @rdname percentiles
#' @export
mean.ensayo_result <- function(x, ...) {
  check_no_dots(..., .options = character())
  vapply(main_outputs(x), function(name) {
    m <- moments_of(column_of(x, name))
    if (m$count == 0) NA_real_ else m$mean
  }, 0)
}

#' @rdname percentiles
#' @export
median.ensayo_result <- function(x, na.rm = FALSE, ...) {
  check_no_dots(..., .options = character())
  vapply(main_outputs(x), function(name) percentile_values(good_values(column_of(x, name)), 50), 0)
}

# Percentiles not exceeded, by one of Hyndman and Fan's types.
percentile_values <- function(values, percentiles, type = 7) {
  if (length(values) == 0) return(rep(NA_real_, length(percentiles)))
  percentile_reader(length(values), percentiles, type)(values)
}

# The same of many sets of n values.
percentile_reader <- function(n, percentiles, type = 7) {
  places <- type_places(n, percentiles / 100, type)
  ranks <- sort(unique(c(places$low, places$high)))
  low <- match(places$low, ranks)
  high <- match(places$high, ranks)
  function(values) {
    at <- order_statistics(values, ranks)
    place_values(at[low], at[high], places$along)
  }
}

# The ranks a percentile lies between, and how far along it is from the lower to the upper. Products a rounding error
# below a whole number count as that number, as in R's own.
type_places <- function(n, p, type) {
  a <- if (type <= 3) 0 else c(0, 0.5, 0, 1, 1 / 3, 3 / 8)[type - 3]
  b <- if (type == 4) 1 else a
  at <- if (type <= 3) n * p - (type == 3) / 2 else a + p * (n + 1 - a - b)
  fuzz <- 4 * .Machine$double.eps * pmax(1, at)
  low <- floor(at + fuzz)
  along <- at - low
  along[abs(along) < fuzz] <- 0
  if (type <= 3) along <- switch(type, (along > 0) + 0, ((along > 0) + 1) / 2, (along > 0 | low %% 2 == 1) + 0)
  inside <- function(rank) pmin(pmax(rank, 1), n)
  list(low = inside(low), high = inside(low + 1), along = along)
}

# The values of ranks, found together: a function of ranks; those outside 1 to n are NA.
ranks_known <- function(values, ranks) {
  known <- sort(unique(ranks[ranks >= 1 & ranks <= length(values)]))
  at <- order_statistics(values, known)
  function(ranks) at[match(ranks, known)]
}

place_values <- function(low, high, along) {
  between <- (1 - along) * low + along * high
  from <- along == 0 | low == high
  between[from] <- low[from]
  between[along == 1] <- high[along == 1]
  between
}

# Where a value sits among the runs: the share below it, and half of those equal to it, in per cent.
percentile_of <- function(values, value) {
  if (length(values) == 0 || !is.finite(value)) return(NA_real_)
  counts <- counts_about(values, value)
  100 * (counts[["below"]] + counts[["equal"]] / 2) / length(values)
}

# The same in a study's sense: the percentile whose value it is.
percentile_in_sense <- function(values, value, sense) not_exceeded(percentile_of(values, value), sense)

percentile_names <- function(percentiles) sprintf("P%.6g", percentiles)

check_type <- function(type, call = rlang::caller_env()) {
  if (!is.null(type)) check_count(type, "type", at_most = 9, call = call)
}

check_confidence <- function(confidence, call = rlang::caller_env()) {
  check_number(confidence, "confidence", above = 0, below = 1,
    mend = if (is.numeric(confidence) && isTRUE(confidence > 1)) "Divide percentages by 100.", call = call)
}
