# `ensayo rare FILE`

cli_rare <- function(args) {
  call <- cli_parse(args, "rare FILE --chance CONDITION [options]",
    "Find a chance of one in a thousand to one in a million with few runs of a study file's model.",
    options = list(
      optparse::make_option("--chance", type = "character", help = "the condition, such as \"pressure < 20\""),
      optparse::make_option("--most", type = "character", default = "2000", help = "the most runs of the model [default: %default]"),
      optparse::make_option("--seed", type = "character", help = "seed [default: the file's, else a new one]"),
      cli_option_workers(), cli_option_set(), cli_option_programs(), cli_option_json()),
    positional = "file")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  if (is.null(options$chance)) stop_ensayo("call", "--chance must give a condition.", NULL, "Such as `--chance=\"pressure < 20\"`.")
  read <- cli_read_study(call)
  validate_study(read$study)
  condition <- cli_condition(options$chance, "--chance")
  found <- as_call_fault(rare_chance(read$study, !!condition, most = cli_count(options$most, "--most", 200),
    seed = cli_run_settings(options["seed"], read$run)$seed, workers = if (!is.null(options$workers)) cli_count(options$workers, "--workers", 1)))
  if (options$json) writeLines(to_json(as.list(unclass_table(found)))) else writeLines(rare_lines(found, read$study))
  exit_codes[["done"]]
}
