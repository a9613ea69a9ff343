# Records: what a study file (or a row of a table) says of one input, output or correlation, as key and value, and the
# values they stand for. Scalars come as the text that was written, or from a table as numbers.

input_keys <- c("base", "unit", "label", "note", "group", "positive", "lower", "upper", "shares", "fixed",
  "stream", "steps", "persistence", "block")

# `place` says where the record stands, for messages.
input_from_record <- function(record, name, place = sprintf("Input %s", quoted(name))) {
  if (!is.list(record)) record <- plain_record(record)
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  number <- function(key) if (!is.null(record[[key]])) read_number(record[[key]], sprintf("%s, %s", place, quoted(key)))
  if (is.null(record$law) && is.null(record$value)) {
    stop_ensayo("file", sprintf("%s must give its `law`, or a `value`.", place), "Both are missing.",
      "Such as `{law: pert, min: 28, mode: 34, max: 48}`.", name = name)
  }
  law_key <- read_text(record$law %||% "constant", paste0(place, ", `law`"))
  law <- if (law_key == "constant") {
    check_keys(record, c("law", "value", setdiff(input_keys, c("base", "fixed", "shares", "stream", "steps", "persistence", "block"))),
      place)
    read_number(record$value, paste0(place, ", `value`"))
  } else law_from_record(record[setdiff(names(record), input_keys)], place)
  base <- if (is_law(law) && is_categorical(law)) text("base") else number("base")
  positive <- !is.null(record$positive) && read_flag(record$positive, paste0(place, ", `positive`"))
  steps <- if (!is.null(record$steps)) file_steps(record$steps, sprintf("%s, `steps`", place))
  out <- in_place(place, input(law, base, text("unit"), text("label"), text("note"), text("group"), positive,
    number("lower"), number("upper"), steps, number("persistence") %||% 0, number("block")))
  if (!is.null(record$fixed)) out$fixed <- if (is_law(law) && is_categorical(law)) text("fixed") else number("fixed")
  out["shares"] <- list(text("shares"))
  out["stream"] <- list(text("stream"))
  out
}

# `28`, `pert(28, 34, 48)`: an input without trimmings.
plain_record <- function(x) {
  if (is.character(x) && length(x) == 1 && grepl("[(]", x)) list(law = x) else list(law = "constant", value = x)
}

# `law` names a family or a way of stating one, whose arguments are the other keys; or it is the whole law as a text.
law_from_record <- function(record, place) {
  family <- read_text(record$law %||% NA, paste0(place, ", `law`"))
  given <- record[setdiff(names(record), "law")]
  if (grepl("[(]", family)) {
    check_keys(given, character(), paste0(place, ", whose law is written out,"), also = input_keys)
    return(law_from_text(family, paste0(place, ", `law`")))
  }
  if (!family %in% c(law_family_names, law_forms)) {
    stop_ensayo("file", sprintf("%s must name a law.", place), sprintf("%s is none.", quoted(family)),
      suggestion(family, c(law_family_names, law_forms)), name = family)
  }
  asked <- if (family %in% law_family_names) family_record(family)$parameters else character()
  known <- if (family %in% law_family_names) names(asked) else names(formals(paste0("law_", family)))
  flags <- names(Filter(is.logical, formals(paste0("law_", family))))
  if (!any(is_fact(names(given), family))) check_keys(given, known, place, also = input_keys)
  arguments <- Map(function(value, key) {
    read_argument(value, if (key %in% names(asked)) asked[[key]] else if (key %in% flags) "flag" else "any", sprintf("%s, %s", place, quoted(key)))
  }, given, names(given))
  needed <- names(Filter(rlang::is_missing, formals(paste0("law_", family))))
  if (family %in% law_family_names && is.null(family_record(family)$forms)) {
    absent <- if (any(is_fact(names(given), family))) character() else setdiff(needed, names(given))
    if (length(absent)) {
      stop_ensayo("file", sprintf("%s must give %s.", place, paste(quoted(needed), collapse = ", ")),
        sprintf("%s is missing.", quoted(absent[1])), name = absent[1])
    }
  }
  law_from_arguments(family, arguments, place)
}

