# What readers (study-reader.R) find: the value, and the line it came from.

# What a reader finds in a run's folder: `value`, `line` where there is one, and `said`, what stood there; or a `fault`.
# `files` gives the lines of a file, or NULL.
read_by <- function(reader, folder, lines_of) {
  if (is.function(reader)) {
    return(tryCatch(list(value = reader(folder)), error = function(e) list(fault = one_line(conditionMessage(e)))))
  }
  lines <- lines_of(reader$file)
  if (is.null(lines)) return(list(fault = sprintf("%s is not there", file_said(reader$file))))
  found <- reader_kinds[[reader$kind]](reader, lines)
  if (!is.null(found$fault)) found$fault <- sprintf("%s in %s", found$fault, file_said(reader$file))
  found
}

file_said <- function(file) if (is.null(file)) "its output" else sprintf("`%s`", file)

reader_kinds <- list(
  line = function(reader, lines) {
    start <- 0
    if (!is.null(reader$after)) {
      start <- grep(reader$after, lines, fixed = TRUE)[1]
      if (is.na(start)) return(list(fault = sprintf("no line with \"%s\"", reader$after)))
    }
    at <- if (reader$line > 0) start + reader$line else length(lines) + 1 + reader$line
    if (at < 1 || at > length(lines)) return(list(fault = sprintf("no line %s", line_said(reader))))
    said <- lines[at]
    part <- if (!is.null(reader$from)) trimws(substr(said, reader$from, reader$to)) else {
      parts <- if (is.null(reader$separator)) strsplit(trimws(said), "[[:space:]]+")[[1]]
        else trimws(strsplit(said, reader$separator, fixed = TRUE)[[1]])
      place <- if (reader$column > 0) reader$column else length(parts) + 1 + reader$column
      if (place < 1 || place > length(parts)) {
        return(list(fault = sprintf("no column %s in line %s", format(reader$column), line_said(reader))))
      }
      parts[place]
    }
    read_values(part, at, said)
  },
  text = function(reader, lines) {
    pattern <- if (reader$regex) reader$text else
      paste0("\\Q", gsub("\\E", "\\E\\\\E\\Q", reader$text, fixed = TRUE), "\\E[\\s:=]*([-+]?[^\\s,;]+)")
    at <- gregexpr(pattern, lines, perl = TRUE)
    hits <- lapply(at, function(place) {
      if (place[1] == -1) return(NULL)
      cbind(attr(place, "capture.start")[, 1], attr(place, "capture.length")[, 1])
    })
    line <- rep(seq_along(lines), vapply(hits, NROW, 0))
    hits <- do.call(rbind, hits)
    part <- substr(lines[line], hits[, 1], hits[, 1] + hits[, 2] - 1)
    asked <- sprintf("\"%s\"", reader$text)
    if (length(line) == 0) return(list(fault = sprintf("no %s", asked)))
    if (is.null(reader$match)) return(read_values(part, line, lines[line]))
    place <- if (reader$match > 0) reader$match else length(line) + 1 + reader$match
    if (place < 1 || place > length(line)) {
      return(list(fault = sprintf("%s stands %s, not %s", asked, count_of(length(line), "time"), format(abs(reader$match)))))
    }
    read_values(part[place], line[place], lines[line[place]])
  },
  csv = function(reader, lines) {
    table <- tryCatch(utils::read.csv(text = lines, header = reader$header, sep = reader$separator, colClasses = "character",
      check.names = FALSE, strip.white = TRUE, blank.lines.skip = FALSE), error = function(e) NULL)
    if (is.null(table)) return(list(fault = "no table"))
    place <- if (is.character(reader$column)) match(reader$column, names(table)) else reader$column
    if (is.na(place) || place > ncol(table)) return(list(fault = sprintf("no column %s", quoted(reader$column))))
    rows <- seq_len(nrow(table))
    if (!is.null(reader$row)) {
      at <- if (reader$row > 0) reader$row else length(rows) + 1 + reader$row
      if (at < 1 || at > length(rows)) return(list(fault = sprintf("no row %s", format(reader$row))))
      rows <- at
    }
    line <- rows + reader$header
    read_values(table[[place]][rows], line, lines[line])
  },
  json = function(reader, lines) {
    value <- tryCatch(jsonlite::parse_json(paste(lines, collapse = "\n")), error = function(e) e)
    if (inherits(value, "error")) return(list(fault = "no valid JSON"))
    json_found(value, reader$pointer)
  }
)

json_found <- function(value, pointer) {
  found <- at_pointer(value, pointer)
  if (is.null(found$value)) return(list(fault = sprintf("nothing at %s", quoted(found$missing))))
  list(value = json_values(found$value), said = paste(utils::head(unlist(found$value), 5), collapse = ", "))
}

line_said <- function(reader) {
  paste0(format(reader$line), if (!is.null(reader$after)) sprintf(" after \"%s\"", reader$after))
}

# RFC 6901: tokens between slashes, `~1` for a slash and `~0` for a tilde; lists count from 0.
at_pointer <- function(value, pointer) {
  tokens <- if (nzchar(pointer)) strsplit(substring(pointer, 2), "/", fixed = TRUE)[[1]] else character()
  if (endsWith(pointer, "/")) tokens <- c(tokens, "")
  for (i in seq_along(tokens)) {
    token <- gsub("~0", "~", gsub("~1", "/", tokens[i], fixed = TRUE), fixed = TRUE)
    at <- match(token, names(value))
    inside <- if (!is.list(value)) NULL else if (!is.null(names(value))) if (is.na(at)) NULL else value[[at]]
      else if (grepl("^(0|[1-9][0-9]*)$", token) && as.numeric(token) < length(value)) value[[as.numeric(token) + 1]]
    if (is.null(inside)) return(list(missing = paste0("/", paste(tokens[seq_len(i)], collapse = "/"))))
    value <- inside
  }
  list(value = value)
}

# Numbers, texts and truths of JSON, alone or in a list, as values.
json_values <- function(x) {
  if (!is.list(x)) return(value_of_text(x))
  plain <- vapply(x, function(part) is.atomic(part) && length(part) == 1, TRUE)
  if (!all(plain)) return(NULL)
  parts <- lapply(x, value_of_text)
  if (length(unique(lapply(parts, class))) == 1) do.call(c, unname(parts)) else as.double(unlist(parts))
}

read_values <- function(texts, line, said) {
  list(value = value_of_text(texts), line = line, said = said, texts = texts)
}

# Numbers, days or truths that texts stand for; NA where one stands for none.
value_of_text <- function(x) {
  if (!is.character(x)) return(x)
  if (all(grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", x))) return(as.Date(x))
  truth <- match(tolower(x), c("true", "yes", "false", "no"))
  if (!anyNA(truth)) return(truth <= 2)
  plain <- grepl("^[-+]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eEdD][-+]?[0-9]+)?$", x) | x %in% c("Inf", "-Inf", "NaN")
  value <- rep(NA_real_, length(x))
  value[plain] <- as.double(gsub("[dD]", "e", x[plain]))
  value
}
