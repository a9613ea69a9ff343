# Readings as `ensayo show` tells them: with every figure's simulation error.

show_statistics_lines <- function(result, asked) {
  table <- statistics_table(result, asked$outputs, asked$percentiles)
  c(statistics_lines(table, result), "  \u00b1: 95 % simulation error of the mean",
    strwrap(mean_notes(result, table), max(cli::console_width(), 60), prefix = "  "),
    if (isTRUE(asked$hidden > 0)) sprintf("  ... and %s: see --top", count_of(asked$hidden, "more output")))
}

statistics_lines <- function(table, result) {
  decimals <- row_decimals(table)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  half <- half_interval(table$mean_error, result)
  cells <- drop_empty(list(output = table$output, unit = table$unit, base = value("base"),
    `base at` = format_percentile(table$base_at),
    mean = paste0(value("mean"), ifelse(is.na(half), "", paste(" \u00b1", format_number(half, 2)))),
    sd = format_decimals(table$sd, decimals), mode = value("mode"), min = value("min"), max = value("max"),
    skewness = format_number(ifelse(is.nan(table$skewness), NA, table$skewness), 2)))
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
