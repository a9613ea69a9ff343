# Study files: a study as data. Everything in them is read by the closed formula language; nothing of R is evaluated.

file_sections <- c("ensayo", "study", "question", "inputs", "correlations", "tables", "outputs", "specs", "run",
  "readings")

#' Study files
#'
#' A study file is a text in YAML that says what a study in R says. Its formulas are a closed language, read and
#' checked before anything is evaluated: no R function outside it can be reached from a file.
#'
#' @section Format:
#' ```
#' ensayo: 1                      # the format's version
#' study: Gravity main
#' question: Does the last tap keep 38 m?
#' inputs:
#'   demand: {law: pert, min: 28, mode: 34, max: 48, unit: L/s, label: Peak-hour demand}
#'   friction: {law: lognormal, mean: 0.021, sd: 0.003}
#'   length: 4200                 # a number is a constant
#' correlations:
#'   - {between: [demand, friction], rank: 0.4}
#' outputs:
#'   velocity: {formula: demand / 1000 / 0.049, unit: m/s}
#'   loss: friction * length * velocity^2
#' specs:
#'   slow: velocity <= 1          # or a list of conditions without names
#' run: {runs: 10000, seed: 11, design: latin, until: P95 of loss within 0.1, most: 1000000}
#' readings: {percentiles: [10, 50, 90], planning: 80, sense: not exceeded, chances: [velocity > 0.8]}
#' ```
#' A law stands as keys, which are the arguments of its function, so [law_pert()] has `min`, `mode` and `max`; by
#' facts as in [law_from_facts()], `{law: pert, P10: 30, mode: 34, P90: 42}`; by [law_around()], [law_measured()] or
#' [law_observed()], `{law: around, value: 34, below: 10 %, shape: pert}`; or written out, `pert(28, 34, 48)` or
#' `truncated(normal(2, 1), min = 0)`, also without further keys: `demand: pert(28, 34, 48)`. A parameter may be a
#' formula of other inputs: `{law: poisson, mean: rate}`. An input also takes `base`, `note`, `group`, `positive`,
#' `lower`, `upper`, `shares` (the input whose uncertainty it shares), `fixed` and `stream` (the first name of a
#' renamed input). `zone[1..40]` makes a family of forty. `inputs: {file: register.csv}` reads a register
#' ([read_inputs()]); others may stand beside it.
#'
#' Correlations are `rank` or `score`, between two inputs or a block of them; `correlations: {file: matrix.csv}` reads
#' a matrix ([read_correlation()]). `tables: {curve: {flow: [0, 20], head: [52, 47]}}`, or `curve: {file: pump.csv}`,
#' are looked up as `lookup(curve, demand)`. Files stand in the study file's
#' folder; addresses, absolute paths and `..` are refused. `run` and `readings` are defaults of
#' the command line.
#'
#' A file with every law and every form comes with the package: `system.file("studies", "reference.yml", package =
#' "ensayo")`.
#'
#' Formulas may hold numbers, names, `pi`, `TRUE` and `FALSE`, `+ - * / ^ %% %/%`, comparisons, `! & | && ||`, `%in%
#' c(...)`, `if (...) ... else ...`, `ifelse`, `min`, `max`, `sum`, `prod`, `mean`, `any` and `all` of several
#' quantities, families or groups, `weighted_sum`, `lookup`, `date`, and the mathematical functions listed by `ensayo
#' check --help`.
#'
#' @section Limits: a file has at most 20 MB, its values are nested at most 100 deep, a formula has at most 100 levels,
#'   names at most 200 characters, a mixture 1000 laws; YAML's anchors and aliases, and control characters, are refused.
#' @param file Text: the file's path.
#' @param study A study whose formulas use no functions of your own.
#' @param overwrite `TRUE` to replace a file that is there.
#' @return `read_study()`: a study. `write_study()`: `file`, invisibly.
#' @section Errors: `ensayo_error_file` where the file is missing, is not valid YAML (with the line), or holds a key
#'   or value that is not known (with the nearest); `ensayo_error_name`, `ensayo_error_formula` and the others as in
#'   the verbs.
#' @examples
#' file <- system.file("studies", "gravity-main.yml", package = "ensayo")
#' main <- read_study(file)
#' copy <- tempfile(fileext = ".yml")
#' write_study(main, copy)
#' identical(read_study(copy), main)
#' @export
read_study <- function(file) read_study_file(file)$study

