# Events in study files and registers.

event_keys <- c("probability", "rate", "impact", "of", "on", "beside", "unit", "label", "note", "category", "owner", "excludes", "needs", "with",
  "severity", "response", "taken", "closed")

# `impact: pert(20, 50, 120)`; `{impact: pert(5, 10, 30), of: trench}`; `impact: {cost: ..., weeks: {percent: ..., of: ...}}`.
event_from_record <- function(record, name, place = sprintf("Event %s", quoted(name))) {
  if (!is.list(record)) stop_ensayo("file", sprintf("%s must hold keys and values.", place), sprintf("It is %s.", shown_value(record)),
    "Such as `{probability: 0.15, impact: pert(20, 50, 120)}`.")
  check_keys(record, event_keys, place)
  at <- function(key) sprintf("%s, %s", place, quoted(key))
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], at(key))
  names_of_key <- function(key) if (!is.null(record[[key]])) normal_name(vapply(as.list(record[[key]]), read_text, "", place = at(key),
    USE.NAMES = FALSE))
  if (is.null(record$impact)) stop_ensayo("file", sprintf("%s must give its impact.", place), "`impact` is missing.", name = name)
  unit <- if (is.list(record$unit)) vapply(record$unit, read_text, "", place = at("unit")) else text("unit")
  given <- list(
    probability = chance_from_record(record$probability, at("probability")), rate = amount_from_record(record$rate, at("rate")),
    impact = impact_from_record(record$impact, record$of, at("impact")), unit = unit, label = text("label"), note = text("note"),
    category = text("category"), owner = text("owner"), severity = text("severity") %||% "one",
    beside = if (!is.null(record$beside)) read_flag(record$beside, at("beside")),
    response = response_from_record(record$response, sprintf("%s, response", place)))
  made <- in_place(place, do.call(event, Filter(Negate(is.null), given)))
  made["on"] <- list(names_of_key("on"))
  made["excludes"] <- list(names_of_key("excludes"))
  made["needs"] <- list(names_of_key("needs"))
  if (!is.null(record$with)) {
    check_named(record$with, at("with"))
    made$with <- stats::setNames(lapply(record$with, read_number, place = at("with")), normal_name(names(record$with)))
  }
  if (!is.null(record$closed)) {
    cost <- vapply(as.list(record$closed), read_number, 0, place = at("closed"))
    made$closed <- stats::setNames(as.double(cost), names(made$impacts))
  }
  if (!is.null(record$taken) && read_flag(record$taken, at("taken"))) made$responded <- TRUE
  made
}

# A number as in `0.15` or `15 %`, or a law.
chance_from_record <- function(x, place) {
  if (is.null(x)) return(NULL)
  percent <- is.character(x) && length(x) == 1 && grepl("%\\s*$", x)
  p <- if (percent) read_number(sub("\\s*%\\s*$", "", x), place) / 100 else amount_from_record(x, place)
  in_place(place, check_event_probability(p, "probability"))
}

amount_from_record <- function(x, place) {
  if (is.null(x)) return(NULL)
  if (is.list(x)) return(law_from_record(x, place))
  if (is.numeric(x) || is_number_text(x)) read_number(x, place) else law_from_text(read_text(x, place), place)
}

impact_from_record <- function(x, of, place) {
  if (!is.null(of)) return(percent_given(amount_from_record(x, place), read_text(of, place)))
  if (!is.list(x) || !is.null(x$law)) return(amount_from_record(x, place))
  if (identical(sort(names(x)), c("of", "percent"))) return(percent_given(amount_from_record(x$percent, place), read_text(x$of, place)))
  if ("percent" %in% names(x)) stop_ensayo("file", sprintf("%s must give `percent`, and `of` what.", place), "`of` is missing.",
    "Such as `{percent: pert(5, 10, 30), of: trench}`.")
  check_named(x, place)
  lapply(x, impact_from_record, of = NULL, place = place)
}

percent_given <- function(percent, of) {
  structure(list(amount = check_amount(percent, "impact"), of = normal_name(of)), class = "ensayo_percent")
}

