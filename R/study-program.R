# Outside programs as they are described: texts with marks and files that go into a folder of each run, a command, and
# where outputs stand in what it writes.

#' Add a program as a model
#'
#' Couples a program that runs outside R to a study: for each run, templates are filled with the run's values, the command
#' runs in a folder of its own, and outputs are read from what it wrote. A run that fails, hangs or does not say what it
#' must is recorded with its reason, and the rest goes on. [try_run()] does one run and shows all of it: begin there.
#'
#' @section Marks: In templates, in the command and in `input` and `environment`, `@[demand]` stands for the value of
#'   `demand` in the run, as the shortest text that reads back as the same number, and `@[demand %10.3f]` for it in a
#'   format: `%`, then if wanted `-`, `+`, `0`, a width and a precision, then one of `f`, `e`, `E`, `g`, `G` (Fortran's
#'   kin), `d` (rounded to a whole number) or `s`. Days are 2026-05-01 unless a format says otherwise, such as
#'   `@[start %d.%m.%Y]`. A value that is wider than the width of its mark makes the run fail, for it would push the rest
#'   of its line aside. `@@[` stands for `@[` itself. Quantities are inputs or outputs of one value a run.
#' @param .study A study.
#' @param command Text: the program and its arguments, an element each. There is no shell: blanks, quotes and `*` mean
#'   nothing special. The program is one of `files`, a path, or a name that the system finds.
#' @param outputs A named list of readers such as `from_text("Pressure:")`, of functions of the run's folder, or of
#'   [output()]s of these, which say unit, label, kind and steps; see [from_line()]. Series need `steps`. Of a `persistent`
#'   program also names alone, each read from the answer under its name.
#' @param ... Not used; anything here is an error.
#' @param name Text: what the model is called; the name of the file of `files` that the command names first, or of the
#'   program, when left out.
#' @param templates Paths of template files. Their names, where they have any, are those that they have in the run's
#'   folder. The texts are kept in the study.
#' @param files Paths of other files that the program needs, named likewise; each run has its own copy.
#' @param input What the program reads from standard input: a text with marks; or `"json"` for one object with the values
#'   of `needs` under their names, and `run`, the run's number.
#' @param environment Named texts with marks: environment variables.
#' @param needs Names of the quantities that go into the object of `input = "json"`, or of a `persistent` program; all
#'   inputs when left out.
#' @param persistent `TRUE` for a program that is started once, reads a line for each run, a JSON object as with
#'   `input = "json"`, and writes a line with a JSON object of outputs for each (JSON Lines): at once, not when a buffer is
#'   full (Python's `print(..., flush = True)`, Perl's `$| = 1`). An answer with `error` is a failed run.
#' @param shell `TRUE` to give `command`, one text, to the system's shell. Values in it are quoted.
#' @param time_limit Number of seconds after which a run is ended, and has failed; `Inf` for none.
#' @param statuses Whole numbers: the exit statuses that mean success.
#' @param must_hold,must_not_hold Texts that the program's output must hold or must not hold. Named ones are looked for in
#'   the file of that name.
#' @param most_mb Number: a run whose folder grows beyond so many megabytes is ended, and has failed.
#' @param keep `"failed"`: the folders of failed runs stay, where [failures()] tells; `"all"`, `"none"`.
#' @param folder Text: where the folders of runs are made; in the folder of R's session, which ends with it, when left
#'   out. [simulate_into()] keeps those of failed runs in its own folder.
#' @return The study with the model and its outputs added at the end. Nothing is run yet.
#' @details A run's program and all that it started are ended together: at the time limit, on an interrupt, and what is
#'   left when the run is over. A program that starts others in a session of their own escapes this.
#' @section Errors: `ensayo_error_argument` for arguments that are not of the stated kind; `ensayo_error_name` for a mark
#'   that names nothing of the study, and names that are taken; `ensayo_error_file` for files that cannot be read. When
#'   runs are made: `ensayo_error_model` where the program cannot be found or a file has changed.
#' @seealso [try_run()], [from_line()], [add_model()] for functions of R.
#' @examples
#' template <- tempfile()
#' writeLines("demand @[demand %8.3f]", template)
#' main <- study("Main, by a program") |>
#'   add_inputs(demand = law_pert(28, 34, 48)) |>
#'   add_program(c("awk", "{ print \"velocity\", $2 / 49 }", "case.txt"),
#'     outputs = list(velocity = output(from_text("velocity"), unit = "m/s")),
#'     templates = c(case.txt = template), name = "network")
#' if (nzchar(Sys.which("awk"))) try_run(main)
#' @export
add_program <- function(.study, command, outputs, ..., name = NULL, templates = NULL, files = NULL, input = NULL,
                        environment = NULL, needs = NULL, persistent = FALSE, shell = FALSE, time_limit = 60,
                        statuses = 0, must_hold = NULL, must_not_hold = NULL, most_mb = 1000, keep = "failed",
                        folder = NULL) {
  check_study(.study)
  check_no_dots(..., .options = c("name", "templates", "files", "input", "environment", "needs", "persistent", "shell",
    "time_limit", "statuses", "must_hold", "must_not_hold", "most_mb", "keep", "folder"))
  needs <- rlang::enquo(needs)
  known <- quantity_names(.study)
  needs <- if (!rlang::quo_is_null(needs)) resolve_names(needs, known, "a quantity of the study")
  described <- list(command = command, templates = template_texts(templates), files = program_files(files), input = input,
    environment = environment, needs = needs, persistent = persistent, shell = shell, time_limit = time_limit,
    statuses = statuses, must_hold = must_hold, must_not_hold = must_not_hold, most_mb = most_mb)
  here <- list(keep = check_choice(keep, c("failed", "all", "none")),
    folder = if (!is.null(check_string(folder, null = TRUE))) normalizePath(folder, mustWork = FALSE), allowed = TRUE)
  with_program(.study, name, described, outputs, here)
}

