# Folders that results go into.

# Asked before a simulation starts, so that no work is done for a folder that cannot take it. A simulation that was begun
# in it stays where it may go on.
prepare_result_folder <- function(dir, overwrite, go_on = FALSE) {
  make_result_folder(dir)
  begun <- file.exists(file.path(dir, begun_file)) && !file.exists(file.path(dir, "manifest.json"))
  held <- c(intersect(c(setdiff(names(result_files), c(runs_folder, left_folder)), "study.rds"), list.files(dir)),
    if (length(run_files(dir))) runs_folder)
  if (begun && !overwrite && !go_on) {
    stop_ensayo("file", sprintf("%s must not hold a simulation that is not done.", dir), NULL,
      "Run that again, which goes on where it stopped, or replace it with `overwrite = TRUE`.", file = dir)
  }
  if (length(held) && !overwrite && !begun) {
    stop_ensayo("file", sprintf("%s must not hold a result yet.", dir),
      sprintf("It holds %s.", paste(held, collapse = ", ")),
      "Choose another folder, or replace it with `overwrite = TRUE` (`--force` on the command line).", file = dir)
  }
  unlink(file.path(dir, setdiff(held, runs_folder)))
  if (begun && !overwrite) return(invisible())
  if (length(held) || begun) unlink(c(file.path(dir, c(left_folder, begun_file)), begun_files(dir)), recursive = TRUE)
  remove_run_files(dir)
}

make_result_folder <- function(dir) {
  if (file.exists(dir) && !dir.exists(dir)) {
    stop_ensayo("file", sprintf("%s must be a folder.", dir), "It is a file.", file = dir)
  }
  if (!dir.exists(dir)) suppressWarnings(dir.create(dir, recursive = TRUE))
  # asking the file system is not enough: some say yes to a user who may do anything
  probe <- tempfile("ensayo-probe-", dir)
  written <- dir.exists(dir) && suppressWarnings(file.create(probe))
  if (!written) {
    stop_ensayo("file", sprintf("%s must be a folder that can be written.", dir), "It cannot be written.",
      "Choose another folder.", file = dir)
  }
  unlink(probe)
}
