# The runs of a program that is started for each: a folder, files, the command, and what it wrote.

# `seen` is told of each run that was made, and where.
program_runs <- function(model, columns, runs, log, place, seen = function(done, folder) NULL) {
  root <- runs_root(model, place)
  on.exit(unlink_empty(root))
  filled <- filled_program(model, columns, length(runs), runs)
  run_each(model, columns, runs, log, function(i) {
    folder <- run_folder(root, model, runs[i])
    done <- program_run(model, filled, i, folder)
    seen(done, folder)
    parts <- if (is.null(done$fault)) checked_readings(done$read, model) else done$fault
    failed <- is.character(parts) || any(vapply(parts, function(part) !is.null(attr(part, "fault")), TRUE))
    if (model$here$keep == "all" || failed && model$here$keep == "failed") return(list(parts = parts, folder = folder))
    unlink(folder, recursive = TRUE, force = TRUE)
    list(parts = parts)
  }, filled$lost)
}

# Folders of runs are made in the folder of a simulation, where one was given, else of R's session.
runs_root <- function(model, place) {
  root <- place %||% model$here$folder %||% file.path(tempdir(), "ensayo-runs")
  make_folder(root, root)
  file.path(normalizePath(dirname(root)), basename(root))
}

# Makes a folder in `root`, or this itself, and says whether it had to. Another worker may take an empty root away just then, so that
# a second try can help.
make_folder <- function(folder, root) {
  for (try in 1:20) {
    if (suppressWarnings(dir.create(folder, recursive = TRUE))) return(TRUE)
    if (dir.exists(folder)) return(FALSE)
  }
  stop_ensayo("file", sprintf("%s must be a folder that can be written: runs are made in it.", root), NULL,
    "Give another with `folder`.", file = root)
}

# Another worker may just make a folder in it: it goes only while it is empty.
unlink_empty <- function(root) {
  if (length(list.files(root, all.files = TRUE, no.. = TRUE)) == 0) suppressWarnings(file.remove(root))
}

# A folder that is not there yet: a run may have been made before.
run_folder <- function(root, model, run) {
  folder <- file.path(root, sprintf("%s-run-%s", gsub("[^[:alnum:]_-]", "-", model$name), format(run, scientific = FALSE)))
  if (make_folder(folder, root)) return(folder)
  folder <- tempfile(paste0(basename(folder), "-"), root)
  make_folder(folder, root)
  folder
}

# All texts of a block of runs, marks filled.
filled_program <- function(model, columns, n, runs = seq_len(n)) {
  columns <- lapply(columns, function(column) {
    if (length(column) == 1 && !is.matrix(column)) rep(column, n) else column
  })
  fill <- function(marked, quote = identity) filled_marks(marked, columns, n, model$dates, quote)
  filled <- list(command = lapply(model$command, fill, if (model$shell) shQuote else identity),
    templates = lapply(model$templates, fill), environment = lapply(model$environment, fill),
    input = if (!is.null(model$marked_input)) list(fill(model$marked_input)))
  lost <- rep(NA_character_, n)
  for (one in unlist(unname(filled), recursive = FALSE)) lost[is.na(lost)] <- one$lost[is.na(lost)]
  texts <- lapply(filled, function(group) lapply(group, function(one) one$texts))
  if (identical(model$input, "json")) texts$input <- list(json_lines(model, columns, n, runs))
  c(texts, list(lost = lost, found = found_program(model)))
}

# One run: `fault`, or what each reader `read`; and for whoever looks at it the `command`, `status` and `seconds`.
program_run <- function(model, filled, i, folder) {
  at <- function(group) vapply(group, function(texts) texts[i], "")
  place_files(model$files, folder)
  texts <- at(filled$templates)
  for (name in names(texts)) write_bytes(texts[[name]], file_in_run(folder, name))
  input <- if (length(filled$input)) file.path(folder, input_file)
  if (!is.null(input)) write_bytes(filled$input[[1]][i], input)
  command <- command_words(model, at(filled$command), folder, filled$found)
  done <- tryCatch(run_process(command, folder, at(filled$environment), input, model$time_limit, model$most_mb),
    ensayo_error_model = function(e) list(fault = sprintf("it could not be started: %s", e$came)))
  done$command <- command
  done$texts <- texts
  lines_of <- lines_reader(folder)
  if (is.null(done$fault)) done$fault <- program_fault(model, done$status, lines_of)
  if (is.null(done$fault)) done$read <- lapply(model$readers, read_by, folder, lines_of)
  done
}

# The lines of files in a folder, each read once; standard output where no file is named.
lines_reader <- function(folder) {
  known <- list()
  function(file) {
    name <- file %||% said_file
    if (is.null(known[[name]])) {
      path <- file.path(folder, name)
      known[[name]] <<- list(if (file.exists(path) && !dir.exists(path)) file_lines(path))
    }
    known[[name]][[1]]
  }
}

file_lines <- function(path) {
  lines <- readLines(path, warn = FALSE, skipNul = TRUE, encoding = "UTF-8")
  odd <- !validUTF8(lines)
  if (any(odd)) lines[odd] <- iconv(lines[odd], "latin1", "UTF-8")
  lines
}

# What makes a run that has ended a failed one.
program_fault <- function(model, status, lines_of) {
  if (!status %in% model$statuses) return(sprintf("it ended with status %d", status))
  for (kind in c("must_hold", "must_not_hold")) {
    asked <- model[[kind]]
    for (i in seq_along(asked$text)) {
      file <- if (nzchar(asked$file[i])) asked$file[i]
      held <- any(grepl(asked$text[i], lines_of(file), fixed = TRUE))
      if (held != (kind == "must_hold")) {
        return(sprintf(if (held) "\"%s\" stands in %s" else "\"%s\" does not stand in %s", asked$text[i], file_said(file)))
      }
    }
  }
}

checked_readings <- function(read, model) {
  lapply(stats::setNames(nm = model$gives), function(name) {
    found <- read[[name]]
    if (!is.null(found$fault)) return(structure(NA, fault = found$fault))
    value <- found$value
    if (is.character(value)) value <- value_of_text(value)
    broken <- if (length(found$texts) == length(value)) which(is.na(value) & !tolower(found$texts) %in% c("nan", "na"))[1]
    if (length(broken) && !is.na(broken)) {
      return(structure(NA, fault = sprintf("\"%s\" is no number", substr(found$texts[broken], 1, 40))))
    }
    checked_part(value, name, model$steps[[name]])
  })
}
