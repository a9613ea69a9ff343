#' @export
print.ensayo_target <- function(x, ...) {
  cat(format(x), "\n", sep = "")
  invisible(x)
}

#' @export
format.ensayo_target <- function(x, ...) {
  what <- if (!rlang::quo_is_missing(x$what)) rlang::as_label(x$what)
  allowed <- if (x$relative) paste(format(100 * x$within), "% of it") else format(x$within)
  paste0(paste(c(x$statistic, what), collapse = " of "),
    if (!is.null(x$within)) sprintf(" within %s (%s %% confidence)",
    allowed, format(100 * x$confidence)))
}

# Whether what was to be known is, for the print of a result and its report.
until_lines <- function(until) {
  if (is.null(until)) return(NULL)
  reached <- all(until$met)
  c(if (reached) "Known as exactly as asked:"
    else "The largest number of runs was reached before all was known as exactly as asked:",
    sprintf("  %s of %s: %s \u00b1 %s (asked \u00b1 %s, %s %% confidence)%s", until$statistic, until$about,
      format_number(until$value), format_number(until$error, 2), format_number(until$allowed, 3),
      format(100 * until$confidence), ifelse(until$met, "", ", not reached")))
}
