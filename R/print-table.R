# Plain tables on the terminal.

#' @export
print.ensayo_table <- function(x, ..., n = 40) {
  cat(format(x, n = n), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_table <- function(x, ..., n = 40) {
  shown <- utils::head(as.data.frame(unclass_table(x)), n)
  cells <- lapply(shown, function(column) if (is.numeric(column)) format_column(column) else as.character(column))
  c(
    text_table(cells, numeric = vapply(shown, is.numeric, TRUE)),
    if (nrow(x) == 0) "(no rows)",
    if (nrow(x) > n) sprintf("... and %s", count_of(nrow(x) - n, "more row"))
  )
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
