# `ensayo draw FILE`

cli_draw <- function(args) {
  call <- cli_parse(args, "draw FILE [options]",
    "Draw the inputs of a study file without running its model, as a table for other programs.",
    options = c(cli_run_options(), list(
      optparse::make_option("--from", type = "character", help = "first run to draw [default: 1]"),
      optparse::make_option("--to", type = "character", help = "last run to draw [default: the number of runs]"),
      optparse::make_option("--out", type = "character",
        help = "table to write, .csv or .parquet [default: FILE without its ending, and -draws.csv]"),
      cli_option_set(), cli_option_force()
    )),
    positional = "file"
  )
  if (is.null(call)) return(exit_codes[["done"]])
  read <- cli_read_study(call)
  settings <- cli_run_settings(call$options, read$run)
  out <- call$options$out %||% paste0(sub("[.]ya?ml$", "", call$arguments$file), "-draws.csv")
  runs <- c(cli_count(call$options$from %||% "1", "--from", 1),
    if (is.null(call$options$to)) settings$runs else cli_count(call$options$to, "--to", 1))
  seed <- check_seed(settings$seed)
  draw_inputs(read$study, settings$runs, seed, design = settings$design, replicates = settings$replicates,
    block = settings$block, runs = runs, file = out, overwrite = call$options$force)
  say("Wrote %s of %s (%s, seed %s) to %s.", count_of(runs[2] - runs[1] + 1, "run"), format_given(settings$runs),
    design_words[[settings$design]], format_given(seed), out)
  exit_codes[["done"]]
}