# One argument of a law, as a file or a table holds it, by what the law asks for.
read_argument <- function(x, asked, place) {
  several <- is.list(x) || length(x) > 1 || is.character(x) && asked %in% c("numbers", "values") && grepl(";", x)
  if (several) {
    parts <- if (is.list(x) || length(x) > 1) x else trimws(strsplit(x, ";", fixed = TRUE)[[1]])
    read <- lapply(parts, read_argument, asked = if (asked == "numbers") "number only" else "any", place = place)
    return(if (any(vapply(read, is_law, TRUE))) read else unlist(read))
  }
  if (is.numeric(x) || is.logical(x)) return(x)
  if (is_number_text(x)) return(read_number(x, place))
  x <- read_text(x, place)
  if (asked == "flag") return(read_flag(x, place))
  if (asked %in% c("values", "tail")) return(x)
  if (asked == "limit" && x %in% c("Inf", "-Inf", ".inf", "-.inf")) return(if (startsWith(x, "-")) -Inf else Inf)
  expr <- tryCatch(str2lang(x), error = function(e) NULL)
  unread <- is.null(expr) && sub("[^a-z_].*", "", x) %in% c(law_family_names, law_forms)
  if (grepl("[(]", x) && (unread || holds_law(expr))) return(law_from_text(x, place))
  if (asked == "any") return(if (tolower(x) %in% c("true", "false")) read_flag(x, place) else x)
  if (asked %in% c("numbers", "number only") || grepl(",", x, fixed = TRUE)) return(read_number(x, place))
  if (!is.symbol(expr) && !is.call(expr)) return(read_number(x, place))
  rlang::new_formula(NULL, expr, env = emptyenv())
}

# The record of an input; what reading turns into the same value again.
input_record <- function(input, name) {
  law <- if (is_law(input$law)) law_record(input$law) else list(value = input$law)
  more <- list(base = if (input$base_rule == "given") input$base, unit = input$unit, label = input$label,
    group = input$group, note = input$note, lower = input$lower, upper = input$upper, shares = input$shares,
    fixed = input$fixed, stream = if (is_law(input$law) && input$stream != name) input$stream,
    steps = if (is_stepped(input)) told_steps(input$steps),
    persistence = if (!identical(input$persistence %||% 0, 0)) input$persistence, block = input$block)
  record <- c(law, Filter(Negate(is.null), more))
  if (identical(names(record), "value")) record$value else record
}

# A key for each parameter where all are single values, else the whole law as a text.
law_record <- function(law) {
  told <- told_of(law)
  arguments <- if (is.null(told)) parameters_of(law) else told$arguments
  name <- if (is.null(told)) family_name(law) else told$call
  flat <- name %in% c(law_family_names, law_forms) && !is.null(names(arguments)) && all(nzchar(names(arguments))) &&
    all(vapply(arguments, function(x) is.atomic(x) && length(x) == 1 && is.null(names(x)) && !x %in% c(-Inf, Inf),
      TRUE)) && !any(names(arguments) %in% c("law", input_keys))
  if (any(vapply(arguments, is.function, TRUE))) {
    stop_ensayo("file", "A study file's laws must be those of the library.", "One is made of functions of your own.",
      "Keep such a study as an R script; `saveRDS()` keeps its value.")
  }
  if (!flat) return(list(law = law_text(law)))
  c(list(law = name), arguments[!is_default(name, arguments)])
}

output_from_record <- function(record, name, place = sprintf("Output %s", quoted(name))) {
  if (!is.list(record)) record <- list(formula = record)
  check_keys(record, c("formula", "unit", "label", "note", "group", "kind"), place)
  if (is.null(record$formula)) stop_ensayo("file", sprintf("%s must give its formula.", place), "`formula` is missing.")
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  kind <- text("kind")
  if (!is.null(kind)) in_place(place, check_choice(kind, output_kinds))
  new_output(text("formula"), list(unit = text("unit"), label = text("label"), note = text("note"),
    group = text("group")), kind)
}

output_record <- function(output) {
  if (!is.null(output$model)) return(list(by = output$model))
  more <- Filter(Negate(is.null), output[c("unit", "label", "note", "group", "kind")])
  formula <- file_formula(output$own %||% output$formula)
  if (length(more)) c(list(formula = formula), more) else formula
}

# A formula as a file can hold it: constants of the user's session written in, functions refused.
file_formula <- function(formula) {
  if (length(formula$functions)) {
    stop_ensayo("file", "A study file's formulas must use the formula language alone.",
      sprintf("%s is a function of your own.", quoted(names(formula$functions)[1])),
      "Keep such a study as an R script; `saveRDS()` keeps its value.", name = names(formula$functions)[1])
  }
  formula$written %||% deparse1(with_constants(formula$expr, formula$constants), width.cutoff = 500L)
}

