# Programs, and all models, in study files.

program_keys <- c("program", "templates", "files", "input", "environment", "needs", "persistent", "shell", "time_limit",
  "statuses", "must_hold", "must_not_hold", "most_mb", "outputs")

# The study with the models that a file names. Outputs of formulas come later: they may be named already.
file_models <- function(study, records, file) {
  check_section(records, "models")
  for (name in names(records)) if (!is.list(records[[name]])) {
    stop_ensayo("file", sprintf("Model %s must give its program and outputs, or its lines and steps.", quoted(name)), sprintf("It is %s.",
      shown_value(records[[name]])), name = name)
  }
  named <- normal_name(c(names(file$content$outputs), unlist(lapply(records, function(record) c(names(record$outputs), names(record$lines))))))
  for (name in normal_name(names(records))) {
    record <- records[[match(name, normal_name(names(records)))]]
    told <- function(key) key %in% names(record)
    read <- if (told("lines")) steps_from_record else if (told("surrogate")) surrogate_from_record
      else if (told("workbook")) workbook_from_record else program_from_record
    study <- read(study, record, name, file$folder, union(quantity_names(study), named))
  }
  study
}

program_from_record <- function(study, record, name, folder, known) {
  place <- sprintf("Model %s", quoted(name))
  check_keys(record, program_keys, place)
  for (key in c("program", "outputs")) {
    if (is.null(record[[key]])) stop_ensayo("file", sprintf("%s must give its %s.", place, key), sprintf("%s is missing.",
      quoted(key)), name = name)
  }
  at <- function(key) sprintf("%s, %s", place, quoted(key))
  texts <- function(key) if (!is.null(record[[key]])) file_texts(record[[key]], at(key))
  flag <- function(key) !is.null(record[[key]]) && read_flag(record[[key]], at(key))
  number <- function(key, other) {
    if (is.null(record[[key]])) other else if (identical(record[[key]], "none")) Inf else read_number(record[[key]], at(key))
  }
  described <- list(command = unname(texts("program")),
    templates = file_templates(record$templates, at("templates"), folder),
    files = file_program_files(record$files, at("files"), folder), input = unname(texts("input")),
    environment = texts("environment"), needs = normal_texts(texts("needs")),
    persistent = flag("persistent"), shell = flag("shell"), time_limit = number("time_limit", 60),
    statuses = if (is.null(record$statuses)) 0 else vapply(record$statuses, read_number, 0, at("statuses"), USE.NAMES = FALSE),
    must_hold = texts("must_hold"), must_not_hold = texts("must_not_hold"), most_mb = number("most_mb", 1000))
  check_named(record$outputs, at("outputs"))
  outputs <- Map(function(one, output) output_with_reader(one, sprintf("Output %s", quoted(output))), record$outputs, names(record$outputs))
  names(outputs) <- normal_name(names(record$outputs))
  unread <- names(Filter(function(output) is.null(output$formula), outputs))
  if (length(unread) && !described$persistent) {
    stop_ensayo("file", sprintf("Output %s must say where it is read.", quoted(unread[1])), sprintf("It has none of %s.",
      and_list(quoted(names(reader_keys)))), "Such as `{text: \"Pressure:\", unit: m}`.", name = unread[1])
  }
  in_place(place, with_program(study, name, described, outputs, list(keep = "failed", folder = NULL, allowed = FALSE), known))
}

normal_texts <- function(x) if (!is.null(x)) stats::setNames(normal_name(unname(x)), names(x))

# Texts with or without names.
file_texts <- function(x, place) {
  parts <- as.list(x)
  read <- vapply(parts, function(part) {
    if (!(is.character(part) || is.numeric(part)) || length(part) != 1) {
      stop_ensayo("file", sprintf("%s must be texts.", place), sprintf("It holds %s.", shown_value(part)))
    }
    as.character(part)
  }, "")
  stats::setNames(unname(read), names(parts))
}

