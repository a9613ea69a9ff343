# Budgets as figures.

#' Figures of a budget
#'
#' `plot_budget()`: what each input contributes, with its sign, and the combined standard uncertainty. `plot_verdict()`: the density that
#' the budget stands for over the simulated histogram, with both intervals.
#'
#' @param budget A budget ([budget()]).
#' @param most Whole number: how many inputs to show at most, those with the largest shares.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_argument` where the argument is no budget or verdict.
#' @examples
#' gauge <- study("Weighed flow") |>
#'   add_inputs(
#'     mass = input(law_measured(20.02, expanded = 0.06, k = 2), unit = "kg", label = "Mass"),
#'     time = input(law_observed(c(10.02, 10.1, 9.97, 10.05), of = "mean"), unit = "s",
#'       label = "Time")) |>
#'   add_outputs(flow = output(mass / time, unit = "kg/s", label = "Flow"))
#' plot_budget(budget(gauge))
#' plot_verdict(budget_verdict(budget(gauge), simulate(gauge, 10000, 11)))
#' @export
plot_budget <- function(budget, most = 15) {
  check_class(budget, "ensayo_budget", "a budget, as `budget()` makes it")
  data <- budget_plot_data(budget, check_count(most))
  ggplot2::ggplot(data$bars, ggplot2::aes(.data$contribution, .data$what, fill = .data$kind)) +
    ggplot2::geom_col(width = 0.72) + ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$ink) +
    ggplot2::geom_text(ggplot2::aes(x = .data$place, label = .data$text, hjust = .data$hjust), size = 4, colour = palette_ensayo$ink) +
    ggplot2::scale_fill_manual(values = c(above = palette_ensayo$raises, below = palette_ensayo$lowers, all = palette_ensayo$ink), guide = "none") +
    ggplot2::scale_x_continuous(data$axis, labels = axis_numbers) + ggplot2::expand_limits(x = data$reach) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = data$caption) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

budget_plot_data <- function(budget, most) {
  rows <- utils::head(budget$rows[is.finite(budget$rows$contribution), ], most)
  hidden <- sum(is.finite(budget$rows$contribution)) - nrow(rows)
  stated <- budget_result(budget)
  contribution <- c(rows$contribution, sqrt(budget$variance))
  label <- c(ifelse(nchar(rows$label) > 40, paste0(substr(rows$label, 1, 38), "\u2026"), rows$label), "Combined standard uncertainty")
  places <- contribution_decimals(budget)
  text <- paste0(decimal_text(contribution, places), c(sprintf("  (%s)", format_share(rows$share)), ""))
  bars <- data.frame(what = factor(label, rev(unique(label))), contribution = contribution, place = contribution,
    hjust = ifelse(contribution < 0, 1.08, -0.08), text = text,
    kind = c(ifelse(rows$contribution < 0, "below", "above"), "all"))
  bars <- bars[is.finite(bars$contribution), ]
  name <- quantity_label(budget$study, budget$output)
  independent <- all(budget$r[upper.tri(budget$r)] == 0)
  title <- if (nrow(rows) == 0 || !isTRUE(budget$variance > 0)) sprintf("%s: no linear budget at the estimates", name)
    else if (independent) sprintf("%s makes up %s of the variance of %s", rows$label[1], format_share(rows$share[1], 0), lower_first(name))
    else sprintf("%s contributes most to the uncertainty of %s", rows$label[which.max(abs(rows$contribution))], lower_first(name))
  # room for the figures beside the bars
  width <- diff(range(bars$contribution, 0))
  reach <- range(0, bars$contribution + ifelse(bars$contribution < 0, -1, 1) * width * (0.03 + 0.05 * nchar(bars$text)))
  list(bars = bars, reach = reach, title = title, axis = with_unit("Contribution: sensitivity x standard uncertainty", unit_in_brackets(stated$unit)),
    subtitle = paste0("In brackets: share of the variance", if (independent) "" else ", with its correlation terms; shares may be below 0",
      if (hidden > 0) sprintf(". %s not shown", count_of(hidden, "smaller input"))),
    caption = budget_caption(budget))
}