# The whole file: the study, and the defaults for running and reading it.
read_study_file <- function(file) {
  text <- read_file_text(check_string(file))
  # whatever goes wrong with a file is said as of the file
  rethrow_as({
    content <- read_yaml_text(text, basename(file))
    with_line(text, file, study_from_content(content, dirname(file)))
  }, "file", sprintf("%s must be a study file.", basename(file)), file = file)
}

# `folder` is where the files stand that the study names.
study_from_content <- function(content, folder, place = "The file") {
  if (!is.list(content) || is.null(names(content))) {
    stop_ensayo("file", sprintf("%s must hold keys and values.", place), "It does not.",
      sprintf("Known keys: %s.", paste(quoted(file_sections), collapse = ", ")))
  }
  check_keys(content, file_sections, place)
  version <- read_number(content$ensayo %||% "1", "`ensayo`, the format's version,")
  if (version != 1) {
    stop_ensayo("file", sprintf("%s must be of format version 1.", place),
      sprintf("It is of version %s.", format(version)),
      "A newer version of Ensayo may read it.")
  }
  study <- study(read_text(content$study %||% "Untitled study", "`study`"),
    if (!is.null(content$question)) read_text(content$question, "`question`"))
  study <- file_inputs(study, content$inputs, folder, content$readings$sense)
  study <- file_correlations(study, content$correlations, folder)
  study <- file_tables(study, content$tables, folder)
  study <- file_outputs(study, content$outputs)
  study <- file_specs(study, content$specs)
  list(study = file_readings(study, content$readings), run = file_run(content$run))
}

# `inputs: {file: register.csv}` reads a register; other inputs may stand beside it.
file_inputs <- function(study, records, folder, sense = NULL) {
  check_section(records, "inputs")
  register <- NULL
  if (is.character(records$file) && grepl("[.]csv$", records$file)) {
    register <- inputs_from_table(read_inputs(beside(records$file, folder)), records$file)
    records$file <- NULL
  }
  inputs <- Map(input_from_record, lapply(records, in_file_sense, sense), normal_name(names(records)))
  add_inputs(study, c(register, with_families(inputs)))
}

# A law's percentiles are in the sense the file gives unless they have one of their own.
in_file_sense <- function(record, sense) {
  by_percentiles <- is.list(record) && any(is_percentile_name(names(record)))
  if (!is.null(sense) && by_percentiles && is.null(record$sense)) record$sense <- sense
  record
}

# A file named in a study file stands in its folder: no address, no way out of the folder, nothing but a plain file.
beside <- function(file, folder) {
  file <- read_text(file, "`file`")
  inside <- !grepl("^(/|~|\\\\)|^[A-Za-z][A-Za-z0-9+.-]*:|(^|[/\\\\])[.][.]([/\\\\]|$)", file)
  path <- file.path(folder, file)
  if (inside && file.exists(path)) {
    root <- paste0(normalizePath(folder, "/"), "/")
    inside <- startsWith(normalizePath(path, "/"), root)  # a link may lead elsewhere
  }
  if (!inside) {
    stop_ensayo("file", "A file named in a study file must stand in its folder.", sprintf("It names %s.",
      shown_value(file)), "Put it beside the study file and name it without a path.", name = file)
  }
  path
}

# `curve: {file: pump.csv}`, `curve: {flow: [0, 10], head: [50, 40]}`, or {rows, columns, values} in two dimensions.
file_tables <- function(study, records, folder) {
  for (name in names(records)) {
    record <- records[[name]]
    place <- sprintf("The table %s", quoted(name))
    numbers <- function(x) vapply(as.list(x), read_table_number, 0, place = place)
    table <- if (is.character(record$file)) lookup_from_file(beside(record$file, folder))
      else if (identical(sort(names(record)), c("columns", "rows", "values"))) {
        matrix(numbers(unlist(record$values)), length(record$rows), byrow = TRUE,
          dimnames = list(as.character(numbers(record$rows)), as.character(numbers(record$columns))))
      } else if (is.list(record) && length(record) == 2 && length(record[[1]]) == length(record[[2]])) {
        as.data.frame(lapply(record, numbers))
      } else stop_ensayo("file", sprintf("%s must be two lists of the same length, or a `file`.", place), NULL,
        "Write `curve: {flow: [0, 10], head: [50, 40]}`.", name = name)
    study <- in_place(place, add_tables(study, !!name := table))
  }
  study
}

