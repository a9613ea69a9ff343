# Readings on the terminal: each in its own way, or as its table.

# The sections of a place, a heading over each.
reading_sections <- function(place, result, asked) {
  readings <- readings_for(place, result)
  unlist(lapply(names(readings), function(id) {
    own <- own_readings[[place]][[id]]
    lines <- if (is.null(own)) plain_reading(readings[[id]], result, asked) else own(result, asked)
    if (length(lines)) c("", heading(reading_title(readings[[id]], result, asked)), lines)
  }))
}

plain_reading <- function(reading, result, asked) {
  table <- unclass_table(reading$table(result, asked))
  if (nrow(table) == 0) return(NULL)
  cells <- shown_columns(table, reading$shown, result)
  note <- if (!is.null(reading$note)) reading$note(result, asked)
  c(text_table(drop_empty(cells), numeric = reading$shown[names(drop_empty(cells))] != "text", indent = "  "),
    if (length(note)) paste0("  ", note))
}

own_readings <- list(
  print = list(
    statistics = function(result, asked) result_output_lines(result, asked),
    events = function(result, asked) cell_lines(event_cells(result), event_note(result), 6),
    schedule = function(result, asked) cell_lines(schedule_cells(result, most = 10), schedule_note(result)),
    series = function(result, asked) result_series_lines(result, asked),
    pass_rates = function(result, asked) result_spec_lines(result),
    chances = function(result, asked) result_chance_lines(result, asked),
    drivers = function(result, asked) result_driver_lines(result)
  ),
  show = list(
    statistics = function(result, asked) show_statistics_lines(result, asked),
    percentiles = function(result, asked) percentile_lines(percentile_table(result, asked$outputs, asked$percentiles)),
    contingency = function(result, asked) {
      planning_lines(contingency_table(result, asked$planning, asked$outputs), result)
    },
    costs = function(result, asked) {
      tree <- result$study$costs[[1]]
      cell_lines(cost_cells_shown(result, tree, sort(unique(c(asked$marks, asked$planning))), asked$planning), cost_note(result, tree))
    },
    events = function(result, asked) cell_lines(event_cells(result), event_note(result)),
    gains = function(result, asked) {
      total <- total_at_risk(result)
      cell_lines(gain_cells(reading_gains$table(result, asked), result, total), gain_note)
    },
    schedule = function(result, asked) cell_lines(schedule_cells(result), schedule_note(result)),
    cash = function(result, asked) cell_lines(cash_cells(reading_cash$table(result, asked), result), cash_note(result)),
    series = function(result, asked) result_series_lines(result, asked),
    pass_rates = function(result, asked) {
      rates <- pass_rate(result)
      c(share_lines(rates, "spec", "pass_rate"), joint_lines(rates))
    },
    chances = function(result, asked) {
      chances <- chances_of(result, asked$chances)
      if (nrow(chances)) share_lines(chances, "condition", "chance")
    }
  )
)