# Each is `{file: ...}`, which stands in the study file's folder, or `{text: ...}`.
file_templates <- function(records, place, folder) {
  if (is.null(records)) return(NULL)
  texts <- lapply(named_records(records, place, c("file", "text")), function(record) {
    if (!is.null(record$text)) return(read_long_text(record$text, place))
    unname(template_texts(beside(record$file, folder)))
  })
  unlist(texts)
}

file_program_files <- function(records, place, folder) {
  if (is.null(records)) return(NULL)
  lapply(named_records(records, place, c("file", "text", "runs")), function(record) {
    runs <- if (!is.null(record$runs)) read_flag(record$runs, place)
    if (!is.null(record$text)) return(list(text = read_long_text(record$text, place), runs = isTRUE(runs)))
    file <- program_files(beside(record$file, folder))[[1]]
    if (!is.null(runs)) file$runs <- runs
    file
  })
}

named_records <- function(records, place, keys) {
  if (!is.list(records) && is.character(records)) records <- as.list(records)
  names <- names(records) %||% rep("", length(records))
  records <- lapply(records, function(record) if (is.character(record)) list(file = record) else record)
  names <- ifelse(nzchar(names), names, vapply(records, function(record) basename(as.character(record$file %||% "")), ""))
  for (i in seq_along(records)) {
    check_keys(records[[i]], keys, sprintf("%s %s", place, quoted(names[i])))
    if (is.null(records[[i]]$file) == is.null(records[[i]]$text)) {
      stop_ensayo("file", sprintf("%s must give `file` or `text`.", sprintf("%s %s", place, quoted(names[i]))))
    }
    check_run_file(names[i], "name")
  }
  stats::setNames(records, names)
}

read_long_text <- function(x, place) {
  if (!is.character(x) || length(x) != 1) stop_ensayo("file", sprintf("%s must be a text.", place), sprintf("It is %s.",
    shown_value(x)))
  enc2utf8(x)
}

reader_keys <- list(
  line = c("line", "column", "after", "separator", "from", "to"), text = c("text", "match", "regex"),
  csv = c("csv", "row", "separator", "header"), json = "json"
)

output_with_reader <- function(record, place) {
  if (!is.list(record)) record <- list()
  about <- c("unit", "label", "note", "group", "kind", "steps")
  kind <- intersect(names(reader_keys), names(record))
  if (length(kind) > 1) kind <- if ("line" %in% kind) "line" else kind[1]
  check_keys(record, c(about, "file", if (length(kind)) reader_keys[[kind]] else unique(unlist(reader_keys))), place)
  value <- function(key) {
    x <- record[[key]]
    if (is.character(x) && is_number_text(x)) read_number(x, place) else if (key %in% c("regex", "header")) read_flag(x, place)
      else if (identical(x, "all")) NULL else x
  }
  given <- lapply(stats::setNames(nm = intersect(c(if (length(kind)) reader_keys[[kind]], "file"), names(record))), value)
  if (length(kind)) {
    names(given)[names(given) == "csv"] <- "column"
    names(given)[names(given) == "json"] <- "pointer"
    make <- list(line = from_line, text = from_text, csv = from_csv, json = from_json)[[kind]]
    if (kind %in% c("text", "json")) given[[1]] <- as.character(record[[kind]])
  }
  output <- output_from_about(record, place, output_kinds)
  reader <- if (length(kind)) in_place(place, do.call(make, given))
  output$formula <- if (!is.null(reader)) rlang::new_quosure(reader, emptyenv())
  output
}

# What about_record() says of an output, as an output.
output_from_about <- function(record, place, kinds) {
  text <- function(key) if (!is.null(record[[key]])) read_text(record[[key]], sprintf("%s, %s", place, quoted(key)))
  steps <- if (!is.null(record$steps)) read_steps(unlist(record$steps), place)
  if (!is.null(text("kind"))) in_place(place, check_choice(text("kind"), kinds, "kind"))
  new_output(NULL, list(unit = text("unit"), label = text("label"), note = text("note"), group = text("group")), text("kind"), NULL, steps)
}

