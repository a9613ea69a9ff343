# A study is a value: a list of plain parts. Verbs return a changed copy and never change their argument.
#   title, question   texts
#   inputs            named list of inputs, in order of definition
#   correlations      data frame: a, b, r (rank correlation), given (before a repair moved it)
#   outputs           named list of outputs, in order of definition
#   specs             named list of conditions
#   tables            named list of look-up tables
#   settings          names of the inputs that are settings of a study file, where there are any
#   models            named list of models besides formulas, where there are any
#   events            named list of events, where there are any
#   calendars, schedule, tasks   working calendars, what tasks have in common, and tasks, where there are any
#   costs             named list of cost trees, where there are any
#   units             units of the study's own, by name: their definition, "" of one that is a base
#   readings          how the house reads results: percentiles, planning percentile and its sense, chances

new_study <- function(title, question) {
  structure(
    list(
      title = title, question = question, inputs = list(),
      correlations = data.frame(a = character(), b = character(), r = numeric(),
        given = numeric()), outputs = list(), specs = list(),
      tables = list(), readings = default_readings
    ),
    class = "ensayo_study"
  )
}

#' Start a study
#'
#' A study holds inputs, correlations, outputs and specs. It starts empty and grows with [add_inputs()],
#' [add_correlation()], [add_outputs()] and [add_specs()]; [simulate()][simulate.ensayo_study] rehearses it.
#'
#' A study is a value: every verb returns a new study and leaves the old one as it was.
#'
#' @param title Text: what the study is about; it heads prints, figures and the report.
#' @param question Text or `NULL`: the question the study is to answer, for the report.
#' @return A study.
#' @section Errors: `ensayo_error_argument` where a text is not one text.
#' @examples
#' study("Gravity main, dry-season peak", question = "Does the last tap keep 38 m of pressure?")
#' @export
study <- function(title = "Untitled study", question = NULL) {
  new_study(check_string(title), check_string(question, null = TRUE))
}

quantity_names <- function(study) as.character(c(names(study$inputs), names(study$outputs)))

# The names a formula may use, with the families, groups and tables it may name as attributes.
quantity_vocabulary <- function(study, names = quantity_names(study)) {
  series <- series_steps(study)
  structure(as.character(names), set = set_of(names), groups = family_members(study, names), tables = study$tables,
    dates = c(date_outputs(study), dated_steps(series)), yes_no = yes_no_outputs(study),
    series = series, tasks = names(study$tasks))
}

# Marks of series whose steps are days.
dated_steps <- function(series) {
  dated <- Filter(function(steps) inherits(steps, "Date"), series)
  if (length(dated)) step_of(names(dated))
}

# The members of each family `zone[1]`, `zone[2]`, ... and of each group; a quantity's own name comes first.
family_members <- function(study, names = quantity_names(study)) {
  names <- setdiff(as.character(names), setdiff(aside_names(study), c(impact_outputs(study), cost_items_of(study))))
  family <- sub("\\[.+\\]$", "", names)
  families <- split(names[family != names], family[family != names])
  quantities <- c(study$inputs, study$outputs)
  groups <- text_of(quantities, function(quantity) quantity$group)
  groups <- split(as.character(names(quantities))[nzchar(groups)], groups[nzchar(groups)])
  members <- c(families, groups[setdiff(names(groups), names(families))])
  events <- event_families(study)
  members <- c(members, events[setdiff(names(events), names(members))])
  members[setdiff(names(members), names)]
}

# Inputs by their groups, in order; those without one by themselves.
grouped_inputs <- function(study, inputs) {
  group <- text_of(study$inputs[inputs], function(input) input$group)
  group[!nzchar(group)] <- inputs[!nzchar(group)]
  split(inputs, factor(group, unique(group)))
}

# The sum of quantities as an expression; of none it is 0.
sum_of_names <- function(names) {
  terms <- lapply(names, as.symbol)
  if (length(terms) == 0) 0 else if (length(terms) == 1) terms[[1]] else as.call(c(quote(sum), terms))
}

# What a reader calls a quantity: its label, or else its name.
quantity_label <- function(study, name) {
  quantity <- study$inputs[[name]] %||% study$outputs[[name]]
  quantity$label %||% name
}

# The events and tasks that quantities belong to, else their own names.
owners_of <- function(study, names) {
  vapply(names, function(name) {
    quantity <- study$inputs[[name]] %||% study$outputs[[name]]
    quantity$event %||% quantity$task %||% name
  }, "", USE.NAMES = FALSE)
}

quantity_unit <- function(study, name) {
  quantity <- study$inputs[[name]] %||% study$outputs[[name]]
  quantity$unit
}

# A study that can be simulated; every entry point asks this before any work is done.
validate_study <- function(study, call = rlang::caller_env()) {
  validate_inputs(study, call)
  if (length(study$outputs) == 0) {
    stop_ensayo("model", "The study needs at least one output.", NULL, "Add outputs with `add_outputs()`.", call = call)
  }
  output_order(study$outputs)
  invisible(study)
}

validate_inputs <- function(study, call = rlang::caller_env()) {
  if (length(study$inputs) == 0) {
    stop_ensayo("model", "The study needs at least one input.", NULL, "Add inputs with `add_inputs()`.", call = call)
  }
  for (set in correlated_sets(study)) check_correlation_set(study, set, call)
}
