#' @rdname result_readings
#' @export
print.ensayo_result <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

# A dashboard of a screenful: how it was run, then for the outputs how they spread, whether specs are met, what
# drives them.
#' @export
format.ensayo_result <- function(x, ...) {
  p <- x$provenance
  design <- design_words[[p$design]]
  if (p$replicates > 1) design <- sprintf("%s replicates of a %s", format_given(p$replicates), design)
  c(
    title_line("Result", x$study$title),
    sprintf("%s, %s, seed %s, %.1f s", count_of(p$nsim, "run"), design, format_given(p$seed), p$seconds),
    as.character(cli::style_bold(partial_words(x))), until_lines(p$until),
    failure_lines(x), region_lines(x), warning_lines(x), drawing_lines(x$study),
    reading_sections("print", x, asked_of(x))
  )
}

drawing_lines <- function(study) {
  drawing <- drawing_models(study)
  if (length(drawing)) paste0(drawing_words(drawing), ": the base case is one draw of them")
}

# At which steps of a model that goes step by step, for each output and reason.
failed_steps <- function(failures, counts) {
  told <- unique(failures[nzchar(failures$step), c("output", "reason", "step")])
  key <- function(table) paste(table$output, table$reason, sep = "\r")
  vapply(unname(split(told$step, factor(key(told), key(counts)))), function(steps) {
    if (length(steps) == 0) "" else if (length(steps) == 1) sprintf(", at step %s", steps)
    else sprintf(", at %s", count_of(length(steps), "different step"))
  }, "")
}

# Outputs that fail together and for the same reason stand in one line.
failure_lines <- function(result, most = 6) {
  if (nrow(result$failures) == 0) return("no failed runs")
  counts <- failure_counts(result)
  told <- sprintf("failed in %s: %s%s", vapply(counts$runs, count_of, "", "run"), counts$reason,
    failed_steps(result$failures, counts))
  alike <- split(counts$output, factor(told, unique(told)))
  lines <- sprintf("%s %s", vapply(alike, and_list, ""), names(alike))
  shown <- sub("^  ", "", wrapped_lines(utils::head(lines, most)))
  c(as.character(cli::col_red(shown)), more_lines(length(lines) - most, "reason", "failures()"))
}

# "Runs fail more often where friction is above 0.027: 18 % of these, 1 % of the others."
region_lines <- function(result) {
  regions <- failure_regions(result)
  if (is.null(regions)) return(NULL)
  text_of_end <- function(x, name) if (name %in% date_outputs(result$study)) format(as_day(x)) else format_number(x, 3)
  vapply(seq_len(nrow(regions)), function(i) {
    row <- regions[i, ]
    where <- if (nzchar(row$category)) sprintf("is %s", row$category)
      else if (row$highest && !row$lowest) sprintf("is above %s", text_of_end(row$from, row$input))
      else if (row$lowest && !row$highest) sprintf("is below %s", text_of_end(row$to, row$input))
      else sprintf("is from %s to %s", text_of_end(row$from, row$input), text_of_end(row$to, row$input))
    often <- if (row$failed / row$runs < 0.5) " more often" else ""
    sprintf("  runs fail%s where %s %s: %s of these, %s of the others", often, row$input, where, format_share(row$failed / row$runs, 0),
      if (row$others) format_share(row$others_failed / row$others, 0) else "none")
  }, "")
}

warning_lines <- function(result) {
  if (nrow(result$warnings)) sprintf("warning in %s: %s", result$warnings$output, result$warnings$message)
}

result_output_lines <- function(result, asked, most = 8) {
  shown <- utils::head(asked$outputs, most)
  marks <- asked$marks
  table <- statistics_table(result, shown, marks)
  decimals <- row_decimals(table)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  cells <- c(list(
    output = table$output, unit = table$unit, base = value("base"), `base at` = format_percentile(table$base_at),
    mean = value("mean"), sd = format_decimals(table$sd, decimals)),
    lapply(stats::setNames(nm = percentile_names(marks)), value), list(
    `min .. max` = vapply(table$output, function(name) tiny_histogram(finite_values(result, name)), "")
  ))
  c(text_table(cells, numeric = !names(cells) %in% c("output", "unit", "min .. max"), indent = "  "),
    more_lines(length(main_outputs(result)) - most, "output", "summary()"))
}

