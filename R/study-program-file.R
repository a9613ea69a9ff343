# Files that a program needs: templates as texts, others by their content where it is a short text, else by path and
# digest. Everything that stays in the study is data.

template_texts <- function(paths, call = rlang::caller_env()) {
  if (is.null(paths)) return(NULL)
  names <- run_file_names(paths, "templates", call)
  texts <- vapply(paths, function(path) {
    content <- file_content(path, "template")
    if (is.null(content)) stop_ensayo("file", sprintf("The template %s must be a text.", path), NULL, file = path, call = call)
    content
  }, "")
  stats::setNames(texts, names)
}

program_files <- function(paths, call = rlang::caller_env()) {
  if (is.null(paths)) return(NULL)
  names <- run_file_names(paths, "files", call)
  stats::setNames(lapply(unname(paths), function(path) {
    content <- if (file.exists(path) && file.size(path) > file_text_at_most) NULL else file_content(path, "file")
    runs <- isTRUE(file.info(path)$mode %/% 64 %% 2 == 1)
    c(if (is.null(content)) list(path = normalizePath(path), digest = unname(tools::md5sum(path))) else list(text = content),
      list(runs = runs))
  }), names)
}

file_text_at_most <- 1e6

run_file_names <- function(paths, arg, call) {
  if (!is.character(paths) || length(paths) == 0 || anyNA(paths)) stop_argument(arg, "paths of files", paths, call = call)
  names <- names(paths) %||% rep("", length(paths))
  names <- ifelse(nzchar(names), names, basename(paths))
  for (name in names) check_run_file(name, arg, call)
  if (anyDuplicated(names)) {
    stop_argument(arg, "files of different names in the run's folder", names, "Name them.", call)
  }
  names
}

# A file's text, or NULL where it is none.
file_content <- function(path, what) {
  if (!file.exists(path) || dir.exists(path)) {
    stop_ensayo("file", sprintf("The %s %s must be there.", what, path), "It is not.", file = path)
  }
  bytes <- readBin(path, "raw", file.size(path))
  if (any(bytes == 0)) return(NULL)
  text <- rawToChar(bytes)
  if (!validUTF8(text)) return(NULL)
  Encoding(text) <- "UTF-8"
  text
}
