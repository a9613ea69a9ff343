#' The page of a budget
#'
#' Writes a budget for handing over: an HTML page that needs nothing else and prints on A4 with page numbers, or the table as CSV or JSON.
#' The page has title, equation, quantities with units and where each is known from, budget, correlations, the result in words, the
#' simulation beside it with its figure, how it was rounded, and the study's hash, by which it can be traced.
#'
#' @param budget A budget, as [budget()] makes it.
#' @param file Text: the path, ending in `.html`, `.csv` or `.json`.
#' @param verdict A verdict ([budget_verdict()]); `TRUE` to find it now, by simulation; `FALSE` for a page without.
#' @param ... Not used; anything here is an error.
#' @param notes Texts or `NULL`: further paragraphs for the page, such as what was measured, by whom, and the conditions.
#' @param overwrite `FALSE` to refuse to replace what is there.
#' @return `file`, invisibly. The CSV has the columns of `as.data.frame(budget)`; the JSON has these rows, the result, the correlations
#'   and, where there is one, the verdict.
#' @section Errors: `ensayo_error_file` where the file cannot be written; `ensayo_error_argument` for other arguments.
#' @examples
#' flow <- study("Weighed flow", question = "What is the mass flow of line 2?") |>
#'   add_inputs(
#'     mass = input(law_measured(20.02, expanded = 0.06, k = 2), unit = "kg", label = "Mass",
#'       note = "Certificate V-118"),
#'     time = input(law_observed(c(10.02, 10.1, 9.97, 10.05), of = "mean"), unit = "s",
#'       label = "Time")) |>
#'   add_outputs(flow = output(mass / time, unit = "kg/s", label = "Mass flow"))
#' page <- tempfile(fileext = ".html")
#' write_budget(budget(flow), page, verdict = FALSE)
#' @export
write_budget <- function(budget, file, verdict = TRUE, ..., notes = NULL, overwrite = TRUE) {
  check_class(budget, "ensayo_budget", "a budget, as `budget()` makes it")
  check_no_dots(..., .options = c("notes", "overwrite"))
  check_string(file)
  ending <- tolower(tools::file_ext(file))
  if (!ending %in% c("html", "htm", "csv", "json")) stop_argument("file", "a path that ends in `.html`, `.csv` or `.json`", file)
  refuse_existing(file, check_flag(overwrite))
  if (!is.null(notes) && !is.character(notes)) stop_argument("notes", "texts", notes)
  if (ending == "csv") {
    write_csv(unclass_table(budget$rows), file)
    return(invisible(file))
  }
  verdict <- verdict_for(budget, verdict)
  write_file_lines(if (ending == "json") to_json(budget_record(budget, verdict)) else budget_page(budget, verdict, notes), file)
  invisible(file)
}

verdict_for <- function(budget, verdict, call = rlang::caller_env()) {
  if (isTRUE(verdict)) return(budget_verdict(budget))
  if (isFALSE(verdict)) return(NULL)
  check_class(verdict, "ensayo_verdict", "TRUE, FALSE or a verdict, as `budget_verdict()` gives it", "verdict", call = call)
  same <- identical(verdict$budget$output, budget$output) && study_hash(verdict$budget$study) == study_hash(budget$study)
  if (!same) stop_argument("verdict", "one of this budget", verdict$budget$output, "Make it by `budget_verdict(budget)`.", call)
  verdict
}

budget_record <- function(budget, verdict) {
  list(study = budget$study$title, hash = study_hash(budget$study), ensayo = software_versions()$ensayo, output = budget$output,
    statement = statement_words(budget), remarks = I(budget_remarks(budget)), result = as.list(unclass_table(budget_result(budget))),
    rows = unclass_table(budget$rows), correlations = budget$r, verdict = if (!is.null(verdict)) list(words = I(verdict_words(verdict)),
      rows = unclass_table(verdict$rows), runs = run_count(verdict$result), seed = verdict$result$provenance$seed))
}

budget_page <- function(budget, verdict, notes) {
  tag <- htmltools::tags
  study <- budget$study
  p <- function(words) lapply(gsub("`([^`]*)`", "\\1", words), tag$p)
  body <- tag$body(class = "sheet",
    tag$header(tag$p(class = "kind", "Uncertainty budget"), tag$h1(study$title), if (!is.null(study$question)) tag$p(class = "question", study$question)),
    tag$main(
      report_section("Result", tag$p(class = "statement", statement_words(budget)), p(c(budget_figures(budget), budget_remarks(budget)))),
      if (length(notes)) report_section("Measurement", p(notes)),
      report_section("Equation", lapply(equation_lines(budget), function(line) tag$p(class = "equation", tag$code(line)))),
      report_section("Quantities", budget_quantities(budget)),
      if (length(readings_of(budget))) report_section("Readings", budget_readings(budget)),
      report_section("Budget", budget_table(budget), report_figure(plot_budget(budget), height = 4.6)),
      if (nrow(correlation_terms(budget))) report_section("Correlations", budget_correlations(budget)),
      if (!is.null(verdict)) report_section("Simulation beside it", p(verdict_words(verdict)), verdict_table(verdict),
        report_figure(plot_verdict(verdict), height = 4.6)),
      report_section("How it was calculated", p(budget_basis(budget, verdict)), budget_trace(budget, verdict))))
  page_lines(study$title, body)
}

# The output and what it is calculated from, in the order in which it is.
equation_lines <- function(budget) {
  needed <- needed_outputs(budget$study, budget$output)
  order <- intersect(output_order(budget$study$outputs), needed)
  vapply(rev(order), function(name) sprintf("%s = %s", name, budget$study$outputs[[name]]$formula$text), "")
}

