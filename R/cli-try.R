# `ensayo try FILE`

cli_try <- function(args) {
  call <- cli_parse(args, "try FILE [NAME=VALUE ...] [options]",
    paste("Make one run of a study file and show all of it: what programs were given, ran and wrote.",
      "Inputs that are not named are at their base values."),
    options = list(optparse::make_option("--folder", type = "character",
      help = "where the run's folders are made, and stay [default: a temporary one, which goes]"), cli_option_set(), cli_option_programs()),
    positional = "file", more = TRUE)
  if (is.null(call)) return(exit_codes[["done"]])
  study <- cli_read_study(call)$study
  trial <- as_call_fault(try_run(study, !!!cli_given_values(call$more), .folder = call$options$folder))
  writeLines(format(trial))
  if (nrow(trial$failures)) exit_codes[["failed"]] else exit_codes[["done"]]
}

# `demand=30` as values by name.
cli_given_values <- function(texts) {
  ok <- grepl("^[^=]+=.", texts)
  if (!all(ok)) {
    stop_ensayo("call", "Values must be given as NAME=VALUE.", sprintf("You gave %s.", quoted(texts[!ok][1])))
  }
  values <- lapply(sub("^[^=]*=", "", texts), function(text) {
    if (is_number_text(text)) read_number(text, "The value") else text
  })
  stats::setNames(values, trimws(sub("=.*", "", texts)))
}

cli_option_programs <- function() {
  optparse::make_option("--run-programs", action = "store_true", default = FALSE,
    help = "let the programs run that the study file names")
}

cli_option_set <- function() {
  optparse::make_option("--set", type = "character", metavar = "NAME=VALUE",
    help = "other values of the file's settings, with commas between them")
}

# A study file, with the settings that were given, whose programs may run where that was said.
cli_read_study <- function(call) {
  read <- read_study_file(call$arguments$file)
  if (!is.null(call$options$set)) {
    read$study <- as_call_fault(with_settings(read$study, cli_given_values(cli_list(call$options$set))))
  }
  if (isTRUE(call$options[["run-programs"]])) read$study <- allow_programs(read$study)
  read
}
