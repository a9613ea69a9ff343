# Events: what may or may not happen. A study keeps each as it was described, in `events`, and calculates with ordinary inputs and
# outputs that are made of it (study-event-parts.R).

#' What may happen
#'
#' `event()` describes something that may or may not happen, for [add_events()]: how likely it is, and what it does where it
#' happens.
#'
#' @param probability Number from 0 to 1, or a law of such numbers: how likely the event is to happen, once at most.
#' @param rate Number above 0: how often it happens on average, any number of times (a Poisson count); or a law of whole numbers, that
#'   of the count. Instead of `probability`.
#' @param impact Law or number: what it costs, delays or takes in a run in which it happens; with `rate` what each occurrence
#'   does. [percent_of()] makes it a per cent of an item. Several consequences are a list with names, such as `list(cost =
#'   law_pert(20, 50, 120), weeks = law_uniform(1, 4))`.
#' @param on Names of outputs, inputs or tasks, bare or as text: what a single impact is added to, all in the same run. Of an input,
#'   formulas of outputs take the sum, in the study as `demand[with events]`; the input itself stays as it is drawn. Of a task the
#'   impact is days of its work. When left out, formulas say where it counts.
#' @param beside `TRUE` where an impact on tasks runs beside their own work: they take as long as the longer of both.
#' @param unit,label,note Texts or `NULL`, as for [input()]; of several consequences a text for each, with their names.
#' @param category,owner Texts or `NULL`: what the event belongs with, whose formulas may take the sum, and who looks after it.
#' @param excludes Names of events of which no two happen in one run; their probabilities add up to at most 1.
#' @param needs Name of an event without which this one does not happen: `probability` is then that where the other happened.
#' @param response A [response()], or `NULL`: what can be done about it.
#' @param severity `"one"`: of several consequences, all are severe or mild together; `"each"`: each is drawn by itself.
#' @return An event, for [add_events()].
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind, or both or neither of `probability` and
#'   `rate` are given.
#' @examples
#' event(0.15, law_pert(20, 50, 120), unit = "kEUR", label = "Main bursts while it is dug up")
#' event(rate = 7.5, impact = law_lognormal(mean = 4, sd = 6), unit = "kEUR")
#' event(0.3, list(cost = law_pert(5, 10, 30), weeks = law_uniform(1, 4)))
#' @export
event <- function(probability = NULL, impact, rate = NULL, on = NULL, unit = NULL, label = NULL, note = NULL, category = NULL,
                  owner = NULL, excludes = NULL, needs = NULL, response = NULL, severity = "one", beside = FALSE) {
  if (missing(impact)) stop_ensayo("argument", "An event must have an impact.", NULL, "Such as `event(0.15, law_pert(20, 50, 120))`.",
    argument = "impact")
  if (is.null(probability) == is.null(rate)) {
    stop_ensayo("argument", "An event must have a probability, or a rate.", sprintf("You gave %s.",
      if (is.null(rate)) "neither" else "both"), "A probability is of happening once, a rate of how often it happens on average.")
  }
  impacts <- check_impacts(impact)
  severity <- check_choice(severity, c("one", "each"))
  on <- written_names(rlang::enexpr(on), "on")
  if (length(impacts) > 1 && !is.null(on)) stop_argument("on", "left out with several consequences", on, "Formulas say where each counts.")
  if (length(impacts) > 1 && !is.null(rate) && severity == "each") {
    stop_argument("severity", "\"one\" for an event with a rate", severity, "Its occurrences have all consequences together.")
  }
  structure(list(
    probability = if (!is.null(probability)) check_event_probability(probability), rate = if (!is.null(rate)) check_rate(rate),
    impacts = impacts, on = on, unit = check_event_units(unit, names(impacts)),
    label = check_string(label, null = TRUE), note = check_string(note, null = TRUE), category = check_string(category, null = TRUE),
    owner = check_string(owner, null = TRUE), excludes = written_names(rlang::enexpr(excludes), "excludes"),
    needs = written_names(rlang::enexpr(needs), "needs", 1), response = check_response(response, impacts, rate),
    severity = severity, beside = if (check_flag(beside)) TRUE
  ), class = "ensayo_event")
}

