# `--watch OUTPUT`: how far a run is and what is known of an output so far, every few seconds; with `--page` also as a
# page in the result folder.

cli_options_watch <- function() {
  list(
    optparse::make_option("--watch", type = "character", metavar = "OUTPUT",
      help = "say every few seconds how far it is, and what is known of this output so far"),
    optparse::make_option("--page", action = "store_true", default = FALSE,
      help = "with --watch: keep progress.html and progress.png in the result folder, made anew every few seconds")
  )
}

# As `progress` of a simulation of a study that was read, into a folder.
cli_progress <- function(settings, study, out) {
  if (is.null(settings$watch)) return(show_progress)
  name <- cli_outputs(settings$watch, scalar_outputs(study))[1]
  page <- if (isTRUE(settings$page)) progress_page(study, !!name, out, show = NULL)
  line <- cli_watch(name, study)
  function(done, all, so_far) {
    line(done, all, so_far)
    call_progress(page, done, all, so_far)
  }
}

# The page as it stays: of the result.
end_page <- function(result, watch, out) {
  runs <- run_count(result)
  write_progress(result, cli_outputs(watch, scalar_outputs(result$study))[1], list(done = runs, all = runs), out, NULL)
}

cli_watch <- function(name, study, every = 2) {
  told <- proc.time()[["elapsed"]]
  clock <- new_clock()
  function(done, all, so_far) {
    now <- proc.time()[["elapsed"]]
    far <- clock(done, all)
    if (now - told < every && done < all) return(invisible())
    told <<- now
    result <- early_result(study, so_far(), all)
    say("%s", paste(c(how_far_words(far, length(unique(result$failures$run))), early_line(result, name)), collapse = ". "))
  }
}
