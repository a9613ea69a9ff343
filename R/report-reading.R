# Readings in the report: each in its own way, or as its table. They compute nothing.

# `leading`: the outputs that a reader asks about first; `shown`: those with figures of their own.
report_readings <- function(result, asked, leading, shown) {
  readings <- readings_for("report", result)
  lapply(names(readings), function(id) {
    own <- reports_own[[id]]
    content <- if (is.null(own)) report_plain(readings[[id]], result, asked) else own(result, asked, leading, shown)
    if (!is.null(content)) report_section(reading_title(readings[[id]], result, asked), content)
  })
}

report_plain <- function(reading, result, asked) {
  table <- unclass_table(reading$table(result, asked))
  if (nrow(table) == 0) return(NULL)
  cells <- drop_empty(shown_columns(table, reading$shown, result))
  htmltools::tagList(if (!is.null(reading$figure)) report_figure(reading$figure(result, asked)),
    report_table(cells, numeric = names(cells)[reading$shown[names(cells)] != "text"]),
    if (!is.null(reading$note)) htmltools::tags$p(class = "note", reading$note(result, asked)))
}

reports_own <- list(
  statistics = function(result, asked, leading, shown) {
    htmltools::tagList(report_statistics(result, asked), if (length(asked$outputs) > length(shown)) {
      htmltools::tags$p(class = "note",
        sprintf("Figures are shown for %d of %d outputs.", length(shown), length(asked$outputs)))
    })
  },
  contingency = function(result, asked, leading, shown) {
    report_contingency(result, asked)
  },
  parts = function(result, asked, leading, shown) report_parts(result),
  costs = function(result, asked, leading, shown) {
    tree <- result$study$costs[[1]]
    report_cells(cost_cells_shown(result, tree, sort(unique(c(asked$marks, asked$planning))), asked$planning), cost_note(result, tree),
      drawn_figures("costs", result))
  },
  events = function(result, asked, leading, shown) {
    report_cells(event_cells(result), event_note(result), drawn_figures("events", result))
  },
  gains = function(result, asked, leading, shown) {
    report_cells(gain_cells(reading_gains$table(result, asked), result, total_at_risk(result)), gain_note,
      drawn_figures("gains", result))
  },
  schedule = function(result, asked, leading, shown) {
    report_cells(schedule_cells(result), schedule_note(result), drawn_figures("schedule", result))
  },
  cash = function(result, asked, leading, shown) {
    report_cells(cash_cells(reading_cash$table(result, asked), result), cash_note(result), drawn_figures("cash", result))
  },
  series = function(result, asked, leading, shown) {
    lapply(utils::head(series_names(result$study), figures_at_most), function(name) report_series(result, name, asked))
  },
  pass_rates = function(result, asked, leading, shown) report_specs(result),
  chances = function(result, asked, leading, shown) {
    table <- chances_of(result, asked$chances)
    if (nrow(table)) report_shares(table, "condition", "chance", "Chance")
  },
  drivers = function(result, asked, leading, shown) {
    htmltools::tagList(lapply(utils::head(leading, 3), function(name) {
      htmltools::tags$p(gsub(" %", "\u00a0%", paste(output_words(result, name), collapse = " "), fixed = TRUE))
    }), report_drivers(result, shown))
  }
)

# Cells that the terminal shows, too.
report_cells <- function(cells, note, figures = NULL) {
  if (!is.null(cells$item)) cells$item <- gsub("  ", "\u2003", cells$item)
  htmltools::tagList(lapply(figures, report_figure), report_table(cells, numeric = setdiff(names(cells), text_cells)),
    if (length(note)) htmltools::tags$p(class = "note", note))
}