#' A per cent of an item
#'
#' The impact of an [event()] as a part of something else in the study: of its value in the same run.
#'
#' @param item Input, output or task, bare or as text; of a task it is its duration.
#' @param percent Law or number: how many per cent, so 10 for a tenth; below 0 for a saving.
#' @return An impact, for [event()] and [response()].
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' event(0.3, percent_of(trench, law_pert(5, 10, 30)), label = "Rock in the trench")
#' @export
percent_of <- function(item, percent) {
  structure(list(amount = check_amount(percent, "percent"), of = written_names(rlang::enexpr(item), "item", 1)), class = "ensayo_percent")
}

#' What can be done about an event
#'
#' For [event()]: what it costs to do something about the event, and how likely and severe it is then. [respond()] says which
#' responses are taken.
#'
#' @param cost Law or number: what the response costs, in the unit of the impact.
#' @param probability,rate As in [event()]: how likely the event is after the response; as before when left out.
#' @param impact As in [event()]: what it does after the response; as before when left out.
#' @param when `"always"`: it costs that in every run; `"occurs"`: in runs in which the event happens.
#' @param label Text or `NULL`: what is done.
#' @return A response, for [event()].
#' @section Shared numbers: before and after the response the event has the same random numbers, so that a run differs by what the
#'   response does, and by nothing where the event happens neither before nor after.
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' event(0.3, law_pert(20, 50, 120),
#'   response = response(cost = 6, probability = 0.05, label = "Trial pits"))
#' @export
response <- function(cost, probability = NULL, impact = NULL, rate = NULL, when = "always", label = NULL) {
  structure(list(cost = check_amount(cost, "cost"), probability = if (!is.null(probability)) check_event_probability(probability),
    rate = if (!is.null(rate)) check_rate(rate), impacts = if (!is.null(impact)) check_impacts(impact),
    when = check_choice(when, c("always", "occurs")), label = check_string(label, null = TRUE)), class = "ensayo_response")
}

check_event_probability <- function(x, arg = "probability", call = rlang::caller_env()) {
  if (is_law(x)) {
    ends <- if (is_categorical(x) || is_linked(x)) c(NA, NA) else support(x)
    if (isTRUE(ends[[1]] >= 0 && ends[[2]] <= 1)) return(x)
    stop_argument(arg, "a law of numbers from 0 to 1", x, "Such as `law_pert(0.05, 0.1, 0.3)`, or cut it with `law_truncated()`.", call)
  }
  if (is.numeric(x) && !is.object(x) && length(x) == 1 && isTRUE(x >= 0 && x <= 1)) return(as.double(x))
  stop_argument(arg, "a number from 0 to 1, or a law of such numbers", x,
    if (is.numeric(x) && length(x) == 1 && isTRUE(x > 1 && x <= 100)) sprintf("For %s %% write %s.", format_given(x),
      format_given(x / 100)), call)
}

check_rate <- function(x, call = rlang::caller_env()) {
  if (!is_law(x)) return(law_poisson(check_number(x, "rate", above = 0, call = call)))
  check_compound(list(count = x, size = law_discrete(1), deductible = 0, limit = Inf, limit_in_all = Inf), call)
  x
}

check_amount <- function(x, arg, call = rlang::caller_env()) {
  if (is_law(x) && !is_linked(x) && !is_categorical(x)) return(x)
  if (is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x)) return(as.double(x))
  stop_argument(arg, "a law of numbers, or one finite number", x, call = call)
}

# A list of consequences, each with its `amount` and the item that it is a per cent `of`; the name of a single one is "".
check_impacts <- function(impact, call = rlang::caller_env()) {
  if (inherits(impact, "ensayo_percent") || is_law(impact) || !is.list(impact)) impact <- stats::setNames(list(impact), "")
  else if (length(impact) == 0 || is.null(names(impact)) || any(!nzchar(names(impact))) || anyDuplicated(names(impact))) {
    stop_argument("impact", "a law or number, or a list of them in which each has a name of its own", impact, call = call)
  }
  lapply(impact, function(one) {
    if (inherits(one, "ensayo_percent")) unclass(one) else list(amount = check_amount(one, "impact", call))
  })
}

