# Workbooks that are written: new sheets behind those of a copy, or alone. What else a copy holds is as it was, byte for byte, but
# for the lists of sheets, styles and parts, which grow. A sheet is a list of
#   name, widths   its name, and how wide its columns are, in characters
#   cells          a data frame, a row a cell, in order: row, column, text (NA for a number), number, style
#   pictures       a list of lists: file (a PNG), words (what it shows), left, top, width, height (in inches)
# Styles are "plain", "right", "away" (from the number before it), "title", "heading", "heading-right", "heading-away", "note" and "date" (a number of days as R has them); those of
# numbers are "number-2" (with two decimals), "grouped-2" (thousands apart), "percent-1", "below-1" ("<0.1 %"), "above-1"
# (">99.9 %") and "power-3" (with the power of ten).

# `from`: the workbook that is copied, as read_workbook() gives it; NULL for none.
write_workbook_file <- function(sheets, file, from = NULL) {
  archive <- if (is.null(from)) new_archive(file) else whole_archive(from$file)
  is_document <- "content.xml" %in% names(archive$parts)
  names <- new_sheet_names(vapply(sheets, `[[`, "", "name"), from$book$sheets$name)
  for (i in seq_along(sheets)) sheets[[i]]$name <- names[i]
  archive <- if (is_document) document_with_sheets(archive, sheets) else office_with_sheets(archive, sheets)
  # what stands at `file` stays until all is done
  made <- tempfile("workbook-")
  on.exit(unlink(made))
  write_archive(archive, made)
  if (!is.null(from)) check_copy(from, made)
  if (!suppressWarnings(file.copy(made, file, overwrite = TRUE))) stop_ensayo("file", sprintf("%s must be writable.", file), file = file)
}

# Names that no sheet has yet.
new_sheet_names <- function(wanted, there) {
  for (i in seq_along(wanted)) {
    number <- 1
    name <- wanted[i]
    while (tolower(name) %in% tolower(c(there, wanted[seq_len(i - 1)]))) {
      number <- number + 1
      name <- sprintf("%s %d", wanted[i], number)
    }
    wanted[i] <- name
  }
  wanted
}

# All parts of a workbook, with their bytes.
whole_archive <- function(file) {
  archive <- workbook_archive(file)
  names <- names(archive$parts)
  bad <- grepl("^[/\\\\]|^[A-Za-z]:|(^|[/\\\\])[.][.]([/\\\\]|$)", names)
  if (any(bad) || anyDuplicated(tolower(names)) || length(names) > 5000) stop_workbook(file, "its list of parts makes no sense")
  size <- sum(archive$parts)
  if (size > largest_workbook) {
    stop_ensayo("file", sprintf("%s must have at most %.0f MB to be copied when it is unpacked.", file, largest_workbook / 1e6),
      sprintf("It has %.0f MB.", size / 1e6), "Take large pictures out of it.", file = file)
  }
  names <- names[!endsWith(names, "/")]
  archive$parts <- archive$parts[names]
  archive$bytes <- lapply(stats::setNames(nm = names), function(name) workbook_part(archive, name))
  archive
}

# A workbook without sheets.
new_archive <- function(file) {
  archive <- list(file = file, parts = numeric(), bytes = list())
  parts <- if (grepl("[.]ods$", file, ignore.case = TRUE)) new_document_parts() else new_office_parts()
  for (name in names(parts)) archive <- with_part(archive, name, parts[[name]])
  archive
}

with_part <- function(archive, name, content) {
  archive$bytes[[name]] <- if (is.raw(content)) content else charToRaw(content)
  archive$parts[[name]] <- length(archive$bytes[[name]])
  archive
}

