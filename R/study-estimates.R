# Registers whose ranges stand in columns of their own, as estimators keep them: low, most likely and high values, or how
# far a base value may be off in per cent. They become laws written out, like any other register's.

# The table with a law written out in place of what rows say in those columns; a row that states a law by parameters of
# these names, as `around` does, keeps them.
with_estimates <- function(table, file = NULL, call = rlang::caller_env()) {
  columns <- estimate_columns(names(table))
  if (length(columns) == 0) return(table)
  cell <- function(key, i) if (key %in% names(columns)) trimws(as.character(table[[columns[[key]]]][[i]])) else ""
  filled <- function(x) !is.na(x) & nzchar(x)
  law <- if (is.null(table$law)) rep("", length(table[[1]])) else ifelse(is.na(table$law), "", as.character(table$law))
  unsaid <- 0
  constant <- character()
  for (i in seq_along(law)) {
    cells <- vapply(names(estimate_keys), cell, "", i = i)
    if (!any(vapply(cells, filled, TRUE)) || trimws(law[i]) %in% law_forms) next
    place <- paste0(if (!is.null(file)) paste0(file, ", "), sprintf("row %d", i))
    shape <- trimws(law[i])
    if (!nzchar(shape) && identical(names(Filter(filled, cells)), "most_likely")) {
      law[i] <- cells[["most_likely"]]
      table[[columns[["most_likely"]]]][i] <- NA
      constant <- c(constant, if (is.null(table$name)) place else as.character(table$name[[i]]))
      next
    }
    base <- if (is_number_text(shape)) shape else cell("base", i)
    if (is_number_text(shape)) shape <- ""
    if (!nzchar(shape)) unsaid <- unsaid + 1
    law[i] <- estimate_text_of(Filter(filled, cells), base, if (nzchar(shape)) shape else "triangular", place, call)
    for (name in unlist(columns[names(estimate_keys)])) table[[name]][i] <- NA
  }
  if (unsaid > 0) {
    tell_ensayo(sprintf("%s taken as triangular between low and high.",
      paste(count_of(unsaid, "range"), if (unsaid == 1) "is" else "are")),
      "A column `law` with \"pert\", \"uniform\" or \"triangular\" says which shape is meant.", "shape")
  }
  if (length(constant)) {
    tell_ensayo(sprintf("%s %s a most likely value alone and %s taken as %s.", few_listed(quoted(constant)), if (length(constant) == 1) "has" else "have",
      if (length(constant) == 1) "is" else "are", if (length(constant) == 1) "a constant" else "constants"), NULL, "constant")
  }
  table$law <- law
  said <- vapply(table, function(column) is.list(column) || any(filled(trimws(as.character(column)))), TRUE)
  table[said | !names(table) %in% unlist(columns[names(estimate_keys)])]
}

# What a heading may look like, in lower case and with single spaces.
estimate_keys <- c(low = "^low$", most_likely = "^most[ _]likely$", high = "^high$", low_percent = "^low ?(%|percent|per cent)$",
  high_percent = "^high ?(%|percent|per cent)$")

# Which columns hold estimates, by key, and the base value; none where there is no range.
estimate_columns <- function(names) {
  plain <- gsub("[ _]+", " ", tolower(trimws(names)))
  found <- lapply(c(estimate_keys, base = "^base$"), function(pattern) names[grepl(pattern, plain)][1])
  found <- Filter(Negate(is.na), found)
  if (any(c("high", "high_percent") %in% names(found))) found else list()
}

estimate_text_of <- function(cells, base, shape, place, call) {
  stop_row <- function(expected, came = NULL, mend = NULL) stop_ensayo("file", expected, came, mend, call = call)
  if (!shape %in% c("triangular", "pert", "uniform")) {
    stop_row(sprintf("%s, `law` must be \"triangular\", \"pert\" or \"uniform\" beside low and high.", place),
      sprintf("It is %s.", shown_value(shape)), "A law written out needs no columns for its ends.")
  }
  number <- function(key) read_number(sub(" *%$", "", cells[[key]]), sprintf("%s, %s", place, quoted(sub("_", " ", key))))
  relative <- intersect(c("low_percent", "high_percent"), names(cells))
  plain <- setdiff(names(cells), relative)
  if (length(relative) > 0 && (length(setdiff(plain, "most_likely")) > 0 || length(relative) < 2)) {
    stop_row(sprintf("%s must give `low %%` and `high %%`, or `low` and `high`.", place),
      sprintf("It gives %s.", and_list(quoted(sub("_percent", " %", names(cells))))))
  }
  if (length(relative) == 2) {
    if ("most_likely" %in% plain) base <- cells[["most_likely"]]
    if (!is_number_text(base)) {
      stop_row(sprintf("%s must have a base value for its per cents.", place), NULL,
        "Give it in a column `base`, or as a number in `law`.")
    }
    ends <- percent_ends(number("low_percent"), number("high_percent"), place, stop_row)
    return(call_text("around", list(read_number(base, place), below = sprintf("%s %%", exact_number(ends[1])),
      above = sprintf("%s %%", exact_number(ends[2])), shape = shape), TRUE))
  }
  needed <- if (shape == "uniform") c("low", "high") else c("low", "most_likely", "high")
  absent <- setdiff(needed, plain)
  if (length(absent)) {
    stop_row(sprintf("%s must give %s.", place, and_list(quoted(needed))), sprintf("%s is missing.", quoted(absent[1])))
  }
  values <- lapply(stats::setNames(nm = needed), number)
  if (is.unsorted(unlist(values))) {
    stop_row(sprintf("%s must have its %s in order.", place, and_list(quoted(needed))),
      sprintf("They are %s.", and_list(vapply(values, format_given, ""))))
  }
  call_text(shape, unname(values), TRUE)
}

# How far below and above, in per cent: -10 and 30, 10 and 30, or 90 and 130 of the base.
percent_ends <- function(low, high, place, stop_row) {
  if (low <= 0 && high >= 0) return(c(-low, high))
  if (low >= 50 && low <= 100 && high >= 100) return(c(100 - low, high - 100))
  if (low > 0 && low < 50 && high > 0 && high < 100) return(c(low, high))
  stop_row(sprintf("%s must say how far low and high are off in per cent.", place),
    sprintf("`low %%` is %s and `high %%` is %s.", format_given(low), format_given(high)),
    "Write -10 and 30, or 90 and 130, for 10 % below to 30 % above.")
}
