# `ensayo show DIR`

cli_show <- function(args) {
  call <- cli_parse(args, "show DIR [options]",
    "Show a result folder's statistics, percentiles, chances and pass rates, each with its simulation error.",
    options = c(list(
      optparse::make_option("--outputs", type = "character", help = "names with commas between them [default: all]"),
      optparse::make_option("--given", type = "character", help = "show the runs alone in which a condition holds"),
      cli_option_step(),
      optparse::make_option("--sort", type = "character",
        help = "a statistic to sort outputs by, from large to small; -P95 (as --sort=-P95) the other way"),
      optparse::make_option("--where", type = "character",
        help = "outputs whose statistics meet a condition: \"P95 > 40\""),
      optparse::make_option("--top", type = "character", help = "how many outputs to show at the most [default: 20]"),
      cli_option_changed(), cli_option_json()
    ), cli_options_of(cli_reading_options())),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- cli_read_result(call$arguments$dir, options)
  outputs <- cli_outputs(options$outputs, output_names(result)) %||% main_outputs(result)
  asked <- cli_asked(result, options)
  if (length(outputs)) {
    table <- as_call_fault(sorted_by(statistics_table(result, outputs, asked$percentiles), options$sort))
    if (!is.null(options$where)) table <- rows_where(table, options$where)
    asked$outputs <- utils::head(table$output, cli_count(options$top %||% "20", "--top", 1))
    asked$hidden <- nrow(table) - length(asked$outputs)
    if (length(asked$outputs) == 0) {
      if (options$json) writeLines(to_json(list(study = result$study$title, outputs = list())))
      else say("No output meets %s.", quoted(options$where))
      return(exit_codes[["done"]])
    }
  }
  if (options$json) writeLines(to_json(show_readings(result, asked))) else writeLines(show_lines(result, asked))
  exit_codes[["done"]]
}

# A folder's result, or those of its runs that were asked for.
cli_read_result <- function(dir, options = list()) {
  result <- read_result(dir, changed = isTRUE(options$changed))
  if (!is.null(options$given)) {
    known <- quantity_vocabulary(result$study)
    result <- as_call_fault(kept_given(result, conditions_from_text(options$given, known, "Condition")))
  }
  if (is.null(options$step)) result else as_call_fault(at_step(result, cli_step(options$step)))
}

cli_option_step <- function() {
  optparse::make_option("--step", type = "character", help = "show series as they are at a step: its number, its day, or last")
}

cli_step <- function(text) if (is_number_text(text)) read_number(text, "--step") else text

# What may be asked of readings, and of figures, from their records: help texts by name.
cli_reading_options <- function() do.call(c, unname(lapply(result_readings(), function(reading) reading$options)))

cli_figure_options <- function() {
  with_figure <- Filter(function(reading) !is.null(reading$figure), result_readings())
  c(figure_options, do.call(c, unname(lapply(with_figure, function(reading) reading$options))))
}

cli_options_of <- function(helps) {
  lapply(names(helps), function(name) {
    optparse::make_option(paste0("--", name), type = "character", help = helps[[name]])
  })
}

# What was asked, as readings and figures take it: of a name that is not known here, the number that was given.
cli_asked <- function(result, options, helps = cli_reading_options()) {
  given <- Filter(Negate(is.null), options[names(helps)])
  asked <- Map(function(text, name) {
    read <- cli_asked_readers[[name]]
    if (is.null(read)) cli_numbers(text, paste0("--", name)) else as_call_fault(read(text, result))
  }, given, names(given))
  names(asked)[names(asked) == "chance"] <- "chances"
  do.call(asked_of, c(list(result), asked))
}

cli_asked_readers <- list(
  percentiles = function(text, result) check_percentiles(cli_numbers(text, "--percentiles"), "percentiles"),
  chance = function(text, result) {
    conditions_from_text(cli_list(text, ";"), quantity_vocabulary(result$study), "Chance")
  },
  target = function(text, result) if (is_number_text(text)) read_number(text, "--target") else text,
  statistic = function(text, result) text,
  condition = function(text, result) cli_list(text, ";"),
  label = function(text, result) if (text == "outer") text else cli_numbers(text, "--label")
)

# The rows of a table that meet a condition on its columns.
rows_where <- function(table, condition) {
  columns <- Filter(is.numeric, as.list(unclass_table(table)))
  formula <- as_call_fault(conditions_from_text(condition, names(columns), "Condition"))
  met <- new_evaluator(list(met = formula[[1]]))(columns, seq_len(nrow(table)))$values$met
  table[met %in% TRUE, ]
}

show_readings <- function(result, asked) {
  c(list(partial = partial_words(result)), result_statistics(result, asked))
}

show_lines <- function(result, asked) {
  c(title_line("Result", result$study$title), partial_words(result), failure_lines(result),
    region_lines(result), reading_sections("show", result, asked))
}
