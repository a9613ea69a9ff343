# Programs that stay: one process reads a line of JSON for each run and answers with one (JSON Lines).

# `seen` is told of each line that was sent, and the answer.
answered_runs <- function(model, columns, runs, log, talk, seen = function(line, answer) NULL) {
  lines <- json_lines(model, columns, length(runs), runs)
  run_each(model, columns, runs, log, function(i) {
    answer <- talk$ask(lines[i], runs[i])
    seen(lines[i], answer)
    list(parts = if (is.null(answer$fault)) checked_readings(answer$read, model) else answer$fault)
  })
}

# The object of each run: its number, and the values of what the program needs.
json_lines <- function(model, columns, n, runs) {
  names <- vapply(names(model$needs), function(name) as.character(jsonlite::toJSON(name, auto_unbox = TRUE)), "")
  texts <- paste0("{\"run\":", cpp_number_text(as.double(runs)))
  for (j in seq_along(model$needs)) {
    texts <- paste0(texts, ",", names[j], ":", json_texts(columns[[model$needs[j]]], n, model$needs[j] %in% model$dates))
  }
  paste0(texts, "}")
}

json_texts <- function(column, n, day) {
  if (is.matrix(column)) {
    return(apply(column, 1, function(row) paste0("[", paste(json_texts(row, length(row), day), collapse = ","), "]")))
  }
  texts <- if (day) dQuote(formatted_values(column, "", TRUE), FALSE)
    else if (is.character(column)) vapply(column, function(x) as.character(jsonlite::toJSON(x, auto_unbox = TRUE)), "")
    else if (is.logical(column)) ifelse(column, "true", "false") else cpp_number_text(as.double(column))
  rep_len(unname(texts), n)
}

# A conversation with one process, started when it is first asked, and again after it had to be ended.
new_talk <- function(model, place) {
  process <- folder <- root <- NULL
  filled <- filled_program(model, list(), 1)
  end <- function() {
    if (is.null(process)) return(invisible())
    end_process(process)
    process <<- NULL
    unlink(folder, recursive = TRUE, force = TRUE)
    unlink_empty(root)
  }
  start <- function() {
    root <<- runs_root(model, place)
    folder <<- tempfile(sprintf("%s-", gsub("[^[:alnum:]_-]", "-", model$name)), root)
    dir.create(folder)
    place_files(model$files, folder)
    command <- command_words(model, unlist(filled$command), folder, filled$found)
    process <<- processx::process$new(command[1], command[-1], wd = folder, stdin = "|", stdout = "|",
      stderr = file.path(folder, errors_file), env = c("current", unlist(filled$environment)))
  }
  ask <- function(line, run) {
    # what it still says belongs to no run: one begins anew rather than take it for an answer
    if (is.null(process) || !process$is_alive() || length(process$read_output_lines(1))) {
      end()
      start()
    }
    answer <- exchange(process, line, model$time_limit)
    if (is.null(answer$fault)) answer <- read_answer(model, answer$line, run)
    if (isTRUE(answer$lost) || is.null(answer$line)) end()
    answer
  }
  list(ask = ask, end = end)
}

# Sends a line and waits for one.
exchange <- function(process, line, limit) {
  until <- proc.time()[["elapsed"]] + limit
  left <- tryCatch(process$write_input(paste0(line, "\n")), error = function(e) NULL)
  repeat {
    said <- process$read_output_lines(1)
    if (length(said)) return(list(line = said))
    if (!process$is_incomplete_output()) {
      process$wait(1000)
      status <- process$get_exit_status()
      return(list(fault = if (is.null(status)) "it closed its output" else sprintf("it ended with status %d", status)))
    }
    if (length(left)) left <- tryCatch(process$write_input(left), error = function(e) NULL)
    rest <- until - proc.time()[["elapsed"]]
    if (rest <= 0) return(list(fault = sprintf("it gave no answer within %s s and was ended", format(limit))))
    process$poll_io(if (length(left)) 1L else as.integer(ceiling(1000 * min(rest, 1))))
  }
}

# `lost`: the answers no longer belong to the runs that were asked for.
read_answer <- function(model, line, run) {
  value <- tryCatch(jsonlite::parse_json(line), error = function(e) NULL)
  if (!is.list(value) || is.null(names(value))) return(list(line = line, lost = TRUE, fault = "its answer is no JSON object"))
  if (!is.null(value[["run"]]) && !identical(as.double(value[["run"]]), as.double(run))) {
    return(list(line = line, lost = TRUE, fault = "its answer is for another run"))
  }
  if (!is.null(value[["error"]])) return(list(line = line, fault = one_line(paste(unlist(value[["error"]]), collapse = " "))))
  list(line = line, read = lapply(model$readers, function(reader) {
    if (is_pointer(reader)) json_found(value, reader$pointer) else read_by(reader, "", function(file) if (is.null(file)) line)
  }))
}

is_pointer <- function(reader) !is.function(reader) && reader$kind == "json" && is.null(reader$file)
