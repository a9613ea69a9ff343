#' Events of a result
#'
#' How often each event happened in the runs, what it did where it happened, and what it adds to the mean.
#'
#' @inheritParams percentiles
#' @return A data frame with a row for each event, the largest mean first: `event`, `label`, `category`, `owner`, `probability` (as
#'   stated, the mean of a law; `NA` of a rate), `rate` (the mean count), `happens` (the share of runs) and its standard `error`,
#'   `when_it_happens` (the mean impact in those runs), `P10` and `P90` of these runs (not exceeded), `mean` (of all runs), `unit`,
#'   and `state`: `"open"`, `"happened"`, `"cannot happen"` or `"response taken"`. Of an event of several consequences each has a
#'   row.
#' @section Errors: `ensayo_error_argument` where the study has no events.
#' @seealso [removal_gain()] for what it is worth to be rid of one; [split_total()], [plot_events()].
#' @examples
#' works <- study("Works") |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.02, 400)) |>
#'   add_outputs(cost = sum(events))
#' event_table(simulate(works, nsim = 1000, seed = 11))
#' @export
event_table <- function(result) {
  check_result(result)
  if (length(result$study$events) == 0) stop_ensayo("argument", "The study must have events.", "It has none.",
    "Add them with `add_events()`.")
  events_in_runs(result)
}

events_in_runs <- function(result) {
  events <- result$study$events
  n <- run_count(result)
  rows <- do.call(c, c(list(list()), unname(Map(function(event, name) {
    happened <- if (is.null(event$closed)) run_column(result, part_name(name, "happened")) %in% TRUE else rep(any(event$closed != 0), n)
    now <- event_now(event)
    share <- mean(happened)
    lapply(seq_along(event$impacts), function(i) {
      consequence <- names(event$impacts)[i]
      own <- impact_name(name, consequence)
      values <- rep_len(as.double(columns_for(result, own)[[1]]), n)
      hit <- values[happened & is.finite(values)]
      ends <- percentile_values(hit, c(10, 90))
      list(event = own, label = event$label %||% "", category = event$category %||% "", owner = event$owner %||% "",
        probability = if (is.null(now$probability)) NA_real_ else if (is_law(now$probability)) mean(now$probability) else now$probability,
        rate = if (is.null(now$rate)) NA_real_ else mean(now$rate), happens = share, error = sqrt(share * (1 - share) / n),
        when_it_happens = if (length(hit)) mean(hit) else NA_real_, P10 = ends[1], P90 = ends[2], mean = mean(values, na.rm = TRUE),
        unit = event_unit(event, consequence) %||% "", state = event_state(event))
    })
  }, events, names(events)))))
  table <- stacked(lapply(rows, as.data.frame))
  new_table(as.list(table[order(-abs(table$mean)), ]))
}

event_state <- function(event) {
  if (!is.null(event$closed)) return(if (any(event$closed != 0)) "happened" else "cannot happen")
  if (isTRUE(event$responded)) "response taken" else "open"
}

# The total that events and costs are about: the last of the outputs that are shown and have any of them behind.
total_at_risk <- function(result) {
  study <- result$study
  mine <- c(impact_outputs(study), cost_items_of(study), names(study$costs))
  found <- Filter(function(name) any(needed_outputs(study, name) %in% mine) && is.null(study$outputs[[name]]$task) &&
    !output_kind_of(result, name) %in% c("yes/no", "date"),
    main_outputs(result))
  # the one that the others are parts of
  of <- vapply(found, function(name) length(needed_outputs(study, name)), 0)
  if (length(found)) found[which.max(of)] else NULL
}

reading_events <- list(
  title = "Events",
  places = c("print", "show", "json", "report"),
  there = function(result) length(result$study$events) > 0,
  table = function(result, asked) events_in_runs(result)
)

reading_costs <- list(
  title = function(result, asked) "Costs",
  places = c("show", "json", "report"),
  there = function(result) length(result$study$costs) > 0,
  table = function(result, asked) {
    cost_table_of(result, result$study$costs[[1]], asked$percentiles, asked$planning)
  }
)

reading_gains <- list(
  title = function(result, asked) sprintf("What it is worth to be rid of an event (%s, P%s)", total_at_risk(result) %||% "",
    format(asked$planning)),
  places = c("show", "json", "report"),
  there = function(result) length(result$study$events) > 0 && !is.null(total_at_risk(result)),
  table = function(result, asked) removal_gain(result, !!total_at_risk(result), of = "events", percentile = asked$planning)
)