budget_caption <- function(budget) {
  sprintf("%s: linear budget, by the law of propagation", budget$study$title)
}

#' @rdname plot_budget
#' @param verdict A verdict ([budget_verdict()]).
#' @export
plot_verdict <- function(verdict) {
  check_class(verdict, "ensayo_verdict", "a verdict, as `budget_verdict()` gives it")
  data <- verdict_plot_data(verdict)
  colours <- c(`linear budget` = palette_ensayo$accent, simulation = palette_ensayo$line)
  ggplot2::ggplot() +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$density), data$bars, fill = palette_ensayo$fill) +
    ggplot2::geom_line(ggplot2::aes(.data$value, .data$density), data$curve, colour = palette_ensayo$accent, linewidth = 1.1) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$low, xend = .data$high, y = .data$level, yend = .data$level, colour = .data$what), data$intervals,
      linewidth = 2.2) +
    ggplot2::geom_text(ggplot2::aes(.data$middle, .data$level, label = .data$text, colour = .data$what), data$intervals, vjust = 1.9, size = 4,
      fontface = "bold") +
    ggplot2::scale_colour_manual(values = colours, guide = "none") +
    ggplot2::scale_x_continuous(axis_title(verdict$budget$study, verdict$budget$output), labels = axis_numbers) +
    ggplot2::scale_y_continuous("Density", labels = NULL, breaks = NULL) + ggplot2::expand_limits(y = -0.48 * max(data$bars$density)) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(verdict$result)) + theme_ensayo()
}

verdict_plot_data <- function(verdict) {
  budget <- verdict$budget
  values <- finite_values(verdict$result, budget$output)
  stated <- budget_result(budget)
  ends <- verdict$rows[3:4, ]
  view <- range(percentile_values(values, c(0.05, 99.95)), ends$budget, ends$simulated)
  view <- view + c(-0.06, 0.06) * diff(view)
  breaks <- seq(view[1], view[2], length.out = 81)
  inside <- values[values >= view[1] & values <= view[2]]
  counts <- tabulate(findInterval(inside, breaks, rightmost.closed = TRUE), 80)
  bars <- data.frame(from = breaks[-81], to = breaks[-1], density = counts / length(values) / diff(breaks))
  value <- seq(view[1], view[2], length.out = 401)
  density <- if (isTRUE(stated$standard > 0)) stats::dt((value - stated$value) / stated$standard, whole_freedom(stated$df)) / stated$standard
    else rep(NA_real_, 401)
  top <- max(bars$density)
  places <- verdict_places(verdict)
  intervals <- data.frame(what = c("linear budget", "simulation"), low = c(ends$budget[1], ends$simulated[1]),
    high = c(ends$budget[2], ends$simulated[2]), level = c(-0.08, -0.30) * top)
  intervals$middle <- (intervals$low + intervals$high) / 2
  intervals$text <- sprintf("%s: %s to %s", intervals$what, decimal_text(intervals$low, places), decimal_text(intervals$high, places))
  curve <- data.frame(value = value, density = pmin(density, 1.6 * top))
  list(bars = bars, curve = curve[is.finite(curve$density), ], intervals = intervals, title = verdict_title(verdict),
    subtitle = sprintf("Line: linear budget. Bars: runs. Below: intervals of %s", coverage_text(verdict$coverage)))
}

verdict_title <- function(verdict) {
  off <- verdict$rows$verdict[3:4]
  digits <- digits_words(verdict)
  if (all(off == "validated")) sprintf("The linear budget is validated to %s", digits)
  else if (any(off == "differs")) sprintf("The linear budget is not validated to %s: state the simulation", digits)
  else sprintf("These runs cannot tell whether the linear budget is good to %s", digits)
}
