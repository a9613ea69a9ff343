# Workbooks of the open formats, .xlsx (ISO/IEC 29500) and .ods (OpenDocument), as plain values: a list of
#   format      "office" or "document"
#   sheets      a data frame: name, hidden, protected, merged (ranges of merged cells)
#   names       a data frame: name, sheet (of one sheet alone, by number, else 0), formula
#   cells       a data frame, a row a cell that holds something: sheet, row, column, type (sheet_types), number, text, shown
#               (shown_as), formula (by number, 0 for none), down and right (how far it was copied), array_rows, array_columns
#   formulas    their texts; `notes` what of them cannot be calculated, mostly ""
#   from_1904, iterates, protected, external, macros     flags
# Nothing in it is ever run or fetched.

sheet_types <- c("number", "error", "yes/no", "text", "empty")
shown_as <- c("plain", "percent", "money", "date", "time")

# More is taken for an attack: bytes of all parts that are read, unpacked.
largest_workbook <- 4e8

read_workbook_file <- function(file) {
  archive <- workbook_archive(file)
  if ("content.xml" %in% names(archive$parts)) read_document_file(archive) else read_office_file(archive)
}

# The parts of a file: its path and their sizes by name.
workbook_archive <- function(file) {
  check_file(check_string(file))
  refuse_other_formats(file)
  path <- normalizePath(file)
  parts <- rethrow_as(suppressWarnings(utils::unzip(path, list = TRUE)), "file", sprintf("%s must be a workbook.", file), file = file,
    mend = "Open it in a spreadsheet program and save it again.")
  if (anyDuplicated(parts$Name) || nrow(parts) > 1e5) stop_workbook(file, "its list of parts makes no sense")
  size <- sum(parts$Length[grepl("[.](xml|rels)$", parts$Name)])
  if (size > largest_workbook) {
    stop_ensayo("file", sprintf("%s must have at most %.0f MB when it is unpacked.", file, largest_workbook / 1e6), sprintf("It says %.0f MB.", size / 1e6),
      file = file)
  }
  if (any(grepl("workbook[.]bin$", parts$Name))) {
    stop_workbook(file, "it is a workbook in a binary format", "Save it as .xlsx or .ods.")
  }
  list(file = file, path = path, parts = stats::setNames(parts$Length, parts$Name))
}

stop_workbook <- function(file, came, mend = "Open it in a spreadsheet program and save it as .xlsx or .ods.") {
  stop_ensayo("file", sprintf("%s must be a workbook, .xlsx or .ods.", file), sprintf("%s.", upper_first(came)), mend, file = file)
}

refuse_other_formats <- function(file) {
  first <- rethrow_as(readBin(normalizePath(file), "raw", 8), "file", sprintf("%s must be readable.", file), file = file)
  if (identical(first[1:4], as.raw(c(0xd0, 0xcf, 0x11, 0xe0)))) {
    stop_workbook(file, "it is of an old binary format, or locked by a password",
      "Open it in a spreadsheet program and save it as .xlsx or .ods, without a password.")
  }
  if (!identical(first[1:2], as.raw(c(0x50, 0x4b)))) stop_workbook(file, "it is none")
}

# A part, unpacked; NULL where it is not there. It is read no further than its size is said to be. An archive that is made has its
# parts as `bytes`.
workbook_part <- function(archive, name, needed = TRUE) {
  if (!name %in% names(archive$parts)) {
    if (needed) stop_workbook(archive$file, sprintf("its part %s is missing", quoted(name)))
    return(NULL)
  }
  if (!is.null(archive$bytes)) return(archive$bytes[[name]])
  said <- archive$parts[[name]]
  connection <- unz(archive$path, name, "rb")
  on.exit(close(connection))
  bytes <- rethrow_as(suppressWarnings(readBin(connection, "raw", said + 1)), "file", sprintf("%s must be readable.", archive$file),
    file = archive$file)
  if (length(bytes) != said) stop_workbook(archive$file, sprintf("its part %s is damaged", quoted(name)))
  bytes
}

