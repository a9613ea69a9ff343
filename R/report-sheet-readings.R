# What of each reading stands on the sheet of results: the figures of its table, under headings that a reader knows.

reading_blocks <- function(id, reading, result, asked, shown) {
  own <- sheets_own[[id]]
  if (!is.null(own)) return(own(result, asked, shown, reading_title(reading, result, asked)))
  table <- unclass_table(reading$table(result, asked))
  note <- if (!is.null(reading$note)) reading$note(result, asked) else c(sheet_note(id, result), if (is.character(table$sense) && length(table$sense)) sense_words(table$sense[1]))
  titled_block(reading_title(reading, result, asked), if (is.null(reading$shown)) plain_columns(table, result) else columns_shown(table, reading$shown, result), note)
}

# What the page says under tables that have pieces of their own there.
sheet_note <- function(id, result) {
  note <- switch(id, events = event_note(result), gains = gain_note, schedule = schedule_note(result), cash = cash_note(result))
  gsub("`", "", note, fixed = TRUE)
}

sheets_own <- list(
  statistics = function(result, asked, shown, title) {
    table <- statistics_table(result, asked$outputs, asked$percentiles)
    decimals <- row_decimals(table)
    value <- function(column) value_cells(table[[column]], table$kind, decimals)
    places <- workbook_places(result$study)
    columns <- c(list(Output = label_cells(result, table$output), Cell = word_cells(places[table$output]), Unit = word_cells(table$unit), `Base case` = value("base"),
      `sits at` = word_cells(ifelse(is.na(table$base_at), "", format_percentile(table$base_at)), "right"), Mean = value("mean")),
    stats::setNames(list(error_cells(table$mean_error, result)), "\u00b1"), list(`Std. dev.` = number_cells(table$sd, decimals), Lowest = value("min")),
    lapply(stats::setNames(nm = percentile_names(asked$percentiles)), value), list(Highest = value("max")),
    if (any(table$failed > 0)) list(`Failed runs` = number_cells(table$failed, 0)))
    titled_block(title, columns, statistics_notes(result, table))
  },
  contingency = function(result, asked, shown, title) {
    table <- contingency_table(result, asked$planning, asked$outputs)
    decimals <- vapply(table$output, output_decimals, 0, result = result, USE.NAMES = FALSE)
    titled_block(title, list(Output = label_cells(result, table$output), Unit = word_cells(ifelse(table$kind == "date", "days", table$unit)),
      `Base case` = value_cells(table$base, table$kind, decimals), Percentile = value_cells(table$value, table$kind, decimals),
      `Less base case` = number_cells(table$contingency, decimals), `Of base case` = share_cells(table$percent_of_base / 100)),
    paste0(sense_words(result$study$readings$sense, result$study$readings$planning), "."))
  },
  parts = function(result, asked, shown, title) {
    unlist(lapply(totals_of(result), function(name) {
      table <- parts_shown(result, name)
      if (is.null(table)) return(NULL)
      decimals <- output_decimals(result, name)
      columns <- list(Part = word_cells(table$label), Unit = word_cells(table$unit), Mean = number_cells(table$mean, decimals),
        `Share of mean` = share_cells(table$share_of_mean), `Share of variance` = share_cells(table$share_of_variance),
        percentile = number_cells(table$value, decimals))
      names(columns)[6] <- percentile_names(table$percentile[1])
      titled_block(sprintf("Parts of %s", quantity_label(result$study, name)), columns, parts_note(table))
    }), recursive = FALSE)
  },
  costs = function(result, asked, shown, title) {
    tree <- result$study$costs[[1]]
    percentiles <- sort(unique(c(asked$marks, asked$planning)))
    table <- cost_table_of(result, tree, percentiles, asked$planning)
    decimals <- output_decimals(result, tree$name)
    columns <- c(list(Code = word_cells(table$code), Item = word_cells(cost_item_labels(table, tree)), Unit = word_cells(table$unit), `Base case` = number_cells(table$base, decimals),
      Mean = number_cells(table$mean, decimals)), lapply(unclass_table(table)[percentile_names(percentiles)], number_cells, decimals = decimals),
    list(sum = number_cells(table$sum_of_parts, decimals), Allotment = number_cells(table$allotment, decimals), error = error_cells(table$error, result)))
    names(columns)[match(c("sum", "error"), names(columns))] <- c(sprintf("Sum of %s under it", percentile_names(asked$planning)), "\u00b1")
    titled_block(title, columns, cost_note(result, tree))
  },
  series = function(result, asked, shown, title) {
    ends <- lapply(utils::head(series_names(result$study), figures_at_most), series_brief, result = result, marks = asked$marks)
    names <- vapply(ends, function(one) one$rows$output[1], "")
    counts <- vapply(ends, function(one) nrow(one$rows), 0L)
    rows <- do.call(rbind, lapply(ends, function(one) as.data.frame(unclass_table(one$rows))))
    decimals <- rep(vapply(ends, `[[`, 0, "decimals"), counts)
    columns <- c(list(Series = label_cells(result, rep(names, counts)), Cells = word_cells(workbook_places(result$study)[rep(names, counts)]), Unit = word_cells(rows$unit),
      Of = word_cells(unlist(lapply(ends, `[[`, "what")))),
    lapply(rows[c("base", "mean", percentile_names(asked$marks))], value_cells, kind = rows$kind, decimals = decimals))
    names(columns)[5:6] <- c("Base case", "Mean")
    titled_block(title, columns, paste0(series_note, " ", sense_words(asked$sense), "."))
  },
  pass_rates = function(result, asked, shown, title) {
    rates <- pass_rate(result)
    titled_block(title, condition_columns(rates, "spec", "pass_rate", "Pass rate"), c(trimws(joint_lines(rates)), share_note(rates)))
  },
  chances = function(result, asked, shown, title) {
    table <- chances_of(result, asked$chances)
    titled_block(title, condition_columns(table, "condition", "chance", "Chance"), share_note(table))
  },
  drivers = function(result, asked, shown, title) {
    table <- driver_rows(result, shown)
    titled_block(title, list(Output = label_cells(result, table$output), Input = label_cells(result, table$input),
      Effect = word_cells(ifelse(table$beyond_noise, table$sign, "not told from noise")), Remark = word_cells(table$remark),
      `Share of variance` = share_cells(table$share), from = share_cells(table$low), to = share_cells(table$high)), c(driver_note(result, shown), "From and to: the simulation error (95 %)."))
  }
)

