#' Picture of a swept input
#'
#' A figure against the values of the input, with its confidence interval; where it just meets a target, and which value is
#' best. Of two inputs a map of all combinations.
#'
#' @inheritParams sweep_input
#' @param statistic Texts: one figure or several of the same unit, as in the column `statistic`.
#' @param target A number or `NULL`.
#' @param better `"high"`, `"low"` or `NULL`: the best value is marked, as [best_value()] finds it with `where`; on a map,
#'   combinations that do not keep to `where` are crossed out.
#' @return A ggplot object.
#' @section Errors: as in [sweep_input()].
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048), diameter = 0.25) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' sweep <- sweep_input(main, diameter = seq(0.2, 0.3, 0.02), .nsim = 500, .seed = 11)
#' plot_sweep(sweep, "velocity", c("P10", "P50", "P90"), target = 0.8)
#' plot_sweep(sweep, "velocity", better = "low")
#' @export
plot_sweep <- function(sweep, about, statistic = "mean", target = NULL, better = NULL, where = NULL) {
  check_string(about)
  inputs <- swept_inputs(swept(sweep, about, statistic[1]))
  if (length(inputs) > 2) {
    stop_ensayo("argument", "A sweep of one input or two can be drawn.", sprintf("This one has %s.", and_list(quoted(inputs))),
      "Take the rows of one value of the others.")
  }
  best <- if (!is.null(better)) unclass_table(best_value(sweep, about, statistic[1], better, where))
  if (length(inputs) == 2) return(sweep_map(sweep, about, statistic[1], inputs, best, where))
  parts <- lapply(statistic, function(one) swept(sweep, about, one))
  rows <- do.call(rbind, parts)
  rows$statistic <- factor(rows$statistic, statistic)
  share <- all(rows$statistic == "pass rate")
  number <- if (share) format_share else format_number
  met <- if (!is.null(target)) do.call(rbind, lapply(statistic, function(one) value_where(sweep, about, one, target)))
  input <- rows$input[1]
  what <- sprintf("%s of %s", upper_first(and_list(statistic)), about)
  title <- if (!is.null(best)) best_words(best, about, statistic[1], input, number, where) else if (is.null(target)) {
    first <- parts[[1]]
    sprintf("%s of %s: from %s at %s %s to %s at %s", upper_first(statistic[1]), about, number(first$figure[1]), input,
      format_number(first$value[1]), number(utils::tail(first$figure, 1)), format_number(utils::tail(first$value, 1)))
  } else if (nrow(met) == 0) sprintf("%s does not cross %s on this grid", what, number(target))
    else sprintf("%s of %s is %s where %s is %s", upper_first(met$statistic[1]), about, number(target), input,
      format_number(met$value[1]))
  ggplot2::ggplot(rows, ggplot2::aes(.data$value, .data$figure)) +
    ggplot2::geom_ribbon(ggplot2::aes(ymin = .data$low, ymax = .data$high, group = .data$statistic),
      fill = palette_ensayo$fill, alpha = 0.5) +
    ggplot2::geom_line(ggplot2::aes(colour = .data$statistic, linetype = .data$statistic), linewidth = 1) +
    (if (!is.null(target)) ggplot2::geom_hline(yintercept = target, colour = palette_ensayo$accent, linewidth = 0.8)) +
    (if (!is.null(met) && nrow(met)) ggplot2::geom_vline(xintercept = met$value, colour = palette_ensayo$accent,
      linetype = "42")) +
    (if (length(best$value)) ggplot2::geom_vline(xintercept = best$value, colour = palette_ensayo$line, linetype = "42")) +
    (if (length(best$value)) ggplot2::annotate("point", x = best$value, y = best$figure, size = 4, colour = palette_ensayo$line)) +
    side_scales(statistic) + (if (length(statistic) == 1) ggplot2::theme(legend.position = "none")) +
    ggplot2::scale_x_continuous(input, labels = axis_numbers) +
    ggplot2::scale_y_continuous(with_unit(what, unit_in_brackets(rows$unit[1])),
      labels = if (share) scales::label_percent(suffix = " %") else axis_numbers) +
    ggplot2::labs(title = wrapped(title), subtitle = "Shaded: 95 % confidence interval, for lack of runs") +
    theme_ensayo()
}

