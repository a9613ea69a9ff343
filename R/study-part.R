# The parts of a study: records of pure functions, in the order in which a study file is read. Whatever goes over a whole
# study goes over these, and a new part is its record and nothing else:
#   title                       what its section is called
#   hashed                      FALSE where nothing that is calculated depends on it
#   formulas(study)             its formulas, by name
#   changed(study, change)      the study with each of its formulas changed
#   renamed(study, old, new)    with an input under another name, where it stands outside formulas
#   users(study, name)          what in it uses an input, besides by formulas
#   removed(study, name)        without what hangs on an input that is taken out
#   record(study)               what a study file says of it: plain keys and values; NULL where it says nothing
#   read(study, record, file)   the study with what a file says; `file` has its `folder` and its whole `content`
#   reviewed(study, asked)      findings; `asked` has `nsim`, `percentiles` and `share`
#   table(study)                a data frame for readers
# A record may leave out all but `title`. The part's value is the study's field of its name.
study_parts <- function() {
  list(units = part_units, settings = part_settings, inputs = part_inputs, correlations = part_correlations, tables = part_tables,
    models = part_models, costs = part_costs, calendars = part_calendars, schedule = part_schedule, tasks = part_tasks, events = part_events, outputs = part_outputs, specs = part_specs, readings = part_readings)
}

# Those on which something that is calculated depends.
hashed_parts <- function() Filter(function(part) !isFALSE(part$hashed), study_parts())

# What each part answers, by its name; parts without that function give none.
of_parts <- function(answer, ..., parts = study_parts()) {
  answers <- lapply(parts, function(part) if (!is.null(part[[answer]])) part[[answer]](...))
  Filter(Negate(is.null), answers)
}

# The study as each part in turn changes it.
through_parts <- function(study, change, ...) {
  for (part in study_parts()) if (!is.null(part[[change]])) study <- part[[change]](study, ...)
  study
}

# Every formula of a study, by name.
formulas_of <- function(study, parts = study_parts()) {
  do.call(c, c(list(list()), unname(of_parts("formulas", study, parts = parts))))
}

with_input_renamed <- function(study, old, new) {
  study <- through_parts(study, "renamed", old, new)
  through_parts(study, "changed", function(formula) rename_in_formula(formula, old, new))
}

# The study with what is made of its events and tasks made anew.
remade <- function(study) {
  if (length(study$events)) with_events(study) else if (length(study$tasks)) with_tasks(study) else study
}

# What uses an input, by name.
users_of <- function(study, name) {
  by_formulas <- names(Filter(function(formula) name %in% formula$uses, formulas_of(study)))
  unique(c(by_formulas, unlist(of_parts("users", study, name), use.names = FALSE)))
}

without_input <- function(study, name) {
  users <- users_of(study, name)
  if (length(users)) {
    stop_ensayo("name", sprintf("%s cannot be removed while something uses it.", quoted(name)),
      sprintf("It is used by %s.", paste(quoted(users), collapse = ", ")),
      sprintf("To take its uncertainty away, use `fix_inputs(%s)`.", name), name = name)
  }
  through_parts(study, "removed", name)
}
