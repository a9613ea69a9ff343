# Processes: a command with its input and output in a folder, ended with all that it started.

# What a program prints, in its run's folder.
said_file <- "standard-output.txt"
errors_file <- "standard-error.txt"
input_file <- "standard-input.txt"

# The words of a run's command, with the whole path of its program: of the run's folder, or where it `found` it before.
command_words <- function(model, words, folder, found = NULL) {
  if (model$shell) return(shell_command(words))
  own <- file.path(folder, words[1])
  c(if (file.exists(own)) own else found %||% find_program(words[1], model$name), words[-1])
}

# Where this system has a program, asked once for many runs: the system takes longer to tell than to start it.
find_program <- function(program, name) {
  found <- if (grepl("[/\\\\]", program)) normalizePath(program, mustWork = FALSE) else unname(Sys.which(program))
  if (nzchar(found) && file.exists(found)) return(found)
  stop_ensayo("model", sprintf("The program of %s must be there.", quoted(name)),
    sprintf("%s is not found on this machine.", quoted(program)), "Give its path, or install it.", name = name,
    program = program)
}

found_program <- function(model) {
  program <- model$command[[1]]
  brought <- sub("^[.]/", "", program$pieces[1]) %in% c(names(model$files), names(model$templates))
  if (!model$shell && length(program$names) == 0 && !brought) find_program(program$pieces, model$name)
}

shell_command <- function(text) {
  if (.Platform$OS.type == "windows") c(Sys.which("cmd")[[1]], "/c", text) else c("/bin/sh", "-c", text)
}

# Runs a command until it ends: its exit `status` and the `seconds` it took, and `fault` where it was ended. The folder is
# looked at once a second.
run_process <- function(command, folder, environment, input, limit, most_mb, start = process_starter()) {
  began <- proc.time()[["elapsed"]]
  took <- function() proc.time()[["elapsed"]] - began
  process <- start(command, folder, environment, input)
  on.exit(process$end())
  repeat {
    status <- process$wait(max(0.001, min(1, limit - took())))
    large <- took() > 0.5 && folder_mb(folder) > most_mb
    fault <- if (large) sprintf("its folder grew beyond %s MB", format(most_mb))
      else if (is.na(status) && took() >= limit) sprintf("it took longer than %s s and was ended", format(limit))
    if (!is.null(fault)) return(list(fault = fault, seconds = took()))
    if (!is.na(status)) return(list(status = status, seconds = took()))
  }
}

# Starting a process takes a library ten times as long as the system: where there is a system call for it, that is used.
process_starter <- function() if (.Platform$OS.type == "windows") start_by_library else start_by_system

start_by_system <- function(command, folder, environment, input) {
  own <- Sys.getenv()
  own[names(environment)] <- environment
  process <- cpp_start_process(command, paste0(names(own), "=", own), folder, input %||% "", file.path(folder, said_file),
    file.path(folder, errors_file))
  if (is.character(process)) stop_ensayo("model", sprintf("%s must start.", command[1]), process)
  status <- NA_integer_
  list(wait = function(seconds) status <<- cpp_wait_for_process(process, seconds), end = function() {
    cpp_end_group(process)
    if (is.na(status)) cpp_wait_for_process(process, 5)  # or the system would keep it as ended and not asked for
  })
}

start_by_library <- function(command, folder, environment, input) {
  process <- processx::process$new(command[1], command[-1], wd = folder, stdin = input, env = c("current", environment),
    stdout = file.path(folder, said_file), stderr = file.path(folder, errors_file))
  list(wait = function(seconds) {
    process$wait(as.integer(ceiling(1000 * seconds)))
    process$get_exit_status() %||% NA_integer_
  }, end = function() end_process(process))
}

# A process of the library, what it started, and what is left of them when it has ended by itself.
end_process <- function(process) {
  if (process$is_alive()) process$kill()
  cpp_end_group(process$get_pid())
}

folder_mb <- function(folder) {
  sum(file.size(list.files(folder, recursive = TRUE, all.files = TRUE, full.names = TRUE)), na.rm = TRUE) / 1e6
}
