# `ensayo run FILE`

cli_run <- function(args) {
  call <- cli_parse(args, "run FILE [options]", "Rehearse a study file, or a workbook that describes one, and write a result folder.",
    options = c(cli_run_options(), cli_simulate_options(), cli_options_watch(), list(
      optparse::make_option("--out", type = "character",
        help = "result folder [default: FILE without its ending, and -result]"),
      optparse::make_option("--name", type = "character",
        help = "a name for this result, which the default folder ends with"),
      optparse::make_option("--csv", action = "store_true", default = FALSE,
        help = "write all runs as one table runs.csv, too"),
      cli_option_no_plots(), cli_option_set(), cli_option_programs(), cli_option_force(), cli_option_json()
    )),
    positional = "file", footer = c("", "The folder will hold:",
      sprintf("  %-16s %s", names(result_files), result_files),
      sprintf("  *.png            a distribution and a tornado chart for each of the first %d outputs", figures_at_most))
  )
  if (is.null(call)) return(exit_codes[["done"]])
  read <- cli_read_study(call)
  settings <- cli_run_settings(call$options, read$run)
  name <- call$options$name
  if (!is.null(name) && file_word(name) != name) {
    stop_ensayo("call", "--name must be made of letters, digits, - and _.", sprintf("You gave %s.", quoted(name)))
  }
  out <- call$options$out %||% paste(c(paste0(sub("[.]ya?ml$", "", call$arguments$file), "-result"), name), collapse = "-")
  end <- cli_set_cluster(call$options$cluster)
  on.exit(end())
  result <- rehearse_into(read, settings, out, call$options$force, call$options$csv, !call$options[["no-plots"]])
  cli_print_result(result, call$options$json)
  count <- length(list.files(out, recursive = TRUE))
  say("\nWrote %s to %s. For a page to read: ensayo report %s", count_of(count, "file"), out, out)
  if (length(failed_outputs(result))) return(exit_codes[["failed"]])
  exit_codes[["done"]]
}

cli_run_options <- function() {
  list(
    optparse::make_option("--runs", type = "character", help = "number of runs [default: the file's, else 10000]"),
    optparse::make_option("--seed", type = "character",
      help = "seed, a whole number or a word [default: the file's, else a new one]"),
    optparse::make_option("--design", type = "character",
      help = sprintf("%s [default: the file's, else latin]", paste(designs, collapse = ", "))),
    optparse::make_option("--replicates", type = "character",
      help = "how many independent designs the runs are made of [default: the file's, else 1]")
  )
}

# Options of simulations alone.
cli_simulate_options <- function() {
  list(
    optparse::make_option("--preview", type = "character", help = "run the first few runs only, for a first look"),
    optparse::make_option("--until", type = "character",
      help = "add runs until figures are known: \"P95 of pressure within 0.2; chance of pressure < 38 within 0.01\""),
    optparse::make_option("--most", type = "character",
      help = "with --until, the largest number of runs [default: 1000000]"),
    optparse::make_option("--most-failed", type = "character",
      help = "stop where more than this share of the runs fails, such as 0.2 [default: 1]"),
    cli_option_workers(), cli_option_cluster()
  )
}

cli_option_no_plots <- function() {
  optparse::make_option("--no-plots", action = "store_true", default = FALSE,
    help = "write no charts of the outputs, which take most of the time of a small study")
}

cli_option_workers <- function() {
  optparse::make_option("--workers", type = "character", help = "sessions that make runs of programs side by side [default: 1]")
}

cli_count <- function(text, option, at_least) {
  if (grepl("^[0-9]{1,3}([.,' ][0-9]{3})+$", text)) {
    stop_ensayo("call", sprintf("%s must be a whole number without separators.", option), sprintf("You gave %s.",
      shown_value(text)), sprintf("Write %s.", gsub("[^0-9]", "", text)))
  }
  tryCatch(read_count(text, option, at_least), ensayo_error = function(e) {
    stop_ensayo("call", sprintf("%s must be a whole number of at least %s.", option, format_given(at_least)),
      sprintf("You gave %s.", shown_value(text)))
  })
}

