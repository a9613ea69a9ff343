# `ensayo new NAME --for KIND`

cli_new <- function(args) {
  call <- cli_parse(args, "new NAME --for KIND [options]", "Write a small commented study, which runs at once, into a new folder NAME.",
    options = list(
      optparse::make_option("--for", type = "character", help = paste(names(starters), collapse = ", ")),
      cli_option_force()
    ),
    positional = "name",
    footer = c("", "Kinds:", sprintf("  %-11s  %s", names(starters), vapply(starters, function(starter) starter$about, ""))))
  if (is.null(call)) return(exit_codes[["done"]])
  kind <- call$options[["for"]]
  if (is.null(kind) || !kind %in% names(starters)) {
    stop_ensayo("call", sprintf("--for must be one of %s.", paste(names(starters), collapse = ", ")),
      if (is.null(kind)) "It was not given." else sprintf("You gave %s.", quoted(kind)), if (!is.null(kind)) suggestion(kind, names(starters)))
  }
  written <- as_call_fault(write_starter(call$arguments$name, kind, call$options$force))
  starter <- starters[[kind]]
  run <- if (holds_programs(read_study(written[1]))) " --run-programs" else ""
  say("Wrote %s: %s.", and_list(written), starter$about)
  say("Read it, and change what is yours. Then:")
  say("  ensayo check %s", written[1])
  if (nzchar(run)) say("  ensayo try %s%s", written[1], run)
  if (!is.null(starter$command)) say("  ensayo %s %s", starter$command, written[1])
  say("  ensayo run %s%s", written[1], run)
  exit_codes[["done"]]
}
