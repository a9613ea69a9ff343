# Starters: small commented studies that run at once, one for each trade, to be changed into one's own.

# What each is for, and a command that goes with it besides.
starters <- list(
  cost = list(about = "a cost with items, ranges and events: what must be held in reserve"),
  schedule = list(about = "tasks with ranges and links: when it is done, and what drives the day"),
  tolerance = list(about = "parts whose sizes scatter: which share keeps the limits"),
  measurement = list(about = "readings and certificates: the result and its uncertainty", command = "budget"),
  program = list(about = "a program of your own as the model"),
  series = list(about = "what happens day by day, and which rule holds")
)

# Writes a starter into a folder, which need not be there; nothing that is there is lost unless `overwrite`. Gives its files, the study
# first.
write_starter <- function(folder, kind, overwrite = FALSE) {
  name <- normal_name(basename(folder))
  if (!grepl("^[[:alnum:]][[:alnum:]_-]*$", name)) {
    stop_ensayo("argument", "The name must be made of letters, digits, - and _, and begin with a letter or digit.",
      sprintf("You gave %s.", quoted(name)), argument = "name")
  }
  from <- system.file("starters", kind, package = "ensayo")
  beside <- setdiff(list.files(from), "study.yml")
  to <- file.path(folder, c(paste0(name, ".yml"), beside))
  for (file in to) refuse_existing(file, overwrite)
  if (file.exists(folder) && !dir.exists(folder) || !dir.exists(folder) && !dir.create(folder, recursive = TRUE, showWarnings = FALSE)) {
    stop_ensayo("file", sprintf("%s must be a folder, or be free for one.", folder), NULL, file = folder)
  }
  title <- paste0(toupper(substr(name, 1, 1)), gsub("[_-]+", " ", substring(name, 2)))
  lines <- gsub("@title@", title, readLines(file.path(from, "study.yml"), encoding = "UTF-8"), fixed = TRUE)
  write_file_lines(lines, to[1])
  for (file in beside) write_file_lines(readLines(file.path(from, file), encoding = "UTF-8"), file.path(folder, file))
  to
}
