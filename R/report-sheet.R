# The report as sheets of a workbook: the same readings as on the page, as numbers with which people calculate on.

write_workbook_report <- function(result, file, asked, workbook = NULL) {
  ending <- function(path) tolower(sub(".*[.]", "", path))
  if (is.null(workbook) && ending(file) == "xlsm") stop_report_path(file, ".html, .xlsx or .ods", "A workbook with macros can be copied alone.")
  changes <- character()
  original <- NULL
  if (!is.null(workbook)) {
    check_file(workbook)
    if (ending(workbook) != ending(file)) stop_report_path(file, sprintf(".%s, as the workbook does", ending(workbook)))
    if (file.exists(file) && normalizePath(file) == normalizePath(workbook)) {
      stop_ensayo("argument", "A report must have another path than the workbook.", sprintf("You gave %s for both.", shown_value(file)),
        "The workbook stays as it is; results go into a copy.", argument = "file")
    }
    original <- read_workbook(workbook)
    changes <- workbook_changes(result$study, original)
    if (length(changes)) warn_ensayo(paste(changes, collapse = " "), "file")
  }
  folder <- tempfile("figures-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  write_workbook_file(report_sheets(result, asked, changes, folder), file, original)
}

report_sheets <- function(result, asked, changes, folder) {
  study <- result$study
  leading <- leading_outputs(result)
  shown <- shown_outputs(result, leading)
  readings <- readings_for("report", result)
  blocks <- unlist(lapply(names(readings), function(id) reading_blocks(id, readings[[id]], result, asked, shown)), recursive = FALSE)
  results <- c(
    list(text_block(study$title, "title")), if (!is.null(study$question)) list(text_block(study$question, "note")),
    list(text_block(c(changes, partial_sentences(result)), "note"), text_block(if (length(leading)) short_sentences(result, leading))),
    blocks, if (nrow(result$failures)) titled_block("Failed runs", plain_columns(unclass_table(failure_counts(result)), result)),
    list(text_block("How it was made", "title"), text_block(sprintf("%s: %s", names(again_facts(result)), unlist(again_facts(result)))))
  )
  inputs <- c(list(text_block("What is known of the inputs", "title")), input_blocks(result))
  list(sheet_of_blocks("Ensayo results", results), list(name = "Ensayo figures", widths = numeric(), cells = text_block(paste("Figures:", study$title), "title")(1),
    pictures = report_pictures(result, asked, readings, shown, folder)), sheet_of_blocks("Ensayo inputs", inputs))
}

# Figures in two columns.
report_pictures <- function(result, asked, readings, shown, folder) {
  figures <- c(unlist(lapply(shown, function(name) drawn_figures("output", result, name, asked)), recursive = FALSE),
    unlist(lapply(names(readings), function(id) {
      if (id == "series") unlist(lapply(utils::head(series_names(result$study), figures_at_most), function(name) drawn_figures("series", result, name, asked)), recursive = FALSE)
      else c(drawn_figures(id, result), if (!is.null(readings[[id]]$figure)) list(readings[[id]]$figure(result, asked)))
    }), recursive = FALSE))
  top <- c(0.5, 0.5)
  lapply(seq_along(figures), function(i) {
    figure <- figures[[i]]
    file <- file.path(folder, sprintf("%d.png", i))
    height <- figure_height(figure)
    suppressMessages(ggplot2::ggsave(file, figure, width = 9, height = height, dpi = 110))
    side <- 2 - i %% 2
    at <- top[side]
    top[side] <<- at + 0.8 * height + 0.2
    list(file = file, words = gsub("\n", " ", figure$labels$title), left = c(0.15, 7.5)[side], top = at, width = 7.2, height = 0.8 * height)
  })
}

# Blocks of cells: functions of the row in which they begin -------------------------------------------------------------

sheet_of_blocks <- function(name, blocks) {
  row <- 1
  cells <- list()
  for (block in blocks) {
    made <- block(row)
    if (nrow(made) == 0) next
    cells <- c(cells, list(made))
    row <- max(made$row) + 2
  }
  cells <- do.call(rbind, cells)
  # columns are as wide as their tables need
  size <- nchar(ifelse(is.na(cells$text), "", cells$text), "width")
  size[is.na(cells$text)] <- 10
  tabled <- !cells$style %in% c("title", "note") & !cells$alone
  columns <- seq_len(max(cells$column))
  widths <- vapply(columns, function(column) min(max(8, size[cells$column == column & tabled]), 48), 0)
  list(name = name, widths = widths, cells = cells, pictures = list())
}

cell_block <- function(row, column, text, number, style, alone = FALSE) {
  n <- length(row)
  data.frame(row = as.integer(row), column = rep_len(as.integer(column), n), text = text, number = rep_len(number, n), style = rep_len(style, n), alone = rep_len(alone, n))
}

# Lines of text, one below the other.
text_block <- function(lines, style = "plain") {
  force(style)
  function(row) cell_block(row + seq_along(lines) - 1, 1, as.character(lines), NA_real_, style, TRUE)
}

# A table: columns as word_cells() and the like make them, by their headings.
table_block <- function(columns) {
  force(columns)
  function(row) {
    right <- vapply(columns, function(column) !all(column$style == "plain"), NA)
    # words that follow a number keep away from it
    away <- !right & c(FALSE, right[-length(right)])
    made <- lapply(seq_along(columns), function(j) {
      column <- columns[[j]]
      rbind(cell_block(row, j, names(columns)[j], NA_real_, paste0("heading", if (right[j]) "-right" else if (away[j]) "-away")),
        cell_block(row + seq_along(column$text), j, column$text, column$number, if (away[j]) "away" else column$style))
    })
    cells <- do.call(rbind, made)
    cells <- cells[is.na(cells$text) | nzchar(cells$text), ]
    cells[order(cells$row, cells$column), ]
  }
}

# A heading, a table and what is said of it, without gaps; nothing where the table has no rows.
titled_block <- function(title, columns, note = NULL) {
  columns <- Filter(function(column) length(column$text) && any(!is.na(column$number) | nzchar(column$text)), columns)
  if (length(columns) == 0) return(NULL)
  list(function(row) {
    rows <- length(columns[[1]]$text)
    head <- text_block(title, "title")(row)
    rbind(head, table_block(columns)(row + 1), text_block(note, "note")(row + 2 + rows))
  })
}

# Cells of a column -----------------------------------------------------------------------------------------------------

word_cells <- function(x, style = "plain") {
  list(text = unname(ifelse(is.na(x), "", as.character(x))), number = rep(NA_real_, length(x)), style = rep(style, length(x)))
}

# Numbers that look as `decimals` says, rounded where it is below 0; NA for four digits or so.
number_cells <- function(x, decimals = NA) {
  x <- as.double(x)
  decimals <- rep_len(as.double(decimals), length(x))
  unknown <- is.na(decimals)
  own <- signif(x[unknown & is.finite(x)], 4)
  # no more than four digits of the largest
  decimals[unknown] <- min(max(0, vapply(own, decimal_places, 0)), max(0, 3 - floor(log10(max(abs(own), 1e-300)))))
  rounded <- is.finite(x) & decimals < 0
  if (any(rounded)) x[rounded] <- round(x[rounded], decimals[rounded])
  decimals <- pmax(decimals, 0) + 0  # no -0
  size <- abs(x)
  power <- is.finite(x) & size > 0 & (size >= 1e9 | decimals > 9)
  style <- ifelse(power, "power-3", sprintf("%s-%.0f", ifelse(is.finite(x) & size >= 1e4, "grouped", "number"), pmin(decimals, 9)))
  not_there(x, style)
}

# Half of a simulation error's interval: two digits, as on the page.
error_cells <- function(error, result) {
  half <- half_interval(error, result)
  number_cells(half, decimals_for(half, 2))
}

# How many decimals a rounded number needs.
decimal_places <- function(value) {
  for (places in 0:12) if (abs(round(value, places) - value) <= 1e-9 * abs(value)) return(places)
  12
}

# What is not finite stands there as a text.
not_there <- function(x, style) {
  finite <- is.finite(x)
  list(text = as.character(ifelse(finite, NA_character_, ifelse(is.na(x), "", format_number(x)))), number = as.double(ifelse(finite, x, NA_real_)), style = as.character(style))
}

# Shares as per cents; what is not quite none or all does not show as that.
share_cells <- function(x, decimals = 1) {
  x <- as.double(x)
  least <- 10^-decimals
  kind <- ifelse(x > 0 & 100 * x < least / 2, "below", ifelse(x < 1 & 100 * x > 100 - least / 2, "above", "percent"))
  not_there(x, sprintf("%s-%.0f", ifelse(is.na(kind), "percent", kind), decimals))
}

# Values of quantities of some kinds.
value_cells <- function(x, kind = "number", decimals = NA) {
  if (is.character(x)) return(word_cells(x))
  x <- as.double(x)
  kind <- rep_len(kind, length(x))
  decimals <- rep_len(as.double(decimals), length(x))
  cells <- number_cells(x, ifelse(kind %in% c("whole", "yes/no") & is.finite(x) & x == round(x), pmin(decimals, 0), decimals))
  dates <- kind == "date"
  dated <- not_there(x, rep("date", length(x)))
  for (part in names(cells)) cells[[part]][dates] <- dated[[part]][dates]
  said <- kind == "yes/no" & x %in% c(0, 1)
  cells$text[said] <- ifelse(x[said] == 1, "yes", "no")
  cells$number[said] <- NA
  cells
}