report_statistics <- function(result, asked) {
  table <- statistics_table(result, asked$outputs, asked$percentiles)
  marks <- percentile_names(asked$percentiles)
  decimals <- row_decimals(table)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  columns <- c(
    list(Output = named_quantities(result$study, table$output), Unit = table$unit,
      `Base case` = value("base"), `sits at` = format_percentile(table$base_at), Mean = value("mean"),
      "\u00b1" = format_number(half_interval(table$mean_error, result), 2), `Std. dev.` = format_decimals(table$sd, decimals)),
    lapply(stats::setNames(nm = marks), value),
    list(`Failed runs` = if (any(table$failed > 0)) format(table$failed, big.mark = " "))
  )
  columns <- Filter(Negate(is.null), columns)
  htmltools::tagList(
    report_table(columns, numeric = setdiff(names(columns), c("Output", "Unit"))),
    htmltools::tags$p(class = "note", paste(statistics_notes(result, table), collapse = " "))
  )
}

statistics_notes <- function(result, table) {
  c(sprintf("%s. \u00b1 is the simulation error of the mean (95 %%), for lack of runs alone; it is no range of outcomes.",
    sense_words(result$study$readings$sense)), mean_notes(result, table))
}

report_series <- function(result, name, asked) {
  columns <- series_cells(result, name, asked$marks)
  names(columns)[1:3] <- c(" ", "Base case", "Mean")
  htmltools::tagList(htmltools::tags$h3(quantity_label(result$study, name)),
    lapply(drawn_figures("series", result, name, asked), report_figure),
    report_table(columns, numeric = names(columns)[-1]),
    htmltools::tags$p(class = "note", paste0(sense_words(result$study$readings$sense), ". ", series_note)))
}

series_note <- "The curve of a percentile is no run: runs come down lower, and go up higher, than it does."

report_contingency <- function(result, asked) {
  table <- contingency_table(result, asked$planning, asked$outputs)
  decimals <- vapply(table$output, output_decimals, 0, result = result, USE.NAMES = FALSE)
  value <- function(column) unlist(Map(format_value, table[[column]], table$kind, decimals))
  columns <- list(Output = named_quantities(result$study, table$output), Unit = table$unit, `Base case` = value("base"),
    Percentile = value("value"), `Less base case` = paste0(format_decimals(table$contingency, decimals),
      ifelse(table$kind == "date", " days", "")),
    `Of base case` = ifelse(is.na(table$percent_of_base), "", paste(format_number(table$percent_of_base, 3), "%")))
  htmltools::tagList(
    report_table(columns, numeric = c("Base case", "Percentile", "Less base case", "Of base case")),
    htmltools::tags$p(class = "note",
      paste0(sense_words(result$study$readings$sense, result$study$readings$planning), "."))
  )
}

# A table for each output that is a plain sum of others.
report_parts <- function(result) {
  lapply(totals_of(result), function(name) {
    table <- parts_shown(result, name)
    if (is.null(table)) return(NULL)
    p <- sprintf("P%s", format(table$percentile[1]))
    decimals <- output_decimals(result, name)
    columns <- list(table$label, format_decimals(table$mean, decimals), format_share(table$share_of_mean),
      format_share(table$share_of_variance), format_decimals(table$value, decimals))
    names(columns) <- c("Part", "Mean", "Share of mean", "Share of variance", p)
    htmltools::tagList(report_table(columns, numeric = names(columns)[-1],
      caption = with_unit(quantity_label(result$study, name),
      unit_in_brackets(table$unit[1]))), htmltools::tags$p(class = "note", parts_note(table)))
  })
}

# Parts of a total with labels that are moved in by their level, a long tree by what stands right under the total; NULL for none.
parts_shown <- function(result, name) {
  table <- tryCatch(parts_of(result, !!name), ensayo_error_argument = function(e) NULL)
  if (is.null(table)) return(NULL)
  if (nrow(table) > 25) table <- table[table$level <= 1, ]
  labels <- ifelse(table$row %in% c("total", "part"), vapply(table$name, function(name) quantity_label(result$study, name), ""), table$name)
  table$label <- paste0(strrep("\u2003", table$level), labels)
  table
}

