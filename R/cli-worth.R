# `ensayo worth DIR`

cli_worth <- function(args) {
  call <- cli_parse(args, "worth DIR [DIR ...] --output NAME --better high|low [options]",
    "Tell what it is worth to know inputs before deciding: between result folders, or between several outputs of one.",
    options = list(
      optparse::make_option("--output", type = "character", help = "what is compared; of one folder the outputs to choose between, with commas"),
      optparse::make_option("--better", type = "character", help = "high or low: which is good"),
      optparse::make_option("--by", type = "character", default = "input", help = "input or group [default: %default]"),
      optparse::make_option("--plot", type = "character", help = "write a picture of it"),
      cli_option_changed(), cli_option_force(), cli_option_json()),
    positional = "dir", more = TRUE)
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  for (name in c("output", "better")) {
    if (is.null(options[[name]])) stop_ensayo("call", sprintf("--%s must be given.", name), NULL, "Such as `--output=cost --better=low`.")
  }
  dirs <- c(call$arguments$dir, call$more)
  results <- lapply(stats::setNames(nm = dirs), read_result, changed = options$changed)
  asked <- if (length(dirs) == 1) results[[1]] else results
  worth <- as_call_fault(worth_of_knowing(asked, !!cli_list(options$output), check_choice(options$better, c("high", "low"), "--better"), by = options$by))
  if (options$json) writeLines(to_json(list(worth = unclass_table(worth)))) else writeLines(worth_lines(worth))
  if (!is.null(options$plot)) save_picture(plot_worth(worth), options$plot, options$force)
  exit_codes[["done"]]
}
