# How far a simulation is, in words.

# "812 of 5 000 runs, 12 failed, 3.2 a second, 22 min left"
how_far_words <- function(far, failed) {
  paste(c(sprintf("%s of %s", count_text(far$done), count_of(far$all, "run")),
    if (failed) sprintf("%s failed", count_text(failed)),
    if (!is.null(far$rate)) sprintf("%s a second", format_number(far$rate, 2)),
    if (!is.null(far$rate) && far$done < far$all) sprintf("%s left", duration_words(far$left))), collapse = ", ")
}

duration_words <- function(seconds) {
  if (seconds < 90) sprintf("%.0f s", seconds) else if (seconds < 5400) sprintf("%.0f min", seconds / 60)
    else sprintf("%.1f hours", seconds / 3600)
}

# Names and values of the figures so far, each with its error.
early_words <- function(figures) {
  value <- function(x) format_value(x, figures$kind, figures$decimals)
  of <- figures$percentiles
  known <- is.finite(of$low) & is.finite(of$high)
  c(mean = sprintf("%s \u00b1 %s", value(figures$mean), format_number(figures$within, 2)),
    stats::setNames(paste0(value(of$value), ifelse(known, sprintf(" (%s to %s)", value(of$low), value(of$high)), "")),
      percentile_names(of$percentile)))
}

early_line <- function(result, name) {
  figures <- early_figures(result, name)
  if (is.null(figures)) return(NULL)
  words <- early_words(figures)
  unit <- quantity_unit(result$study, name)
  sprintf("%s%s: %s", name, if (is.null(unit)) "" else sprintf(" [%s]", unit), paste(names(words), words, collapse = ", "))
}
