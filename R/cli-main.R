# The command line. `cli_main()` returns an exit code, so that tests call it in process as well as through
# `exec/ensayo`. Tables and JSON go to standard output, everything said to the user to standard error.

exit_codes <- c(done = 0L, failed = 1L, wrong_call = 2L)

cli_commands <- list(
  demo = list(about = "rehearse the demo study and write its report", run = function(args) cli_demo(args)),
  new = list(about = "write a small commented study that runs at once, for a trade", run = function(args) cli_new(args)),
  quick = list(about = "rehearse a sum, a product or formulas of a table of inputs", run = function(args) cli_quick(args)),
  check = list(about = "read a study file, say what is in it and review it, without running it",
    run = function(args) cli_check(args)),
  try = list(about = "make one run of a study file and show all of it", run = function(args) cli_try(args)),
  run = list(about = "rehearse a study file and write a result folder", run = function(args) cli_run(args)),
  draw = list(about = "draw the inputs of a study file into a table, without running its model",
    run = function(args) cli_draw(args)),
  laws = list(about = "list the laws with their parameters and when to use each", run = function(args) cli_laws(args)),
  fit = list(about = "fit laws to a column of a CSV file and rank them", run = function(args) cli_fit(args)),
  results = list(about = "list the result folders that stand in a folder", run = function(args) cli_results(args)),
  show = list(about = "show a result folder's statistics, percentiles, chances and pass rates",
    run = function(args) cli_show(args)),
  parts = list(about = "tell how a total is made up", run = function(args) cli_parts(args)),
  costs = list(about = "show a cost tree code by code, with parts of the reserve that add up", run = function(args) cli_costs(args)),
  events = list(about = "tell what events did, and what it is worth to be rid of them", run = function(args) cli_events(args)),
  schedule = list(about = "tell when tasks start and finish, what drives the finish, how late each may be, and when money is spent",
    run = function(args) cli_schedule(args)),
  budget = list(about = "make the uncertainty budget of a study file, with the simulation beside it", run = function(args) cli_budget(args)),
  drivers = list(about = "tell what drives the outputs of a result folder", run = function(args) cli_drivers(args)),
  indices = list(about = "run a study file for the variance indices of its inputs",
    run = function(args) cli_indices(args)),
  surrogate = list(about = "fit a surrogate to the runs of a result folder, and ask it", run = function(args) cli_surrogate(args)),
  rare = list(about = "find a rare chance with few runs of a study file's model", run = function(args) cli_rare(args)),
  worth = list(about = "tell what it is worth to know inputs before deciding", run = function(args) cli_worth(args)),
  compare = list(about = "compare result folders, run by run where they share their random numbers",
    run = function(args) cli_compare(args)),
  plot = list(about = "draw one picture of a result folder", run = function(args) cli_plot(args)),
  report = list(about = "write the report of a result folder", run = function(args) cli_report(args)),
  explore = list(about = "open a page in the browser that answers, for one result folder or several", run = function(args) cli_explore(args))
)

#' The command line
#'
#' Runs one command of the `ensayo` program, as `exec/ensayo` does; see `ensayo --help`.
#'
#' @section Clusters: `ensayo run FILE --cluster cluster.yml` has runs made by workers that a scheduler starts. The file has
#'   the keys `workers` (how many), `command` (`sbatch`, `qsub`, `bsub`), `options` (lines for the scheduler, such as
#'   `"#SBATCH --mem=4G"`), and if wanted `rscript` (the path of Rscript on its nodes), `address` (where they find this
#'   machine, `tcp://login1:5555`) and `wait` (seconds that none may be there, 60 unless said).
#' @param args Character: the command and its arguments.
#' @return The exit code, a whole number: 0 done, 1 the study or the run failed, 2 the call is wrong.
#' @examples
#' cli_main("--help")
#' @export
cli_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  old <- options(ensayo.calls = FALSE)
  on.exit(options(old))
  if (length(args) == 0) {
    say_lines(cli_usage())
    return(exit_codes[["wrong_call"]])
  }
  if (args[1] %in% c("--help", "-h", "help")) {
    writeLines(cli_usage())
    return(exit_codes[["done"]])
  }
  if (args[1] == "--version") {
    writeLines(paste("ensayo", software_versions()$ensayo))
    return(exit_codes[["done"]])
  }
  tryCatch(
    {
      command <- cli_command(args[1])
      withCallingHandlers(command$run(args[-1]), warning = say_warning)
    },
    ensayo_error_call = function(e) cli_failure(e, "wrong_call"),
    error = function(e) cli_failure(e, "failed"),
    interrupt = function(e) {
      say("Interrupted: no result was written.")
      exit_codes[["failed"]]
    }
  )
}

cli_command <- function(name) {
  if (name %in% names(cli_commands)) return(cli_commands[[name]])
  stop_ensayo("call", sprintf("%s is not a command.", quoted(name)), NULL, suggestion(name, names(cli_commands)),
    name = name)
}

