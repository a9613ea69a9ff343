# Events and items under way: what has happened, what can no longer happen, what is spent.

#' What is under way
#'
#' `close_events()` says of events that they have happened, with what they cost, or can no longer happen. `replace_costs()` gives a cost
#' tree other rows: what is spent to date and what remains ([add_costs()]).
#'
#' @param .study A study.
#' @param ... Events by name, each with what it cost: a number, or one for each consequence by its name; 0 where it can no longer
#'   happen. A number given later takes the place of an earlier one.
#' @return The changed study. No other quantity's draws change.
#' @section Errors: `ensayo_error_name` where a name is not an event; `ensayo_error_argument` for what is not a number, or not one for
#'   each consequence.
#' @seealso [forecast_total()], [bridge_results()].
#' @examples
#' works <- study("Works") |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.02, 400)) |>
#'   add_outputs(cost = sum(events))
#' works |> close_events(rock = 64, flood = 0)
#' @export
close_events <- function(.study, ...) {
  check_study(.study)
  given <- rlang::list2(...)
  for (name in names_of(given)) {
    if (!name %in% names(.study$events)) stop_unknown_name(name, names(.study$events), "an event of the study")
    event <- .study$events[[name]]
    cost <- given[[name]]
    consequences <- names(event$impacts)
    ok <- is.numeric(cost) && all(is.finite(cost)) && (length(cost) == 1 && (length(consequences) == 1 || cost == 0) ||
      setequal(names(cost), consequences))
    if (!ok) {
      stop_argument(name, if (length(consequences) == 1) "what the event cost, a number; 0 where it can no longer happen"
        else sprintf("what each consequence came to, %s, or 0", and_list(quoted(consequences))), cost)
    }
    cost <- as.double(if (length(cost) == 1) rep(cost, length(consequences)) else cost[consequences])
    .study$events[[name]]$closed <- stats::setNames(cost, consequences)
  }
  with_events(.study)
}

#' Change or take out events
#'
#' @param .study A study.
#' @param ... `replace_events()`: events by name, made by [event()], for names the study has. `remove_events()`: names of events that no
#'   formula uses by themselves and no other event needs.
#' @return The changed study. All other quantities keep their draws.
#' @section Errors: `ensayo_error_name` where a name is not an event, or one is still used.
#' @examples
#' works <- study("Works") |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.02, 400)) |>
#'   add_outputs(cost = sum(events))
#' works |> replace_events(rock = event(0.1, law_pert(20, 50, 120))) |> remove_events(flood)
#' @export
replace_events <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "error"), events_from_table)
  for (name in names_of(given)) {
    if (!name %in% names(.study$events)) stop_unknown_name(name, names(.study$events), "an event of the study")
    if (!inherits(given[[name]], "ensayo_event")) stop_argument(name, "made by `event()`", given[[name]])
    kept <- .study$events[[name]]["with"]
    .study$events[[name]] <- c(unclass(given[[name]]), Filter(Negate(is.null), kept))
  }
  with_events(.study)
}

#' @rdname replace_events
#' @export
remove_events <- function(.study, ...) {
  check_study(.study)
  known <- names(.study$events)
  gone <- unique(unlist(lapply(rlang::enquos(...), resolve_names, known = known, what = "an event of the study")))
  left <- .study$events[setdiff(known, gone)]
  own <- names(Filter(function(quantity) isTRUE(quantity$event %in% gone), .study$outputs))
  others <- Filter(function(output) is.null(output$event) && is.null(output$task), .study$outputs)
  users <- c(names(Filter(function(output) any(own %in% output$formula$uses), others)),
    names(Filter(function(event) any(gone %in% c(event$needs, event$excludes)), left)),
    names(Filter(function(task) any(gone %in% task$when), .study$tasks)))
  if (length(users)) {
    stop_ensayo("name", sprintf("%s cannot be taken out while something uses %s.", and_list(quoted(gone)),
      if (length(gone) == 1) "it" else "them"), sprintf("%s does.", quoted(users[1])),
      "Say that it can no longer happen, `close_events()`, or change that.", name = gone[1])
  }
  .study$events <- lapply(left, function(event) {
    event$with[intersect(names(event$with), gone)] <- NULL
    event
  })
  with_events(.study)
}

#' @rdname close_events
#' @param tree A data frame, as for [add_costs()].
#' @param .name Text: which cost tree, where there are several.
#' @export
replace_costs <- function(.study, tree, .name = NULL) {
  check_study(.study)
  known <- names(.study$costs)
  if (length(known) == 0) stop_ensayo("argument", "The study must have costs to be replaced.", "It has none.",
    "Add them with `add_costs()`.")
  name <- if (is.null(.name)) known[1] else if (.name %in% known) .name else stop_unknown_name(.name, known, "a cost tree of the study")
  old <- .study$costs[[name]]
  items <- cost_items(tree)
  warn_overspent(old, items)
  .study$costs[[name]]$items <- items
  with_costs(.study)
}

# Spent beyond what was thought possible: the range was too narrow, and others of the kind may be.
warn_overspent <- function(old, items) {
  for (code in intersect(names(items), names(old$items))) {
    spent <- items[[code]]$spent
    most <- greatest_of_item(old$items[[code]])
    if (is.null(spent) || is.null(most) || spent <= most) next
    warn_ensayo(c(sprintf("Item %s has cost more than its greatest value.", quoted(code)),
      x = sprintf("%s is spent; at most %s was thought possible.", format_given(spent), format_given(most)),
      i = "Ranges of the other items may be too narrow, too."), "overspent", code = code)
  }
}

# NULL of an allowance, which has none of its own.
greatest_of_item <- function(item) {
  most <- function(x) if (is_law(x)) support(x)[["max"]] else x
  own <- if (!is.null(item$quantity)) most(item$quantity) * most(item$price) else if (!is.null(item$amount)) most(item$amount)
  if (is.null(own)) return(item$spent)
  own * (if (is_law(item$factor)) most(item$factor) else 1) + (item$spent %||% 0)
}
