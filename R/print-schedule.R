# Schedules as readers see them: the cells of tables on the terminal and in the report.

schedule_cells <- function(result, table = schedule_rows(result, schedule_percentiles(result)), most = Inf) {
  plan <- percentile_names(result$study$readings$planning)
  dated <- inherits(table$base_finish, "Date")
  day <- function(x) ifelse(is.na(x), "", if (dated) format(x) else format_number(x))
  tasks <- table$row %in% c("task", "milestone")
  if (sum(tasks) > most) {
    # those that drive the finish, in their order
    table <- table[sort(c(order(-ifelse(tasks, table$critical, -1))[seq_len(most)], which(table$row == "project"))), ]
  }
  drop_empty(list(task = ifelse(table$row == "project", "all", table$name), label = table$label, group = table$group,
    `base start` = day(table$base_start), `base finish` = day(table$base_finish),
    `base at` = ifelse(is.na(table$base_at), "", paste0("P", format_decimals(table$base_at, 0))),
    `start P50` = day(table$start_P50), `finish P10` = day(table$finish_P10), `finish P50` = day(table$finish_P50),
    `finish plan` = day(table[[paste0("finish_", plan)]]), cost = if (has_cash(result)) ifelse(is.na(table$cost), "", format_decimals(table$cost, output_decimals(result, "project_cost"))),
    float = ifelse(is.na(table$float), "", format_decimals(table$float, 1)),
    critical = ifelse(is.na(table$critical), "", format_share(table$critical, 0)))) |>
    renamed_cells(c(`finish plan` = paste("finish", plan)))
}

schedule_note <- function(result) {
  paste(c(if (has_cash(result)) "Cost: mean.", "Float: mean, in days of work. Critical: the share of runs in which a task is on a chain that sets the finish.",
    if (length(result$study$tasks) > 1) "Each P50 is its own: where paths meet, the finish is later than any one of them says."), collapse = " ")
}

schedule_gain_cells <- function(table, result) {
  days <- function(x) format_decimals(x, decimals_of(0, stats::median(table$error[table$error > 0])))
  drop_empty(list(task = table$name, label = table$label, what = unname(gain_words[table$kind]), critical = format_share(table$critical, 0),
    `mean, days` = days(table$mean_gain), gain = days(table$gain), error = format_number(half_interval(table$error, result), 2),
    remark = ifelse(table$beyond_noise, "", ifelse(table$gain == 0, "no difference at this percentile", "not told from noise")))) |>
    renamed_cells(c(gain = sprintf("P%s, days", format(table$percentile[1])), error = "\u00b1"))
}

schedule_gain_note <- paste("Days on the wall by which the finish gets earlier. \u00b1: 95 % simulation error. Gains do not add up: of two",
  "tasks side by side neither alone wins much.")

slip_cells <- function(table) {
  days <- function(x) ifelse(is.na(x), "", format_decimals(x, 1))
  more <- unique(table$days)
  own <- table[table$days == more[1], ]
  columns <- unlist(lapply(more, function(d) {
    rows <- table[table$days == d, ]
    stats::setNames(list(days(rows$start_later), days(rows$take_longer)), sprintf(c("start later, + %s", "take longer, + %s"), format(d)))
  }), recursive = FALSE)
  drop_empty(c(list(task = own$name, label = own$label), columns))
}

slip_note <- function(result) {
  sprintf("In days of work, until the P%s of the finish moves by + so many days. For one task at a time.",
    format(result$study$readings$planning))
}

#' @export
print.ensayo_calendar <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

cash_cells <- function(table, result) {
  marks <- percentile_names(schedule_percentiles(result))
  # as many digits as tell the percentiles apart in most periods
  block <- function(before, names) {
    columns <- paste0(before, c("base", marks))
    spread <- abs(table[[columns[length(columns)]]] - table[[columns[2]]])
    cells <- lapply(table[columns], format_decimals, decimals_of(stats::median(spread[is.finite(spread) & spread > 0])))
    stats::setNames(cells, names)
  }
  drop_empty(c(list(`to the end of` = step_words(table$step)), block("", c("base", marks)),
    block("spent_", c("base in all", paste(marks, "in all"))),
    if (!is.null(table$budget)) list(budget = vapply(table$budget, format_given, ""), above = format_share(table$chance)),
    # money that comes in may end what was too much
    if (any(table$ever != table$chance)) list(`above by then` = format_share(table$ever))))
}

cash_note <- function(result) {
  unit <- result$study$schedule$currency
  paste0(if (!is.null(unit)) sprintf("In %s. ", unit), "Each percentile is of its own period, or of all up to its end: those of periods do not ",
    "add up. Above: the share of runs that have then spent more than the budget.")
}