# What a reader of C++ makes of a part.
part_read <- function(archive, name, read) {
  read_part <- function(e) stop_workbook(archive$file, sprintf("its part %s: %s", quoted(name), conditionMessage(e)))
  tryCatch(read, ensayo_error = function(e) stop(e), error = read_part)
}

# Where the parts of an .xlsx file are: `start`, the workbook's own part, its `folder`, its `links_part` and the `links` there.
office_places <- function(archive) {
  start <- office_target(archive, "_rels/.rels", "", "officeDocument") %||% "xl/workbook.xml"
  folder <- if (dirname(start) == ".") "" else paste0(dirname(start), "/")
  links_part <- sprintf("%s_rels/%s.rels", folder, basename(start))
  list(start = start, folder = folder, links_part = links_part, links = part_read(archive, links_part, cpp_office_links(workbook_part(archive, links_part))))
}

# The part to which the workbook has a link of a kind, NULL for none.
office_part <- function(places, kind) {
  at <- match(kind, places$links$kind)
  if (!is.na(at)) office_path(places$links$target[at], places$folder)
}

read_office_file <- function(archive) {
  places <- office_places(archive)
  links <- places$links
  book <- part_read(archive, places$start, cpp_office_book(workbook_part(archive, places$start)))
  texts_part <- office_part(places, "sharedStrings")
  texts <- if (!is.null(texts_part)) part_read(archive, texts_part, cpp_office_texts(workbook_part(archive, texts_part))) else character()
  styles_part <- office_part(places, "styles")
  styles <- if (!is.null(styles_part)) part_read(archive, styles_part, cpp_office_styles(workbook_part(archive, styles_part))) else integer()
  at <- match(book$sheets$part, links$id)
  # sheets that hold a figure alone have no cells
  is_grid <- !is.na(at) & links$kind[at] %in% "worksheet"
  read <- lapply(seq_along(at), function(i) {
    if (!is_grid[i]) return(NULL)
    part <- office_path(links$target[at[i]], places$folder)
    part_read(archive, part, cpp_office_sheet(workbook_part(archive, part), texts, styles))
  })
  book$sheets$protected <- vapply(read, function(sheet) isTRUE(sheet$protected), NA)
  book$sheets$merged <- vapply(read, function(sheet) sheet$merged %||% 0L, 0L)
  book$macros <- any(grepl("vbaProject", names(archive$parts)))
  tables <- unlist(lapply(which(is_grid), function(i) office_tables(archive, office_path(links$target[at[i]], places$folder), book$sheets$name[i])), recursive = FALSE)
  plain_tables(workbook_of("office", book, lapply(read, function(sheet) sheet$cells)), tables)
}

# The tables on a sheet, each with its sheet's name.
office_tables <- function(archive, part, sheet) {
  folder <- paste0(dirname(part), "/")
  links_part <- sprintf("%s_rels/%s.rels", folder, basename(part))
  if (!links_part %in% names(archive$parts)) return(list())
  links <- part_read(archive, links_part, cpp_office_links(workbook_part(archive, links_part)))
  lapply(links$target[links$kind == "table"], function(target) {
    at <- office_path(target, folder)
    c(part_read(archive, at, cpp_office_table(workbook_part(archive, at))), sheet = sheet)
  })
}

# The workbook with places of cells where formulas and names have columns of tables by their names.
plain_tables <- function(book, tables) {
  if (length(tables) == 0) return(book)
  # where each was written: it may have been copied from there
  cell <- match(seq_along(book$formulas), book$cells$formula)
  book$formulas <- cpp_without_tables(book$formulas, book$cells$row[cell] - book$cells$down[cell] - 1L, tables)
  book$names$formula <- cpp_without_tables(book$names$formula, rep(-1L, nrow(book$names)), tables)
  book
}

# Where a part of a kind is kept, as a list of links says.
office_target <- function(archive, part, folder, kind) {
  bytes <- workbook_part(archive, part, needed = FALSE)
  if (is.null(bytes)) return(NULL)
  links <- part_read(archive, part, cpp_office_links(bytes))
  at <- match(kind, links$kind)
  if (!is.na(at)) office_path(links$target[at], folder)
}

