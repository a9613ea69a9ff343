#' @rdname write_result
#' @param study A study with at least one input and one output.
#' @inheritParams simulate.ensayo_study
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' simulate_into(main, tempfile("gravity-main-"), nsim = 1e4, seed = 11)
#' @export
simulate_into <- function(study, dir, nsim = 10000, seed = NULL, ..., design = "latin", replicates = 1, block = NULL,
                          threads = NULL, preview = NULL, overwrite = FALSE, csv = FALSE, workers = NULL,
                          most_failed = 1, progress = show_progress) {
  check_study(study)
  check_no_dots(..., .options = c("nsim", "seed", "design", "replicates", "block", "threads", "preview", "overwrite",
    "csv", "workers", "most_failed"))
  validate_study(study)
  check_flag(csv)
  check_flag(overwrite)
  most_failed <- check_most_failed(most_failed)
  if (!is.null(workers)) workers <- check_workers(workers)
  make_result_folder(check_string(dir))
  lock <- lock_folder(dir)
  on.exit(unlock_folder(dir, lock))
  plan <- draw_plan(nsim, seed %||% if (!overwrite) begun_seed(dir), design, replicates, block, threads)
  count <- if (is.null(preview)) plan$nsim else check_count(preview, at_most = plan$nsim)
  prepare_result_folder(dir, overwrite, go_on = TRUE)
  begin_in(dir, study, plan, count)
  result <- with_workers(workers, simulated_in_folder(study, plan, count, dir, progress, Sys.time(), most_failed))
  if (count < plan$nsim) result$provenance$preview <- count
  write_result_files(result, dir, result$store$counts, csv)
  end_begun(dir)
  tidy_left(result, dir)
  result
}

# Folders that a session which was killed has left of runs that did not fail.
tidy_left <- function(result, dir) {
  if (any(vapply(result$study$models, function(model) identical(model$here$keep, "all"), NA))) return(invisible())
  left <- list.files(file.path(dir, left_folder), full.names = TRUE)
  unlink(left[!basename(left) %in% basename(result$failures$folder)], recursive = TRUE)
  unlink_empty(file.path(dir, left_folder))
}
