# `ensayo schedule FILE|DIR`

cli_schedule <- function(args) {
  call <- cli_parse(args, "schedule FILE|DIR [options]",
    "Tell when tasks start and finish, which of them drive the finish, how late each may be, and when money is spent.",
    options = c(list(
      optparse::make_option("--percentile", type = "character", help = "number [default: the planning percentile]"),
      optparse::make_option("--slip", type = "character", default = "0,5", help = "days by which the finish may move [default: %default]"),
      optparse::make_option("--of", type = "character",
        help = "what is won: shorter, least, certain, events, with commas between them [default: shorter, events]"),
      optparse::make_option("--by", type = "character", help = "periods of money: day, week, month, quarter, year, or a number of days"),
      optparse::make_option("--check", action = "store_true", default = FALSE,
        help = "only look a study file's schedule over; nothing is run")
    ), cli_run_options(), list(cli_option_set(), cli_option_programs(), cli_option_changed(), cli_option_json())),
    positional = "file")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  place <- call$arguments$file
  of_file <- grepl("[.]ya?ml$", place)
  if (options$check && !of_file) stop_ensayo("call", "--check goes with a study file.", sprintf("You gave %s.", quoted(place)))
  if (of_file) {
    read <- cli_read_study(call)
    if (options$check) {
      cat(format(review(read$study)), sep = "\n")
      return(exit_codes[["done"]])
    }
    run <- cli_run_settings(options, read$run)
    result <- simulate(read$study, nsim = run$runs, seed = run$seed, design = run$design, replicates = run$replicates, progress = NULL)
  } else result <- read_result(place, options$changed)
  if (!is.null(options$percentile)) {
    result$study$readings$planning <- as_call_fault(check_percentiles(cli_numbers(options$percentile, "--percentile"), "--percentile"))[1]
  }
  table <- as_call_fault(schedule_table(result))
  gains <- as_call_fault(schedule_gains(result, cli_list(options$of) %||% c("shorter", if (has_schedule_events(result)) "events")))
  slip <- as_call_fault(slip_allowed(result, cli_numbers(options$slip, "--slip")))
  paths <- critical_paths(result, 5)
  cash <- if (has_cash(result)) as_call_fault(cash_table(result, cli_period(options$by)))
  if (options$json) {
    tables <- lapply(list(schedule = table, gains = gains, slip = slip, paths = paths, cash = cash), function(x) if (!is.null(x)) unclass_table(x))
    writeLines(to_json(c(list(study = result$study$title), Filter(length, tables))))
    return(exit_codes[["done"]])
  }
  writeLines(c(title_line("Schedule", result$study$title), partial_words(result), "",
    cell_lines(schedule_cells(result, table), schedule_note(result)),
    "", heading("What is won"), cell_lines(schedule_gain_cells(gains, result), schedule_gain_note, 20),
    "", heading("How late each task may be"), cell_lines(slip_cells(slip), slip_note(result)),
    "", heading(sprintf("Critical paths: the most frequent of %s", format_given(paths$paths[1]))),
    cell_lines(list(runs = format_share(paths$share, 0), path = paths$path)),
    if (!is.null(cash)) c("", heading("When the money is spent"), cell_lines(cash_cells(cash, result), cash_note(result)))))
  exit_codes[["done"]]
}

# A word, or a number of days.
cli_period <- function(by) if (is.null(by) || !is_number_text(by)) by else cli_numbers(by, "--by")[1]