best_words <- function(best, about, statistic, inputs, number, where = NULL) {
  if (nrow(best) == 0) return(sprintf("No value keeps to %s", if (length(where)) and_list(names(where)) else "what is asked"))
  values <- if (is.null(best$value)) best[inputs] else best["value"]
  at <- sprintf("%s = %s", inputs, vapply(values, format_number, ""))
  kept <- sprintf("%s in at least %s", names(where), format_share(where, 0))
  sprintf("Best %s of %s%s: %s at %s", statistic, about, if (length(where)) paste(" with", and_list(kept)) else "", number(best$figure),
    and_list(at))
}

# Two decisions: a tile for each combination, with its figure; what does not keep to `where` is crossed out.
sweep_map <- function(sweep, about, statistic, inputs, best, where) {
  rows <- swept(sweep, about, statistic)
  share <- statistic == "pass rate"
  number <- if (share) format_share else function(x) format_decimals(x, decimals_of(diff(range(rows$figure, na.rm = TRUE))))
  passes <- passes_of(sweep, where)
  rows$fails <- if (is.null(passes)) FALSE else !passes$met
  rows$shown <- number(rows$figure)
  middle <- mean(range(rows$figure, na.rm = TRUE))
  few <- nrow(rows) <= 150
  best_row <- if (length(best$figure)) which(rows[[inputs[1]]] == best[[inputs[1]]] & rows[[inputs[2]]] == best[[inputs[2]]])
  for (input in inputs) {
    values <- sort(unique(rows[[input]]))
    rows[[input]] <- factor(rows[[input]], values, axis_numbers(values))
  }
  ggplot2::ggplot(rows, ggplot2::aes(.data[[inputs[1]]], .data[[inputs[2]]])) +
    ggplot2::geom_tile(ggplot2::aes(fill = .data$figure), colour = "white", linewidth = 1) +
    (if (any(rows$fails)) ggplot2::geom_point(data = rows[rows$fails, ], shape = 4, size = 12, stroke = 0.8, colour = "#22313a80")) +
    (if (few) ggplot2::geom_text(ggplot2::aes(label = .data$shown, colour = .data$figure > middle), size = 4, show.legend = FALSE)) +
    (if (!is.null(best_row)) ggplot2::geom_tile(data = rows[best_row, ], fill = NA, colour = palette_ensayo$accent, linewidth = 1.6)) +
    ggplot2::scale_colour_manual(values = c(`FALSE` = palette_ensayo$ink, `TRUE` = "white")) +
    ggplot2::scale_fill_gradient(with_unit(sprintf("%s of %s", upper_first(statistic), about), unit_in_brackets(rows$unit[1])),
      low = "#eef4f5", high = "#0d5c75", labels = if (share) scales::label_percent(suffix = " %") else axis_numbers,
      guide = ggplot2::guide_colourbar(barwidth = 14, barheight = 0.8, title.position = "top")) +
    ggplot2::labs(title = wrapped(if (is.null(best)) sprintf("%s of %s from %s to %s", upper_first(statistic), about,
      number(min(rows$figure, na.rm = TRUE)), number(max(rows$figure, na.rm = TRUE)))
      else best_words(best, about, statistic, inputs, number, where)),
      subtitle = if (any(rows$fails)) sprintf("Crossed out: %s is met too seldom (asked: %s)", and_list(names(where)),
        and_list(format_share(where, 0)))) +
    theme_ensayo() + ggplot2::theme(panel.grid.major = ggplot2::element_blank())
}
