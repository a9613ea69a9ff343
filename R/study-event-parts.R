# What events are calculated with: for an event `burst` the inputs `burst[draw]`, `burst[impact]` and, where they are laws,
# `burst[probability]` and `burst[response cost]`; the outputs `burst[happened]`, `burst`, its impact, and `burst[response]`. Of
# several consequences there are `burst[impact on cost]` and `burst[cost]` for each.

impact_name <- function(event, consequence) ifelse(nzchar(consequence), sprintf("%s[%s]", event, consequence), event)

part_name <- function(event, part, consequence = "") {
  sprintf("%s[%s%s]", event, part, ifelse(nzchar(consequence), paste0(" on ", consequence), ""))
}

# The names of the outputs that are impacts, of events in order.
impact_outputs <- function(study) {
  as.character(unlist(Map(function(event, name) impact_name(name, names(event$impacts)), study$events, names(study$events)),
    use.names = FALSE))
}

# What formulas may sum: `events` are all impacts that have no name of their own, `events[cost]` those of one name.
event_families <- function(study) {
  if (is.null(study$events)) return(list())
  if (length(study$events) == 0) return(list(events = character(), responses = character()))
  consequences <- unlist(lapply(study$events, function(event) names(event$impacts)), use.names = FALSE)
  by <- split(impact_outputs(study), factor(consequences, unique(consequences)))
  names(by) <- ifelse(nzchar(names(by)), sprintf("events[%s]", names(by)), "events")
  answered <- names(Filter(function(event) !is.null(event$response), study$events))
  c(by, list(responses = sprintf("%s[response]", answered)))
}

# The study with the inputs and outputs of its events made anew; those that are there keep their places. `coming` are quantities that
# a file names later.
with_events <- function(study, coming = character(), call = rlang::caller_env()) {
  check_event_names(study, coming, call)
  inputs <- event_inputs(study)
  old <- names(Filter(function(input) !is.null(input$event), study$inputs))
  study$inputs[setdiff(old, names(inputs))] <- NULL
  taken <- intersect(setdiff(names(inputs), old), c(quantity_names(study), names(study$tables)))
  if (length(taken)) check_new_names(inputs[taken[1]], "event", taken, call)
  study$inputs[names(inputs)] <- with_streams(inputs, study$inputs)
  study <- with_causes(with_event_outputs(bound_inputs(study, call), coming, call), call)
  if (length(study$tasks)) with_tasks(study, coming, call) else study
}

# Of what an event's impacts are per cents.
items_of <- function(event) unlist(lapply(c(event$impacts, event$response$impacts), function(impact) impact$of))

check_event_names <- function(study, coming, call) {
  known <- names(study$events)
  quantities <- c(quantity_names(study), names(study$tasks))
  for (name in known) {
    event <- study$events[[name]]
    place <- sprintf("Event %s", quoted(name))
    for (key in c("excludes", "needs")) {
      if (name %in% event[[key]]) {
        stop_ensayo("argument", sprintf("%s cannot %s itself.", place, sub("s$", "", sub("excludes", "exclude", key))), name = name,
          call = call)
      }
      unknown <- setdiff(event[[key]], known)
      if (length(unknown)) in_place(sprintf("%s, `%s`", place, key), stop_unknown_name(unknown[1], known, "an event of the study", call = call))
    }
    unknown <- setdiff(c(items_of(event), event$on), c(quantities, coming))
    if (length(unknown)) in_place(place, stop_unknown_name(unknown[1], quantities, "an input, output or task of the study", call = call))
  }
  check_exclusive(study, call)
  order_of(lapply(study$events, function(event) event$needs %||% character()), "Events", call)
}

# An event as it is calculated with: after its response where that is taken.
event_now <- function(event) {
  if (!isTRUE(event$responded)) return(event)
  for (key in c("probability", "rate", "impacts")) if (!is.null(event$response[[key]])) event[[key]] <- event$response[[key]]
  event
}

