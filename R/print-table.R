# Plain tables on the terminal.

#' @export
print.ensayo_table <- function(x, ..., n = 40) {
  cat(format(x, n = n), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_table <- function(x, ..., n = 40) {
  shown <- told_cells(x, n)
  c(
    fitted_table(shown$cells, shown$right),
    if (nrow(x) == 0) "(no rows)",
    if (nrow(x) > n) sprintf("... and %s", count_of(nrow(x) - n, "more row")),
    shown$sense
  )
}

# The first rows of a table as texts, without columns that say nothing; which stand to the right; and the sense of its percentiles.
told_cells <- function(table, n) {
  shown <- utils::head(as.data.frame(unclass_table(table)), n)
  right <- vapply(shown, function(column) is.numeric(column) || inherits(column, "Date"), TRUE)
  cells <- Map(format_cells, shown, names(shown), list(shown$kind), list(row_decimals(shown)))
  # the ends of bands in digits that tell them apart
  if (all(c("band", "from", "to") %in% names(shown)) && is.numeric(shown$from)) {
    cells[c("from", "to")] <- lapply(shown[c("from", "to")], format_decimals, decimals_of(10 * (shown$to - shown$from)))
  }
  said <- vapply(names(cells), function(name) column_tells(shown[[name]], name, nrow(shown)), TRUE)
  list(cells = cells[said], right = right[said], sense = if (is.character(shown$sense) && nrow(shown)) sense_words(shown$sense[1]))
}

# Columns that say the same of every row are left out of prints: no remark, no unit, numbers as usual; the sense of
# percentiles stands under the table.
column_tells <- function(column, name, rows) {
  if (rows == 0) return(TRUE)
  if (name %in% c("sense", "findings")) return(FALSE)
  if (name == "kind") return(!all(column %in% c("number", "whole")))
  !(is.character(column) && all(column %in% ""))
}

format_cells <- function(column, name, kind, decimals) {
  if (!is.numeric(column) || inherits(column, "Date")) return(as.character(column))
  if (name == "r_squared") return(known_share(column))
  if (name %in% amounts && (any(!is.na(decimals)) || name %in% c("contingency", "sd"))) {
    return(ifelse(is.finite(column), format_decimals(column, decimals), "-"))
  }
  if (!holds_values(name)) return(format_column(column))
  if (is.null(kind)) kind <- "number"
  unlist(Map(format_value, column, kind, decimals), use.names = FALSE) %||% character()
}

# The decimals of each row's values: from how far the runs spread, or from a figure's own simulation error.
row_decimals <- function(table) {
  n <- length(table[[1]])
  if (!is.null(table$p10_to_p90)) {
    spread <- ifelse(table$p10_to_p90 > 0, table$p10_to_p90, 2.56 * table$sd)
    return(decimals_of(spread, table$mean_error))
  }
  if (is.numeric(table$value) && is.numeric(table$low) && is.numeric(table$high) && all(c("percentile", "sense") %in%
    names(table))) return(stats::ave(decimals_of(10 * (table$high - table$low)), table$output,
      FUN = function(decimals) floor(stats::median(decimals, na.rm = TRUE))))
  # of percentiles beside a base case, from how far they lie apart
  if (all(c("percentile", "value", "base") %in% names(table)) && is.numeric(table$value)) {
    # of the parts of one total, from how far it spreads
    if (is.null(table$output)) return(rep(decimals_of(2.56 * max(table$sd, na.rm = TRUE)), n))
    return(decimals_of(stats::ave(table$value, table$output, FUN = function(x) {
      if (all(is.na(x))) NA else diff(range(x, na.rm = TRUE))
    })))
  }
  # parts of one total: from how far it spreads, or how far off they may be for lack of runs
  if (all(c("allotment", "sd") %in% names(table))) return(rep(decimals_of(2.56 * max(table$sd, 0, na.rm = TRUE)), n))
  if (any(c("gain", "allotment", "change", "part") %in% names(table)) && is.numeric(table$error)) {
    off <- ifelse(is.finite(table$error) & table$error > 0, table$error, NA)
    whole <- stats::median(off, na.rm = TRUE)
    return(decimals_of(0, if (is.null(table$part)) rep(whole, n) else ifelse(is.na(off), whole, off)))
  }
  if (all(c("when_it_happens", "P10", "P90") %in% names(table))) return(decimals_of(table$P90 - table$P10))
  rep(NA_real_, n)
}

# Columns besides those of values that are in the unit of what they are about.
amounts <- c("contingency", "sd", "gain", "mean_gain", "cost", "net", "allotment", "change", "mean_change", "sum_of_parts",
  "when_it_happens")

# What the simulation error of means leaves out.
mean_notes <- function(result, table) {
  if (!is.null(telling_replicates(result))) return(NULL)
  needed <- runs_for_mean(table$skewness)
  skewed <- which(table$runs < needed)
  c(
    if (result$provenance$design == "latin") paste("The \u00b1 is that of random runs; a Latin hypercube knows means better.",
      "Five replicates or more tell how much."),
    if (length(skewed)) sprintf("%s %s so skewed that the mean may be farther off than the \u00b1 says below %s.",
      and_list(table$output[skewed]), if (length(skewed) == 1) "is" else "are", count_of(max(needed[skewed]), "run"))
  )
}

# The columns that hold an output's values; its spreads and shares are no dates.
holds_values <- function(name) {
  name %in% c("value", "low", "high", "base", "mean", "mode", "min", "max", "was", "becomes", "beyond", "mean_beyond") |
    is_percentile_name(name)
}

# As many columns as the terminal has room for, in their order; the rest are named.
fitted_table <- function(cells, right, width = max(cli::console_width(), 60)) {
  widths <- 2 + mapply(function(column, name) max(cli::ansi_nchar(c(name, column), "width"), 0), cells, names(cells))
  # several measures in one table tell its rows apart
  measures <- which(names(cells) == "measure" & vapply(cells, function(column) length(unique(column)) > 1, NA))
  first <- unique(c(1, which(names(cells) %in% c(says_what, "remark")), measures))
  next_to <- setdiff(match(most_telling, names(cells), nomatch = 0), c(0, first))
  # a remark gives way to the figures that a reader looks for first
  remark <- match("remark", names(cells))
  if (!is.na(remark)) {
    room <- width + 2 - sum(widths[setdiff(c(first, utils::head(next_to, 3)), remark)])
    widths[remark] <- min(widths[remark], max(room, 20))
    cells$remark <- as.character(cli::ansi_strtrim(cells$remark, widths[remark] - 2))
  }
  last <- setdiff(which(names(cells) %in% least_telling), c(first, next_to))
  order <- c(unique(first), next_to, setdiff(seq_along(cells), c(first, next_to, last)), last)
  if (sum(widths[unique(first)]) > width) order <- seq_along(cells)
  fits <- order[cumsum(widths[order]) - 2 <= width]
  if (length(fits) < min(2, length(cells))) fits <- order[seq_len(min(2, length(cells)))]
  shown <- sort(fits)
  hidden <- names(cells)[-shown]
  c(text_table(cells[shown], right[shown]), if (length(hidden)) strwrap(sprintf("Not shown: %s.%s",
    paste(hidden, collapse = ", "), if (calls_told()) " `as.data.frame()` has them." else ""), width, exdent = 2))
}

# Columns of a reading's table as readers see them: `shown` says of each how, under the name that it has.
shown_columns <- function(table, shown, result) {
  decimals <- function(i) if (is.null(table$output)) NA else output_decimals(result, table$output[i])
  lapply(stats::setNames(nm = names(shown)), function(name) {
    column <- table[[name]]
    switch(shown[[name]],
      text = as.character(column),
      number = ifelse(is.finite(column), format_number(column), "-"),
      count = format_decimals(column, 0),
      share = format_share(column),
      known = known_share(column),
      value = vapply(seq_along(column), function(i) {
        kind <- if (is.null(table$output)) "number" else output_kind_of(result, table$output[i])
        format_value(as.double(column[i]), kind, decimals(i))
      }, "")
    )
  })
}

# Whether to name calls of R: they are of no use to who reads the command line.
calls_told <- function() getOption("ensayo.calls", TRUE)

# Columns that say what a row is about.
says_what <- c("output", "input", "spec", "condition", "about", "statistic", "alternative", "name", "code", "label", "event", "part")

# Columns that a reader looks for first, and those missed least, where there is no room for all.
most_telling <- c("finish_P80", "finish_P50", "critical", "base_finish", "float", "start_later", "take_longer", "P80", "allotment",
  "gain", "mean_gain", "net", "happens", "when_it_happens", "value", "sign", "chance", "pass_rate", "mean", "sd", "P10", "P50", "P90", "base", "unit", "low",
  "high", "share")
least_telling <- c("measure", "confidence", "basis", "rank", "runs", "failed", "base_at", "base_met", "mean_error", "cv", "skewness",
  "excess_kurtosis", "mode", "iqr", "p10_to_p90", "error", "effective_runs", "r_squared", "kind", "good", "met",
  "chance_good", "pass_rate_good")

# Counts and other whole numbers are shown to the last digit.
format_column <- function(column) {
  whole <- is.finite(column) & column == round(column) & abs(column) < 1e9
  if (all(whole | is.na(column))) return(ifelse(whole, format_decimals(column, 0), "-"))
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
