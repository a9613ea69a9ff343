#' Ranges of many outputs
#'
#' A bar for each output, sorted: thin from the lowest to the highest of the study's percentiles, thick over the
#' middle half of the runs, with the median and the base case.
#'
#' @inheritParams plot_distribution
#' @param outputs Names of outputs of one unit, bare or as text. When left out, those of the unit that most outputs
#'   have.
#' @param sort A column of [summary()][summary.ensayo_result] to sort by, as there; `NULL` for the order of definition.
#' @param most Whole number: the most bars to show; the first ones in that order.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output or column; `ensayo_error_argument` for outputs of several
#'   units, or none with a good run.
#' @examples
#' res <- study("Pressure in the zones") |>
#'   add_inputs(level = law_normal(61.5, 0.4),
#'     zone = list(law_pert(10, 12, 18), law_pert(8, 14, 21))) |>
#'   add_outputs(high = output(level - zone[1], unit = "m"),
#'     low = output(level - zone[2], unit = "m")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_ranges(res)
#' @export
plot_ranges <- function(result, outputs = NULL, sort = "mean", most = 40) {
  check_result(result)
  outputs <- outputs_of_one_unit(rlang::enquo(outputs), result)
  data <- ranges_plot_data(result, outputs, sort, check_count(most))
  kind <- data$kind
  ggplot2::ggplot(data$rows, ggplot2::aes(y = .data$label)) +
    range_layers() +
    ggplot2::geom_point(ggplot2::aes(.data$base), data$rows[is.finite(data$rows$base), ], shape = 23, size = 2.8,
      fill = "white", colour = palette_ensayo$accent, stroke = 1.1) +
    quantity_scale(ggplot2::scale_x_continuous, with_unit("Value", unit_in_brackets(data$unit)), kind) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL,
      caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

# Thin and thick bars and the median.
range_layers <- function() {
  list(
    ggplot2::geom_segment(ggplot2::aes(.data$low, xend = .data$high, yend = .data$label), colour = palette_ensayo$line,
      linewidth = 0.8),
    ggplot2::geom_segment(ggplot2::aes(.data$quarter, xend = .data$three_quarters, yend = .data$label),
      colour = palette_ensayo$fill, linewidth = 4.5),
    ggplot2::geom_point(ggplot2::aes(.data$median), colour = palette_ensayo$line, size = 2.6)
  )
}

ranges_plot_data <- function(result, outputs, sort, most) {
  readings <- result$study$readings
  ends <- range(readings$percentiles)
  at <- range(not_exceeded(ends, readings$sense))
  table <- sorted_by(statistics_table(result, outputs), sort)
  table <- table[table$runs > 0, ]
  if (nrow(table) == 0) stop_ensayo("argument", "An output must have a good run to be shown.", "Every run failed.")
  shown <- utils::head(table, most)
  read <- vapply(shown$output, function(name) percentile_values(finite_values(result, name), c(at, 25, 50, 75)),
    numeric(5))
  labels <- text_of(shown$output, function(name) quantity_label(result$study, name))
  labels <- unique_labels(labels, shown$output)
  rows <- data.frame(output = shown$output, label = factor(labels, rev(labels)), low = read[1, ], high = read[2, ],
    quarter = read[3, ], median = read[4, ], three_quarters = read[5, ], base = shown$base, row.names = NULL)
  unit <- shown$unit[1]
  top <- which.max(rows$high)
  list(rows = rows, unit = unit, kind = shown$kind[1],
    title = sprintf("%s reaches highest: %s %% of runs from %s to %s", labels[top], format(diff(at)),
      format_value(rows$low[top], shown$kind[1]), with_unit(format_value(rows$high[top], shown$kind[1]), unit)),
    subtitle = sprintf("Thin: P%s to P%s. Thick: the middle half of the runs. Dot: median. Diamond: base case",
      format(ends[1]), format(ends[2])),
    note = c(if (readings$sense == "exceeded") sense_words(readings$sense),
      if (nrow(table) > nrow(rows)) sprintf("%s not shown.", count_of(nrow(table) - nrow(rows), "more output"))))
}

outputs_of_one_unit <- function(quosure, result, call = rlang::caller_env()) {
  outputs <- resolve_outputs(quosure, result, call)
  units <- text_of(outputs, function(name) {
    paste(c(quantity_unit(result$study, name), result$study$outputs[[name]]$kind), collapse = " ")
  })
  if (rlang::quo_is_null(quosure)) return(outputs[units == names(sort(-table(units)))[1]])
  if (length(unique(units)) > 1) {
    stop_ensayo("argument", "Outputs in one figure must have one unit.",
      sprintf("They have %s.", and_list(quoted(unique(units)))), "Name those of one unit.", call = call)
  }
  outputs
}
