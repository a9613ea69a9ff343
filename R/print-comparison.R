#' @rdname compare_results
#' @export
print.ensayo_comparison <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

# Statistics side by side, then the difference of each alternative from the first in words.
#' @export
format.ensayo_comparison <- function(x, ...) {
  marks <- reading_marks(x$results[[1]]$study$readings)
  statistics <- summary(x, percentiles = marks)
  cells <- comparison_cells(x, statistics, marks)
  if (of_one_result(x)) cells$output <- NULL
  c(
    title_line("Comparison", paste(names(x$sides), collapse = " / ")),
    partial_words(x$results[[1]]), "",
    text_table(cells, numeric = !names(cells) %in% c("output", "unit", "alternative"), indent = "  "),
    paste0("  ", sense_words(x$results[[1]]$study$readings$sense)),
    pass_rate_lines(x, statistics), "", heading(sprintf("Differences (\u00b1: %s %% confidence, for lack of runs)",
      format(100 * x$confidence))),
    unlist(comparison_differences(x))
  )
}

comparison_cells <- function(x, statistics, marks) {
  decimals <- row_decimals(statistics)
  value <- function(column) unlist(Map(format_value, statistics[[column]], statistics$kind, decimals))
  drop_empty(c(list(output = ifelse(duplicated(statistics$output) & nrow(x$about) > 1, "", statistics$output),
    unit = statistics$unit, alternative = statistics$alternative, mean = value("mean"),
    sd = format_decimals(statistics$sd, decimals)), lapply(stats::setNames(nm = percentile_names(marks)), value)))
}

# Of each difference a few lines, what it is first.
comparison_differences <- function(x) {
  table <- x$differences
  lapply(seq_len(nrow(table)), function(i) {
    row <- table[i, ]
    if (x$about$kind[x$about$output == row$output] == "date") row$unit <- "days"
    difference_lines(row, of_one_result(x))
  })
}

pass_rate_lines <- function(comparison, statistics) {
  rates <- statistics[!duplicated(statistics$alternative), c("alternative", "pass_rate")]
  if (of_one_result(comparison) || all(is.na(rates$pass_rate))) return(NULL)
  c("", heading("Pass rates of all specs"), text_table(list(alternative = rates$alternative,
    `pass rate` = format_share(rates$pass_rate)), numeric = c(FALSE, TRUE), indent = "  "))
}

difference_lines <- function(row, of_one) {
  what <- if (of_one) "" else paste0(row$output, ": ")
  half <- (row$high - row$low) / 2
  if (isTRUE(half < 1e-9 * abs(row$difference))) half <- 0  # the same in every run but for rounding
  # two digits of the error, and of the difference as many as that error lets stand
  known <- if (is.finite(half) && half > 0) 1 - floor(log10(half)) else NA
  spread <- decimals_of(if (isTRUE(half == 0)) 0 else row$P95 - row$P5)
  in_unit <- function(text) with_unit(text, row$unit)
  if (row$runs == 0) return(sprintf("  %s%s and %s have no good runs to compare", what, row$alternative, row$against))
  if (row$verdict == "equal in every run") {
    return(sprintf("  %s%s and %s are equal in every run", what, row$alternative, row$against))
  }
  verdict <- if (row$verdict == "not told apart") sprintf("%s is not told apart from %s", row$alternative, row$against)
    else sprintf("%s is %s than %s", row$alternative, row$verdict, row$against)
  told <- row$verdict != "not told apart"
  by <- format_decimals(if (told) abs(row$difference) else row$difference, known)
  lines <- c(
    sprintf("%s%s%s %s%s", what, verdict, if (told) " by" else ": the difference is",
      if (is.na(half)) sprintf("%s, and a single run does not say how sure that is", in_unit(by))
      else sprintf("%s \u00b1 %s on average", by, in_unit(format_number(half, 2))),
      c(yes = ", which is better", no = ", which is worse")[row$better] %|% ""),
    if (row$paired) sprintf("higher in %s of runs%s; 90 %% of the run-by-run differences from %s to %s",
      format_share(row$chance_higher),
      if (row$chance_equal > 0) sprintf(", equal in %s", format_share(row$chance_equal))
      else "", format_decimals(row$P5, spread), in_unit(format_decimals(row$P95, spread))),
    paste0(row$dominance, if (!row$paired) sprintf("; compared run against run it is higher with a chance of %s",
      format_share(row$chance_higher))
      else if (!is.na(half)) sprintf("; without shared random numbers it would be \u00b1 %s",
        in_unit(format_number(row$unpaired_error * if (half > 0) half / row$error else stats::qnorm(0.975), 2)))),
    if (nzchar(row$remark)) paste0("not paired: ", lower_first(row$remark))
  )
  paste0(c("  ", rep("    ", length(lines) - 1)), lines)
}
