# Drivers on the terminal.

#' @export
print.ensayo_words <- function(x, ...) {
  cat(word_lines(x)[-1], sep = "\n")
  invisible(x)
}

word_lines <- function(words) {
  if (length(words) == 0) return(NULL)
  unlist(lapply(unique(names(words)), function(name) {
    c("", strwrap(paste(words[names(words) == name], collapse = " "), 98, indent = 2, exdent = 2))
  }))
}

driver_lines <- function(result, table, top) {
  unlist(lapply(unique(table$output), function(output) {
    rows <- table[table$output == output & enters_output(table), ]
    hidden <- nrow(rows) - top
    rows <- utils::head(rows, top)
    digits <- function(x) if (rows$measure[1] == "swing") format_number(x, 3)
      else ifelse(is.finite(x), formatC(x, format = "f",
      digits = 3), "-")
    cells <- drop_empty(list(input = rows$input, value = digits(rows$value),
      `95 % interval` = sprintf("%s to %s", digits(rows$low),
      digits(rows$high)), share = ifelse(is.na(rows$share), "", format_share(rows$share, 0)), ` ` = rows$sign,
      noise = ifelse(rows$beyond_noise, "", "not told from noise"), remark = rows$remark))
    fit <- if (is.finite(rows$r_squared[1])) sprintf("; R squared %s",
      formatC(rows$r_squared[1], format = "f", digits = 3)) else ""
    c("", heading(sprintf("%s (%s%s)", output, gsub("_", " ", rows$measure[1]), fit)),
      text_table(cells, numeric = names(cells) %in% c("value", "share"), indent = "  "),
      if (hidden > 0) sprintf("  ... and %s: see --top", count_of(hidden, "weaker input")))
  }))
}

index_lines <- function(table) {
  unlist(lapply(unique(table$output), function(output) {
    rows <- table[table$output == output, ]
    digits <- function(x) ifelse(is.finite(x), formatC(x, format = "f", digits = 3), "-")
    cells <- drop_empty(list(input = rows$input, index = gsub("_", " ", rows$measure), value = digits(rows$value),
      `95 % interval` = sprintf("%s to %s", digits(rows$low), digits(rows$high)),
      noise = ifelse(rows$beyond_noise, "", "not told from noise"), remark = rows$remark))
    c("", heading(output), text_table(cells, numeric = names(cells) == "value", indent = "  "))
  }))
}