check_event_units <- function(unit, consequences, call = rlang::caller_env()) {
  if (is.null(unit)) return(NULL)
  ok <- is.character(unit) && (length(unit) == 1 || !is.null(names(unit)) && all(names(unit) %in% consequences))
  if (!ok) stop_argument("unit", "a text, or one for each consequence by its name", unit, call = call)
  if (is.null(names(unit))) stats::setNames(rep(unit, length(consequences)), consequences) else unit
}

check_response <- function(response, impacts, rate, call = rlang::caller_env()) {
  if (is.null(response)) return(NULL)
  if (!inherits(response, "ensayo_response")) stop_argument("response", "made by `response()`", response, call = call)
  wrong <- if (is.null(rate)) "rate" else "probability"
  if (!is.null(response[[wrong]])) {
    stop_argument(wrong, sprintf("left out of the response to an event with a %s", if (is.null(rate)) "probability" else "rate"),
      response[[wrong]], call = call)
  }
  if (!is.null(response$impacts) && !identical(names(response$impacts), names(impacts))) {
    stop_ensayo("argument", "A response's `impact` must have the consequences that the event has.", sprintf("The event has %s.",
      if (is.null(names(impacts)) || identical(names(impacts), "")) "one without a name" else and_list(quoted(names(impacts)))), argument = "impact", call = call)
  }
  unclass(response)
}

# Names as they stand in a call: bare, as text, or several by `c()`.
written_names <- function(expr, arg, most = Inf, call = rlang::caller_env()) {
  if (is.null(expr)) return(NULL)
  parts <- if (rlang::is_call(expr, "c")) as.list(expr)[-1] else list(expr)
  names <- unlist(lapply(parts, function(part) {
    if (is.symbol(part)) as.character(part) else if (rlang::is_call(part, "[", n = 2)) deparse1(part) else if (is.character(part)) part
    else stop_argument(arg, if (most == 1) "a name" else "names", deparse1(part), call = call)
  }))
  if (length(names) > most) stop_argument(arg, "one name", names, call = call)
  normal_name(names)
}

#' Add events to a study
#'
#' Events are what may or may not happen in a run. Each becomes a quantity of its name: its impact in the run, 0 where it did not
#' happen.
#'
#' @param .study A study.
#' @param ... Events by name, made by [event()]; also a list of them, or a data frame as [read_events()] gives it.
#' @return The study with the events, and the inputs and outputs that they are calculated with, added at the end.
#' @section In formulas: `burst` is the impact in the run, `happened(burst)` whether it happened, `burst[cost]` one of several
#'   consequences; `sum(events)` is the sum of the impacts of all events of one consequence, `sum(events[cost])` that of the
#'   consequences of one name, and a category's name that of its events. `sum(responses)` is what responses cost; 0 for those that
#'   are not taken.
#' @section What is drawn: whether an event happens, from the input `burst[draw]`, a uniform number (it happens where that is above
#'   1 less the probability); and its impact, from `burst[impact]`, whether it happens or not, so that nothing else changes when its
#'   probability does. With a rate the sum of the occurrences is drawn ([occurrences()]).
#' @section Base case: an event that is less likely than not does not happen in the base case, so that the base values of totals hold
#'   none; prints say so. The mean of the runs does hold its share.
#' @section Events that hang together: `needs`: the event happens in some of the runs in which the other did. `excludes`: of those
#'   no two happen in one run; each keeps its probability. A common cause: [add_common_cause()].
#' @section Drivers: [drivers()] take an event as one, its occurrence and its impact together.
#' @section Errors: `ensayo_error_name` for a name that is missing, taken or unknown; `ensayo_error_cycle` for events that need each
#'   other in a circle; `ensayo_error_argument` for probabilities of exclusive events that add up to more than 1, an event that
#'   excludes or needs itself, or what is not an event.
#' @examples
#' renewal <- study("Renewal of a street") |>
#'   add_inputs(pipe = law_pert(370, 410, 520), trench = law_pert(560, 620, 800)) |>
#'   add_events(
#'     rock = event(0.3, percent_of(trench, law_pert(5, 10, 30)), label = "Rock"),
#'     burst = event(0.15, law_pert(20, 50, 120), label = "Old main bursts"),
#'     claims = event(rate = 2, impact = law_lognormal(mean = 4, sd = 6), label = "Claims")
#'   ) |>
#'   add_outputs(cost = output(pipe + trench + sum(events), unit = "kEUR"))
#' simulate(renewal, nsim = 1000, seed = 11)
#' @export
add_events <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "keep"), events_from_table)
  names <- check_new_names(given, "event", c(quantity_names(.study), names(.study$tables)))
  for (i in seq_along(given)) {
    if (inherits(given[[i]], "ensayo_event")) next
    stop_ensayo("argument", sprintf("Event %s must be made by `event()`.", quoted(names[i])), sprintf("You gave %s.",
      shown_value(given[[i]])), "Such as `burst = event(0.15, law_pert(20, 50, 120))`.", name = names[i])
  }
  .study$events <- c(.study$events %||% list(), stats::setNames(lapply(given, unclass), names))
  with_events(.study)
}