cli_usage <- function() {
  about <- vapply(cli_commands, function(command) command$about, "")
  c(
    "Usage: ensayo COMMAND [options]", "",
    "Rehearse calculations with uncertain numbers.", "", "Commands:",
    sprintf("  %-9s %s", names(cli_commands), about), "",
    "`ensayo COMMAND --help` tells a command's options; `ensayo --version` the version.",
    "Exit codes: 0 done, 1 the study or the run failed, 2 the call is wrong."
  )
}

# Reads a command's arguments. Returns list(options, arguments), or NULL where help was asked for and printed. With
# `more` further arguments may follow the positional ones.
cli_parse <- function(args, usage, about, options = list(), positional = character(), footer = NULL, more = FALSE) {
  parser <- optparse::OptionParser(usage = paste("ensayo", usage), option_list = options, description = about,
    epilogue = paste(footer, collapse = "\n"))
  refuse <- function(condition) {
    fault <- sub("^Error in .*: *\n? *", "", trimws(conditionMessage(condition)))
    stop_ensayo("call", "The options must be those of the command.", fault,
      sprintf("See `ensayo %s --help`.", sub(" .*", "", usage)))
  }
  parsed <- tryCatch(
    optparse::parse_args(parser, args, print_help_and_exit = FALSE, positional_arguments = TRUE),
    error = refuse, warning = refuse
  )
  if (isTRUE(parsed$options$help)) {
    optparse::print_help(parser)
    return(NULL)
  }
  count <- length(parsed$args)
  if (count < length(positional) || count > length(positional) && !more) {
    stop_ensayo("call", sprintf("Usage: ensayo %s", usage),
      sprintf("You gave %s.", if (length(parsed$args)) paste(quoted(parsed$args), collapse = ", ") else "no argument"))
  }
  named <- seq_along(positional)
  list(options = parsed$options, arguments = stats::setNames(as.list(parsed$args[named]), positional),
    more = if (length(named)) parsed$args[-named] else parsed$args)
}

# A list that was given as one text: `a, b` or `x < 1; y > 2`.
cli_list <- function(text, sep = ",") if (!is.null(text)) trimws(strsplit(text, sep, fixed = TRUE)[[1]])

cli_numbers <- function(text, option) {
  vapply(cli_list(text), function(part) {
    tryCatch(read_number(part, option), ensayo_error = function(e) {
      stop_ensayo("call", sprintf("%s must be numbers with commas between them.", option),
        sprintf("You gave %s.", shown_value(text)))
    })
  }, 0, USE.NAMES = FALSE)
}

# What the user says wrongly on the command line is a wrong call, whatever raised it.
as_call_fault <- function(expr) {
  tryCatch(expr, ensayo_error_name = restate_as_call, ensayo_error_argument = restate_as_call,
    ensayo_error_formula = restate_as_call)
}

restate_as_call <- function(e) stop_ensayo("call", e$expected, e$came, e$mend)

# Names of outputs of a result, or NULL for all.
cli_outputs <- function(text, known) {
  names <- cli_list(text)
  unknown <- setdiff(names, known)
  if (length(unknown)) as_call_fault(stop_unknown_name(unknown[1], known, "an output of the result"))
  names
}

# What was expected, what came, how to mend it: a line each.
cli_failure <- function(error, code) {
  say_lines(c(paste("Error:", error$expected %||% conditionMessage(error)), sprintf("  %s", c(error$came, if (!is.null(error$mend)) file_advice(error$mend)))))
  exit_codes[[code]]
}

# Advice for whoever writes a study file in place of R: a call in brackets is left out, what a verb adds stands in a section, and
# laws and states are written without R's names.
file_advice <- function(advice) {
  advice <- gsub("(with|in) `(add|replace)_([a-z]+)\\([^`]*\\)`( first)?", "under `\\3` in the study file", without_calls(advice))
  advice <- sub("under `correlation`", "under `correlations`", advice, fixed = TRUE)
  advice <- sub("under `(model|program)`", "under `models`", advice)
  advice <- gsub("`(\\w+) = state\\((.*), start = (.*)\\)`", "`\\1: {state: \\2, start: \\3}`", advice)
  gsub("\\blaw_([a-z]+)\\(", "\\1(", advice)
}

without_calls <- function(words) gsub(" \\(`[^`]*\\)`\\)", "", words)

say_warning <- function(warning) {
  say("Warning: %s", without_calls(conditionMessage(warning)))
  invokeRestart("muffleWarning")
}

say_lines <- function(lines) writeLines(cli::ansi_strip(lines), stderr())

say <- function(...) say_lines(sprintf(...))

cli_option_changed <- function() {
  optparse::make_option("--changed", action = "store_true", default = FALSE,
    help = "read a result whose files were changed since it was written")
}

cli_option_json <- function() optparse::make_option("--json", action = "store_true", default = FALSE,
  help = "print JSON for programs")
cli_option_force <- function() {
  optparse::make_option("--force", action = "store_true", default = FALSE, help = "replace what is there")
}