budget_quantities <- function(budget) {
  study <- budget$study
  names <- setdiff(intersect(names(study$inputs), reach_of(study)(budget$output)), aside_names(study))
  law <- lapply(study$inputs[names], function(input) if (varies(input)) input$law)
  unit <- text_of(names, function(name) quantity_unit(study, name))
  estimate <- vapply(names, function(name) {
    row <- match(name, budget$rows$input)
    if (is.na(row)) return(format_value(held_value(study$inputs[[name]])))
    decimal_text(budget$rows$estimate[row], decimals_for(budget$rows$uncertainty[row], 2))
  }, "")
  columns <- list(Quantity = named_quantities(study, names), Estimate = estimate, Unit = unit,
    `Known from` = vapply(seq_along(names), function(i) if (is.null(law[[i]])) "constant" else known_from(law[[i]], unit[i]), ""),
    Source = text_of(study$inputs[names], function(input) input$note))
  report_table(Filter(function(column) is.list(column) || any(nzchar(column)), columns), numeric = "Estimate")
}

# The single readings behind type A inputs, where the study has them.
readings_of <- function(budget) {
  laws <- lapply(budget$study$inputs[budget$rows$input], function(input) input$law)
  Filter(Negate(is.null), lapply(laws, function(law) if (identical(told_of(law)$call, "observed")) told_of(law)$arguments$data))
}

budget_readings <- function(budget) {
  data <- readings_of(budget)
  shown <- lapply(data, function(x) {
    text <- vapply(utils::head(x, 60), format_given, "")
    paste(c(text, if (length(x) > 60) sprintf("and %s more", count_text(length(x) - 60))), collapse = "; ")
  })
  report_table(list(Quantity = named_quantities(budget$study, names(data)), n = lengths(data), Mean = vapply(data, function(x) format_given(mean(x)), ""),
    s = vapply(data, function(x) format_given(signif(stats::sd(x), 4)), ""), Readings = unlist(shown)), numeric = c("n", "Mean", "s"))
}

budget_table <- function(budget) {
  cells <- budget_cells(budget)
  cells$label <- NULL
  cells$input <- named_quantities(budget$study, budget$rows$input)
  names(cells)[match(c("input", "u"), names(cells))] <- c("Quantity", "Standard uncertainty")
  others <- setdiff(names(cells), c("Quantity", "Standard uncertainty", "df"))
  names(cells)[match(others, names(cells))] <- vapply(others, upper_first, "")
  names(cells)[names(cells) == "df"] <- "\u03bd"
  if (!is.null(cells$Law)) {
    # type and law in one column leave the others their room
    cells$Type <- paste0(cells$Type, ", ", cells$Law)
    cells$Law <- NULL
  }
  htmltools::tagList(report_table(cells, numeric = setdiff(names(cells), c("Quantity", "Unit", "Type", "Remark"))),
    htmltools::tags$p(class = "note", "Contribution: sensitivity coefficient times standard uncertainty. \u03bd: degrees of freedom. Share: of the variance."))
}

budget_correlations <- function(budget) {
  cells <- correlation_term_cells(budget)
  names(cells) <- c("Quantity", "and", "Correlation", "Term of the variance")
  report_table(cells, numeric = names(cells)[3:4])
}

verdict_table <- function(verdict) {
  rows <- verdict$rows
  number <- function(x) decimal_text(x, verdict_places(verdict))
  cells <- list(Figure = upper_firsts(rows$figure), Budget = number(rows$budget), Simulated = number(rows$simulated), error = number(rows$error),
    Difference = number(rows$difference), Verdict = rows$verdict)
  names(cells)[4] <- "\u00b1"
  report_table(cells, numeric = names(cells)[2:5])
}

upper_firsts <- function(words) vapply(words, upper_first, "", USE.NAMES = FALSE)

budget_basis <- function(budget, verdict) {
  asked <- budget$asked
  c(
    sprintf(paste("Propagation of uncertainty by JCGM 100:2008, clause 5, with sensitivity coefficients %s.",
      "The coverage factor is %s. The expanded uncertainty is stated with %s (7.2.6)%s, the value to the same place; nothing was rounded before."),
      if (budget$derivatives$exact) "that are exact derivatives" else "from differences of runs",
      if (is.null(asked$k)) "that of Student's law at the effective degrees of freedom (G.4)" else "given",
      if (asked$digits == 1) "one significant digit" else "two significant digits",
      if (asked$rounding == "up") ", rounded up" else ", rounded to the nearest, ties to the even digit"),
    if (!is.null(verdict)) sprintf("Simulation by JCGM 101:2008, %s, %s, seed %s; tolerance of clause 8: %s.", count_of(run_count(verdict$result), "run"),
      design_words[[verdict$result$provenance$design]], format_given(verdict$result$provenance$seed),
      with_unit(decimal_text(verdict$rows$tolerance[1], verdict_places(verdict)), quantity_unit(budget$study, budget$output))))
}

budget_trace <- function(budget, verdict) {
  tag <- htmltools::tags
  facts <- c(Study = paste("hash", study_hash(budget$study)), Software = do.call(sprintf, c("Ensayo %s, R %s", software_versions())),
    Written = format(Sys.time(), "%Y-%m-%d %H:%M"))
  tag$dl(lapply(names(facts), function(name) htmltools::tagList(tag$dt(name), tag$dd(facts[[name]]))))
}
