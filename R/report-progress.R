# A page on how far a simulation is, which is made anew while it goes on.

#' A page that shows how far a simulation is
#'
#' For simulations that take long: in their result folder a page, `progress.html`, which a browser loads again by itself,
#' and its figure, `progress.png`: runs done, failed and left, mean and percentiles of an output so far, each with its
#' error, its distribution, and why runs failed.
#'
#' @param study The study that is simulated.
#' @param output Name of an output of one value a run, bare or as text.
#' @param dir Path of the folder; it is made where it is not there.
#' @param every Number of seconds between two pages. It gets longer where drawing takes more than a twentieth of it.
#' @param show A function that is told how far it is besides; the progress bar, or `NULL` for none.
#' @return A function, for `progress` of [simulate()][simulate.ensayo_study], [simulate_into()] or [add_runs()].
#' @details What is known so far is from the runs that are done; in a simulation into a folder of more runs than one of
#'   its files holds (131,072), from those of the file that is being made. Errors are those of random sampling, and
#'   so rather too large for a Latin hypercube.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_file` where the folder cannot be written;
#'   `ensayo_error_argument` for other arguments.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' dir <- tempfile()
#' res <- simulate(main, 1000, seed = 11, progress = progress_page(main, velocity, dir))
#' list.files(dir)
#' @export
progress_page <- function(study, output, dir, every = 5, show = show_progress) {
  check_study(study)
  name <- resolve_name(rlang::enquo(output), scalar_outputs(study), "an output of one value a run")
  make_result_folder(check_string(dir))
  check_number(every, at_least = 0)
  if (!is.null(show) && !is.function(show)) stop_argument("show", "a function, or NULL", show)
  clock <- new_clock()
  next_at <- proc.time()[["elapsed"]] + every
  function(done, all, so_far) {
    call_progress(show, done, all, so_far)
    began <- proc.time()[["elapsed"]]
    far <- clock(done, all)
    if (began < next_at && done < all) return(invisible())
    again <- if (done < all) max(every, 1)
    write_progress(early_result(study, so_far(), all), name, far, dir, again)
    now <- proc.time()[["elapsed"]]
    next_at <<- now + max(every, 20 * (now - began))
  }
}

# The page and its figure, each written whole and renamed. `again`: seconds after which a browser loads it again, NULL where
# the simulation is done.
write_progress <- function(result, name, far, dir, again) {
  whole <- function(write, file) {
    part <- tempfile("progress-", dir, paste0(".", tools::file_ext(file)))
    write(part)
    file.rename(part, file.path(dir, file))
  }
  figure <- plot_distribution(result, !!name)
  whole(function(file) suppressMessages(ggplot2::ggsave(file, figure, width = 12.8, height = 8, dpi = 75)), "progress.png")
  whole(function(file) writeLines(progress_lines(result, name, far, again, figure$labels$title), file, useBytes = TRUE),
    "progress.html")
}

progress_lines <- function(result, name, far, again, title) {
  tag <- htmltools::tags
  figures <- early_figures(result, name)
  words <- if (!is.null(figures)) early_words(figures)
  failed <- length(unique(result$failures$run))
  body <- tag$body(
    tag$header(tag$p(class = "kind", if (is.null(again)) "Simulation, done" else "Simulation under way"),
      tag$h1(result$study$title)),
    tag$main(
      tag$p(tag$progress(max = far$all, value = far$done, style = paste0("width: 100%; accent-color: ", palette_ensayo$line)), tag$br(), how_far_words(far, failed),
        tag$br(), sprintf("As of %s.", format(Sys.time(), "%Y-%m-%d %H:%M:%S"))),
      report_section(sprintf("%s so far", axis_title(result$study, name)),
        if (is.null(words)) tag$p("Not enough runs yet.") else report_table(list(Figure = names(words),
          `Value and its 95 % interval` = unname(words))),
        tag$figure(tag$img(src = sprintf("progress.png?%.0f", far$done), alt = gsub("\n", " ", title)))),
      if (failed) report_section("Failed runs", report_failures(result))
    )
  )
  page_lines(result$study$title, body, again)
}
