# Runs that go into a folder while they are done: as many as its disk holds, a piece in memory at a time.

# Pieces are whole blocks of runs within which correlated draws are put in order.
piece_runs <- function(study, plan) {
  if (length(correlated_sets(study)) == 0) return(store_piece_runs)
  plan$block * max(1, store_piece_runs %/% plan$block)
}

# Where runs that fail leave what there is to look at.
left_folder <- "failed"

simulated_in_folder <- function(study, plan, count, dir, progress, started, most_failed = 1) {
  force(started)
  writer <- folder_writer(dir, anew = FALSE)
  told <- list()
  size <- piece_runs(study, plan)
  for (first in seq(0, count - 1, by = size)) {
    n <- min(size, count - first)
    file <- file.path(dir, run_file(first / size + 1))
    columns <- known_piece(file, n, study)
    if (is.null(columns)) {
      draws <- draw_columns(study, plan, first, n)
      within <- progress_after(progress, first, count)
      journal <- if (is_dear_study(study)) new_journal(dir, first, n, study)
      runs <- evaluate_draws(study, draws, plan, first, n, within, file.path(dir, left_folder), journal = journal,
        most_failed = most_failed)
      if (isTRUE(runs$stopped)) stop_failing(runs, dir)
      columns <- c(lapply(draws, kept_column), runs$values)
      write_told(runs, sub("[.]parquet$", "", file))
      writer$put(columns, piece_kinds(study, columns))
      unlink(file.path(dir, runs_folder, "begun"), recursive = TRUE)
    } else {
      runs <- read_told(sub("[.]parquet$", "", file))
      writer$know(columns, piece_kinds(study, columns))
    }
    told <- c(told, list(runs[c("failures", "warnings")]))
  }
  new_result(study = study, store = writer$done(),
    failures = do.call(rbind, lapply(told, function(one) one$failures)),
    warnings = unique(do.call(rbind, lapply(told, function(one) one$warnings))), base = base_case_of(study),
    provenance = new_provenance(study, plan, started))
}

stop_failing <- function(runs, dir) {
  made <- column_length(runs$values[[1]])
  stop_ensayo("model", sprintf("Runs must not fail more often than `most_failed` says; it stopped after %s.",
    count_of(made, "run")), sprintf("%s failed, most often: %s.", format_given(length(unique(runs$failures$run))),
    most_frequent(runs$failures$reason)),
    sprintf("Their folders are in %s. Run the same again to go on, with another `most_failed`.", file.path(dir, left_folder)))
}

# A piece that a simulation which stopped has left whole.
known_piece <- function(file, count, study) {
  if (!file.exists(file)) return(NULL)
  values <- tryCatch(read_run_file(file), error = function(e) NULL)
  if (is.null(values) || length(values) == 0 || length(values[[1]]) != count) return(NULL)
  c(values[varying_names(study)], unflat_columns(values, study))
}