# The study with a program, from what was said of it in R or in a file. `known`: quantities that are there, or come.
with_program <- function(study, name, described, outputs, here, known = quantity_names(study),
                         call = rlang::caller_env()) {
  checked <- checked_program(described, call)
  name <- check_string(name, null = TRUE, call = call) %||% program_name(checked, call)
  check_model_name(study, name, call)
  outputs <- program_outputs(outputs, checked$persistent, call)
  names(outputs) <- check_new_names(outputs, "output", c(quantity_names(study), names(study$tables)), call)
  series <- names(series_steps(study))
  dates <- date_outputs(study)
  single <- setdiff(known, c(series, names(outputs)))
  marked <- function(texts, place) {
    places <- if (is.null(names(texts))) rep(place, length(texts)) else sprintf("%s %s", place, quoted(names(texts)))
    stats::setNames(Map(function(text, place) read_marks(text, single, place, dates, call), texts, places), names(texts))
  }
  model <- c(list(kind = "program", name = name), checked)
  model$command <- marked(checked$command, "The command")
  model$templates <- marked(checked$templates, "The template")
  model$environment <- marked(checked$environment, "The environment variable")
  if (!is.null(checked$input) && checked$input != "json") model$marked_input <- marked(checked$input, "`input`")[[1]]
  in_json <- checked$persistent || identical(checked$input, "json")
  if (!in_json && !is.null(checked$needs)) {
    stop_argument("needs", "left out: it goes with `input = \"json\"` or a persistent program", checked$needs, call = call)
  }
  model$needs <- if (in_json) keyed(checked$needs %||% names(study$inputs))
  unknown <- setdiff(model$needs, known)
  if (length(unknown)) {
    stop_ensayo("name", "`needs` must name inputs or outputs of the study.", sprintf("%s is none.", quoted(unknown[1])),
      suggestion(unknown[1], known), name = unknown[1], known = known, call = call)
  }
  marks <- c(model$command, model$templates, model$environment, list(model$marked_input))
  # it is started before there is a run
  early <- unlist(lapply(c(model$command, model$environment), function(one) one$names))
  if (checked$persistent && length(early)) {
    stop_ensayo("argument", "A persistent program's command and environment must have no marks.",
      sprintf("They have one of %s.", quoted(early[1])), "Each run's values go to it as a line of JSON; see `needs`.",
      argument = "command", call = call)
  }
  uses <- unique(c(unname(model$needs), unlist(lapply(marks, function(one) one$names))))
  model$uses <- stats::setNames(uses, uses)
  model$dates <- intersect(uses, dates)
  model$readers <- lapply(outputs, function(one) one$reader)
  outputs <- lapply(outputs, function(one) one$output)
  model$gives <- names(outputs)
  model$steps <- lapply(outputs, function(output) output$steps)
  model$here <- here
  with_model(study, name, model, outputs)
}