office_path <- function(target, folder) {
  if (startsWith(target, "/")) return(substring(target, 2))
  path <- paste0(folder, sub("^[.]/", "", target))
  while (grepl("[^/]+/[.][.]/", path)) path <- sub("[^/]+/[.][.]/", "", path)
  path
}

read_document_file <- function(archive) {
  book <- part_read(archive, "content.xml", cpp_document(workbook_part(archive, "content.xml")))
  if (length(book$sheets$name) == 0) stop_workbook(archive$file, "it holds no sheets")
  book$macros <- any(grepl("^(Basic|Scripts)/.+/.+[.]xml$", names(archive$parts)))
  workbook_of("document", book, book$cells)
}

workbook_of <- function(format, book, sheets) {
  counts <- vapply(sheets, function(sheet) length(sheet$row), 0L)
  column <- function(name) unlist(lapply(sheets, function(sheet) sheet[[name]]))
  formulas <- lapply(sheets, function(sheet) sheet$formulas)
  before <- cumsum(c(0L, lengths(formulas)))[seq_along(sheets)]
  formula <- unlist(Map(function(sheet, shift) sheet$formula + ifelse(sheet$formula > 0, shift, 0L), sheets, before))
  cells <- data.frame(sheet = rep(seq_along(sheets), counts), row = as.integer(column("row")), column = as.integer(column("column")),
    type = as.integer(column("type")), number = as.double(column("number")), text = as.character(column("text")),
    shown = as.integer(column("shown")), formula = as.integer(formula), down = as.integer(column("down")),
    right = as.integer(column("right")), array_rows = as.integer(column("array_rows")), array_columns = as.integer(column("array_columns")))
  last <- function(name, size) vapply(seq_along(sheets), function(i) {
    here <- cells$sheet == i
    if (any(here)) max(cells[[name]][here] + pmax(cells[[size]][here] - 1L, 0L)) else 0L
  }, 0L)
  facts <- as.data.frame(book$sheets[c("name", "hidden", "protected", "merged")])
  facts$last_row <- last("row", "array_rows")
  facts$last_column <- last("column", "array_columns")
  list(format = format, sheets = facts,
    names = as.data.frame(book$names), cells = cells, formulas = as.character(unlist(formulas)),
    notes = as.character(unlist(lapply(sheets, function(sheet) sheet$notes))), from_1904 = book$from_1904, iterates = book$iterates,
    protected = book$protected, external = book$external || any(grepl("\\[[0-9]+\\]|'file:", unlist(formulas))), macros = book$macros)
}

# The number of 1970-01-01, from which R counts days.
days_to_1970 <- function(book) if (book$from_1904) 24107 else 25569

# A cell's place as people write it.
place_texts <- function(sheets, row, column) {
  if (length(row) == 0) return(character())
  plain <- grepl("^[A-Za-z_\u00c0-\u024f][A-Za-z0-9_.\u00c0-\u024f]*$", sheets)
  paste0(ifelse(plain, sheets, paste0("'", gsub("'", "''", sheets), "'")), "!", column_letters(column), row)
}

column_letters <- function(column) {
  one <- function(at) {
    letters <- character()
    while (at > 0) {
      letters <- c(LETTERS[(at - 1) %% 26 + 1], letters)
      at <- (at - 1) %/% 26
    }
    paste(letters, collapse = "")
  }
  known <- unique(column)
  vapply(known, one, "")[match(column, known)]
}

cell_places <- function(book, at) place_texts(book$sheets$name[book$cells$sheet[at]], book$cells$row[at], book$cells$column[at])

# Formulas of cells as people see them.
cell_formulas <- function(book, at) {
  formula <- book$cells$formula[at]
  out <- rep("", length(at))
  own <- formula > 0
  text <- book$formulas[formula[own]]
  if (book$format == "office") text <- paste0("=", cpp_moved_formulas(text, book$cells$down[at][own], book$cells$right[at][own]))
  else text <- gsub("\\[[.]?([^]]*)\\]", "\\1", sub("^[a-z]*:?=", "=", text))
  out[own] <- gsub("_xlfn[.](_xlws[.])?", "", text, ignore.case = TRUE)
  out
}