# What each run starts and ends with, and comes down and up to.
result_series_lines <- function(result, asked, most = 6) {
  shown <- utils::head(series_names(result$study), most)
  marks <- asked$marks
  lines <- lapply(shown, function(name) {
    c(list(series = c(name, "", "", ""), unit = c(result$study$outputs[[name]]$unit %||% "", "", "", "")),
      series_cells(result, name, marks))
  })
  cells <- do.call(Map, c(list(c), lines))
  c(text_table(drop_empty(cells), numeric = !names(drop_empty(cells)) %in% c("series", "unit", "of"), indent = "  "),
    more_lines(length(series_names(result$study)) - most, "series", "series_table()"))
}

# The rows of a series' table as readers see them, in print and report.
series_cells <- function(result, name, marks) {
  ends <- series_brief(result, name, marks)
  value <- function(column) format_value(ends$rows[[column]], ends$rows$kind[1], ends$decimals)
  c(list(of = ends$what, base = value("base"), mean = value("mean")), lapply(stats::setNames(nm = percentile_names(marks)), value))
}

# A series at its ends and at its lowest and highest: rows of its table, what each is, and their decimals.
series_brief <- function(result, name, marks) {
  rows <- series_rows(name, result, marks)
  rows <- rows[rows$of != "all", ]
  steps <- result$study$outputs[[name]]$steps
  # from the spread; of a single run from the values
  spread <- if (all(is.na(rows$sd))) NA else 2.56 * max(rows$sd, na.rm = TRUE)
  what <- c(sprintf("at %s", step_words(steps[1])), sprintf("at %s", step_words(steps[length(steps)])), "lowest of a run",
    "highest of a run")
  list(rows = rows, what = what, decimals = decimals_of(spread))
}

result_spec_lines <- function(result, most = 8) {
  table <- pass_rate(result)
  cells <- list(
    spec = table$spec, `pass rate` = format_share(table$pass_rate),
    `simulation error` = paste("\u00b1", sub(" %", " points", format_share((table$high - table$low) / 2))),
    condition = ifelse(table$condition == table$spec, "", table$condition)
  )
  text_table(drop_empty(cells), numeric = names(drop_empty(cells)) == "pass rate", indent = "  ")
}

result_chance_lines <- function(result, asked) {
  table <- chances_of(result, asked$chances)
  if (nrow(table)) text_table(list(condition = table$condition, chance = format_share(table$chance)), numeric = c(FALSE, TRUE),
    indent = "  ")
}

# The strongest drivers of each output, with the sign of their effect, and what they leave.
result_driver_lines <- function(result, most = 8) {
  shown <- utils::head(main_outputs(result), most)
  table <- if (length(shown)) drivers(result, outputs = shown)
  lines <- vapply(shown, function(name) {
    rows <- table[table$output == name & enters_output(table), ]
    top <- leading_shares(rows)
    if (nrow(top) == 0) return(paste0("  ", name, ": ", no_driver_words(rows)))
    shares <- sprintf("%s %s%s", top$input, format_share(top$share, 0), ifelse(nzchar(top$sign),
      sprintf(" (%s)", top$sign), ""))
    rest <- unexplained_words(rows, result)
    paste0("  ", name, ": ", paste(c(shares, if (nzchar(rest)) paste("the rest is", rest)), collapse = ", "))
  }, "")
  c(wrapped_lines(lines), more_lines(length(main_outputs(result)) - most, "output", "drivers()"))
}

wrapped_lines <- function(lines) strwrap(lines, max(cli::console_width(), 60), indent = 2, exdent = 6)

more_lines <- function(n, noun, where) {
  if (n > 0) paste0("  ... and ", count_of(n, paste("more", noun)), if (calls_told()) paste(": see", where))
}

# Twelve bars from the smallest to the largest value.
tiny_histogram <- function(values, bars = 12) {
  if (length(values) == 0) return("")
  if (min(values) == max(values)) return("constant")
  counts <- tabulate(findInterval(values, seq(min(values), max(values), length.out = bars + 1), all.inside = TRUE),
    bars)
  marks <- if (cli::is_utf8_output()) c(" ", "\u2581", "\u2582", "\u2583", "\u2584", "\u2585", "\u2586", "\u2587",
    "\u2588") else strsplit(" .:-=+*#@", "")[[1]]
  paste(marks[1 + ceiling(counts / max(counts) * (length(marks) - 1))], collapse = "")
}

# What all specs together would be if they failed independently, where that is another figure.
joint_lines <- function(rates) {
  last <- rates[nrow(rates), ]
  if (is.na(last$if_independent) || !nzchar(last$remark)) return(NULL)
  sprintf("  If specs failed independently all would be met in %s: %s", format_share(last$if_independent), last$remark)
}
