# `ensayo schedule FILE|DIR`

cli_schedule <- function(args) {
  call <- cli_parse(args, "schedule FILE|DIR [options]",
    "Tell when tasks start and finish, which of them drive the finish, and how late each may be.",
    options = list(
      optparse::make_option("--percentile", type = "character", help = "number [default: the planning percentile]"),
      optparse::make_option("--slip", type = "character", default = "0,5", help = "days by which the finish may move [default: %default]"),
      optparse::make_option("--of", type = "character", help = "what is won: shorter, least, certain, events, with commas between them"),
      optparse::make_option("--runs", type = "character", help = "whole number, of a study file [default: 10000]"),
      optparse::make_option("--seed", type = "character", help = "whole number, of a study file [default: 1]"),
      optparse::make_option("--check", action = "store_true", default = FALSE, help = "only look the schedule over; nothing is run"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  place <- call$arguments$dir
  if (grepl("[.]ya?ml$", place)) {
    study <- read_study(place)
    if (options$check) {
      findings <- as_call_fault(review(study))
      cat(format(findings), sep = "\n")
      return(exit_codes[["done"]])
    }
    result <- simulate(study, nsim = if (is.null(options$runs)) 10000 else cli_count(options$runs, "--runs", 1),
      seed = if (is.null(options$seed)) 1 else cli_count(options$seed, "--seed", 0), progress = NULL)
  } else result <- read_result(place, options$changed)
  percentile <- if (!is.null(options$percentile)) cli_numbers(options$percentile, "--percentile")
  if (!is.null(percentile)) result$study$readings$planning <- percentile
  table <- as_call_fault(schedule_table(result))
  events <- length(events_of_tasks(result$study)) > 0
  gains <- as_call_fault(schedule_gains(result, cli_list(options$of) %||% c("shorter", if (events) "events")))
  slip <- as_call_fault(slip_allowed(result, cli_numbers(options$slip, "--slip")))
  paths <- critical_paths(result, 5)
  if (options$json) {
    writeLines(to_json(list(study = result$study$title, schedule = unclass_table(table), gains = unclass_table(gains), slip = unclass_table(slip),
      paths = unclass_table(paths))))
    return(exit_codes[["done"]])
  }
  writeLines(c(title_line("Schedule", result$study$title), partial_words(result), "", cell_lines(schedule_cells(result), schedule_note(result)),
    "", heading("What is won"), cell_lines(schedule_gain_cells(gains, result), schedule_gain_note, 20),
    "", heading("How late each task may be"), cell_lines(slip_cells(slip), slip_note(result)),
    "", heading(sprintf("Critical paths: the most frequent of %s", format_given(paths$paths[1]))),
    cell_lines(list(runs = format_share(paths$share, 0), path = paths$path))))
  exit_codes[["done"]]
}
