# Outside programs as models: texts are filled and files placed in a folder of each run, a command runs there, readers
# take outputs from what it wrote.

kind_program <- list(
  dear = TRUE,
  prepare = function(model, setting) {
    check_program(model)
    talk <- if (model$persistent) new_talk(model, setting$place)
    step <- function(values, runs, log) {
      columns <- mget(unname(model$uses), envir = values)
      outcome <- if (model$persistent) answered_runs(model, columns, runs, log, talk) else
        program_runs(model, columns, runs, log, setting$place)
      for (name in model$gives) assign(name, outcome[[name]], envir = values)
    }
    structure(step, end = talk$end)
  },
  alone = function(model, setting) list(),
  trial = function(model, setting, values, run, log) trial_program(model, setting, values, run, log)
)

check_program <- function(model) {
  check_allowed(model)
  check_files(model)
}

check_allowed <- function(model) {
  if (isTRUE(model$here$allowed)) return(invisible())
  stop_ensayo("model", "A program that a study file names runs only when you say so.",
    sprintf("%s would run: %s", quoted(model$name), command_shown(model)),
    "Look at it, then say so: `allow_programs()`, or `--run-programs` on the command line.",
    name = model$name, command = command_shown(model))
}

