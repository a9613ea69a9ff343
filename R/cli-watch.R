# `--watch OUTPUT`: how far a run is and what is known of an output so far, every few seconds.

cli_option_watch <- function() {
  optparse::make_option("--watch", type = "character", metavar = "OUTPUT",
    help = "say every few seconds how far it is, and what is known of this output so far")
}

# As `progress` of a simulation.
cli_watch <- function(name, study, every = 2) {
  told <- proc.time()[["elapsed"]]
  first <- NULL  # runs that were there already say nothing about how fast it is
  function(done, all, so_far) {
    now <- proc.time()[["elapsed"]]
    if (is.null(first)) first <<- list(done = done, at = now)
    if (now - told < every && done < all) return(invisible())
    told <<- now
    rate <- if (done > first$done) (done - first$done) / max(now - first$at, 1e-3)
    say("%s", watch_line(name, study, done, all, rate, so_far()))
  }
}

# `rate`: runs a second, NULL where that is not known yet.
watch_line <- function(name, study, done, all, rate, so_far) {
  failed <- length(unique(so_far$failures$run))
  how_far <- c(sprintf("%s of %s", format_given(done), count_of(all, "run")), if (failed) sprintf("%s failed", format_given(failed)),
    if (!is.null(rate)) sprintf("%s a second", format_number(rate, 2)),
    if (!is.null(rate) && done < all) sprintf("%s left", duration_words((all - done) / rate)))
  column <- so_far$values[[name]]
  values <- if (is.matrix(column)) NULL else good_values(as.double(column))
  known <- if (length(values) > 1 && min(values) < max(values)) watched_figures(values, study$outputs[[name]]$kind %||% "number",
    study$readings)
  unit <- quantity_unit(study, name)
  paste0(paste(how_far, collapse = ", "), if (!is.null(known)) sprintf(". %s%s: %s", name, if (is.null(unit)) "" else
    sprintf(" [%s]", unit), known))
}

watched_figures <- function(values, kind, readings) {
  asked <- c(10, 50, 90)
  read <- column_percentiles(values, kind, not_exceeded(asked, readings$sense), NULL, 0.95, NULL)
  error <- stats::sd(values) / sqrt(length(values))
  spread <- diff(percentile_values(values, c(10, 90)))
  decimals <- decimals_of(if (spread > 0) spread else 2.56 * stats::sd(values), error)
  value <- function(x) format_value(x, kind, decimals)
  ends <- ifelse(is.finite(read$low) & is.finite(read$high), sprintf(" (%s to %s)", value(read$low), value(read$high)), "")
  paste(c(sprintf("mean %s \u00b1 %s", value(mean(values)), format_number(1.96 * error, 2)),
    paste0(percentile_names(asked), " ", value(read$value), ends)), collapse = ", ")
}

duration_words <- function(seconds) {
  if (seconds < 90) sprintf("%.0f s", seconds) else if (seconds < 5400) sprintf("%.0f min", seconds / 60)
    else sprintf("%.1f hours", seconds / 3600)
}
