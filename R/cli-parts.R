# `ensayo parts DIR`

cli_parts <- function(args) {
  call <- cli_parse(args, "parts DIR [options]",
    "Tell how a total is made up, and why its percentile is not the sum of the parts'.",
    options = list(
      optparse::make_option("--output", type = "character",
        help = "the total [default: the last output that is a plain sum]"),
      optparse::make_option("--parts", type = "character", help = "names with commas between them [default: its terms]"),
      optparse::make_option("--percentile", type = "character", help = "number [default: the planning percentile]"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- read_result(call$arguments$dir, options$changed)
  sums <- Filter(function(name) nrow(sum_tree(result$study, name)) > 1, output_names(result))
  total <- options$output %||% utils::tail(sums, 1)
  if (length(total) == 0) {
    stop_ensayo("call", "Name the total: --output.", "No output is a plain sum.", suggestion("", output_names(result)))
  }
  percentile <- if (!is.null(options$percentile)) cli_numbers(options$percentile, "--percentile")
  table <- as_call_fault(parts_of(result, !!total, parts = !!cli_list(options$parts), percentile = percentile))
  if (options$json) writeLines(to_json(list(study = result$study$title, parts = unclass_table(table))))
  else writeLines(c(title_line("Parts", result$study$title), partial_words(result), "", parts_lines(result, total, table)))
  exit_codes[["done"]]
}

parts_lines <- function(result, total, table) {
  decimals <- output_decimals(result, total)
  cells <- list(part = paste0(strrep("  ", table$level), table$name), mean = format_decimals(table$mean, decimals),
    `of mean` = format_share(table$share_of_mean), `of variance` = format_share(table$share_of_variance),
    value = format_decimals(table$value, decimals))
  names(cells)[5] <- sprintf("P%s", format(table$percentile[1]))
  c(text_table(cells, numeric = c(FALSE, rep(TRUE, 4)), indent = "  "),
    paste0("  ", sense_words(table$sense[1], table$percentile[1])))
}