# Options that were given win over the file's.
cli_run_settings <- function(options, settings) {
  if (!is.null(options$runs)) settings$runs <- cli_count(options$runs, "--runs", 1)
  if (!is.null(options$seed)) {
    settings$seed <- tryCatch(check_seed(read_seed(options$seed)), ensayo_error = function(e) {
      stop_ensayo("call", "--seed must be a whole number or a word.",
        sprintf("You gave %s.", shown_value(options$seed)))
    })
  }
  if (!is.null(options$replicates)) settings$replicates <- cli_count(options$replicates, "--replicates", 1)
  if (!is.null(options$design)) {
    if (!options$design %in% designs) {
      stop_ensayo("call", sprintf("--design must be one of %s.", paste(designs, collapse = ", ")),
        sprintf("You gave %s.", shown_value(options$design)))
    }
    settings$design <- options$design
  }
  if (!is.null(options$preview)) settings$preview <- cli_count(options$preview, "--preview", 1)
  if (!is.null(options$until)) settings$until <- as_call_fault(targets_from_text(cli_list(options$until, ";")))
  failed <- options[["most-failed"]]
  if (!is.null(failed)) {
    settings$most_failed <- as_call_fault(check_most_failed(cli_numbers(failed, "--most-failed"), "--most-failed"))
  }
  settings$watch <- options$watch
  settings$page <- options$page
  if (isTRUE(options$page) && is.null(options$watch)) {
    stop_ensayo("call", "--page goes with --watch.", NULL, "Name the output that it shows: --watch OUTPUT.")
  }
  if (!is.null(options$workers)) settings$workers <- cli_count(options$workers, "--workers", 1)
  # exactly: `most` would be found in `most-failed`
  if (!is.null(options[["most"]])) settings$most <- cli_count(options[["most"]], "--most", 1)
  settings
}

# Simulates a study that was read from a file, and writes the folder, with figures where they are wanted.
rehearse_into <- function(read, settings, out, force, csv = FALSE, plots = TRUE) {
  former <- if (force) pictures_of_outputs(out)
  progress <- cli_progress(settings, read$study, out)
  replicates <- if (is.null(settings$until) || settings$replicates > 1) settings$replicates else 10
  if (is.null(settings$until)) {
    result <- simulate_into(read$study, out, settings$runs, settings$seed, design = settings$design,
      replicates = replicates, block = settings$block, preview = settings$preview, overwrite = force, csv = csv,
      workers = settings$workers, most_failed = settings$most_failed %||% 1,
      progress = progress)
  } else {
    prepare_result_folder(out, force)
    result <- simulate(read$study, nsim = settings$runs, seed = settings$seed, design = settings$design,
      replicates = replicates, block = settings$block, until = settings$until, preview = settings$preview,
      most = settings[["most"]] %||% max(1e6, settings$runs), workers = settings$workers, progress = progress)
    write_result(result, out, overwrite = TRUE, csv = csv)
  }
  if (isTRUE(settings$page)) end_page(result, settings$watch, out)
  unlink(former)  # they show runs that are gone
  if (plots) write_figures(result, out)
  result
}

# The files of write_figures() for the result that lies in a folder, if one does.
pictures_of_outputs <- function(dir) {
  names <- tryCatch(names(read_manifest(dir)$kinds), ensayo_error = function(e) NULL)
  kinds <- names(Filter(function(figure) identical(figure$place, "output"), figure_kinds))
  unlist(lapply(names, function(name) vapply(kinds, picture_file, "", dir = dir, name = name)), use.names = FALSE)
}

# The figures of each output (a distribution and a tornado chart), or of the first dozen.
write_figures <- function(result, dir) {
  outputs <- utils::head(main_outputs(result), figures_at_most)
  for (name in outputs) {
    figures <- drawn_figures("output", result, name)
    for (kind in names(figures)) {
      write_picture(figures[[kind]], picture_file(dir, kind, name))
    }
  }
}

cli_print_result <- function(result, json) {
  if (json) writeLines(to_json(c(list(manifest = result_manifest(result, character())), result_statistics(result))))
  else writeLines(format(result))
}
