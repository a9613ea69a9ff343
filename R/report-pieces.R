# The pieces of the report's page. They read result and study, and compute nothing.

# A table that scrolls sideways on a narrow screen; a long one is folded. `numeric` columns stand to the right.
report_table <- function(columns, numeric = character(), caption = NULL) {
  table <- report_whole_table(columns, numeric, caption)
  rows <- length(columns[[1]])
  if (rows <= longest_unfolded) table
  else htmltools::tags$details(htmltools::tags$summary(sprintf("%s, %s", names(columns)[1], count_of(rows, "row"))), table)
}

longest_unfolded <- 24

report_whole_table <- function(columns, numeric = character(), caption = NULL) {
  tag <- htmltools::tags
  side <- function(name) if (name %in% numeric) "number"
  cell <- function(name, i) {
    value <- columns[[name]][[i]]
    tag$td(class = side(name),
      if (inherits(value, "html") || inherits(value, "shiny.tag")) value else as.character(value))
  }
  rows <- lapply(seq_along(columns[[1]]), function(i) tag$tr(lapply(names(columns), cell, i = i)))
  tag$div(class = "wide", tag$table(
    if (!is.null(caption)) tag$caption(caption),
    tag$thead(tag$tr(lapply(names(columns), function(name) tag$th(class = side(name), scope = "col", name)))),
    tag$tbody(rows)
  ))
}

report_inputs <- function(study) {
  table <- input_table(study)
  rule <- ifelse(table$base_rule == "constant", "", sprintf(" (%s)", table$base_rule))
  base <- vapply(base_values(study), format_value, "")
  law <- ifelse(is.na(table$fixed), table$law, sprintf("fixed at %s, was %s", base, table$law))
  columns <- list(
    Input = named_quantities(study, table$name), ` ` = lapply(study$inputs, law_sparkline),
    Law = ifelse(table$base_rule == "constant", "constant", law), Base = paste0(base, rule),
    Unit = table$unit, Note = table$note
  )
  report_table(Filter(function(column) is.list(column) || any(nzchar(column)), columns), numeric = "Base")
}

# The label, and under it the name that formulas use.
named_quantities <- function(study, names) {
  lapply(names, function(name) {
    label <- quantity_label(study, name)
    if (label == name) htmltools::tags$code(name)
    else htmltools::tags$span(label, htmltools::tags$br(), htmltools::tags$code(name))
  })
}

# A law's density, or a discrete law's masses, as a picture of 110 by 34 pixels, drawn as an SVG path.
law_sparkline <- function(input, width = 110, height = 34) {
  if (!is_law(input$law) || is_linked(input$law) || is_categorical(input$law)) return("")
  curve <- law_plot_data(input$law, points = 61)$curve
  curve <- curve[is.finite(curve$density), ]
  across <- function(value) 1 + (value - min(curve$value)) / max(diff(range(curve$value)), 1e-300) * (width - 2)
  x <- across(curve$value)
  y <- height - 2 - curve$density / max(curve$density) * (height - 5)
  base <- across(input$base)
  floor <- height - 2
  path <- if (is_discrete(input$law)) paste0("M", round(x, 1), ",", floor, "V", round(y, 1), collapse = "")
    else paste0("M", x[1], ",", floor, paste0("L", round(x, 1), ",", round(y, 1), collapse = ""), "L", x[length(x)],
      ",", floor, "Z")
  htmltools::HTML(sprintf(paste0(
    "<svg class=\"law\" width=\"%d\" height=\"%d\" viewBox=\"0 0 %d %d\" role=\"img\" aria-label=\"%s\">",
    "<path d=\"%s\" fill=\"%s\" stroke=\"%s\"/><line x1=\"%.1f\" x2=\"%.1f\" y1=\"2\" y2=\"%d\" stroke=\"%s\" stroke-dasharray=\"3 2\"/></svg>"),
    width, height, width, height, htmltools::htmlEscape(format(input$law), attribute = TRUE), path, palette_ensayo$fill,
    palette_ensayo$line, base, base, floor, palette_ensayo$ink))
}

report_correlations <- function(result) {
  table <- correlation_table(result)
  if (nrow(table) == 0) return(NULL)
  report_table(list(Inputs = paste(table$a, "and", table$b), `Rank correlation asked` = format_number(table$asked),
    achieved = formatC(table$achieved, format = "f", digits = 3)), numeric = c("Rank correlation asked", "achieved"))
}

report_outputs <- function(study) {
  table <- output_table(study)
  columns <- list(Output = named_quantities(study, table$name), Unit = table$unit,
    Formula = lapply(table$formula, htmltools::tags$code), Note = table$note)
  report_table(Filter(function(column) is.list(column) || any(nzchar(column)), columns))
}