event_inputs <- function(study) {
  do.call(c, c(list(list()), unname(Map(function(event, name) {
    if (!is.null(event$closed)) return(list())
    now <- event_now(event)
    made <- list()
    add <- function(part, law, consequence = "", unit = NULL) {
      # the base case holds no occurrence where none is likelier than some
      never <- is_occurrences(law) && density_at(parameters_of(law)$count, 0) >= 0.5
      what <- if (part == "draw") "whether it happens" else paste0(part, if (nzchar(consequence)) paste(" on", consequence))
      input <- input(law, base = if (never) 0, unit = unit, label = sprintf("%s: %s", event$label %||% name, what))
      input$event <- name
      input$aside <- TRUE
      made[[part_name(name, part, consequence)]] <<- input
    }
    if (!is.null(now$probability)) add("draw", law_uniform(0, 1))
    if (is_law(now$probability)) add("probability", now$probability)
    leading <- NULL
    for (i in seq_along(now$impacts)) {
      impact <- now$impacts[[i]]
      consequence <- names(now$impacts)[i]
      law <- if (!is.null(now$rate)) occurrences(now$rate, impact$amount) else impact$amount
      if (!is_law(law)) next
      add("impact", law, consequence, if (is.null(impact$of)) event_unit(event, consequence) else "%")
      own <- part_name(name, "impact", consequence)
      if (!is.null(leading) && event$severity == "one") made[[own]]$shares <- leading
      leading <- leading %||% own
    }
    if (is_law(event$response$cost)) add("response cost", event$response$cost, "", event_unit(event, names(event$impacts)[1]))
    made
  }, study$events, names(study$events)))))
}

# How likely it is to happen at all, where what it needs does.
event_chance <- function(event) {
  now <- event_now(event)
  if (is.null(now$probability)) 1 - density_at(now$rate, 0) else if (is_law(now$probability)) mean(now$probability) else now$probability
}

event_unit <- function(event, consequence) {
  if (is.null(event$unit)) NULL else unname(if (nzchar(consequence)) event$unit[consequence] else event$unit[1])
}

# Formulas that hold each event of a family by itself would leave out those that are added later.
refuse_left_out <- function(study, new, call) {
  if (!any(new %in% impact_outputs(study))) return(invisible())
  for (name in names(study$outputs)) {
    formula <- study$outputs[[name]]$formula
    if (is.null(formula$written)) next
    families <- event_families(study)
    families <- families[intersect(names_or_members(str2lang(formula$written)), names(families))]
    families <- families[!sprintf("sum(%s)", names(families)) %in% formula$uses]
    if (!all(intersect(new, unlist(families)) %in% formula$uses)) {
      stop_ensayo("argument", sprintf("Events must be added before %s, which takes each of them.", quoted(name)), sprintf("It reads %s.",
        quoted(formula$text)), "A `sum()` of them may stand before.", name = name, call = call)
    }
  }
}

# The names in an expression; `events[weeks]` is one.
names_or_members <- function(expr) {
  if (is.symbol(expr)) return(as.character(expr))
  if (!is.call(expr)) return(character())
  if (rlang::is_call(expr, "[")) return(deparse1(expr))
  unlist(lapply(as.list(expr)[-1], names_or_members))
}

# Formulas, as calls of names.
with_event_outputs <- function(study, coming, call) {
  old <- names(Filter(function(output) !is.null(output$event), study$outputs))
  pairs <- exclusive_pairs(study)
  own <- Map(function(name, event) event_formulas(study, name, event, pairs), names(study$events), study$events)
  formulas <- c(do.call(c, c(list(list()), unname(own))), event_sums(study), moved_formulas(study))
  study$outputs[setdiff(old, names(formulas))] <- NULL
  taken <- intersect(setdiff(names(formulas), old), c(quantity_names(study), names(study$tables)))
  if (length(taken)) check_new_names(formulas[taken[1]], "event", taken, call)
  known <- c(quantity_names(study), names(formulas), coming)
  v <- quantity_vocabulary(study, unique(known))
  for (name in names(formulas)) {
    output <- formulas[[name]]
    output$formula <- read_formula(rlang::new_quosure(output$formula, baseenv()), v, sprintf("Event %s", quoted(output$event)))
    study$outputs[[name]] <- output
  }
  refuse_left_out(study, setdiff(names(formulas), old), call)
  study <- with_impacts_added(study, call)
  if (length(coming) == 0) output_order(study$outputs, call)
  study
}

# Sums of families of events, which formulas use by what they are written as, so that they hold events that are added later.
event_sums <- function(study) {
  families <- event_families(study)
  categories <- text_of(study$events, function(event) event$category)
  for (category in setdiff(categories, c("", names(families), text_of(c(study$inputs, study$outputs), function(quantity) {
    if (is.null(quantity$event)) quantity$group
  })))) {
    own <- study$events[categories == category]
    families[[category]] <- as.character(unlist(Map(function(event, name) impact_name(name, names(event$impacts)), own, names(own))))
  }
  Map(function(members, family) {
    made <- new_output(sum_of_names(members), list(label = sprintf("Sum of %s", family)))
    made[c("event", "aside")] <- list(family, TRUE)
    made
  }, families, names(families)) |> stats::setNames(sprintf("sum(%s)", names(families)))
}

# Of a task the item is its days of work, before events.
item_name <- function(study, of) if (of %in% names(study$tasks)) task_part(of, "duration") else of

