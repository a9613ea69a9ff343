# Events and costs as readers see them: the cells of tables on the terminal and in the report.

event_cells <- function(result) {
  table <- events_in_runs(result)
  total <- total_at_risk(result)
  spread <- table$P90 - table$P10
  spread[spread %in% 0] <- abs(table$when_it_happens[spread %in% 0])
  # the total's digits, and as many more as tell an event's own P10 from its P90
  decimals <- if (is.null(total)) decimals_of(spread) else pmax(output_decimals(result, total), decimals_of(10 * spread), na.rm = TRUE)
  amount <- function(x) ifelse(is.finite(x), format_decimals(x, decimals), "")
  drop_empty(list(event = table$event, label = table$label, category = table$category, owner = table$owner,
    `stated` = ifelse(is.na(table$probability), ifelse(is.na(table$rate), "", sprintf("%s a run", format_number(table$rate))),
      format_share(table$probability)),
    happens = format_share(table$happens), `when it happens` = amount(table$when_it_happens), `P10 to P90` = ifelse(is.finite(table$P10),
      sprintf("%s to %s", amount(table$P10), amount(table$P90)), ""), mean = amount(table$mean), unit = table$unit,
    state = ifelse(table$state == "open", "", table$state)))
}

# Open events that happen in the base case, or do not.
events_of_base <- function(result, happen) {
  open <- names(Filter(function(event) is.null(event$closed), result$study$events))
  open[vapply(result$base$outputs[part_name(open, "happened")], isTRUE, NA) == happen]
}

event_note <- function(result) {
  out <- length(events_of_base(result, FALSE))
  if (out == 0) return(NULL)
  if (out == 1) return("The base case does not hold the event that is less likely than not; the mean holds its share.")
  sprintf("The base case holds none of the %s that are less likely than not; the mean holds their share.", count_of(out, "event"))
}

text_cells <- c("task", "path", "what", "event", "label", "category", "owner", "unit", "state", "P10 to P90", "code", "item", "kind", "name",
  "remark", "part")

cell_lines <- function(cells, note = NULL, most = Inf) {
  shown <- lapply(cells, utils::head, most)
  c(text_table(shown, numeric = !names(shown) %in% text_cells, indent = "  "), more_lines(length(cells[[1]]) - most, "row", "the table"),
    if (length(note)) wrapped_lines(paste0("  ", note)))
}

# Each code with its percentiles, the sum of those right under it, and what of the contingency belongs to it.
cost_cells_shown <- function(result, tree, percentiles, planning) {
  table <- cost_table_of(result, tree, percentiles, planning)
  decimals <- output_decimals(result, tree$name)
  amount <- function(x) ifelse(is.na(x), "", format_decimals(x, decimals))
  marks <- percentile_names(percentiles)
  plan <- percentile_names(planning)
  cells <- c(list(code = table$code, item = cost_item_labels(table, tree), base = amount(table$base), mean = amount(table$mean)),
    lapply(stats::setNames(nm = marks), function(mark) amount(table[[mark]])))
  cells[[sprintf("sum of %s under it", plan)]] <- amount(table$sum_of_parts)
  cells$allotment <- amount(table$allotment)
  cells[["\u00b1"]] <- ifelse(is.finite(table$error), format_number(half_interval(table$error, result), 2), "")
  cells
}

cost_item_labels <- function(table, tree) {
  paste0(strrep("  ", pmax(table$level - 1, 0)), ifelse(nzchar(table$label), table$label, ifelse(nzchar(table$code), "", tree$name)))
}

cost_note <- function(result, tree) {
  paste("Means add up; percentiles do not, for items are seldom all high in one run.",
    sprintf("Allotments are what of the reserve at P%s belongs to each:", format(result$study$readings$planning)),
    "they add up, to within rounding.")
}

gain_note <- paste("\u00b1: 95 % simulation error. Gains do not add up. `net` is what the mean gains less what the response costs;",
  "a response's own gains are net.")

renamed_cells <- function(cells, names) {
  at <- match(names(names), names(cells), 0)
  names(cells)[at] <- names[at > 0]
  cells
}

gain_cells <- function(table, result, output) {
  decimals <- output_decimals(result, output)
  amount <- function(x) ifelse(is.na(x), "", format_decimals(x, decimals))
  drop_empty(list(kind = if (length(unique(table$kind)) > 1) table$kind else rep("", nrow(table)), name = table$name,
    label = table$label, happens = ifelse(is.na(table$happens), "", format_share(table$happens)),
    `mean falls by` = amount(table$mean_gain), percentile = amount(table$gain),
    error = format_number(half_interval(table$error, result), 2),
    `target gains` = ifelse(is.na(table$chance_gain), "", format_share(table$chance_gain)), `response costs` = amount(table$cost),
    net = amount(table$net), remark = ifelse(table$beyond_noise, "", ifelse(table$gain == 0, "no difference at this percentile",
      "not told from noise")))) |>
    renamed_cells(c(percentile = sprintf("P%s falls by", format(table$percentile[1])), error = "\u00b1"))
}
