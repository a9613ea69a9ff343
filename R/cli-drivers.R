# `ensayo drivers DIR`

cli_drivers <- function(args) {
  about <- vapply(driver_measures, function(measure) measure$about, "")
  call <- cli_parse(args, "drivers DIR [options]",
    "Tell what drives the outputs of a result folder, in words and as a table.",
    options = list(
      optparse::make_option("--measure", type = "character", default = names(about)[1],
        help = "one of those below [default: %default]"),
      optparse::make_option("--outputs", type = "character",
        help = "names with commas between them [default: those specs are about]"),
      optparse::make_option("--condition", type = "character", help = "the drivers of a chance: \"pressure >= 38\""),
      optparse::make_option("--by", type = "character", default = "input", help = "input or group [default: %default]"),
      optparse::make_option("--top", type = "character",
        help = "how many inputs to show for each output [default: 12]"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir", footer = c("", "Measures:", sprintf("  %-18s %s", names(about), about)))
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- read_result(call$arguments$dir, options$changed)
  outputs <- cli_outputs(options$outputs, output_names(result)) %||% leading_outputs(result)
  condition <- cli_condition(options$condition, "--condition")
  table <- as_call_fault(drivers(result, options$measure, outputs = !!outputs, condition = !!condition,
    by = options$by))
  words <- if (is.null(condition)) words_of(result, outputs, list(
    unseen = "Next: `--measure first_order` sees curves, and `ensayo indices FILE` what inputs do together.",
    known = plain_advice$known))
  if (options$json) {
    writeLines(to_json(list(study = result$study$title, words = unname(unclass(words)),
      drivers = unclass_table(table))))
  } else {
    top <- cli_count(options$top %||% "12", "--top", 1)
    writeLines(c(title_line("Drivers", result$study$title), partial_words(result), word_lines(words),
      driver_lines(result, table, top)))
  }
  exit_codes[["done"]]
}

# A condition as it was written; NULL where none was.
cli_condition <- function(text, option) {
  if (is.null(text)) return(NULL)
  as_call_fault(tryCatch(str2lang(text), error = function(e) {
    stop_ensayo("argument", sprintf("%s must be a formula.", option), sprintf("You gave %s.", shown_value(text)))
  }))
}

# `ensayo indices FILE`

cli_indices <- function(args) {
  call <- cli_parse(args, "indices FILE [options]",
    "Run a study file for its variance indices: what each input does alone, and through others.",
    options = list(
      optparse::make_option("--rows", type = "character", default = "2048",
        help = "rows of the base design; the model runs that often for each input and two more [default: %default]"),
      optparse::make_option("--seed", type = "character",
        help = "seed, a whole number or a word [default: the file's, else a new one]"),
      optparse::make_option("--outputs", type = "character", help = "names with commas between them [default: all]"),
      optparse::make_option("--groups", action = "store_true", default = FALSE,
        help = "an index for each group of inputs"),
      optparse::make_option("--pairs", action = "store_true", default = FALSE, help = "second-order indices, too"),
      optparse::make_option("--plot", type = "character", help = "write the first output's picture"),
      cli_option_workers(), cli_option_set(), cli_option_programs(), cli_option_force(), cli_option_json()
    ),
    positional = "file")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  read <- cli_read_study(call)
  settings <- cli_run_settings(options[c("seed", "workers")], read$run)
  outputs <- cli_outputs(options$outputs, names(read$study$outputs))
  table <- variance_indices(read$study, cli_count(options$rows, "--rows", 10), settings$seed, outputs = !!outputs,
    groups = options$groups, second_order = options$pairs, workers = settings$workers, announce = function(text) say("%s", text))
  if (options$json) writeLines(to_json(list(study = read$study$title, indices = unclass_table(table))))
  else writeLines(c(title_line("Variance indices", read$study$title), index_lines(table)))
  if (!is.null(options$plot)) save_picture(plot_indices(table, table$output[1]), options$plot, options$force)
  exit_codes[["done"]]
}