# `inputs: {file: register.csv}` reads a register, `{file: register.xlsx, sheet: Inputs}` one on a sheet; other inputs may stand beside it.
file_inputs <- function(study, records, folder, sense = NULL, needed = TRUE) {
  if (is.null(records) && !needed) return(study)
  check_section(records, "inputs")
  register <- NULL
  if (is.character(records[["file"]]) && grepl("[.](csv|xlsx|xlsm|ods)$", records[["file"]], ignore.case = TRUE)) {
    sheet <- if (is_workbook_name(records[["file"]]) && is.character(records[["sheet"]])) records[["sheet"]]
    register <- inputs_from_table(read_inputs(beside(records[["file"]], folder), sheet), records[["file"]])
    records[c("file", if (!is.null(sheet)) "sheet")] <- NULL
  }
  records[] <- Map(with_data_of_file, records, names(records), MoreArgs = list(folder = folder))
  inputs <- Map(input_from_record, lapply(records, in_file_sense, sense), normal_name(names(records)))
  add_inputs(study, c(register, with_families(inputs)))
}

# A law's percentiles are in the sense the file gives unless they have one of their own.
in_file_sense <- function(record, sense) {
  by_percentiles <- is.list(record) && any(is_percentile_name(names(record)))
  if (!is.null(sense) && by_percentiles && is.null(record$sense)) record$sense <- sense
  record
}

# Outputs that models give are there already; where they are listed among the others, they keep that place.
file_outputs <- function(study, records) {
  if (is.null(records)) return(remade(study))  # draws need none
  check_section(records, "outputs")
  names(records) <- normal_name(names(records))
  given <- vapply(records, function(record) is.list(record) && !is.null(record$by), TRUE)
  for (name in names(records)[given]) {
    if (identical(study$outputs[[name]]$model, records[[name]]$by)) next
    stop_ensayo("file", sprintf("Output %s, `by`, must be a model that gives it.", quoted(name)),
      sprintf("%s is none.", quoted(records[[name]]$by)), name = name)
  }
  outputs <- Map(output_from_record, records[!given], names(records)[!given])
  study <- add_outputs(study, outputs)
  if (any(given)) study$outputs <- study$outputs[c(setdiff(names(study$outputs), names(records)), names(records))]
  remade(study)
}

part_inputs <- list(
  title = "Inputs",
  renamed = function(study, old, new) {
    names(study$inputs)[names(study$inputs) == old] <- new
    study$inputs[] <- lapply(study$inputs, function(input) {
      input$law <- rename_links(input$law, old, new)
      if (identical(input$shares, old)) input$shares <- new
      input
    })
    study
  },
  users = function(study, name) {
    names(Filter(function(input) name %in% c(links_of(input$law), input$shares), study$inputs))
  },
  removed = function(study, name) {
    study$inputs[[name]] <- NULL
    study
  },
  record = function(study) {
    own <- Filter(function(input) is.null(input$event) && is.null(input$cost) && is.null(input$task), study$inputs[setdiff(names(study$inputs), study$settings)])
    Map(input_record, own, names(own))
  },
  read = function(study, record, file) {
    # costs and events bring inputs of their own
    file_inputs(study, record, file$folder, file$content$readings$sense, is.null(file$content$costs) && is.null(file$content$events) &&
      is.null(file$content$tasks))
  },
  reviewed = function(study, asked) rbind(review_laws(study, asked$share), review_base(study), review_alike(study)),
  table = function(study) input_table(study)
)

part_outputs <- list(
  title = "Outputs",
  formulas = function(study) lapply(study$outputs, function(output) output$formula),
  changed = function(study, change) {
    study$outputs[] <- lapply(study$outputs, function(output) {
      output$formula <- change(output$formula)
      if (!is.null(output$own)) output$own <- change(output$own)
      output
    })
    study
  },
  record = function(study) lapply(Filter(function(output) is.null(output$event) && is.null(output$cost) && is.null(output$task), study$outputs), output_record),
  read = function(study, record, file) file_outputs(study, record),
  reviewed = function(study, asked) rbind(review_reach(study), review_counts(study)),
  table = function(study) output_table(study)
)
