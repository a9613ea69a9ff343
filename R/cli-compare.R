# `ensayo compare DIR DIR ...`

cli_compare <- function(args) {
  call <- cli_parse(args, "compare DIR DIR [DIR ...] [options]",
    paste("Compare result folders with the first: statistics side by side, and their differences, run by run where",
      "they share their random numbers."),
    options = list(
      optparse::make_option("--outputs", type = "character",
        help = "names with commas between them [default: all in common]"),
      optparse::make_option("--better", type = "character", help = "high or low: which is good"),
      optparse::make_option("--paired", action = "store_true", default = FALSE,
        help = "fail where runs do not share their random numbers"),
      optparse::make_option("--plot", type = "character",
        help = "write the distributions of the first output into a picture"),
      cli_option_changed(), cli_option_force(), cli_option_json()
    ),
    positional = c("dir", "other"), more = TRUE)
  if (is.null(call)) return(exit_codes[["done"]])
  dirs <- c(unlist(call$arguments, use.names = FALSE), call$more)
  results <- stats::setNames(lapply(dirs, read_result, changed = call$options$changed), make.unique(basename(dirs), sep = " "))
  options <- call$options
  common <- Reduce(intersect, lapply(results, function(result) main_outputs(result)))
  outputs <- cli_outputs(options$outputs, common)
  comparison <- as_call_fault(compare_results(!!!results, .outputs = !!outputs, .better = options$better,
    .paired = if (options$paired) TRUE))
  if (options$json) {
    writeLines(to_json(list(statistics = unclass_table(summary(comparison)),
      differences = unclass_table(as.data.frame(comparison)))))
  } else writeLines(format(comparison))
  if (!is.null(options$plot)) save_picture(plot_comparison(comparison, !!comparison$about$output[1]), options$plot,
    options$force)
  exit_codes[["done"]]
}
