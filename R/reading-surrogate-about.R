# What a surrogate is worth, as tables: its candidates, its inputs, where it errs, and what held-out runs were predicted to be.

#' How far a surrogate can be trusted
#'
#' All figures are of predictions of runs that the surrogate was not fitted to.
#'
#' @param surrogate A surrogate, made by [surrogate()].
#' @return `surrogate_scores()`: a data frame with a row for each output and kind tried: `output`, `component` (of a series, else 1),
#'   `surrogate`, `r_squared` (predictive) and `chosen`.
#'
#'   `surrogate_inputs()`: a row for each output and input: `output`, `input`, `part` (predictive R squared that is lost where the input is
#'   not known, so that what it does together with others counts for each of them), `low`, `high` (99 %) and `idle` (its loss cannot be
#'   told from nothing: the interval holds 0).
#'
#'   `surrogate_regions()`: where it errs. A row for each output and third of the predicted values, and third of the values of each input
#'   that is not idle (or category): `output`, `about` (the output or an input), `region`, `from`, `to`, `runs`, `error` (root mean
#'   square), `bias` (mean error: above 0 where predictions are too high) and `unit`.
#'
#'   `surrogate_runs()`: a row for each output and run: `output`, `run` (its number in order), `observed`, `predicted`, `error` (the
#'   standard error that the prediction said) and `missed` (it came out farther off than 1.96 of these). Of series none.
#' @section Errors: `ensayo_error_argument` for what is not a surrogate.
#' @examples
#' res <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9)) |>
#'   add_outputs(pressure = 60 - 40 * flow^1.85 / (slope + 0.2)) |>
#'   simulate(nsim = 50, seed = 11)
#' fast <- surrogate(res)
#' surrogate_scores(fast)
#' surrogate_inputs(fast)
#' surrogate_regions(fast)
#' head(surrogate_runs(fast))
#' @export
surrogate_scores <- function(surrogate) {
  check_surrogate(surrogate)
  new_table(stacked(lapply(surrogate$outputs, function(name) {
    candidates <- surrogate$data$outputs[[name]]$found$candidates
    stacked(lapply(seq_along(candidates), function(k) {
      rows_of(output = name, component = k, surrogate = names(candidates[[k]]), r_squared = candidates[[k]],
        chosen = seq_along(candidates[[k]]) == 1)
    }))
  })))
}

#' @rdname surrogate_scores
#' @export
surrogate_inputs <- function(surrogate) {
  check_surrogate(surrogate)
  new_table(stacked(lapply(surrogate$outputs, function(name) {
    parts <- surrogate$data$outputs[[name]]$found$parts
    parts <- parts[order(-parts$part), ]
    rows_of(output = name, input = parts$input, part = parts$part, low = parts$part - part_errors * parts$error,
      high = parts$part + part_errors * parts$error,
      idle = parts$idle)
  })))
}

#' @rdname surrogate_scores
#' @export
surrogate_regions <- function(surrogate) {
  check_surrogate(surrogate)
  single <- Filter(function(name) !is.matrix(surrogate$taught$values[[name]]), surrogate$outputs)
  new_table(stacked(c(list(rows_of(output = character(), about = character(), region = character(), from = numeric(), to = numeric(),
    runs = integer(), error = numeric(), bias = numeric(), unit = character())), lapply(single, function(name) {
    output <- surrogate$data$outputs[[name]]
    missed <- output$found$held - output_taught(surrogate, name)
    active <- output$found$parts$input[!output$found$parts$idle]
    values <- c(stats::setNames(list(output$found$held), name), lapply(surrogate$taught$columns[active], column_at, output$rows))
    stacked(Map(function(values, about) {
      places <- region_places(values)
      of <- function(x, f) unname(tapply(x, places, f))
      number <- is.numeric(values)
      rows_of(output = name, about = about, region = levels(places), from = if (number) of(values, min) else NA_real_,
        to = if (number) of(values, max) else NA_real_, runs = as.vector(table(places)), error = sqrt(of(missed^2, mean)), bias = of(missed, mean),
        unit = quantity_unit(surrogate$study, name) %||% "")
    }, values, names(values)))
  }))))
}

# A region of five runs or more in which the error is at least half as large again as on the whole: the worst; NULL where none is.
worst_region <- function(surrogate, name) {
  regions <- surrogate_regions(surrogate)
  regions <- regions[regions$output == name & regions$runs >= 5, ]
  worst <- regions[which.max(regions$error), ]
  if (isTRUE(worst$error > 1.5 * held_out_error(surrogate, name))) worst
}

# Thirds of the runs, or categories.
region_places <- function(values) {
  if (!is.numeric(values)) return(droplevels(factor(values)))
  thirds <- ceiling(3 * rank(values, ties.method = "first") / length(values))
  droplevels(factor(c("low", "middle", "high")[thirds], c("low", "middle", "high")))
}

#' @rdname surrogate_scores
#' @export
surrogate_runs <- function(surrogate) {
  check_surrogate(surrogate)
  single <- Filter(function(name) !is.matrix(surrogate$taught$values[[name]]), surrogate$outputs)
  new_table(stacked(c(list(rows_of(output = character(), run = integer(), observed = numeric(), predicted = numeric(), error = numeric(),
    missed = logical())),
    lapply(single, function(name) {
      output <- surrogate$data$outputs[[name]]
      observed <- output_taught(surrogate, name)
      found <- output$found
      rows_of(output = name, run = output$rows, observed = observed, predicted = found$held, error = found$error,
        missed = abs(found$held - observed) > 1.96 * found$error)
    }))))
}

failing_inputs <- function(parts) {
  told <- parts$input[!parts$idle]
  if (length(told)) paste("by", few_listed(quoted(told))) else "by no input clearly"
}
