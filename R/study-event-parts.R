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
  for (name in names(inputs)) inputs[[name]]$stream <- study$inputs[[name]]$stream %||% name
  study$inputs[names(inputs)] <- inputs
  study <- with_event_outputs(bound_inputs(study, call), coming, call)
  with_causes(study, call)
}

check_event_names <- function(study, coming, call) {
  known <- names(study$events)
  for (name in known) {
    event <- study$events[[name]]
    place <- sprintf("Event %s", quoted(name))
    for (key in c("excludes", "needs")) {
      if (name %in% event[[key]]) {
        stop_ensayo("argument", sprintf("%s cannot %s itself.", place, sub("s$", "", sub("excludes", "exclude", key))), name = name, call = call)
      }
      unknown <- setdiff(event[[key]], known)
      if (length(unknown)) stop_unknown_name(unknown[1], known, "an event of the study", call = call)
    }
    items <- c(unlist(lapply(c(event$impacts, event$response$impacts), function(impact) impact$of)), event$on)
    unknown <- setdiff(items, c(quantity_names(study), coming))
    if (length(unknown)) stop_unknown_name(unknown[1], quantity_names(study), "an input or output of the study", call = call)
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
      input <- input(law, base = if (never) 0, unit = unit)
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
  formulas <- c(do.call(c, c(list(list()), unname(Map(event_formulas, list(study), names(study$events), study$events)))), event_sums(study))
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
    terms <- lapply(members, as.symbol)
    made <- new_output(if (length(terms) > 1) as.call(c(quote(sum), terms)) else if (length(terms)) terms[[1]] else 0,
      list(label = sprintf("Sum of %s", family)))
    made[c("event", "aside")] <- list(family, TRUE)
    made
  }, families, names(families)) |> stats::setNames(sprintf("sum(%s)", names(families)))
}

