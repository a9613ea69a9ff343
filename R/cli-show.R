# `ensayo show DIR`

cli_show <- function(args) {
  call <- cli_parse(args, "show DIR [options]",
    "Show a result folder's statistics, percentiles, chances and pass rates, each with its simulation error.",
    options = list(
      optparse::make_option("--outputs", type = "character", help = "names with commas between them [default: all]"),
      optparse::make_option("--percentiles", type = "character", help = "such as 10,50,90 [default: the study's]"),
      optparse::make_option("--chance", type = "character",
        help = "conditions with semicolons between them, such as \"pressure < 40; velocity > 1\""),
      optparse::make_option("--given", type = "character", help = "show the runs alone in which a condition holds"),
      optparse::make_option("--sort", type = "character",
        help = "a statistic to sort outputs by, from large to small; -P95 (as --sort=-P95) the other way"),
      optparse::make_option("--where", type = "character",
        help = "outputs whose statistics meet a condition: \"P95 > 40\""),
      optparse::make_option("--top", type = "character", help = "how many outputs to show at the most [default: 20]"),
      cli_option_changed(), cli_option_json()
    ),
    positional = "dir")
  if (is.null(call)) return(exit_codes[["done"]])
  options <- call$options
  result <- cli_read_result(call$arguments$dir, options)
  outputs <- cli_outputs(options$outputs, output_names(result)) %||% output_names(result)
  table <- as_call_fault(sorted_by(statistics_table(result, outputs), options$sort))
  if (!is.null(options$where)) table <- rows_where(table, options$where)
  top <- utils::head(table$output, cli_count(options$top %||% "20", "--top", 1))
  if (length(top) == 0) {
    if (options$json) writeLines(to_json(list(study = result$study$title, outputs = list())))
    else say("No output meets %s.", quoted(options$where))
    return(exit_codes[["done"]])
  }
  if (options$json) writeLines(to_json(show_readings(result, table, top))) else
    writeLines(show_lines(result, table, top))
  exit_codes[["done"]]
}

# A folder's result with the percentiles, chances and condition that were asked for.
cli_read_result <- function(dir, options = list()) {
  result <- read_result(dir, changed = isTRUE(options$changed))
  if (!is.null(options$percentiles)) {
    result$study <- as_call_fault(add_readings(result$study,
      .percentiles = cli_numbers(options$percentiles, "--percentiles")))
  }
  known <- quantity_vocabulary(result$study)
  if (!is.null(options$chance)) {
    result$study$readings$chances <- as_call_fault(conditions_from_text(cli_list(options$chance, ";"), known, "Chance"))
  }
  if (!is.null(options$given)) {
    result <- as_call_fault(kept_given(result, conditions_from_text(options$given, known, "Condition")))
  }
  result
}

# The rows of a table that meet a condition on its columns.
rows_where <- function(table, condition) {
  columns <- Filter(is.numeric, as.list(unclass_table(table)))
  formula <- as_call_fault(conditions_from_text(condition, names(columns), "Condition"))
  met <- new_evaluator(list(met = formula[[1]]))(columns, seq_len(nrow(table)))$values$met
  table[met %in% TRUE, ]
}

show_readings <- function(result, table, outputs) {
  list(study = result$study$title, partial = partial_words(result), sense = result$study$readings$sense,
    outputs = unclass_table(table[table$output %in% outputs, ]),
    percentiles = unclass_table(percentile_table(result, outputs, shown_percentiles(result$study$readings))),
    contingency = unclass_table(contingency(result, outputs = outputs)), series = series_json(result), chances = unclass_table(study_chances(result)),
    pass_rates = if (length(result$study$specs)) unclass_table(pass_rate(result)) else list())
}

show_lines <- function(result, table, outputs) {
  shown <- table[match(outputs, table$output), ]
  readings <- result$study$readings
  planning <- contingency(result, readings$planning, outputs)
  chances <- study_chances(result)
  rates <- if (length(result$study$specs)) pass_rate(result)
  hidden <- nrow(table) - nrow(shown)
  c(
    title_line("Result", result$study$title), partial_words(result), failure_lines(result),
    "", heading("Statistics (\u00b1: 95 % simulation error of the mean)"), statistics_lines(shown, result),
    strwrap(mean_notes(result, shown), max(cli::console_width(), 60), prefix = "  "),
    if (hidden > 0) sprintf("  ... and %s: see --top", count_of(hidden, "more output")),
    "", heading(sprintf("Percentiles, each with its 95 %% simulation error (%s)", sense_words(readings$sense))),
    percentile_lines(percentile_table(result, outputs, shown_percentiles(readings))),
    "", heading(sprintf("Planning percentile P%s", format(readings$planning))), planning_lines(planning, result),
    if (length(series_names(result$study))) c("", heading("Series over their steps"), result_series_lines(result)),
    if (nrow(chances)) c("", heading("Chances"), share_lines(chances, "condition", "chance")),
    if (!is.null(rates)) c("", heading("Pass rates"), share_lines(rates, "spec", "pass_rate"), joint_lines(rates))
  )
}

statistics_lines <- function(table, result) {
  decimals <- row_decimals(table)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  cells <- drop_empty(list(output = table$output, unit = table$unit, base = value("base"),
    `base at` = format_percentile(table$base_at),
    mean = paste(value("mean"), "\u00b1", format_number(half_interval(table$mean_error, result), 2)),
    sd = format_decimals(table$sd, decimals), mode = value("mode"), min = value("min"), max = value("max"),
    skewness = format_number(table$skewness, 2)))
  text_table(cells, numeric = !names(cells) %in% c("output", "unit"), indent = "  ")
}

percentile_lines <- function(table) {
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, row_decimals(table)))
  cells <- drop_empty(list(output = ifelse(duplicated(table$output), "", table$output),
    unit = ifelse(duplicated(table$output),
    "", table$unit), percentile = percentile_names(table$percentile), value = value("value"),
    `simulation error` = sprintf("%s to %s", value("low"), value("high")), ` ` = table$remark))
  text_table(cells, numeric = names(cells) %in% c("percentile", "value"), indent = "  ")
}

planning_lines <- function(table, result) {
  decimals <- vapply(table$output, output_decimals, 0, result = result, USE.NAMES = FALSE)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  cells <- drop_empty(list(output = table$output, unit = table$unit, base = value("base"), value = value("value"),
    contingency = paste0(format_decimals(table$contingency, decimals), ifelse(table$kind == "date", " days", "")),
    `of base` = ifelse(is.na(table$percent_of_base), "", paste(format_number(table$percent_of_base, 3), "%"))))
  text_table(cells, numeric = !names(cells) %in% c("output", "unit"), indent = "  ")
}

share_lines <- function(table, first, share) {
  cells <- list(table[[first]], format_share(table[[share]]),
    sprintf("%s to %s", format_share(table$low), format_share(table$high)))
  names(cells) <- c(first, sub("_", " ", share), "simulation error (95 %)")
  if (!is.null(table$condition) && first == "spec") {
    cells$condition <- ifelse(table$condition == table$spec, "", table$condition)
    cells[["only fault"]] <- ifelse(is.na(table$only_fault), "", format_share(table$only_fault))
    cells[["nearest miss"]] <- ifelse(is.na(table$nearest_miss), "", format_number(table$nearest_miss))
  }
  cells <- drop_empty(cells)
  text_table(cells, numeric = names(cells) %in% c("chance", "pass rate", "only fault", "nearest miss"), indent = "  ")
}