response_from_record <- function(record, place) {
  if (is.null(record)) return(NULL)
  if (!is.list(record)) record <- list(cost = record)
  check_keys(record, c("cost", "probability", "rate", "impact", "of", "when", "label"), place)
  at <- function(key) sprintf("%s, %s", place, quoted(key))
  if (is.null(record$cost)) stop_ensayo("file", sprintf("%s must give its cost.", place), "`cost` is missing.")
  in_place(place, do.call(response, Filter(Negate(is.null), list(cost = amount_from_record(record$cost, at("cost")),
    probability = chance_from_record(record$probability, at("probability")), rate = amount_from_record(record$rate, at("rate")),
    impact = if (!is.null(record$impact)) impact_from_record(record$impact, record$of, at("impact")),
    when = if (!is.null(record$when)) read_text(record$when, at("when")),
    label = if (!is.null(record$label)) read_text(record$label, at("label"))))))
}

amount_record <- function(x) if (is_law(x)) law_text(x) else x

impact_record <- function(impacts) {
  one <- function(impact) {
    if (is.null(impact$of)) amount_record(impact$amount) else list(percent = amount_record(impact$amount), of = impact$of)
  }
  if (identical(names(impacts), "")) one(impacts[[1]]) else lapply(impacts, one)
}

# What reading turns into the same event again.
event_record <- function(event) {
  rate <- event$rate
  if (is_law(rate) && family_name(rate) == "poisson") rate <- parameters_of(rate)$mean
  response <- event$response
  if (!is.null(response)) {
    response <- Filter(Negate(is.null), list(cost = amount_record(response$cost), probability = if (!is.null(response$probability))
      amount_record(response$probability), rate = if (!is.null(response$rate)) amount_record(response$rate),
      impact = if (!is.null(response$impacts)) impact_record(response$impacts), when = if (response$when != "always") response$when,
      label = response$label))
  }
  unit <- event$unit
  if (length(unique(unit)) == 1) unit <- unname(unit[1])
  several <- function(x) if (length(x) > 1) as.list(x) else x
  Filter(Negate(is.null), list(probability = if (!is.null(event$probability)) amount_record(event$probability),
    rate = if (!is.null(rate)) amount_record(rate), impact = impact_record(event$impacts), on = several(event$on),
    beside = if (isTRUE(event$beside)) TRUE,
    unit = if (length(unit) > 1) as.list(unit) else unit, label = event$label, note = event$note, category = event$category,
    owner = event$owner, excludes = several(event$excludes),
    needs = event$needs, with = event$with, severity = if (event$severity != "one") event$severity, response = response,
    taken = if (isTRUE(event$responded)) TRUE, closed = if (length(event$closed) > 1) as.list(event$closed) else unname(event$closed)))
}

file_events <- function(study, record, file) {
  if (is.null(record)) return(study)
  study$events <- file_section(study, record, file, "event", read_events, events_from_table, event_from_record)
  of_tasks <- unlist(lapply(c("duration", "cost", cost_parts), task_part, task = names(study$tasks)))
  with_events(study, c(normal_name(names(file$content$outputs)), of_tasks, if (length(study$tasks)) c("project_finish", "project_cost")))
}

# A section of a file: records by name, and beside them the rows of a table, `{file: events.csv}`.
file_section <- function(study, record, file, what, read, from_table, from_record, formats = "csv") {
  check_section(record, paste0(what, "s"))
  rows <- NULL
  if (is.character(record$file) && file_ending(record$file) %in% formats) {
    rows <- from_table(read(beside(record$file, file$folder)), record$file)
    record$file <- NULL
  }
  names <- normal_name(names(record))
  made <- c(rows, stats::setNames(Map(from_record, record, names), names))
  check_new_names(made, what, c(quantity_names(study), names(study$tables)))
  lapply(made, unclass)
}

part_events <- list(
  title = "Events",
  renamed = function(study, old, new) {
    study$events[] <- lapply(study$events, renamed_in_event, old, new)
    study
  },
  users = function(study, name) {
    names(Filter(function(event) name %in% c(items_of(event), event$on), study$events))
  },
  record = function(study) lapply(study$events, event_record),
  read = function(study, record, file) file_events(study, record, file),
  reviewed = function(study, asked) review_events(study, asked$nsim),
  table = function(study) event_register(study)
)

renamed_in_event <- function(event, old, new) {
  swap <- function(impacts) {
    lapply(impacts, function(impact) {
      if (identical(impact$of, old)) impact$of <- new
      impact
    })
  }
  event$impacts <- swap(event$impacts)
  event$on[event$on == old] <- new
  if (!is.null(event$response$impacts)) event$response$impacts <- swap(event$response$impacts)
  event
}