parts_note <- function(table) {
  sprintf("Means add up, percentiles do not: parts are seldom all high in one run. %s.", sense_words(table$sense[1], table$percentile[1]))
}

# Rates, what they would be if specs failed independently, and which inputs decide.
report_specs <- function(result) {
  rates <- pass_rate(result)
  joint <- joint_lines(rates)
  htmltools::tagList(
    report_shares(rates, "spec", "pass_rate", "Pass rate"), if (!is.null(joint)) htmltools::tags$p(trimws(joint)),
    lapply(drawn_figures("pass_rates", result), report_figure)
  )
}

report_shares <- function(table, first, share, title) {
  columns <- list(table[[first]],
    if (first == "spec") ifelse(table$condition == table$spec, "", table$condition) else "",
    format_share(table[[share]]), sprintf("%s to %s", format_share(table$low), format_share(table$high)),
    format_share(table[[paste0(share, "_good")]]), format(table$failed, big.mark = " ", trim = TRUE))
  names(columns) <- c(if (first == "spec") "Spec" else "Condition", "Text", title, "Simulation error (95 %)",
    "Of good runs", "Failed runs")
  if (all(table$failed == 0)) columns[c("Of good runs", "Failed runs")] <- NULL
  htmltools::tagList(
    report_table(drop_empty(columns), numeric = c(title, "Of good runs", "Failed runs")),
    htmltools::tags$p(class = "note", share_note(table))
  )
}

share_note <- function(table) {
  paste0("The simulation error is for lack of runs alone: more runs narrow it.",
    if (any(table$failed > 0)) " A failed run has not met a condition; the share of good runs leaves it out.")
}

# Drivers of some outputs that have an effect on them.
driver_rows <- function(result, shown) {
  table <- drivers(result)
  table[table$output %in% shown & enters_output(table) & is.finite(table$value), ]
}

driver_note <- function(result, shown) {
  sprintf("Shares are of straight effects; they hold when inputs are correlated, and what they leave of 100 %% is %s.",
    rest_words(result, shown, "curves", "what inputs do together"))
}

report_drivers <- function(result, shown) {
  table <- driver_rows(result, shown)
  if (nrow(table) == 0) return(htmltools::tags$p("No input makes an output vary, or the runs are too few to tell."))
  htmltools::tagList(
    report_table(list(
      Output = ifelse(duplicated(table$output), "",
        vapply(table$output, function(name) quantity_label(result$study, name), "")),
      Input = vapply(table$input, function(name) quantity_label(result$study, name), ""),
      `Share of variance` = format_share(table$share),
      `Simulation error (95 %)` = ifelse(is.na(table$low), "", sprintf("%s to %s", format_share(table$low),
        format_share(table$high))),
      Effect = ifelse(table$beyond_noise, table$sign, "not told from noise"), Remark = table$remark
    ) |> drop_empty(), numeric = "Share of variance"),
    htmltools::tags$p(class = "note", driver_note(result, shown))
  )
}


# Results side by side: statistics, differences in words, and figures of the outputs that a reader asks about first.
report_beside <- function(result, beside, own, shown) {
  compared <- rlang::inject(compare_results(!!!c(stats::setNames(list(result), own), beside)))
  names <- utils::head(intersect(shown, compared$about$output), 3)
  marks <- reading_marks(result$study$readings)
  cells <- comparison_cells(compared, summary(compared, percentiles = marks), marks)
  htmltools::tagList(lapply(names, function(name) report_figure(plot_comparison(compared, !!name, "cumulative"))),
    report_table(cells, numeric = setdiff(names(cells), c("output", "unit", "alternative"))),
    htmltools::tags$p(class = "note", paste0(sense_words(result$study$readings$sense), ".")),
    htmltools::tags$ul(lapply(comparison_differences(compared), function(lines) htmltools::tags$li(paste(trimws(lines), collapse = "; ")))))
}