read_table_number <- function(x, place) lookup_numbers(as.character(x)) %||% read_number(x, place)

table_record <- function(table) {
  if (is.null(table$y)) return(list(by = table$x, value = table$values))
  list(rows = table$x, columns = table$y, values = as.vector(t(table$values)))
}

file_outputs <- function(study, records) {
  check_section(records, "outputs")
  outputs <- Map(output_from_record, records, normal_name(names(records)))
  add_outputs(study, outputs)
}

# Pairs, blocks of several inputs with one correlation, or a whole matrix in a file.
file_correlations <- function(study, records, folder) {
  if (is.list(records) && !is.null(names(records))) records <- list(records)
  for (record in as.list(records)) {
    place <- "A correlation"
    if (!is.list(record)) stop_ensayo("file", "A correlation must have the keys `between` and `rank`.",
      sprintf("It is %s.", shown_value(record)), "Write `- {between: [a, b], rank: 0.4}`.")
    check_keys(record, c("between", "rank", "score", "given", "file", "kind"), place)
    if (!is.null(record$file)) {
      matrix <- read_correlation(beside(record$file, folder))
      kind <- in_place(place,
        check_choice(read_text(record$kind %||% "rank", "A correlation's `kind`"), correlation_kinds))
      study <- in_place(sprintf("The correlations in %s", record$file), add_correlation(study, matrix, kind = kind))
      next
    }
    if (length(record$between) == 0) {
      stop_ensayo("file", "A correlation must be `between` two inputs or more.", "It names none.")
    }
    kind <- if (is.null(record$score)) "rank" else "score"
    r <- read_number(record[[kind]], sprintf("A correlation's %s", quoted(kind)))
    set <- with_members(normal_name(unlist(record$between)), study)
    if (length(set) < 2) stop_ensayo("file", "A correlation must be `between` two inputs or more.",
      sprintf("%s holds one.", quoted(set[1])))
    for (pair in asplit(utils::combn(set, 2), 2)) {
      study <- in_place(sprintf("Correlation of %s and %s", quoted(pair[1]), quoted(pair[2])),
        add_pair(study, pair[[1]], pair[[2]], rank_of(r, kind), replace = FALSE))
    }
    if (!is.null(record$given)) {
      study$correlations$given[nrow(study$correlations)] <- read_number(record$given, "A correlation's `given`")
    }
  }
  study
}

# Groups and families stand for their inputs.
with_members <- function(names, study) {
  members <- family_members(study, names(study$inputs))
  unlist(lapply(names, function(name) if (name %in% names(study$inputs)) name else members[[name]] %||% name))
}

file_specs <- function(study, records) {
  if (is.null(records)) return(study)
  study$specs <- conditions_from_text(records, quantity_vocabulary(study), "Spec")
  study
}

# Conditions of a file: a map of names to texts, or a list of texts.
conditions_from_text <- function(records, known, what) {
  if (length(records) == 0) return(list())
  texts <- vapply(as.list(records), read_text, "", place = what)
  formulas <- lapply(seq_along(texts), function(i) {
    label <- sprintf("%s %s", what, quoted(if (is.null(names(texts))) texts[i] else names(texts)[i]))
    condition_from_text(texts[i], label, known, what)
  })
  names <- names(texts) %||% vapply(formulas, function(formula) formula$text, "")
  stats::setNames(formulas, normal_name(names))
}