checked_program <- function(x, call) {
  if (!is.character(x$command) || length(x$command) == 0 || anyNA(x$command) || !nzchar(x$command[1])) {
    stop_argument("command", "the program and its arguments, as texts", x$command,
      "Such as `c(\"awk\", \"-f\", \"solver.awk\", \"case.txt\")`.", call)
  }
  shell <- check_flag(x$shell, "shell", call = call)
  if (shell && length(x$command) != 1) stop_argument("command", "one text with `shell = TRUE`", x$command, call = call)
  persistent <- check_flag(x$persistent, "persistent", call = call)
  if (!is.null(x$input)) {
    if (!is.character(x$input)) stop_argument("input", "a text, or \"json\"", x$input, call = call)
    check_string(gsub("[\n\t]", " ", x$input), "input", call = call)
  }
  idle <- Filter(function(key) length(x[[key]]) > 0, c("templates", "input", "must_hold", "must_not_hold"))
  if (persistent && length(idle)) {
    stop_argument(idle[1], "left out of a persistent program: it reads and writes a line of JSON for each run", x[[idle[1]]],
      call = call)
  }
  named_texts <- function(value, name) {
    if (is.null(value)) return(NULL)
    if (!is.character(value) || anyNA(value) || is.null(names(value)) || any(!nzchar(names(value)))) {
      stop_argument(name, "named texts", value, call = call)
    }
    value
  }
  if (!is.numeric(x$statuses) || !all(x$statuses %in% 0:255)) {
    stop_argument("statuses", "whole numbers from 0 to 255", x$statuses, call = call)
  }
  list(command = x$command, templates = x$templates, files = x$files, input = x$input,
    environment = named_texts(x$environment, "environment"), needs = x$needs, persistent = persistent, shell = shell,
    time_limit = check_bound(x$time_limit, "time_limit", call), statuses = as.double(x$statuses),
    must_hold = searched_texts(x$must_hold, "must_hold", call),
    must_not_hold = searched_texts(x$must_not_hold, "must_not_hold", call),
    most_mb = check_bound(x$most_mb, "most_mb", call))
}

check_bound <- function(x, name, call) {
  if (!is.numeric(x) || length(x) != 1 || is.na(x) || x <= 0) stop_argument(name, "a number above 0", x, call = call)
  as.double(x)
}

# Texts to look for, each with its file, "" for the program's output.
searched_texts <- function(x, name, call) {
  if (is.null(x)) return(NULL)
  if (!is.character(x) || anyNA(x) || any(!nzchar(x))) stop_argument(name, "texts that are not empty", x, call = call)
  files <- names(x) %||% rep("", length(x))
  for (file in files[nzchar(files)]) check_run_file(file, name, call)
  list(text = unname(x), file = files)
}

program_name <- function(x, call) {
  script <- intersect(sub("^[.]/", "", x$command), names(x$files))
  word <- if (x$shell) "program" else sub("[.][^.]*$", "", basename(c(script, x$command)[1]))
  if (nzchar(word) && !grepl("@[", word, fixed = TRUE)) word else "program"
}

# Each output with its reader.
program_outputs <- function(outputs, persistent, call = rlang::caller_env()) {
  if (is.character(outputs) && persistent && is.null(names(outputs))) {
    outputs <- lapply(stats::setNames(nm = outputs), answer_reader)
  }
  ok <- is.list(outputs) && length(outputs) > 0 && !is.object(outputs) && !is.null(names(outputs)) &&
    all(nzchar(names(outputs)))
  if (!ok) {
    stop_argument("outputs", "a named list of readers", outputs,
      "Such as `list(pressure = output(from_text(\"Pressure:\"), unit = \"m\"))`; see `?from_line`.", call)
  }
  Map(function(given, name) {
    output <- if (is_output(given)) given else new_output(NULL)
    reader <- if (!is_output(given)) given else if (!is.null(given$formula)) rethrow_as(rlang::eval_tidy(given$formula),
      "argument", sprintf("Output %s must be a reader.", quoted(name))) else if (persistent) answer_reader(name)
    if (!is_reader(reader)) {
      stop_argument("outputs", sprintf("readers, or `output()`s of readers; %s is none", quoted(name)), reader,
        "Such as `output(from_text(\"Pressure:\"), unit = \"m\")`.", call)
    }
    output$formula <- NULL
    list(output = output, reader = reader)
  }, outputs, names(outputs))
}

answer_reader <- function(name) from_json(paste0("/", gsub("/", "~1", gsub("~", "~0", name, fixed = TRUE), fixed = TRUE)))

command_shown <- function(model) {
  texts <- vapply(model$command, marked_text, "")
  if (model$shell) return(texts)
  odd <- !grepl("^[[:alnum:]@%+=:,./_-]+$", texts)
  paste(ifelse(odd, shQuote(texts), texts), collapse = " ")
}

# Quantities by the names under which a program gets them, which stay when the study's are renamed.
keyed <- function(needs) {
  keys <- names(needs) %||% rep("", length(needs))
  stats::setNames(unname(needs), ifelse(nzchar(keys), keys, needs))
}

# The same program with a quantity under another name.
renamed_in_program <- function(model, old, new) {
  in_marks <- function(marked) {
    marked$names[marked$names == old] <- new
    marked
  }
  for (texts in c("command", "templates", "environment")) model[[texts]][] <- lapply(model[[texts]], in_marks)
  if (!is.null(model$marked_input)) model$marked_input <- in_marks(model$marked_input)
  model$needs[model$needs == old] <- new
  model$dates[model$dates == old] <- new
  names(model$uses)[model$uses == old] <- new
  model
}