event_formulas <- function(study, name, event, pairs) {
  now <- event_now(event)
  happened <- as.symbol(part_name(name, "happened"))
  output <- function(expr, texts = list()) {
    made <- new_output(expr, texts)
    made[c("event", "aside")] <- list(name, TRUE)
    made
  }
  made <- list()
  made[[part_name(name, "happened")]] <- output(happened_expr(study, name, now, pairs), list(label = sprintf("%s happened",
    event$label %||% name)))
  for (i in seq_along(now$impacts)) {
    impact <- now$impacts[[i]]
    consequence <- names(now$impacts)[i]
    if (!is.null(event$closed)) {
      made[[impact_name(name, consequence)]] <- output(unname(event$closed[i]), list(unit = event_unit(event, consequence),
        label = event$label, note = event$note, group = event$category))
      next
    }
    amount <- if (is_law(impact$amount) || !is.null(now$rate)) as.symbol(part_name(name, "impact", consequence)) else impact$amount
    if (!is.null(impact$of)) amount <- call("/", call("*", amount, as.symbol(item_name(study, impact$of))), 100)
    made[[impact_name(name, consequence)]] <- output(call("if", happened, amount, 0), list(unit = event_unit(event, consequence),
      label = event$label, note = event$note, group = event$category))
  }
  if (!is.null(event$response)) {
    cost <- event$response$cost
    if (is_law(cost) && !is.null(event$closed)) cost <- mean(cost)
    if (is_law(cost)) cost <- as.symbol(part_name(name, "response cost"))
    if (event$response$when == "occurs") cost <- call("if", happened, cost, 0)
    made[[part_name(name, "response")]] <- output(if (isTRUE(event$responded)) cost else 0,
      list(unit = event_unit(event, names(event$impacts)[1]), label = event$response$label))
  }
  made
}

# The impacts of events that say on what: on an output they are added to its own formula, which is kept beside; an input is
# replaced by `demand[with events]` in the formulas that take it.
with_impacts_added <- function(study, call) {
  targets <- lapply(study$events, function(event) event$on)
  moved <- moved_inputs(study)
  check_moved(study, moved, call)
  for (name in names(Filter(function(output) is.null(output$event), study$outputs))) {
    output <- study$outputs[[name]]
    own <- output$own %||% output$formula
    events <- names(Filter(function(on) name %in% on, targets))
    if (length(events) && !is.null(output$model)) {
      stop_ensayo("argument", sprintf("%s must be an output with a formula for an impact on it.", quoted(name)), sprintf(
        "It is given by the model %s.", quoted(output$model)), name = name, call = call)
    }
    taken <- intersect(moved, own$uses)
    changed <- length(events) + length(taken) > 0
    if (!changed && is.null(output$own)) next
    study$outputs[[name]]["own"] <- list(if (changed) own)
    formula <- own
    for (input in taken) formula <- rename_in_formula(formula, input, with_events_name(input))
    study$outputs[[name]]$formula <- plus_impacts(formula, impacts_of(study, events))
  }
  study
}

impacts_of <- function(study, events) {
  unlist(Map(function(event, of) impact_name(of, names(event$impacts)[1]), study$events[events], events))
}

plus_impacts <- function(formula, impacts) {
  formula$expr <- with_impacts(formula$expr, impacts)
  formula$uses <- union(formula$uses, impacts)
  formula
}

with_impacts <- function(expr, impacts) Reduce(function(sum, impact) call("+", sum, as.symbol(impact)), impacts, expr)

with_events_name <- function(input) sprintf("%s[with events]", input)

# Inputs on which events have an impact.
moved_inputs <- function(study) {
  intersect(unique(unlist(lapply(study$events, function(event) event$on))), names(study$inputs))
}

check_moved <- function(study, moved, call) {
  for (input in moved) {
    takers <- names(Filter(function(model) input %in% model$uses, described_models(study)))
    if (length(takers)) {
      stop_ensayo("argument", sprintf("%s must be an input of formulas for an impact on it.", quoted(input)), sprintf(
        "The model %s takes it as it is drawn.", quoted(takers[1])), "Let the model take an output that adds the impact.", name = input,
        call = call)
    }
  }
}

moved_formulas <- function(study) {
  inputs <- moved_inputs(study)
  Map(function(input) {
    events <- names(Filter(function(event) input %in% event$on, study$events))
    own <- study$inputs[[input]]
    made <- new_output(with_impacts(as.symbol(input), impacts_of(study, events)), list(unit = own$unit, label = sprintf(
      "%s with events", own$label %||% input)))
    made[c("event", "aside")] <- list(input, TRUE)
    made
  }, inputs) |> stats::setNames(with_events_name(inputs))
}
