# Study files: a study as data. Everything in them is read by the closed formula language; nothing of R is evaluated.

file_sections <- function() {
  c("ensayo", "study", "question", setdiff(names(study_parts()), "readings"), "run", "readings")
}

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
#' `settings: {peak: {default: 1.2, label: Peak factor, help: "..."}, season: {default: dry}}` are constants that a call
#' may give other values (`ensayo run FILE --set peak=1.4,season=wet`); formulas, laws, templates and commands use them by
#' their names, formulas those that are texts by comparison (`if (season == "wet") ...`). `kind: text` is for texts of
#' digits.
#'
#' A schedule is `schedule: {start: 2027-03-01, promised: 2027-06-30, status: 2027-04-01, calendar: crew, cost per day: 0.4, budget: 900,
#' currency: kEUR}`, with `calendars: {crew: {days: Mon-Fri, hours: "07:00-16:00", holidays: [2027-12-24/2028-01-06, holidays.ics]}}`, which may also have `worked`, `lost: {days: "pert(1, 4, 10)",
#' months: [11, 12]}` and `closures: {flood: {from: 2027-11-01, within: 120, days: 7, probability: 0.2}}` ([calendar()]), and
#' `tasks: {dig: {duration: "pert(8, 10, 18)", after: survey}}` with the arguments of [task()], or `tasks: {file: tasks.csv}` (or .json, .ics).
#'
#' `models` are outside programs, under the names of their arguments in [add_program()]; `program` is the command:
#' ```
#' models:
#'   network:
#'     program: [awk, -f, solver.awk, case.txt]
#'     files: {solver.awk: network/solver.awk}       # or {text: ..., runs: yes}
#'     templates: {case.txt: network/case.txt}       # or {text: |...}
#'     time_limit: 1
#'     must_hold: {listing.txt: CONVERGED IN}
#'     outputs:
#'       pressure: {line: 4, column: 3, file: listing.txt, after: NODE, unit: m}
#'       flow: {text: feeder, file: listing.txt}     # or csv: and row:, or json:; see from_line()
#' ```
#' Reading a file runs nothing; see [allow_programs()]. A model that goes step by step ([add_steps()]) stands there, too:
#' ```
#'   tank:
#'     steps: {from: 2026-07-01, to: 2026-08-29}       # or a count, or the steps themselves
#'     known: {week: [1, 1, 1, 1, 1.1, 1.3, 1.2, ...]} # or {file: profile.csv}, a value for each step
#'     lines:
#'       use: demand * week
#'       level: {state: "max(0, level + inflow - use)", start: volume, unit: m3}
#'     keep: [level]                                   # series that become outputs; all when this and `last` are left out
#'     last: [cost]                                    # lines of which the last value does
#' ```
#' An input that is drawn at each step has `steps` in the same form, and `persistence` or `block` as in [input()]:
#' `heat: {law: normal, mean: 0, sd: 1, steps: {from: 2026-07-01, to: 2026-08-29}, persistence: 0.8}`. A formula with commas
#' needs quotation marks where it stands in braces.
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
  if (is_workbook_name(check_string(file))) return(rethrow_as(study_from_content(workbook_content(read_workbook_file(file), file), dirname(file)),
    "file", sprintf("%s must describe a study.", basename(file)), file = file))
  text <- read_file_text(file)
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
      sprintf("Known keys: %s.", paste(quoted(file_sections()), collapse = ", ")))
  }
  check_keys(content, file_sections(), place)
  version <- read_number(content$ensayo %||% "1", "`ensayo`, the format's version,")
  if (version != 1) {
    stop_ensayo("file", sprintf("%s must be of format version 1.", place),
      sprintf("It is of version %s.", format(version)),
      "A newer version of Ensayo may read it.")
  }
  study <- study(read_text(content$study %||% "Untitled study", "`study`"),
    if (!is.null(content$question)) read_text(content$question, "`question`"))
  for (asked_early in c("schedule", "readings")) if (length(content[[asked_early]])) check_section(content[[asked_early]], asked_early)
  file <- list(folder = folder, content = content)
  for (id in names(study_parts())) {
    read <- study_parts()[[id]]$read
    if (!is.null(read)) study <- read(study, content[[id]], file)
  }
  list(study = study, run = file_run(content$run))
}

file_run <- function(record) {
  check_keys(record, c("runs", "seed", "design", "replicates", "block", "until", "most"), "`run`")
  list(
    runs = if (is.null(record$runs)) 10000 else read_count(record$runs, "`runs`"),
    seed = if (!is.null(record$seed)) in_place("`seed`", check_seed(read_seed(record$seed))),
    design = check_choice(read_text(record$design %||% "latin", "`design`"), designs, "design"),
    replicates = if (is.null(record$replicates)) 1 else read_count(record$replicates, "`replicates`"),
    block = if (!is.null(record$block)) read_count(record$block, "`block`", at_least = 2),
    until = if (!is.null(record$until)) in_place("`until`", targets_from_text(unlist(record$until))),
    most = if (!is.null(record$most)) read_count(record$most, "`most`")
  )
}

# Adds the file's line to an error.
with_line <- function(text, file, expr) {
  tryCatch(expr, ensayo_error = function(e) {
    line <- line_of_mistake(keyed_lines(text), e)
    e$expected <- gsub("`[.]([a-z_]+)`", "`\\1`", e$expected)
    stop_restated(e, sub(",$", "", at_line(basename(file), line)), file = file, line = line)
  })
}

# The line of what an error's words name: a table beside the file, or keys within the section that their first word tells, as in
# "Input `demand`, `min` must be ..."; elsewhere the first key must be found.
line_of_mistake <- function(keyed, error) {
  said <- error$expected
  if (said %in% no_section(file_sections())) return(NA_integer_)
  table <- if (grepl("^[^`, ]+[.][[:alnum:]]+[, ]", said)) grep(sub("[, ].*", "", said), keyed$lines, fixed = TRUE)
  if (length(table)) return(table[1])
  quotes <- function(words) regmatches(words, gregexpr("(?<=`)[^`]+(?=`)", words, perl = TRUE))[[1]]
  named <- quotes(sub(" (must|needs) .*", "", said))
  keys <- as.character(c(if (length(named)) named else quotes(said), if (error$cause == "file") unlist(error$name)))
  first <- tolower(sub("[^[:alpha:]].*", "", sub("^An? ", "", said)))
  section <- intersect(paste0(first, c("", "s")), file_sections())
  top <- which(keyed$keys %in% section & keyed$width == 0)[1]
  if (is.na(top)) return(line_within(keyed, keys))
  line <- line_within(keyed, keys, setdiff(lines_under(keyed, top), top))
  # correlations are about inputs, but are wrong where they stand
  if (is.na(line) && section != "correlations" && !is.na(line_within(keyed, keys[1]))) line <- line_within(keyed, keys)
  if (is.na(line)) top else line
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
  parts <- of_parts("record", study)
  content <- c(list(ensayo = 1, study = study$title, question = study$question),
    parts[setdiff(names(parts), "readings")], list(run = run, readings = parts$readings))
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