# Parts that have no piece of their own, as their tables.
report_other_parts <- function(study) {
  others <- study_parts()[setdiff(names(study_parts()), c("inputs", "correlations", "outputs", "specs"))]
  lapply(Filter(function(part) !is.null(part$table), unname(others)), function(part) {
    table <- part$table(study)
    numeric <- names(table)[vapply(table, is.numeric, TRUE)]
    if (nrow(table)) report_section(part$title, report_table(lapply(unclass_table(table), as.character), numeric))
  })
}

# `vector`: FALSE on a page of many outputs, which vectors would make twice as large.
report_output <- function(result, name, asked, vector = TRUE) {
  label <- quantity_label(result$study, name)
  figures <- drawn_figures("output", result, name, asked)
  htmltools::tagAppendAttributes(report_section(label, Map(function(figure, kind) {
    htmltools::tagAppendAttributes(report_figure(figure, vector = vector), `data-live` = kind, `data-of` = name)
  }, figures, names(figures))), `data-output` = name)
}

# Inches: a figure with a row for each of many things has room for their names.
figure_height <- function(figure) {
  rows <- max(0L, vapply(as.list(figure$data), function(column) if (is.factor(column)) nlevels(column) else 0L, 0L))
  min(max(5.2, 1.9 + 0.23 * rows), 14)
}

# A figure inside the page: vectors where this R can draw them, to a hundredth of a point, else pixels.
report_figure <- function(figure, width = 9, height = figure_height(figure), vector = TRUE) {
  alt <- gsub("\n", " ", figure$labels$title)
  vector <- vector && isTRUE(capabilities("cairo"))
  file <- tempfile(fileext = if (vector) ".svg" else ".png")
  on.exit(unlink(file))
  if (vector) grDevices::svg(file, width, height) else grDevices::png(file, width, height, units = "in", res = 110)
  tryCatch(print(figure), finally = grDevices::dev.off())
  bytes <- readBin(file, "raw", file.size(file))
  if (vector) bytes <- charToRaw(shortened_vectors(rawToChar(bytes)))
  source <- paste0("data:image/", if (vector) "svg+xml" else "png", ";base64,", gsub("\n", "", jsonlite::base64_enc(bytes)))
  htmltools::tags$figure(htmltools::tags$img(src = source, alt = alt))
}

# Places to a hundredth of a point; what is stretched stays as it is.
shortened_vectors <- function(text) {
  lines <- strsplit(text, "\n", fixed = TRUE)[[1]]
  plain <- !grepl("transform=|<image|base64", lines)
  lines[plain] <- gsub("([0-9][.][0-9]{2})[0-9]+", "\\1", lines[plain])
  paste(lines, collapse = "\n")
}

# A preview, or a part of the runs, says so before anything else; so does a figure that is not as exact as was asked.
partial_sentences <- function(result) {
  until <- result$provenance$until
  c(partial_words(result), if (!is.null(until) && !all(until$met)) trimws(until_lines(until)))
}

report_partial <- function(result) {
  words <- partial_sentences(result)
  if (length(words)) htmltools::tags$p(class = "partial", paste(words, collapse = " "))
}

report_failures <- function(result) {
  counts <- failure_counts(result)
  table <- report_table(list(Output = counts$output, Reason = counts$reason, Runs = format(counts$runs, big.mark = " ")),
    numeric = "Runs")
  regions <- trimws(region_lines(result))
  htmltools::tagList(table, if (length(regions)) htmltools::tags$p(paste0("Where: ", paste(regions, collapse = "; "), ".")))
}

again_facts <- function(result) {
  p <- result$provenance
  c(
    Runs = count_of(p$nsim, "run"), Design = design_words[[p$design]], Seed = format_given(p$seed),
    Study = paste("hash", p$hash), Software = sprintf("Ensayo %s, R %s, %s, %s", p$ensayo, p$r, p$platform, p$maths),
    Started = p$started, Took = sprintf("%.1f s", p$seconds)
  )
}

report_again <- function(result) {
  tag <- htmltools::tags
  facts <- again_facts(result)
  lines <- tryCatch(result_study_lines(result), ensayo_error_file = function(e) NULL)
  htmltools::tagList(
    tag$dl(lapply(names(facts), function(name) htmltools::tagList(tag$dt(name), tag$dd(facts[[name]])))),
    if (is.null(lines)) tag$p("The study's formulas use functions of the analyst's own: it is kept as an R value in the result folder.")
    else htmltools::tagList(
      tag$p("Save the text below as ", tag$code("study.yml"), " and run ", tag$code("ensayo run study.yml"),
        ": on the same",
        " software every number comes out the same."),
      tag$details(tag$summary("The study as run"), tag$pre(paste(lines, collapse = "\n")))
    )
  )
}
