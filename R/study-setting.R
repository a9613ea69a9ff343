# Settings of a study file: constants that a call may give other values. They are inputs that do not vary; the study
# remembers which. One may be a text, for templates, commands and comparisons in formulas.

file_settings <- function(study, records) {
  if (is.null(records)) return(study)
  check_section(records, "settings")
  inputs <- Map(setting_from_record, records, normal_name(names(records)))
  study <- add_inputs(study, stats::setNames(inputs, normal_name(names(records))))
  study$settings <- normal_name(names(records))
  study
}

setting_from_record <- function(record, name) {
  place <- sprintf("Setting %s", quoted(name))
  if (!is.list(record)) record <- list(default = record)
  check_keys(record, c("default", "kind", "label", "unit", "help"), place)
  if (is.null(record$default)) stop_ensayo("file", sprintf("%s must give its default.", place), "`default` is missing.")
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  default <- record$default
  as_text <- is.character(default) && !is_number_text(default)
  if (!is.null(record$kind)) {
    kind <- record$kind
    if (!identical(kind, "text") && !identical(kind, "number")) {
      stop_ensayo("file", sprintf("%s: `kind` must be text or number.", place), sprintf("It is %s.", shown_value(kind)))
    }
    as_text <- kind == "text"
  }
  if (as_text) default <- read_text(default, sprintf("%s, `default`,", place))
  else default <- read_number(default, sprintf("%s, `default`,", place))
  setting <- in_place(place, input(0, NULL, text("unit"), text("label"), text("help")))
  setting_of(setting, default)
}

# A setting with another value.
setting_of <- function(setting, value) {
  setting[c("law", "base")] <- value
  setting
}

setting_record <- function(input) {
  # a text that would be read as a number says what it is
  more <- Filter(Negate(is.null), list(kind = if (is_number_text(input$law)) "text", label = input$label, unit = input$unit, help = input$note))
  if (length(more)) c(list(default = input$law), more) else input$law
}

# The study with other values of its settings.
with_settings <- function(study, values, call = rlang::caller_env()) {
  unknown <- setdiff(names(values), study$settings)
  if (length(unknown)) {
    stop_ensayo("name", "A setting must be one of the study file's.", sprintf("%s is none.", quoted(unknown[1])),
      if (length(study$settings)) suggestion(unknown[1], study$settings) else "It has no section `settings`.",
      name = unknown[1], known = study$settings, call = call)
  }
  for (name in names(values)) {
    value <- values[[name]]
    value <- if (is.character(held_value(study$inputs[[name]]))) {
      check_string(if (is.numeric(value)) cpp_number_text(value) else value, name, call = call)
    } else {
      check_number(value, name, call = call)
    }
    study$inputs[[name]] <- setting_of(study$inputs[[name]], value)
  }
  bound_inputs(study)
}

part_settings <- list(
  title = "Settings",
  hashed = FALSE,
  renamed = function(study, old, new) {
    if (length(study$settings)) study$settings[study$settings == old] <- new
    study
  },
  removed = function(study, name) {
    if (length(study$settings)) study$settings <- setdiff(study$settings, name)
    study
  },
  record = function(study) lapply(study$inputs[study$settings], setting_record),
  read = function(study, record, file) file_settings(study, record),
  table = function(study) {
    inputs <- study$inputs[study$settings]
    new_table(list(name = as.character(names(inputs)), value = values_column(lapply(inputs, held_value)),
      unit = text_of(inputs, function(input) input$unit), label = text_of(inputs, function(input) input$label),
      help = text_of(inputs, function(input) input$note)))
  }
)