# The same parts give the same file, whenever it is written. `file`: a whole path.
write_archive <- function(archive, file) {
  folder <- tempfile("workbook-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  names <- names(archive$parts)
  paths <- file.path(folder, "parts", names)
  for (one in unique(dirname(paths))) dir.create(one, recursive = TRUE, showWarnings = FALSE)
  for (i in seq_along(names)) writeBin(archive$bytes[[names[i]]], paths[i])
  Sys.setFileTime(paths, as.POSIXct("2000-01-01", tz = "UTC"))
  unlink(file)
  # the kind of an .ods file comes first, and as it is (OpenDocument 1.3, part 2, 3.3)
  first <- intersect("mimetype", names)
  if (length(first)) zip::zip(file, first, root = file.path(folder, "parts"), compression_level = 0, mode = "mirror", include_directories = FALSE)
  add <- if (length(first)) zip::zip_append else zip::zip
  add(file, setdiff(names, first), root = file.path(folder, "parts"), mode = "mirror", include_directories = FALSE)
}

# What stood in the workbook stands in its copy.
check_copy <- function(from, file) {
  before <- from$book
  after <- read_workbook_file(file)
  old <- after$cells$sheet <= nrow(before$sheets)
  same <- identical(before$sheets, after$sheets[seq_len(nrow(before$sheets)), ]) && identical(before$names, after$names) &&
    identical(before$formulas, after$formulas[seq_along(before$formulas)]) &&
    identical(unclass(before$cells)[-1], lapply(unclass(after$cells)[-1], `[`, old)) && identical(before$cells$sheet, after$cells$sheet[old])
  if (same) return(invisible())
  stop_workbook(from$file, "sheets cannot be put behind its own without a change to them", "Open it in a spreadsheet program, save it, and try again.")
}

# Parts of XML ---------------------------------------------------------------------------------------------------------

# Elements with some names: what cpp_xml_elements() says, `local` (the name after the colon), `prefix` (before, with it) and `tag`, the
# tag that opens it.
xml_elements <- function(archive, part, names) {
  bytes <- archive$bytes[[part]]
  found <- as.data.frame(part_read(archive, part, cpp_xml_elements(bytes, names)))
  found$local <- sub(".*:", "", found$name)
  found$prefix <- sub("[^:]*$", "", found$name)
  found$tag <- vapply(seq_len(nrow(found)), function(i) rawToChar(bytes[(found$open[i] + 1):found$opened[i]]), "")
  found
}

# Bytes with pieces of them replaced: a list of list(from, to, text), none within another.
edited <- function(bytes, edits) {
  edits <- edits[order(vapply(edits, `[[`, 0, "from"), vapply(edits, `[[`, 0, "to"))]
  pieces <- list()
  at <- 0
  for (edit in edits) {
    pieces <- c(pieces, list(bytes[seq_len(edit$from - at) + at], charToRaw(edit$text)))
    at <- edit$to
  }
  unlist(c(pieces, list(bytes[seq_len(length(bytes) - at) + at])))
}

# Edits that put a text at the end of an element; `tag` is what then opens it.
at_end_of <- function(element, text, tag = element$tag) {
  if (element$close != element$open) {
    return(list(list(from = element$open, to = element$opened, text = tag), list(from = element$close, to = element$close, text = text)))
  }
  open <- sub("[[:space:]]*/>$", ">", tag)
  list(list(from = element$open, to = element$opened, text = sprintf("%s%s</%s>", open, text, element$name)))
}

# A part with a text at the end of its first element of a name.
part_with <- function(archive, part, name, text) {
  element <- xml_elements(archive, part, name)[1, ]
  if (is.na(element$open)) stop_workbook(archive$file, sprintf("its part %s has no %s", quoted(part), quoted(name)))
  with_part(archive, part, edited(archive$bytes[[part]], at_end_of(element, text)))
}

# A value of a tag's attribute, NA where it has none.
tag_value <- function(tag, name) {
  found <- regmatches(tag, regexec(sprintf("[[:space:]]%s[[:space:]]*=[[:space:]]*[\"']([^\"']*)[\"']", name), tag))
  vapply(found, function(one) if (length(one)) one[2] else NA_character_, "")
}

# Texts for XML in plain letters, whatever the part's encoding; without what XML does not allow.
xml_text <- function(x) {
  x <- gsub("[\\x01-\\x08\\x0b\\x0c\\x0e-\\x1f\\x7f]", "", enc2utf8(x), perl = TRUE)
  x <- gsub(">", "&gt;", gsub("<", "&lt;", gsub("&", "&amp;", x, fixed = TRUE), fixed = TRUE), fixed = TRUE)
  x <- gsub("\"", "&quot;", x, fixed = TRUE)
  wide <- grepl("[^ -~]", x)
  x[wide] <- vapply(x[wide], function(text) {
    codes <- utf8ToInt(text)
    codes <- codes[!codes %in% c(0xfffe, 0xffff)]
    paste(ifelse(codes < 127, intToUtf8(codes, multiple = TRUE), sprintf("&#%d;", codes)), collapse = "")
  }, "", USE.NAMES = FALSE)
  x
}

# What is shown of shares that are near none or all.
edge_text <- function(parts) sprintf("%s%s %%", if (parts$kind == "below") "<" else ">", formatC(if (parts$kind == "below") 10^-parts$decimals else 100 - 10^-parts$decimals,
  format = "f", digits = parts$decimals))

# A style's kind and its number of decimals.
style_parts <- function(style) {
  parts <- regmatches(style, regexec("^(number|grouped|percent|below|above|power)-([0-9]+)$", style))[[1]]
  if (length(parts)) list(kind = parts[2], decimals = as.integer(parts[3])) else list(kind = style, decimals = 0L)
}

# A name for parts and styles that none of them begins with.
free_word <- function(archive) {
  word <- "ensayo"
  number <- 1
  all <- c(names(archive$parts), if (!is.null(archive$bytes[["content.xml"]])) rawToChar(archive$bytes[["content.xml"]]))
  while (any(grepl(word, all, fixed = TRUE))) {
    number <- number + 1
    word <- sprintf("ensayo%dx", number)
  }
  word
}