event_formulas <- function(study, name, event) {
  now <- event_now(event)
  happened <- as.symbol(part_name(name, "happened"))
  output <- function(expr, texts = list()) {
    made <- new_output(expr, texts)
    made[c("event", "aside")] <- list(name, TRUE)
    made
  }
  made <- list()
  made[[part_name(name, "happened")]] <- output(happened_expr(study, name, now), list(label = sprintf("%s happened", event$label %||% name)))
  for (i in seq_along(now$impacts)) {
    impact <- now$impacts[[i]]
    consequence <- names(now$impacts)[i]
    if (!is.null(event$closed)) {
      made[[impact_name(name, consequence)]] <- output(unname(event$closed[i]), list(unit = event_unit(event, consequence),
        label = event$label, note = event$note, group = event$category))
      next
    }
    amount <- if (is_law(impact$amount) || !is.null(now$rate)) as.symbol(part_name(name, "impact", consequence)) else impact$amount
    if (!is.null(impact$of)) amount <- call("/", call("*", amount, as.symbol(impact$of)), 100)
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

# It happens where its uniform number is above 1 less its probability; of exclusive events each has its share of what those before
# it leave.
happened_expr <- function(study, name, now) {
  if (!is.null(now$closed)) return(any(now$closed != 0))
  if (!is.null(now$rate)) {
    sums <- lapply(part_name(name, "impact", names(now$impacts)[1]), as.symbol)
    own <- call("!=", sums[[1]], 0)
  } else {
    p <- if (is_law(now$probability)) as.symbol(part_name(name, "probability")) else now$probability
    before <- exclusive_before(study, name)
    open <- Filter(function(other) is.null(study$events[[other]]$closed), before)
    if (length(before)) {
      left <- 1 - sum(vapply(open, function(other) event_now(study$events[[other]])$probability, 0))
      p <- if (left <= 0) 0 else min(p / left, 1)
    }
    own <- call(">", as.symbol(part_name(name, "draw")), if (is.numeric(p)) 1 - p else call("-", 1, p))
    for (other in before) own <- call("&", own, call("!", as.symbol(part_name(other, "happened"))))
  }
  if (length(now$needs)) own <- call("&", as.symbol(part_name(now$needs, "happened")), own)
  own
}

# The events that exclude one, of those before it; any two of a set must exclude each other.
exclusive_before <- function(study, name) {
  set <- exclusive_set(study, name)
  set[seq_len(match(name, set) - 1)]
}

exclusive_set <- function(study, name) {
  links <- function(a) {
    union(study$events[[a]]$excludes, names(Filter(function(event) a %in% event$excludes, study$events)))
  }
  set <- name
  while (length(new <- setdiff(unlist(lapply(set, links)), set))) set <- c(set, new)
  intersect(names(study$events), set)
}

check_exclusive <- function(study, call) {
  for (name in names(study$events)) {
    set <- exclusive_set(study, name)
    if (length(set) < 2 || set[1] != name) next
    set <- Filter(function(other) is.null(study$events[[other]]$closed), set)
    for (event in study$events[set]) {
      now <- event_now(event)
      if (!is.numeric(now$probability) || length(now$needs)) {
        stop_ensayo("argument", sprintf("Events that exclude each other must have numbers as probabilities, and need none: %s.",
          paste(quoted(set), collapse = ", ")), NULL, "Give each a number.", call = call)
      }
    }
    total <- sum(vapply(study$events[set], function(event) event_now(event)$probability, 0))
    if (total > 1 + 1e-12) {
      stop_ensayo("argument", sprintf("The probabilities of events that exclude each other must add up to at most 1: %s.",
        paste(quoted(set), collapse = ", ")), sprintf("They add up to %s.", format_given(total)), events = set, call = call)
    }
  }
}

# The impacts of events that say on what output: added to its own formula, which is kept beside.
with_impacts_added <- function(study, call) {
  targets <- lapply(study$events, function(event) event$on)
  for (name in names(study$outputs)) {
    output <- study$outputs[[name]]
    own <- output$own %||% output$formula
    events <- names(Filter(function(on) identical(on, name), targets))
    if (length(events) == 0 && is.null(output$own)) next
    if (length(events) && !is.null(output$model)) {
      stop_ensayo("argument", sprintf("%s must be an output with a formula for an impact on it.", quoted(name)), sprintf(
        "It is given by the model %s.", quoted(output$model)), name = name, call = call)
    }
    study$outputs[[name]]["own"] <- list(if (length(events)) own)
    study$outputs[[name]]$formula <- if (length(events) == 0) own else {
      impacts <- unlist(Map(function(event, of) impact_name(of, names(event$impacts)[1]), study$events[events], events))
      expr <- Reduce(function(sum, impact) call("+", sum, as.symbol(impact)), impacts, own$expr)
      formula <- own
      formula$expr <- expr
      formula$uses <- union(own$uses, impacts)
      formula
    }
  }
  inputs <- setdiff(unlist(targets), names(study$outputs))
  if (length(inputs) && inputs[1] %in% names(study$inputs)) {
    stop_ensayo("argument", sprintf("An impact is added to an output; %s is an input.", quoted(inputs[1])), NULL,
      "Add it in the formulas that use the input.", name = inputs[1], call = call)
  }
  study
}

# Correlations of whether events happen, as rank correlations of the uniform numbers behind. Before and after a response it is the
# same, so that no other event changes.
with_causes <- function(study, call) {
  draws <- part_name(names(study$events), "draw")
  pairs <- study$correlations
  study$correlations <- pairs[!(pairs$a %in% draws & pairs$b %in% draws), , drop = FALSE]
  rownames(study$correlations) <- NULL
  for (name in names(study$events)) {
    for (other in names(study$events[[name]]$with)) {
      events <- study$events[c(name, other)]
      if (any(vapply(events, function(event) !is.null(event$closed), NA))) next
      rated <- Filter(function(event) is.null(event$probability), events)
      if (length(rated)) {
        stop_ensayo("correlation", "Events with a common cause must have probabilities.", sprintf("%s has a rate.",
          quoted(names(rated)[1])), name = names(rated)[1], call = call)
      }
      p <- vapply(events, function(event) if (is_law(event$probability)) mean(event$probability) else event$probability, 0)
      score <- occurrence_score(p, events[[1]]$with[[other]], names(events), call)
      if (score != 0) study <- add_pair(study, part_name(name, "draw"), part_name(other, "draw"), rank_of(score, "score"), FALSE, call)
    }
  }
  for (set in correlated_sets(study)) check_correlation_set(study, set, call)
  study
}

# Correlations that do not come from events with a common cause, or from groups of costs.
own_correlations <- function(study, of_events = FALSE) {
  pairs <- study$correlations
  draws <- if (!of_events) part_name(names(study$events), "draw")
  paired <- do.call(rbind, lapply(unname(study$costs), function(tree) tree$paired))
  key <- function(pairs) paste(pairs$a, pairs$b, sep = "\r")
  pairs[!(pairs$a %in% draws & pairs$b %in% draws) & !key(pairs) %in% key(paired), , drop = FALSE]
}

# The correlation of normal scores with which two events have this correlation of whether they happen.
occurrence_score <- function(p, r, names, call) {
  if (r == 0) return(0)
  if (any(p <= 0 | p >= 1)) {
    stop_ensayo("correlation", sprintf("%s must be uncertain to be correlated.", quoted(names[p <= 0 | p >= 1][1])), sprintf(
      "Its probability is %s.", format_given(p[p <= 0 | p >= 1][1])), call = call)
  }
  spread <- sqrt(prod(p * (1 - p)))
  ends <- (c(max(0, sum(p) - 1), min(p)) - prod(p)) / spread
  if (r < ends[1] || r > ends[2]) {
    stop_ensayo("correlation", sprintf("%s and %s can be correlated from %s to %s.", quoted(names[1]), quoted(names[2]),
      format_number(ends[1], 2), format_number(ends[2], 2)), sprintf("You gave %s.", format_given(r)),
      "Events of unlike probabilities cannot always happen together.", events = names, call = call)
  }
  both <- prod(p) + r * spread
  z <- stats::qnorm(p)
  # Plackett (1954): the probability of both grows with the correlation by the density of the two scores
  density <- function(t) exp(-(z[1]^2 - 2 * t * z[1] * z[2] + z[2]^2) / (2 * (1 - t^2))) / (2 * pi * sqrt(1 - t^2))
  miss <- function(t) prod(p) + stats::integrate(density, 0, t, rel.tol = 1e-10)$value - both
  reach <- if (r > 0) c(0, 1 - 1e-9) else c(-1 + 1e-9, 0)
  if (miss(reach[2]) <= 0) return(1)
  if (miss(reach[1]) >= 0) return(-1)
  stats::uniroot(miss, reach, tol = 1e-12)$root
}
