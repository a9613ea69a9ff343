# Runs that go into a folder while they are done: as many as its disk holds, a piece in memory at a time.

# Pieces are whole blocks of runs within which correlated draws are put in order.
piece_runs <- function(study, plan) {
  if (length(correlated_sets(study)) == 0) return(store_piece_runs)
  plan$block * max(1, store_piece_runs %/% plan$block)
}

# Where runs that fail leave what there is to look at.
left_folder <- "failed"

simulated_in_folder <- function(study, plan, count, dir, progress, started) {
  writer <- folder_writer(dir)
  failures <- warnings <- list()
  size <- piece_runs(study, plan)
  for (first in seq(0, count - 1, by = size)) {
    n <- min(size, count - first)
    draws <- draw_columns(study, plan, first, n)
    within <- if (!is.null(progress)) function(done, all) progress(first + done, count)
    runs <- evaluate_draws(study, draws, plan, first, n, within, file.path(dir, left_folder))
    columns <- c(draws, runs$values)
    writer$put(columns, piece_kinds(study, columns))
    failures <- c(failures, list(runs$failures))
    warnings <- c(warnings, list(runs$warnings))
  }
  new_result(study = study, store = writer$done(), failures = do.call(rbind, failures),
    warnings = unique(do.call(rbind, warnings)), base = base_case_of(study),
    provenance = new_provenance(study, plan, started))
}