label_cells <- function(result, names) word_cells(vapply(names, function(name) quantity_label(result$study, name), ""))

condition_columns <- function(table, first, share, title) {
  columns <- list(word_cells(table[[first]]), word_cells(if (first == "spec") ifelse(table$condition == table$spec, "", table$condition) else rep("", length(table$chance))),
    share_cells(table[[share]]), share_cells(table$low), share_cells(table$high))
  names(columns) <- c(if (first == "spec") "Spec" else "Condition", "Text", title, "from", "to")
  if (any(table$failed > 0)) columns <- c(columns, list(`Of good runs` = share_cells(table[[paste0(share, "_good")]]), `Failed runs` = number_cells(table$failed, 0)))
  columns
}

# Columns as a reading's record says how they are shown.
columns_shown <- function(table, shown, result) {
  decimals <- if (is.null(table$output)) NA else vapply(table$output, output_decimals, 0, result = result, USE.NAMES = FALSE)
  kind <- if (is.null(table$output)) "number" else vapply(table$output, function(name) output_kind_of(result, name), "", USE.NAMES = FALSE)
  columns <- Map(function(column, how) {
    switch(how, text = word_cells(column), number = number_cells(column), count = number_cells(column, 0), share = , known = share_cells(column),
      value = value_cells(column, kind, decimals))
  }, table[names(shown)], shown)
  stats::setNames(columns, upper_first(names(shown)))
}

# Columns of tables whose readings have no list of them, by what they hold; those that help programs alone are left out.
plain_columns <- function(table, result) {
  table <- table[!names(table) %in% c("sense", "findings", "kind", "measure", "row", "leaf", "level", "rank", "beyond_noise", "quantity", "percentile")]
  if (length(table) == 0 || length(table[[1]]) == 0) return(list())
  decimals <- row_decimals(table)
  in_shares <- c("share", "chance", "ever", "pass_rate", "happens", "probability", "critical", "float_used", "outside", "share_of_mean", "share_of_variance",
    if (any(c("chance", "pass_rate") %in% names(table))) c("low", "high", "error") else if (all(c("happens", "rate") %in% names(table))) "error")
  columns <- Map(function(column, name) {
    if (inherits(column, "Date")) return(value_cells(as.double(column), "date"))
    if (is.list(column)) return(word_cells(rep("", length(column))))
    if (name %in% c("output", "input")) return(label_cells(result, as.character(column)))
    if (!is.numeric(column)) return(word_cells(column))
    if (name %in% in_shares) return(share_cells(if (name == "error") half_interval(column, result) else column))
    whole <- all(column == round(column) | !is.finite(column))
    if (grepl("(^|_)error$", name)) return(error_cells(column, result))
    number_cells(column, if (whole) 0 else if (holds_values(name) || name %in% amounts) decimals else NA)
  }, table, names(table))
  heads <- sub("^(.+) error$", "\u00b1 of \\1", sub("^error$", "\u00b1", gsub("_", " ", names(table))))
  stats::setNames(columns, upper_first(heads))
}

input_blocks <- function(result) {
  study <- result$study
  table <- input_table(study)
  base <- base_values(study)[table$name]
  places <- workbook_places(study)
  law <- ifelse(!is.na(table$fixed), sprintf("fixed, was %s", table$law), ifelse(table$base_rule == "constant", "constant", table$law))
  # each in its own digits
  cells <- lapply(base, value_cells)
  cells <- lapply(stats::setNames(nm = c("text", "number", "style")), function(part) unlist(lapply(unname(cells), `[[`, part)))
  correlations <- correlation_table(result)
  others <- study_parts()[setdiff(names(study_parts()), c("inputs", "correlations", "outputs", "specs"))]
  c(
    titled_block("Inputs", list(Input = label_cells(result, table$name), Name = word_cells(table$name), Cell = word_cells(places[table$name]), Unit = word_cells(table$unit), Law = word_cells(law),
      Base = cells, `Base is` = word_cells(table$base_rule), Note = word_cells(table$note))),
    titled_block("Rank correlations", list(Input = word_cells(correlations$a), With = word_cells(correlations$b), Asked = number_cells(correlations$asked),
      Achieved = number_cells(correlations$achieved, rep(3, nrow(correlations))))),
    unlist(unname(lapply(Filter(function(part) !is.null(part$table), others), function(part) titled_block(part$title, plain_columns(unclass_table(part$table(study)), result)))),
      recursive = FALSE)
  )
}
