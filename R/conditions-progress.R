# A progress bar for long work: shown by cli when it takes more than two seconds, on terminals only.

show_progress <- function(done, total) {
  # a bar left by a run that was interrupted is not this run's
  if (done >= total || isTRUE(done <= progress_bar$done)) end_progress()
  if (done >= total) return(invisible())
  if (is.null(progress_bar$id)) {
    progress_bar$id <- cli::cli_progress_bar("Runs", total = total, .envir = progress_bar, .auto_close = FALSE)
  }
  progress_bar$done <- done
  cli::cli_progress_update(id = progress_bar$id, set = done, .envir = progress_bar)
}

end_progress <- function() {
  if (!is.null(progress_bar$id)) cli::cli_progress_done(id = progress_bar$id, .envir = progress_bar)
  progress_bar$id <- NULL
  progress_bar$done <- NULL
}

# The bar that is on the screen now, if any: state of the terminal, not of any value.
progress_bar <- new.env()

# Said before work that was asked for as a number of rows and takes many more runs.
announce_runs <- function(text) tell_ensayo(text, NULL, "runs")