read_steps <- function(x, place) {
  dates <- is.character(x) && all(grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", x))
  in_place(place, check_steps(if (dates) as.Date(x) else vapply(x, read_number, 0, place, USE.NAMES = FALSE)))
}

# What a file says of a program; what reading turns into the same again.
program_record <- function(model, outputs) {
  said <- function(marked) if (length(marked)) vapply(marked, marked_text, "")
  held <- function(searched) if (length(searched)) stats::setNames(searched$text, if (any(nzchar(searched$file))) searched$file)
  bound <- function(x, other) if (x != other) if (is.finite(x)) x else "none"
  record <- list(program = unname(as.list(said(model$command))),
    templates = lapply(said(model$templates), function(text) list(text = text)),
    files = lapply(model$files, function(file) c(list(text = file$text), if (file$runs) list(runs = TRUE))),
    input = if (is.null(model$marked_input)) model$input else marked_text(model$marked_input),
    environment = as.list(said(model$environment)),
    needs = as.list(if (all(names(model$needs) == model$needs)) unname(model$needs) else model$needs),
    persistent = if (model$persistent) TRUE, shell = if (model$shell) TRUE,
    time_limit = bound(model$time_limit, 60), statuses = if (!identical(model$statuses, 0)) as.list(model$statuses),
    must_hold = as.list(held(model$must_hold)), must_not_hold = as.list(held(model$must_not_hold)),
    most_mb = bound(model$most_mb, 1000),
    outputs = Map(reader_record, model$readers, outputs[model$gives]))
  Filter(function(part) length(part) > 0, record)
}

reader_record <- function(reader, output) {
  key <- c(csv = "column", json = "pointer")
  own <- unclass(reader)[setdiff(names(reader), "kind")]
  first <- if (reader$kind %in% names(key)) key[[reader$kind]] else reader$kind
  names(own)[names(own) == first] <- reader$kind
  every <- c(text = "match", csv = "row")
  if (reader$kind %in% names(every) && is.null(own[[every[[reader$kind]]]])) own[[every[[reader$kind]]]] <- "all"
  c(Filter(Negate(is.null), own[c(reader$kind, setdiff(names(own), reader$kind))]), about_record(output))
}

# What readers call an output, of what kind it is and which steps it has.
about_record <- function(output) {
  steps <- output$steps
  Filter(Negate(is.null), c(unclass(output)[c("unit", "label", "note", "group", "kind")],
    list(steps = if (!is.null(steps)) as.list(if (inherits(steps, "Date")) format(steps) else steps))))
}

# Whether a file can hold all of a model.
is_model_of_files <- function(model) {
  if (model$kind %in% c("steps", "schedule", "surrogate", "workbook")) return(TRUE)
  if (model$kind != "program") return(FALSE)
  texts <- unlist(c(lapply(model$files, function(file) file$text), lapply(model$templates, marked_text)))
  !any(vapply(model$readers, is.function, TRUE)) && all(vapply(model$files, function(file) is.null(file$path), TRUE)) &&
    !any(grepl(control_characters, texts, perl = TRUE)) && !any(grepl("\r", texts, fixed = TRUE))
}

#' Let the programs of a study run
#'
#' A study that was read from a file may name outside programs. They run only when you have looked at them and say so:
#' with this function, or with `--run-programs` on the command line. Programs that were added by [add_program()] may run
#' at once.
#'
#' @param study A study; or a [surrogate()] whose runs came from a folder, before [improve_surrogate()] runs its study's programs.
#' @return The same, whose programs may run.
#' @section Errors: `ensayo_error_argument` for what is no study.
#' @examples
#' file <- system.file("studies", "network.yml", package = "ensayo")
#' network <- read_study(file)
#' network  # what would run stands under Models
#' network <- allow_programs(network)
#' @export
allow_programs <- function(study) UseMethod("allow_programs")

#' @export
allow_programs.default <- function(study) check_study(study)

#' @export
allow_programs.ensayo_study <- function(study) {
  study$models[] <- lapply(study$models, function(model) {
    if (!is.null(model$here)) model$here$allowed <- TRUE
    model
  })
  study
}
