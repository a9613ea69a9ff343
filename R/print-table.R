# Plain tables on the terminal.

#' @export
print.ensayo_table <- function(x, ..., n = 40) {
  cat(format(x, n = n), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_table <- function(x, ..., n = 40) {
  shown <- utils::head(as.data.frame(unclass_table(x)), n)
  right <- vapply(shown, function(column) is.numeric(column) || inherits(column, "Date"), TRUE)
  cells <- Map(format_cells, shown, names(shown), list(shown$kind))
  said <- vapply(names(cells), function(name) column_tells(shown[[name]], name, nrow(shown)), TRUE)
  c(
    wrapped_table(cells[said], right[said]),
    if (nrow(x) == 0) "(no rows)",
    if (nrow(x) > n) sprintf("... and %s", count_of(nrow(x) - n, "more row")),
    if (is.character(shown$sense) && nrow(shown)) sense_words(shown$sense[1])
  )
}

# Columns that say the same of every row are left out of prints: no remark, no unit, numbers as usual; the sense of
# percentiles stands under the table.
column_tells <- function(column, name, rows) {
  if (rows == 0) return(TRUE)
  if (name == "sense") return(FALSE)
  if (name == "kind") return(!all(column %in% c("number", "whole")))
  !(is.character(column) && all(column %in% ""))
}

format_cells <- function(column, name, kind) {
  if (!is.numeric(column) || inherits(column, "Date")) return(as.character(column))
  cells <- format_column(column)
  days <- if (is_dated(name)) kind %in% "date"
  if (any(days)) cells[days] <- format_value(column[days], "date")
  cells
}

# The columns that hold an output's values; its spreads and shares are no dates.
is_dated <- function(name) {
  name %in% c("value", "low", "high", "base", "mean", "mode", "min", "max", "was", "becomes", "beyond", "mean_beyond") |
    is_percentile_name(name)
}

# A table wider than the terminal goes on below, each part with the first column.
wrapped_table <- function(cells, right, width = max(cli::console_width(), 60)) {
  widths <- 2 + mapply(function(column, name) max(cli::ansi_nchar(c(name, column), "width"), 0), cells, names(cells))
  part <- rep(1, length(cells))
  room <- width
  for (i in seq_along(cells)) {
    if (i > 2 && widths[i] > room) {
      part[i:length(cells)] <- part[i] + 1
      room <- width - widths[1]
    }
    room <- room - widths[i]
  }
  parts <- lapply(unique(part), function(k) {
    columns <- union(if (k > 1) 1, which(part == k))
    text_table(cells[columns], right[columns])
  })
  unlist(lapply(seq_along(parts), function(k) c(if (k > 1) "", parts[[k]])))
}

# Counts and other whole numbers are shown to the last digit.
format_column <- function(column) {
  whole <- is.finite(column) & column == round(column) & abs(column) < 1e9
  if (all(whole | is.na(column))) return(ifelse(whole, format(column, scientific = FALSE, trim = TRUE), "-"))
  format_number(column)
}

# Lines of a table: header, then rows; numbers to the right, texts to the left. Widths follow the terminal cells a text
# takes, so that accents and colours do not shift columns.
text_table <- function(cells, numeric = rep(FALSE, length(cells)), gap = "  ", indent = "") {
  cells <- lapply(cells, function(column) ifelse(is.na(column), "-", enc2utf8(as.character(column))))
  if ("label" %in% names(cells) && cli::is_dynamic_tty(stdout())) cells <- fit_label(cells, nchar(gap), nchar(indent))
  columns <- Map(function(column, name, right) {
    all <- c(name, column)
    width <- max(cli::ansi_nchar(all, "width"))
    cli::ansi_align(all, width, align = if (right) "right" else "left")
  }, cells, names(cells), numeric)
  lines <- do.call(paste, c(unname(lapply(columns, as.character)), list(sep = gap)))
  lines <- sub("[ ]+$", "", paste0(indent, lines))
  lines[1] <- as.character(cli::style_bold(lines[1]))
  lines
}

# On a terminal, labels give way where a line would run over its edge.
fit_label <- function(cells, gap, indent) {
  widths <- mapply(function(column, name) max(cli::ansi_nchar(c(name, column), "width")), cells, names(cells))
  room <- cli::console_width() - indent - sum(widths[names(cells) != "label"]) - gap * (length(cells) - 1)
  cells$label <- as.character(cli::ansi_strtrim(cells$label, max(room, 12)))
  cells
}

# A heading over a part of a print.
heading <- function(text) as.character(cli::style_underline(cli::style_bold(text)))

# The title line of a print, ruled off.
title_line <- function(kind,
  title) as.character(cli::rule(left = paste0(kind, ": ", title), width = min(cli::console_width(), 100)))
