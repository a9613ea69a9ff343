#' Report of a result
#'
#' Writes one HTML page that needs nothing else: the question, what the rehearsal shows beside the single number, the
#' inputs with a small picture of each law, figures, tables, drivers, failed runs, and how to do it all again. It
#' reads on a phone and prints well. Or it writes the same as sheets of a workbook, behind those of a copy or alone.
#'
#' @section The page answers: in a browser that runs scripts, each output has a target that can be dragged, typed or moved by
#'   the arrow keys, with the share of runs on each side and its simulation error, as [chance()] gives them; a percentile is
#'   read by pointing; drivers are shown by one of four measures of [drivers()] (two of more than 100,000 runs); outputs can be left out; of the first 300 runs
#'   one can be picked that shows all of it. Of up to 20,000 runs the page carries each value, of more 8001 at even ranks, by
#'   which shares are known to within 0.01 points. It fetches nothing, and its policy lets nothing run but its one script.
#'   Without scripts, and printed, it has still pictures. Results that are not held in memory have those alone.
#'   With `beside` the same output of other results can be switched on and off, a curve each, with its share of runs at or below the
#'   target.
#' @section Workbooks: three sheets, `Ensayo results`, `Ensayo figures` and `Ensayo inputs` (with a number where a name is
#'   taken). Cells hold numbers with which a sheet can go on: as they were calculated, shown in the digits of the page;
#'   those that the page rounds to tens or more are rounded. Where a workbook is the model, each quantity has its cell beside it. In a
#'   copy, what the workbook held is as it was, byte for byte but for the lists of sheets, styles and parts, which grow; this
#'   is checked by reading both again. Formulas are not calculated anew, macros stay, and a signature no longer holds.
#' @param result A result, the path of a result folder (see [write_result()]), or what [simulate()][simulate.ensayo_study] gives for
#'   [alternatives()]: the first is reported, and the others stand beside it.
#' @param file Text: the page's path, ending in `.html`, or a workbook's, ending in `.xlsx` or `.ods`.
#' @param percentiles Numeric from 0 to 100: the percentiles in table and figures; `NULL` for the study's
#'   ([add_readings()]).
#' @param overwrite `FALSE` to refuse to replace a page that is there.
#' @param workbook Text: the path of a workbook of which `file` is to be a copy, of the same ending; `NULL` for sheets alone.
#' @param beside Named list of results or paths of result folders that stand beside it on a page, such as those of alternatives: a
#'   section compares them as [compare_results()] does.
#' @return `file`, invisibly. A warning (`ensayo_warning_file`) where the study was made of that workbook and it has changed
#'   since; the sheet says so, too.
#' @section Errors: `ensayo_error_file` where the folder holds no result, the workbook cannot be read, or `file` cannot be
#'   written; `ensayo_error_argument` for other arguments, such as the workbook's own path as `file`, or a workbook that is not
#'   the study's.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' page <- tempfile(fileext = ".html")
#' write_report(res, page)
#'
#' # the same numbers as sheets of a workbook
#' sheets <- tempfile(fileext = ".xlsx")
#' write_report(res, sheets)
#' workbook_cells(sheets, "Ensayo results!A9:F10")
#' @export
write_report <- function(result, file, percentiles = NULL, overwrite = TRUE, workbook = NULL, beside = NULL) {
  own <- "this result"
  if (inherits(result, "ensayo_results")) {
    own <- names(result)[1]
    beside <- c(unclass(result)[-1], beside)
    result <- result[[1]]
  }
  if (is.character(result) && length(result) == 1) result <- read_result(result)
  check_result(result, mend = "Or give the path of a result folder.")
  beside <- check_beside(beside, own)
  check_string(file)
  check_string(workbook, null = TRUE)
  as_workbook <- grepl("[.](xlsx|xlsm|ods)$", file, ignore.case = TRUE)
  if (!as_workbook && !grepl("[.]html?$", file, ignore.case = TRUE)) stop_report_path(file, ".html, .xlsx or .ods")
  if (!as_workbook && !is.null(workbook)) stop_argument("workbook", "left out for a page", workbook, "A copy of a workbook has its ending, such as `.xlsx`.")
  if (as_workbook && length(beside)) stop_argument("beside", "left out for a workbook", beside, "Results stand side by side on a page.")
  refuse_existing(file, check_flag(overwrite))
  if (!is.null(percentiles)) check_percentiles(percentiles)
  asked <- asked_of(result, percentiles = percentiles)
  if (as_workbook) write_workbook_report(result, file, asked, workbook) else write_file_lines(report_page(result, asked, beside, own), file)
  invisible(file)
}

