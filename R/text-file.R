# Texts that are read from files.

read_file_text <- function(file) {
  check_file(file)
  if (file.size(file) > largest_text) {
    stop_ensayo("file", sprintf("%s must not be larger than %.0f MB.", file, largest_text / 1e6),
      sprintf("It has %.0f MB.", file.size(file) / 1e6), file = file)
  }
  # by its whole path: R's readers take some names for addresses
  bytes <- rethrow_as(readBin(normalizePath(file), "raw", file.size(file)), "file",
    sprintf("%s must be readable.", file), file = file)
  if (any(bytes == 0)) stop_ensayo("file", sprintf("%s must be a text file.", file), "It holds binary data.",
    file = file)
  text <- rawToChar(bytes)
  Encoding(text) <- "UTF-8"
  if (!validUTF8(text)) {
    stop_ensayo("file", sprintf("%s must be UTF-8 text.", file), "It holds bytes that are not.",
      "Save it as UTF-8 in your editor.", file = file)
  }
  text <- gsub("\r\n?", "\n", sub("^\ufeff", "", text))
  refuse_controls(text, sprintf("%s must not hold control characters.", file), file)
  text
}

largest_text <- 2e7

# A path at which there is a plain file.
check_file <- function(file) {
  if (!nzchar(file)) stop_argument("file", "the path of a file", file)
  if (!file.exists(file)) {
    near <- nearest_name(basename(file), list.files(dirname(file)))
    stop_ensayo("file", sprintf("%s must exist.", file), "There is no such file.",
      if (!is.null(near)) sprintf("Did you mean %s?", near), file = file)
  }
  if (dir.exists(file)) stop_ensayo("file", sprintf("%s must be a file.", file), "It is a folder.", file = file)
  if (!utils::file_test("-f", file)) stop_ensayo("file", sprintf("%s must be a file.", file),
    "It is a pipe or a device.", file = file)
}

refuse_controls <- function(text, expected, file = NULL) {
  at <- regexpr(control_characters, text, perl = TRUE)
  if (at < 0) return(invisible())
  line <- 1 + lengths(regmatches(substr(text, 1, at), gregexpr("\n", substr(text, 1, at), fixed = TRUE)))
  stop_ensayo("file", expected, sprintf("Line %d holds the character U+%04X.", line, utf8ToInt(substr(text, at, at))),
    "Take it out in your editor.", file = file, line = line)
}

# A file named in a study file stands in its folder: no address, no way out of the folder, nothing but a plain file.
beside <- function(file, folder) {
  file <- read_text(file, "`file`")
  inside <- !grepl("^(/|~|\\\\)|^[A-Za-z][A-Za-z0-9+.-]*:|(^|[/\\\\])[.][.]([/\\\\]|$)", file)
  path <- file.path(folder, file)
  if (inside && file.exists(path)) {
    root <- paste0(normalizePath(folder, "/"), "/")
    inside <- startsWith(normalizePath(path, "/"), root)  # a link may lead elsewhere
  }
  if (!inside) {
    stop_ensayo("file", "A file named in a study file must stand in its folder.", sprintf("It names %s.",
      shown_value(file)), "Put it beside the study file and name it without a path.", name = file)
  }
  path
}