file_run <- function(record) {
  record <- as.list(record)
  check_keys(record, c("runs", "seed", "design", "replicates", "block", "until", "most"), "`run`")
  list(
    runs = if (is.null(record$runs)) 10000 else read_count(record$runs, "`runs`"),
    seed = if (!is.null(record$seed)) in_place("`seed`", check_seed(read_seed(record$seed))),
    design = in_place("`design`", check_choice(read_text(record$design %||% "latin", "`design`"), designs)),
    replicates = if (is.null(record$replicates)) 1 else read_count(record$replicates, "`replicates`"),
    block = if (!is.null(record$block)) read_count(record$block, "`block`", at_least = 2),
    until = if (!is.null(record$until)) in_place("`until`", targets_from_text(unlist(record$until))),
    most = if (!is.null(record$most)) read_count(record$most, "`most`")
  )
}

file_readings <- function(study, record) {
  record <- as.list(record)
  check_keys(record, c("percentiles", "planning", "sense", "chances"), "`readings`")
  percentiles <- vapply(as.list(record$percentiles), read_number, 0, place = "`percentiles`")
  study$readings$chances <- conditions_from_text(record$chances, quantity_vocabulary(study), "Chance")
  in_place("`readings`", add_readings(study,
    .percentiles = if (length(percentiles)) percentiles,
    .planning = if (!is.null(record$planning)) read_number(record$planning, "`planning`"),
    .sense = if (!is.null(record$sense)) read_text(record$sense, "`sense`")))
}

# What a study file says of its readings; nothing where all is as at first.
readings_record <- function(readings) {
  changed <- Filter(function(key) !identical(readings[[key]], default_readings[[key]]), c("planning", "sense"))
  c(list(percentiles = readings$percentiles), readings[changed],
    if (length(readings$chances)) list(chances = lapply(readings$chances, file_formula)))
}

check_section <- function(records, section) {
  if (is.null(records)) stop_ensayo("file", sprintf("The file must have the section %s.", quoted(section)),
    "It has none.")
  if (!is.list(records) || is.null(names(records))) {
    stop_ensayo("file", sprintf("The section %s must hold names and what they stand for.", quoted(section)),
      sprintf("It is %s.", shown_value(records)))
  }
}

# Adds the file's line to an error: that of the first name in its words that is a key of the file.
with_line <- function(text, file, expr) {
  tryCatch(expr, ensayo_error = function(e) {
    words <- regmatches(e$expected, gregexpr("(?<=`)[^`]+(?=`)", e$expected, perl = TRUE))[[1]]
    names <- c(if (e$cause == "file") e$name, words, e$name)
    lines <- Filter(Negate(is.na), vapply(as.character(unlist(names)), line_of_key, 0L, text = text))
    line <- if (length(lines)) lines[[1]] else NA_integer_
    stop_restated(e, sub(",$", "", at_line(basename(file), line)), file = file, line = line)
  })
}

#' @rdname read_study
#' @export
write_study <- function(study, file, overwrite = FALSE) {
  check_study(study)
  check_string(file)
  refuse_existing(file, check_flag(overwrite))
  write_file_lines(study_lines(study), file)
  invisible(file)
}

study_lines <- function(study, run = NULL) {
  content <- list(
    ensayo = 1, study = study$title, question = study$question, inputs = Map(input_record, study$inputs,
      names(study$inputs)),
    correlations = lapply(seq_len(nrow(study$correlations)), function(i) {
      pair <- study$correlations[i, ]
      c(list(between = c(pair$a, pair$b), rank = pair$r), if (pair$given != pair$r) list(given = pair$given))
    }),
    tables = lapply(study$tables, table_record), outputs = lapply(study$outputs,
      output_record), specs = lapply(study$specs,
      file_formula), run = run, readings = if (!identical(study$readings,
        default_readings)) readings_record(study$readings)
  )
  to_yaml(Filter(function(part) length(part) > 0, content))
}

write_file_lines <- function(lines, file) {
  force(lines)
  opened <- FALSE
  tryCatch(suppressWarnings({
    connection <- base::file(file, open = "wb")
    opened <- TRUE
    on.exit(close(connection))
    writeLines(enc2utf8(lines), connection, useBytes = TRUE)
  }), error = function(e) {
    if (opened) unlink(file)  # a part of a file could be taken for a whole one
    stop_ensayo("file", sprintf("%s must be writable.", file), conditionMessage(e), file = file)
  })
}