# Results by name, each under one of its own.
check_beside <- function(beside, own, call = rlang::caller_env()) {
  if (inherits(beside, "ensayo_results")) beside <- unclass(beside)
  if (length(beside) == 0) return(list())
  if (is.character(beside)) beside <- stats::setNames(as.list(beside), names(beside) %||% basename(beside))
  if (!is.list(beside) || inherits(beside, "ensayo_result") || is.null(names(beside)) || !all(nzchar(names(beside)))) {
    stop_argument("beside", "a named list of results, or of paths of result folders", beside, call = call)
  }
  if (anyDuplicated(c(own, names(beside)))) stop_argument("beside", "results under names that differ", names(beside), call = call)
  lapply(beside, function(one) {
    if (rlang::is_string(one)) read_result(one) else check_result(one, "beside", call = call)
  })
}

stop_report_path <- function(file, endings, mend = NULL) {
  stop_ensayo("argument", sprintf("A report's path must end in %s.", endings), sprintf("You gave %s.", shown_value(file)), mend, argument = "file")
}

# Outputs with figures of their own; the rest stand in the tables.
figures_at_most <- 12

# Outputs up to which their figures are vectors.
most_vectors <- 6

report_page <- function(result, asked = asked_of(result), beside = list(), own = "this result") {
  page_lines(result$study$title, report_body(result, asked, beside, own), scripts = live_script())
}

# A page's lines. The head is put together here, for the tag library moves a head of its own elsewhere. `again`: seconds
# after which a browser loads it again; of others a policy says that no more may run than `scripts`, and nothing be fetched.
page_lines <- function(title, body, again = NULL, scripts = character()) {
  tag <- htmltools::tags
  css <- paste(readLines(system.file("report", "report.css", package = "ensayo"), encoding = "UTF-8"), collapse = "\n")
  head <- htmltools::tagList(
    tag$meta(charset = "utf-8"), tag$meta(name = "viewport", content = "width=device-width, initial-scale=1"),
    if (!is.null(again)) tag$meta(`http-equiv` = "refresh", content = sprintf("%.0f", again)),
    if (is.null(again)) tag$meta(`http-equiv` = "Content-Security-Policy", content = page_policy(css, scripts)),
    tag$title(title), tag$style(htmltools::HTML(css))
  )
  c("<!DOCTYPE html>", "<html lang=\"en\">", "<head>", as.character(head), "</head>",
    as.character(body), "</html>")
}

report_body <- function(result, asked, beside, own) {
  tag <- htmltools::tags
  study <- result$study
  leading <- leading_outputs(result)
  shown <- shown_outputs(result, leading)
  tag$body(
    tag$header(tag$p(class = "kind", "Rehearsal report"), tag$h1(study$title),
      if (!is.null(study$question)) tag$p(class = "question", study$question)),
    tag$main(
      report_partial(result),
      if (length(leading)) report_section("In short", report_short(result, leading)),
      lapply(shown, function(name) report_output(result, name, asked, length(shown) <= most_vectors)),
      if (length(beside)) report_section("Side by side", report_beside(result, beside, own, shown)),
      report_readings(result, asked, leading, shown),
      if (nrow(result$failures)) report_section("Failed runs", report_failures(result)),
      report_section("What is known of the inputs", report_inputs(study), report_correlations(result)),
      report_section("What is calculated", report_outputs(study)),
      report_other_parts(study),
      live_elements(result, shown, beside),
      report_section("Do it again", report_again(result))
    )
  )
}

report_section <- function(title, ...) htmltools::tags$section(htmltools::tags$h2(title), ...)

# The outputs with figures of their own, those first that a reader asks about first.
shown_outputs <- function(result, leading) utils::head(c(leading, setdiff(rev(main_outputs(result)), leading)), figures_at_most)

short_sentences <- function(result, leading) c(output_sentences(result, leading[1]), spec_sentences(result), output_words(result, leading[1])[1])

report_short <- function(result, leading) {
  whole <- gsub(" %", "\u00a0%", short_sentences(result, leading), fixed = TRUE)  # a number and its sign stay on one line
  htmltools::tags$ul(class = "short", lapply(whole, htmltools::tags$li))
}
