# Records: what a study file (or a row of a table) says of one input, output or correlation, as key and value, and the
# values they stand for. Scalars come as the text that was written, or from a table as numbers.

input_keys <- c("base", "unit", "label", "note", "group", "fixed")

# `place` says where the record stands, for messages.
input_from_record <- function(record, name, place = sprintf("Input %s", quoted(name))) {
  if (!is.list(record)) return(input(read_number(record, place)))
  law_key <- read_text(record$law %||% if (!is.null(record$value)) "constant" else NA, paste0(place, ", `law`"))
  law <- if (law_key == "constant") {
    check_keys(record, c("law", "value", setdiff(input_keys, c("base", "fixed"))), place)
    read_number(record$value, paste0(place, ", `value`"))
  } else law_from_record(record[setdiff(names(record), input_keys)], place)
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  base <- if (!is.null(record$base)) read_number(record$base, paste0(place, ", `base`"))
  out <- in_place(place, input(law, base, text("unit"), text("label"), text("note"), text("group")))
  if (!is.null(record$fixed)) out$fixed <- read_number(record$fixed, paste0(place, ", `fixed`"))
  out
}

law_from_record <- function(record, place) {
  family <- read_text(record$law %||% NA, paste0(place, ", `law`"))
  if (!family %in% c(law_family_names, "scaled")) {
    stop_ensayo("file", sprintf("%s must name a law.", place), sprintf("%s is none.", quoted(family)),
      suggestion(family, law_family_names), name = family)
  }
  known <- family_record(family)$parameters
  check_keys(record, c("law", known), place, also = input_keys)
  given <- record[setdiff(names(record), "law")]
  numbers <- lapply(stats::setNames(nm = setdiff(names(given), "of")), function(key) {
    read_number(given[[key]], sprintf("%s, %s", place, quoted(key)))
  })
  if (family == "scaled") {
    return(in_place(place,
      scale_law(law_from_record(as.list(given$of), place), numbers$times %||% 1, numbers$plus %||% 0)))
  }
  needed <- Filter(rlang::is_missing, formals(paste0("law_", family)))
  absent <- if (family == "lognormal") character() else setdiff(names(needed), names(numbers))
  if (length(absent)) {
    stop_ensayo("file", sprintf("%s must give %s.", place, paste(quoted(names(needed)), collapse = ", ")),
      sprintf("%s is missing.", quoted(absent[1])), name = absent[1])
  }
  in_place(place, do.call(paste0("law_", family), numbers))
}

# The record of an input, and of a law; what reading turns into the same value again.
input_record <- function(input) {
  law <- if (is_law(input$law)) law_record(input$law) else list(value = input$law)
  more <- list(base = if (input$base_rule == "given") input$base, unit = input$unit, label = input$label,
    group = input$group, note = input$note, fixed = input$fixed)
  record <- c(law, Filter(Negate(is.null), more))
  if (identical(names(record), "value")) record$value else record
}

law_record <- function(law) {
  parameters <- lapply(parameters_of(law),
    function(parameter) if (is_law(parameter)) law_record(parameter) else parameter)
  c(list(law = .subset2(law, "family")), parameters)
}

output_from_record <- function(record, name, place = sprintf("Output %s", quoted(name))) {
  if (!is.list(record)) record <- list(formula = record)
  check_keys(record, c("formula", "unit", "label", "note"), place)
  if (is.null(record$formula)) stop_ensayo("file", sprintf("%s must give its formula.", place), "`formula` is missing.")
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  new_output(text("formula"), text("unit"), text("label"), text("note"))
}

output_record <- function(output) {
  more <- Filter(Negate(is.null), list(unit = output$unit, label = output$label, note = output$note))
  if (length(more)) c(list(formula = file_formula(output$formula)), more) else file_formula(output$formula)
}

# A formula as a file can hold it: constants of the user's session written in, functions refused.
file_formula <- function(formula) {
  if (length(formula$functions)) {
    stop_ensayo("file", "A study file's formulas must use the formula language alone.",
      sprintf("%s is a function of your own.", quoted(names(formula$functions)[1])),
      "Keep such a study as an R script; `saveRDS()` keeps its value.", name = names(formula$functions)[1])
  }
  deparse1(with_constants(formula$expr, formula$constants), width.cutoff = 500L)
}

with_constants <- function(expr, constants) {
  map_symbols(expr, function(symbol) constants[[as.character(symbol)]] %||% symbol)
}

read_text <- function(x, place) {
  if (!is.character(x) && !is.numeric(x) || length(x) != 1 || is.na(x)) {
    stop_ensayo("file", sprintf("%s must be one text.", place), sprintf("It is %s.", shown_value(x)))
  }
  normal_name(x)
}

# Numbers as people write them in files, and nothing that YAML would bend: no octals, no sexagesimals, no decimal
# commas.
read_number <- function(x, place) {
  if (is.numeric(x) && length(x) == 1 && is.finite(x)) return(as.double(x))
  text <- if (is.character(x) && length(x) == 1) trimws(x) else ""
  if (grepl("^[-+]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eE][-+]?[0-9]+)?$", text) && is.finite(as.double(text))) {
    return(as.double(text))
  }
  stop_ensayo("file", sprintf("%s must be one number.", place), sprintf("It is %s.", shown_value(x)),
    if (grepl("^[-+]?[0-9]+,[0-9]+$", text)) sprintf("Write the decimal sign as a point: %s.", sub(",", ".", text)))
}

read_count <- function(x, place, at_least = 1) {
  value <- read_number(x, place)
  in_place(place, check_count(value, "the value", at_least = at_least))
}

check_keys <- function(record, known, place, also = character(), line = function(key) NA) {
  unknown <- setdiff(names(record), known)
  if (length(unknown) == 0) return(invisible())
  stop_ensayo("file", sprintf("%s must use keys that are known.", place), sprintf("%s is not one.", quoted(unknown[1])),
    suggestion(unknown[1], c(known, also)), name = unknown[1], known = known)
}

# An error of a constructor, with the place of the record put before its words where they do not name it.
in_place <- function(place, expr) {
  tryCatch(expr, ensayo_error = function(e) if (startsWith(e$expected, place)) stop(e) else stop_restated(e, place))
}
