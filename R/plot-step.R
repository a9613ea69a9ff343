# Figures that go step by step besides the series themselves.

#' Chances and drivers at each step, drawn
#'
#' `plot_chance_by_step()` draws how likely a condition on a series is at each step, and how likely it has held by then.
#' `plot_drivers_by_step()` draws a map: which inputs an output goes with, and when.
#'
#' @inheritParams chance_by_step
#' @return A ggplot object.
#' @section Errors: as in [chance_by_step()].
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), inflow = input(law_normal(47, 5), steps = 30)) |>
#'   add_steps(level = state(max(0, level + inflow - 50), start = volume)) |>
#'   simulate(nsim = 500, seed = 11)
#' plot_chance_by_step(res, level < 250)
#' plot_drivers_by_step(res, level)
#' @export
plot_chance_by_step <- function(.result, ...) {
  table <- unclass_table(chance_by_step(.result, ...))
  conditions <- unique(table$condition)
  several <- length(conditions) > 1
  kinds <- c(now = "at the step", ever = "at it or before")
  lines <- rbind(
    data.frame(table[c("condition", "step")], of = kinds[["now"]], value = table$chance, low = table$low, high = table$high),
    data.frame(table[c("condition", "step")], of = kinds[["ever"]], value = table$ever, low = table$ever_low, high = table$ever_high))
  lines <- wide_steps(lines)
  lines$of <- factor(lines$of, kinds)
  lines$condition <- factor(lines$condition, conditions)
  first <- table[table$condition == conditions[1], ]
  peak <- first[which.max(first$chance), ]
  title <- if (max(first$ever) == 0) sprintf("%s in no run", conditions[1])
    else sprintf("%s: at most %s at a step (%s), %s by the end", conditions[1], format_share(peak$chance), step_words(peak$step),
      format_share(first$ever[nrow(first)]))
  ggplot2::ggplot(lines, ggplot2::aes(.data$step, .data$value)) +
    ggplot2::geom_ribbon(ggplot2::aes(ymin = .data$low, ymax = .data$high, group = .data$of), fill = palette_ensayo$fill, alpha = 0.5) +
    ggplot2::geom_line(ggplot2::aes(colour = .data$of, linetype = .data$of), linewidth = 1) +
    (if (several) ggplot2::facet_wrap(ggplot2::vars(.data$condition))) +
    ggplot2::scale_colour_manual(NULL, values = stats::setNames(c(palette_ensayo$line, palette_ensayo$accent), kinds)) +
    ggplot2::scale_linetype_manual(NULL, values = stats::setNames(c("solid", "42"), kinds)) +
    step_scale(table$step) +
    ggplot2::scale_y_continuous("Chance", labels = scales::label_percent(suffix = " %"), limits = c(0, NA)) +
    ggplot2::labs(title = wrapped(title), subtitle = "Shaded: 95 % confidence interval, for lack of runs", caption = run_caption(.result)) +
    theme_ensayo() + ggplot2::theme(legend.key.width = ggplot2::unit(2.4, "lines"))
}

# A line through a single step would not be seen: it goes across the step's width.
wide_steps <- function(rows) {
  if (length(unique(rows$step)) != 1) return(rows)
  moved <- function(by) {
    rows$step <- rows$step + by
    rows
  }
  rbind(moved(-0.4), moved(0.4))
}

# Beyond the steps there may be room for something else, which has no breaks.
step_scale <- function(steps, ...) {
  breaks <- scales::breaks_pretty(6)(range(steps))
  breaks <- breaks[breaks >= min(steps) & breaks <= max(steps)]
  if (inherits(steps, "Date")) ggplot2::scale_x_date(NULL, breaks = breaks, labels = step_labels(breaks), ...)
  else ggplot2::scale_x_continuous("Step", breaks = breaks, labels = axis_numbers, ...)
}

step_labels <- function(days) {
  apart <- min(c(diff(days), Inf))
  format(days, if (apart >= 360) "%Y" else if (apart >= 28) "%b %Y" else "%d %b")
}

#' @rdname plot_chance_by_step
#' @export
plot_drivers_by_step <- function(result, output) {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), c(series_names(result$study), output_names(result)), "an output of the result")
  table <- unclass_table(drivers_by_step(result, !!name))
  if (!any(is.finite(table$value))) return(empty_plot(sprintf("No input makes %s vary", name), run_caption(result)))
  table <- table[is.finite(table$value), ]
  strength <- tapply(abs(table$value), table$input, max)
  inputs <- utils::head(names(sort(-strength)), 40)
  rows <- table[table$input %in% inputs, ]
  strongest <- vapply(inputs, function(input) {
    values <- table$value[table$input == input]
    values[which.max(abs(values))]
  }, 0)
  labels <- sprintf("%s\n%s", text_of(inputs, function(input) quantity_label(result$study, input)),
    ifelse(strongest > 0, "raises it", "lowers it"))
  rows$label <- factor(labels[match(rows$input, inputs)], rev(labels))
  few <- length(unique(rows$step)) <= 15
  # dates and steps that are not evenly spaced keep their places
  width <- if (length(unique(rows$step)) > 1) min(diff(sort(unique(as.double(rows$step))))) else 1
  top <- rows[which.max(abs(rows$value)), ]
  series <- !is.null(quantity_steps(result$study, name))
  ggplot2::ggplot(rows, ggplot2::aes(.data$step, .data$label, fill = ifelse(.data$beyond_noise, .data$value, NA_real_))) +
    ggplot2::geom_tile(width = width, height = 0.94, colour = if (few) "white" else NA, linewidth = if (few) 1 else 0) +
    (if (few) ggplot2::geom_text(ggplot2::aes(label = ifelse(.data$beyond_noise, formatC(.data$value, format = "f", digits = 2), "\u00b7"),
      colour = .data$value > 0.45 | .data$value < -0.7), size = 4, show.legend = FALSE)) +
    ggplot2::scale_colour_manual(values = c(`FALSE` = palette_ensayo$ink, `TRUE` = "white")) +
    correlation_fill() +
    step_scale(rows$step, expand = ggplot2::expansion(0.01)) + ggplot2::labs(y = NULL) +
    ggplot2::labs(title = wrapped(sprintf("%s goes most closely with %s, %s %s (%s)", quantity_label(result$study, name),
      lower_first(quantity_label(result$study, top$input)), if (series) "at" else "its value at", step_words(top$step),
      formatC(top$value, format = "f", digits = 2))),
      subtitle = if (series) "Rank correlation at each step; inputs drawn at each by their mean so far. Grey: noise"
        else "Rank correlation with what inputs are at each step. Grey: noise", caption = run_caption(result)) +
    theme_ensayo() + ggplot2::theme(panel.grid.major = ggplot2::element_blank())
}
