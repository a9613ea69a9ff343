# Values read from texts and plain records.

read_text <- function(x, place) {
  if (!is.character(x) && !is.numeric(x) || length(x) != 1 || is.na(x)) {
    stop_ensayo("file", sprintf("%s must be one text.", place), sprintf("It is %s.", shown_value(x)))
  }
  normal_name(x)
}

# Numbers as people write them in files, and nothing that YAML would bend: no octals, no sexagesimals, no decimal
# commas.
read_number <- function(x, place) {
  if (is.numeric(x) && length(x) == 1 && is.finite(x)) return(as.double(x))
  text <- if (is.character(x) && length(x) == 1) trimws(x) else ""
  if (is_number_text(text)) {
    value <- cpp_read_numbers(text)
    if (is.na(value)) value <- as.double(text)  # "+5"
    if (is.finite(value)) return(value)
  }
  stop_ensayo("file", sprintf("%s must be one number.", place), sprintf("It is %s.", shown_value(x)),
    if (grepl("^[-+]?[0-9]+,[0-9]+$", text)) sprintf("Write the decimal sign as a point: %s.", sub(",", ".", text)))
}

is_number_text <- function(x) {
  is.character(x) && length(x) == 1 && grepl(number_pattern, trimws(x))
}

read_flag <- function(x, place) {
  if (is.logical(x) && length(x) == 1 && !is.na(x)) return(x)
  if (is.character(x) && length(x) == 1 && tolower(x) %in% c("true", "yes", "false", "no")) {
    return(tolower(x) %in% c("true", "yes"))
  }
  stop_ensayo("file", sprintf("%s must be true or false.", place), sprintf("It is %s.", shown_value(x)))
}

# A number, or else a text.
read_seed <- function(x) {
  if (!is.character(x) || length(x) != 1) return(x)
  number <- suppressWarnings(cpp_read_numbers(x))
  if (is.na(number)) x else number
}

read_count <- function(x, place, at_least = 1) {
  value <- read_number(x, place)
  tryCatch(check_count(value, "value", at_least = at_least), ensayo_error = function(e) {
    stop_ensayo(e$cause, sub("`value`", place, e$expected, fixed = TRUE), e$came, e$mend)
  })
}

# What stands under a key must be keys again, all of them known; nothing is right as well.
check_keys <- function(record, known, place, also = character()) {
  if (length(record) && (!is.list(record) || is.null(names(record)))) {
    stop_ensayo("file", sprintf("%s must hold keys and what they stand for.", place),
      if (is.list(record)) "It is a list without keys." else sprintf("It is %s.", shown_value(record)),
      sprintf("Known: %s.", paste(quoted(known), collapse = ", ")), known = known)
  }
  unknown <- setdiff(names(record), known)
  if (length(unknown) == 0) return(invisible())
  stop_ensayo("file", sprintf("%s must use keys that are known.", place), sprintf("%s is not one.", quoted(unknown[1])),
    if (grepl("[()\"]", unknown[1])) "A text with commas needs quotation marks where it stands in braces."
    else suggestion(unknown[1], c(known, also)), name = unknown[1], known = known)
}

no_section <- function(section) sprintf("The file must have the section %s.", quoted(section))

check_section <- function(records, section) {
  if (is.null(records)) stop_ensayo("file", no_section(section), "It has none.")
  check_named(records, sprintf("The section %s", quoted(section)))
}

check_named <- function(records, place) {
  if (!is.list(records) || is.null(names(records))) {
    stop_ensayo("file", sprintf("%s must hold names and what they stand for.", place),
      if (is.list(records)) "It is a list without names." else sprintf("It is %s.", shown_value(records)))
  }
}
