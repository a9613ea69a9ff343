# One run with everything that happened in it.

# Every model of a study in its turn for one run. `columns` has a value for each input; `place` is where programs have
# their folders, which stay. Gives inputs, outputs, failures, and of each model what its kind tells (`trial`).
trial_of <- function(study, columns, run, seed, place = NULL) {
  models <- models_in_order(study)
  log <- new_failure_log()
  columns <- with_series(study, columns, 1)
  values <- list2env(as.list(columns), parent = emptyenv())
  setting <- run_setting(seed, place)
  told <- lapply(models, function(model) {
    kind <- model_kind(model)
    began <- proc.time()[["elapsed"]]
    more <- if (is.null(kind$trial)) {
      kind$prepare(model, setting)(values, run, log)
      list()
    } else kind$trial(model, setting, values, run, log)
    c(list(name = model$name, kind = model$kind), more, list(seconds = more$seconds %||% (proc.time()[["elapsed"]] - began)))
  })
  structure(list(study = study, run = run, inputs = columns[names(study$inputs)],
    outputs = mget(output_order(study$outputs), envir = values)[names(study$outputs)], failures = failure_table(log),
    models = Filter(function(one) one$kind != "formulas", told)), class = "ensayo_trial")
}

#' Try one run and see all of it
#'
#' `try_run()` makes one run and keeps what happened in it: of a program which texts were filled with what, the command,
#' how it ended, and for each output the line that it was read from. It is the way to get a coupling right before thousands
#' of runs are made. `run_details()` does the same with a run of a result, again, alone and here.
#'
#' @param study A study.
#' @param ... Inputs as `name = value`; the others are at their base values.
#' @param .folder Text: where the folders of the run's programs are made; they stay. In the folder of R's session, which
#'   ends with it, when left out.
#' @param result A result.
#' @param run Whole number: the run's number.
#' @return A trial, which prints itself: a list with `inputs`, `outputs`, `failures` (a data frame: `output`, `reason`) and
#'   `models`, a list of each model besides formulas: `name`, `kind`, `seconds`, and of a program `folder`, `command`,
#'   `status`, `written` (a data frame: `file`, `line`, `quantity`, `text`), `said` (its last lines: `file`, `line`, `text`)
#'   and `read` (`output`, `value`, `file`, `line`, `said`).
#' @section Errors: `ensayo_error_name` for an unknown input; `ensayo_error_argument` where `result` has no such run, and
#'   those of the models.
#' @seealso [add_program()], [add_model()], [repeat_runs()].
#' @examples
#' emptying <- function(volume, demand) list(left = volume - 10 * demand)
#' tank <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), demand = law_pert(20, 30, 40)) |>
#'   add_model(emptying)
#' try_run(tank, demand = 38)
#' res <- simulate(tank, nsim = 100, seed = 11)
#' run_details(res, 12)
#' @export
try_run <- function(study, ..., .folder = NULL) {
  check_study(study)
  validate_study(study)
  given <- rlang::dots_list(..., .homonyms = "error")
  for (name in names_of(given)) check_known_input(study, name)
  fixed <- fix_inputs(study, !!!given)
  trial <- trial_of(fixed, base_values(fixed), 1, base_seed, check_string(.folder, null = TRUE))
  trial$given <- names_of(given)
  trial
}

trial_program <- function(model, setting, values, run, log) {
  check_program(model)
  columns <- mget(unname(model$uses), envir = values)
  model$here$keep <- "all"
  told <- if (model$persistent) answered_trial(model, columns, run, log, setting$place) else
    program_trial(model, columns, run, log, setting$place)
  for (name in model$gives) assign(name, told$values[[name]], envir = values)
  told$values <- NULL
  told
}

program_trial <- function(model, columns, run, log, place) {
  seen <- NULL
  values <- program_runs(model, columns, run, log, place, function(done, folder) seen <<- c(done, list(folder = folder)))
  if (is.null(seen)) return(list(values = values))
  list(values = values, folder = seen$folder, command = seen$command, status = seen$status, fault = seen$fault,
    seconds = seen$seconds, said = last_words(seen$folder), written = written_lines(model, seen$texts),
    read = read_lines(model, seen$read))
}

answered_trial <- function(model, columns, run, log, place) {
  talk <- new_talk(model, place)
  on.exit(talk$end())
  seen <- NULL
  values <- answered_runs(model, columns, run, log, talk, function(line, answer) seen <<- list(line = line, answer = answer))
  if (is.null(seen)) return(list(values = values))
  list(values = values, command = vapply(model$command, marked_text, ""), fault = seen$answer$fault,
    written = data.frame(file = "standard input", line = 1, quantity = paste(model$needs, collapse = ", "),
      text = seen$line), read = read_lines(model, seen$answer$read))
}

# The last lines that a program printed.
last_words <- function(folder, most = 5) {
  rows <- lapply(c(said_file, errors_file), function(name) {
    path <- file.path(folder, name)
    lines <- if (file.exists(path)) file_lines(path) else character()
    at <- utils::tail(seq_along(lines), most)
    data.frame(file = rep(name, length(at)), line = as.double(at), text = lines[at])
  })
  stacked(rows)
}

# The lines of filled texts that hold marks.
written_lines <- function(model, texts) {
  rows <- Map(function(marked, name) {
    if (length(marked$names) == 0) return(NULL)
    lines <- strsplit(texts[[name]], "\r?\n")[[1]]
    data.frame(file = name, line = marked$lines, quantity = marked$names, text = lines[marked$lines])
  }, model$templates, names(model$templates))
  stacked(c(list(data.frame(file = character(), line = numeric(), quantity = character(), text = character())),
    unname(rows)))
}

read_lines <- function(model, read) {
  rows <- lapply(names(read), function(name) {
    found <- read[[name]]
    reader <- model$readers[[name]]
    value <- if (is.null(found$fault)) as.double(if (is.character(found$value)) value_of_text(found$value) else found$value)
    data.frame(output = name, value = if (length(value)) value[1] else NA_real_, count = length(value),
      file = if (is.function(reader)) "" else reader$file %||% "standard output",
      line = if (length(found$line)) found$line[1] else NA_real_,
      said = if (!is.null(found$fault)) found$fault else if (length(found$said)) trimws(found$said[1]) else "")
  })
  stacked(rows)
}
