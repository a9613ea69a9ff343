# A progress bar for long work: shown by cli when it takes more than two seconds, on terminals only.

show_progress <- function(done, total) {
  if (done <= 0 || done >= total) {
    if (!is.null(progress_bar$id)) cli::cli_progress_done(id = progress_bar$id, .envir = progress_bar)
    progress_bar$id <- NULL
    return(invisible())
  }
  if (is.null(progress_bar$id)) {
    progress_bar$id <- cli::cli_progress_bar("Runs", total = total, .envir = progress_bar, .auto_close = FALSE)
  }
  cli::cli_progress_update(id = progress_bar$id, set = done, .envir = progress_bar)
}

# The bar that is on the screen now, if any: state of the terminal, not of any value.
progress_bar <- new.env()
