# Series of a result: at a step, and over their steps.

#' Series at a step
#'
#' `at_step()` gives the result in which each series is what it is at one step: every reading of it (statistics,
#' percentiles, chances, drivers, figures) is of that step. For drivers, inputs that are drawn at each step count by their mean
#' up to it.
#'
#' @param result A result with series.
#' @param step A number or date, one of the steps; or `"last"`.
#' @return A result. Its prints and figures say at which step it is; specs on series are left out of it. It cannot be written as a
#'   folder or go on with more runs.
#' @section Errors: `ensayo_error_argument` where no series has that step.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), fall = law_pert(5, 10, 30)) |>
#'   add_model(function(volume, fall) data.frame(step = 1:10, level = volume - fall * (1:10))) |>
#'   simulate(nsim = 200, seed = 11)
#' summary(at_step(res, 10))
#' drivers(at_step(res, "last"))
#' series_table(res)
#' @export
at_step <- function(result, step) {
  check_result(result)
  study <- result$study
  known <- lapply(study$outputs[series_names(study)], function(output) output$steps)
  stepped <- stepped_names(study)
  result$until <- Filter(Negate(is.na), lapply(stats::setNames(nm = stepped), function(name) step_place(study$inputs[[name]]$steps, step)))
  if (length(known) == 0) stop_ensayo("argument", "The result must have a series.", "It has none.")
  places <- lapply(known, step_place, step = step)
  if (all(is.na(unlist(places)))) stop_no_step(step, known)
  for (name in names(known)) {
    study$outputs[[name]]["steps"] <- list(NULL)
    result$base$outputs[[name]] <- if (is.na(places[[name]])) NA_real_ else result$base$outputs[[name]][places[[name]]]
  }
  result$study <- without_conditions_on(study, names(known))
  result$store <- store_at_step(result$store, places)
  result$provenance$step <- step_words(if (identical(step, "last")) known[[1]][length(known[[1]])] else step)
  result
}

# The study without specs and chances on series that are no longer what these were written for.
without_conditions_on <- function(study, series) {
  others <- function(conditions) Filter(function(condition) !any(condition$uses %in% series), conditions)
  study$specs <- others(study$specs)
  study$readings$chances <- others(study$readings$chances)
  study
}

# Percentiles of a series at some of its steps, or at all: a row for each percentile of each step.
series_percentiles <- function(result, name, asked, step, type, confidence) {
  steps <- quantity_steps(result$study, name)
  at <- if (is.null(step)) seq_along(steps)
    else vapply(as.list(step), step_place, 0, steps = steps)
  if (anyNA(at)) stop_no_step(step, stats::setNames(list(steps), name), rlang::caller_env(2))
  sense <- result$study$readings$sense
  replicates <- telling_replicates(result)
  # what is drawn again is drawn once, and of a folder many steps are read at once
  series <- if (is_drawn_series(result, name) || length(at) > 3 && run_count(result) * length(steps) <= 2^25) run_column(result, name)
  rows <- lapply(at, function(i) {
    column <- if (is.null(series)) run_column(result, name, i) else series[, i]
    read <- column_percentiles(column, output_kind_of(result, name), not_exceeded(asked, sense),
      type, confidence, replicates)
    data.frame(output = name, step = steps[i], percentile = asked, sense = sense, value = read$value, low = read$low,
      high = read$high, unit = quantity_unit(result$study, name) %||% "", kind = read$kind, remark = read$remark)
  })
  do.call(rbind, rows)
}

#' @rdname at_step
#' @param outputs Names of series, bare or as text; all when left out.
#' @return `series_table()`: a data frame with five rows for each series: `output`, `of` (`"first"`, `"last"`: the value
#'   at that step; `"all"`: the values of all steps together; `"lowest"`, `"highest"`: of each run over its steps), `step` (of the
#'   first and last), `base`, `mean`,
#'   `sd`, the study's percentiles under their names, `sense` and `unit`. The percentiles of `"lowest"` are of what each
#'   run comes down to; the lowest of a percentile's curve is another thing.
#' @export
series_table <- function(result, outputs = NULL) {
  check_result(result)
  outputs <- resolve_names(rlang::enquo(outputs), series_names(result$study), "a series of the result")
  series_statistics(result, outputs, shown_percentiles(result$study$readings))
}

series_statistics <- function(result, outputs, asked) {
  new_table(do.call(rbind, lapply(outputs, series_rows, result = result, asked = asked)))
}

series_rows <- function(name, result, asked) {
  output <- result$study$outputs[[name]]
  column <- run_column(result, name)
  base <- as.double(result$base$outputs[[name]])
  n <- ncol(column)
  values <- list(first = column[, 1], last = column[, n], all = as.vector(column), lowest = row_extremes(column, pmin),
    highest = row_extremes(column, pmax))
  sense <- result$study$readings$sense
  kind <- output_kind_of(result, name)
  rows <- lapply(names(values), function(of) {
    at <- column_percentiles(values[[of]], kind, not_exceeded(asked, sense), NULL, 0.95, NULL)$value
    m <- cpp_moments(as.double(values[[of]]))
    none <- m$count == 0
    data.frame(output = name, of = of,
      step = if (of == "first") output$steps[1] else if (of == "last") output$steps[n] else output$steps[NA_integer_],
      base = switch(of, first = base[1], last = base[n], all = mean(base), lowest = min(base), highest = max(base)),
      mean = if (none) NA_real_ else m$mean, sd = if (none) NA_real_ else sd_of(m),
      stats::setNames(as.list(at), percentile_names(asked)), sense = sense, unit = output$unit %||% "", kind = kind)
  })
  do.call(rbind, rows)
}

row_extremes <- function(column, pairwise) {
  found <- column[, 1]
  for (j in seq_len(ncol(column))[-1]) found <- pairwise(found, column[, j])
  found
}