#' Take responses to events
#'
#' @param .study A study.
#' @param ... Names of events that have a [response()]; all of them when left out.
#' @return The study in which these responses are taken, and no others: `respond(study)` is after all of them; `alternatives(study,
#'   after = respond)` compares before and after on the same draws.
#' @section Errors: `ensayo_error_name` where a name is not an event; `ensayo_error_argument` where it has no response.
#' @examples
#' works <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120),
#'     response = response(cost = 6, probability = 0.05))) |>
#'   add_outputs(cost = pipe + sum(events) + sum(responses))
#' compare_results(simulate(alternatives(works, after = respond), nsim = 1000, seed = 11),
#'   .better = "low")
#' @export
respond <- function(.study, ...) {
  check_study(.study)
  known <- names(.study$events)
  can <- names(Filter(function(event) !is.null(event$response), .study$events))
  asked <- rlang::enquos(...)
  taken <- if (length(asked) == 0) can else unique(unlist(lapply(asked, resolve_names, known = known, what = "an event of the study")))
  without <- setdiff(taken, can)
  if (length(without)) {
    stop_ensayo("argument", sprintf("%s must have a response to be taken.", quoted(without[1])), "It has none.",
      if (length(can)) sprintf("These have one: %s.", paste(quoted(can), collapse = ", ")), name = without[1])
  }
  for (name in known) .study$events[[name]]$responded <- if (name %in% taken) TRUE
  with_events(.study)
}

#' Events with a common cause
#'
#' Events that tend to happen in the same runs, or not to: frost, a contractor, a politician.
#'
#' @param .study A study.
#' @param ... Names of two or more events with a probability.
#' @param .correlation Number between -1 and 1: the correlation of whether they happen (1 where it happens, 0 where not), for
#'   each pair.
#' @return The study with these correlations.
#' @section Method: the uniform numbers behind them get the correlation of a normal copula with which both happen as often as the
#'   stated correlation says. Two events of unlike probabilities cannot be correlated up to 1: more than they can have is an error
#'   that says how much that is.
#' @section Errors: `ensayo_error_name` where a name is not an event; `ensayo_error_correlation` for more correlation than two
#'   probabilities allow, or a set of correlations that no joint law has.
#' @examples
#' study("Frost") |>
#'   add_events(burst = event(0.1, law_pert(20, 50, 120)), delay = event(0.2, 8)) |>
#'   add_common_cause(burst, delay, .correlation = 0.25)
#' @export
add_common_cause <- function(.study, ..., .correlation) {
  check_study(.study)
  names <- unique(unlist(lapply(rlang::enquos(...), resolve_names, known = names(.study$events), what = "an event of the study")))
  r <- check_number(.correlation, ".correlation", at_least = -1, at_most = 1)
  if (length(names) < 2) stop_argument("...", "the names of two events or more", names)
  for (pair in utils::combn(names, 2, simplify = FALSE)) {
    .study$events[[pair[2]]]$with[[pair[1]]] <- NULL
    .study$events[[pair[1]]]$with[[pair[2]]] <- r
  }
  with_events(.study)
}
