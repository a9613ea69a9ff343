# Files of a program (study-program-file.R) in the folder of a run.

# Puts a program's files into a folder.
place_files <- function(files, folder) {
  for (name in names(files)) {
    file <- files[[name]]
    target <- file_in_run(folder, name)
    if (is.null(file$path)) write_bytes(file$text, target) else file.copy(file$path, target, copy.mode = FALSE)
    if (file$runs) Sys.chmod(target, "755", use_umask = FALSE)
  }
}

file_in_run <- function(folder, name) {
  target <- file.path(folder, name)
  if (grepl("[/\\\\]", name)) dir.create(dirname(target), recursive = TRUE, showWarnings = FALSE)
  target
}

write_bytes <- function(text, file) writeBin(charToRaw(enc2utf8(text)), file)

# Files that are known by their path must be as they were when they were added.
check_files <- function(model) {
  for (name in names(model$files)) {
    file <- model$files[[name]]
    if (is.null(file$path) || identical(unname(tools::md5sum(file$path)), file$digest)) next
    stop_ensayo("model", sprintf("The files of %s must be as they were when it was added.", quoted(model$name)),
      sprintf("%s %s.", file$path, if (file.exists(file$path)) "has changed" else "is not there"),
      "Add the program again with `add_program()`.", file = file$path)
  }
}
