# Filling marks (study-mark.R).

# The text of each run, marks filled from columns of `n` runs. `lost` has for each run the first value that its place does
# not hold, NA where there is none.
filled_marks <- function(marked, columns, n, dates = character(), quote = identity) {
  texts <- rep(marked$pieces[1], n)
  lost <- rep(NA_character_, n)
  for (i in seq_along(marked$names)) {
    name <- marked$names[i]
    value <- formatted_values(columns[[name]], marked$formats[i], name %in% dates)
    width <- as.numeric(sub("^%[-+ 0#]*([0-9]*).*", "\\1", marked$formats[i]))
    wide <- !is.na(width) & nchar(value) > width & !(name %in% dates) & is.na(lost)
    lost[wide] <- sprintf("`%s` needs more than the %d characters of its mark", name, width)
    texts <- paste0(texts, quote(value), marked$pieces[i + 1])
  }
  list(texts = texts, lost = lost)
}

formatted_values <- function(x, format, day) {
  if (day) return(format(structure(as.double(x), class = "Date"), if (nzchar(format)) format else "%Y-%m-%d"))
  if (is.character(x)) return(if (grepl("s$", format)) sprintf(format, x) else x)
  x <- as.double(x)
  if (!nzchar(format)) return(cpp_number_text(x))
  if (grepl("s$", format)) return(sprintf(format, cpp_number_text(x)))
  if (grepl("d$", format)) {
    # counts beyond what R holds as whole numbers
    return(sprintf(sub("d$", ".0f", sub("[.][0-9]+d$", "d", format)), round(x)))
  }
  sprintf(format, x)
}
