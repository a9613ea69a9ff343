# Money over time, and date against cost.

#' Money over time, and two limits together
#'
#' `plot_cash_flow()`: what is spent so far, in bands, and what in each period. `plot_joint()`: two outputs run by run with a limit for
#' each, such as date and cost: how many runs keep both, one, or neither, and which pairs of limits are kept with the planning chance.
#'
#' @inheritParams plot_distribution
#' @inheritParams cash_flow
#' @return A ggplot object.
#' @section Reading them: a band holds its share of the runs at each date by itself. `plot_cash_flow()` draws the median, the base case
#'   dashed, and the budget as steps. In `plot_joint()` both limits of any pair on the line are kept together with the planning
#'   chance: of the two planning percentiles by themselves that is not true.
#' @section Errors: `ensayo_error_argument` where no task costs anything, or for limits that are no numbers or dates.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18), cost_per_day = 2),
#'     pipes = task(law_pert(5, 9, 20), cost = law_pert(40, 45, 60), paid = "finish + 14 days"),
#'     lay = task(law_pert(6, 8, 14), after = "dig, pipes", cost_per_day = 3),
#'     .start = "2027-03-01", .promised = "2027-03-24", .budget = 100, .currency = "kEUR")
#' res <- simulate(works, nsim = 1000, seed = 11)
#' plot_cash_flow(res, by = "week")
#' plot_joint(res)
#' @export
plot_cash_flow <- function(result, by = NULL, budget = NULL) {
  check_cash(result)
  data <- cash_plot_data(result, by, budget)
  ggplot2::ggplot() +
    ggplot2::geom_ribbon(ggplot2::aes(.data$step, ymin = .data$low, ymax = .data$high), data$spent, fill = palette_ensayo$fill) +
    ggplot2::geom_step(ggplot2::aes(.data$step, .data$value), data$budget, direction = "hv", colour = palette_ensayo$ink, linewidth = 0.8,
      linetype = "13") +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$base), data$spent, colour = palette_ensayo$accent, linewidth = 0.9, linetype = "dashed") +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$median), data$spent, colour = palette_ensayo$line, linewidth = 1.3) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = pmin(.data$median, 0), ymax = pmax(.data$median, 0)),
      data$spending, fill = palette_ensayo$shade) +
    ggplot2::geom_linerange(ggplot2::aes(.data$middle, ymin = .data$low, ymax = .data$high), data$spending, colour = palette_ensayo$ink,
      linewidth = 0.7) +
    ggplot2::geom_point(ggplot2::aes(.data$middle, .data$base), data$spending, shape = 23, size = 1.9, fill = "white",
      colour = palette_ensayo$accent, stroke = 0.9) +
    ggplot2::geom_text(ggplot2::aes(.data$step, .data$place, label = .data$text), data$labels, hjust = -0.1, size = 4,
      colour = data$labels$colour, fontface = "bold") +
    ggplot2::expand_limits(x = max(data$spent$step) + 0.1 * as.double(diff(range(data$spent$step)))) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = 1, scales = "free_y") +
    step_scale(range(data$spent$step)) + ggplot2::scale_y_continuous(data$axis, labels = axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(result)) +
    theme_ensayo() + ggplot2::theme(strip.text = ggplot2::element_text(hjust = 0, face = "bold", size = ggplot2::rel(1)))
}

cash_plot_data <- function(result, by, budget) {
  money <- cash_flow(result, by, budget)
  readings <- result$study$readings
  table <- unclass_table(cash_rows(money, schedule_percentiles(result)))
  plan <- percentile_names(readings$planning)
  panels <- vapply(money$provenance$cash[c("spent", "spending")], quantity_label, "", study = money$study, USE.NAMES = FALSE)
  panel <- function(i) factor(panels[i], panels)
  n <- nrow(table)
  edges <- utils::head(c(table$step[1] - (if (n > 1) table$step[2] - table$step[1] else 1), table$step), n)
  width <- as.double(table$step) - as.double(edges)
  late <- table[[paste0("spent_", plan)]]
  # nothing is spent before the first period
  spent <- data.frame(panel = panel(1), step = c(edges[1], table$step), low = c(0, pmin(table$spent_P10, late)),
    high = c(0, pmax(table$spent_P10, late)), median = c(0, table$spent_P50), base = c(0, table$spent_base))
  spending <- data.frame(panel = panel(2), from = edges + 0.1 * width, to = table$step - 0.1 * width, middle = edges + 0.5 * width,
    low = pmin(table$P10, table[[plan]]), high = pmax(table$P10, table[[plan]]), median = table$P50, base = table$base)
  unit <- result$study$schedule$currency
  need <- peak_need(money)
  amount <- function(x) with_unit(format_decimals(x, output_decimals(result, "project_cost")), unit)
  share <- format_share(not_exceeded(readings$planning, readings$sense) / 100, 0)
  ends <- list(median = table$spent_P50[n], `base case` = table$spent_base[n], budget = table$budget[n])
  colours <- c(median = palette_ensayo$line, `base case` = palette_ensayo$accent, budget = palette_ensayo$ink)
  ends <- unlist(Filter(length, ends))
  list(spent = spent, spending = spending, axis = with_unit("Money", unit_in_brackets(unit)),
    budget = data.frame(panel = panel(rep(1, length(table$budget))), step = table$step[seq_along(table$budget)], value = as.double(table$budget)),
    labels = data.frame(panel = panel(1), step = table$step[n], text = names(ends), colour = unname(colours[names(ends)]),
      place = kept_apart(unname(ends), 0.1 * diff(range(0, spent$low, spent$high)))),
    title = paste0(if (need$total) sprintf("%s of runs spend at most %s", share, amount(need$plan)) else sprintf(
      "%s of runs need at most %s at a time, around %s%s", share, amount(need$plan), if (is.numeric(need$step)) "day " else "",
      step_words(need$step)),
      if (!is.null(table$budget)) sprintf("; %s exceed the budget%s", format_share(table$ever[n], 0), if (!need$total) " at some time" else "")),
    subtitle = sprintf("Band and thin lines: P10 to %s, of each date by itself. Bars: median. Dashed and diamonds: base case", plan))
}

#' @rdname plot_cash_flow
#' @param x,y Names of two outputs, bare or as text; the finish and the cost of the project when left out.
#' @param x_limit,y_limit What they should be at most: numbers, dates or texts of dates; the promised day and the budget of the schedule,
#'   or else planning percentiles, when left out.
#' @param most Whole number: the most points to draw.
#' @export
plot_joint <- function(result, x = "project_finish", y = "project_cost", x_limit = NULL, y_limit = NULL, most = 3000) {
  check_result(result)
  x <- resolve_single_output(rlang::enquo(x), result)
  y <- resolve_single_output(rlang::enquo(y), result)
  data <- joint_plot_data(result, x, y, x_limit, y_limit, check_count(most, at_least = 10))
  axis <- function(name, scale) quantity_scale(scale, axis_title(result$study, name), output_kind_of(result, name))
  ggplot2::ggplot(data$points, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$kept), alpha = if (nrow(data$points) > 500) 0.35 else 0.7, size = 1.3) +
    (if (nrow(data$limits) > 1) ggplot2::geom_step(data = data$limits, colour = palette_ensayo$ink, linewidth = 1.1, direction = "hv")) +
    ggplot2::geom_vline(xintercept = data$at$x, colour = palette_ensayo$ink, linetype = "42") +
    ggplot2::geom_hline(yintercept = data$at$y, colour = palette_ensayo$ink, linetype = "42") +
    ggplot2::geom_label(ggplot2::aes(label = .data$text, hjust = .data$hjust, vjust = .data$vjust), data$corners, size = 4.2, label.size = 0,
      fill = "#ffffffd0", colour = palette_ensayo$ink, fontface = "bold") +
    ggplot2::scale_colour_manual(values = c(`TRUE` = palette_ensayo$line, `FALSE` = palette_ensayo$lowers), guide = "none") +
    axis(x, ggplot2::scale_x_continuous) + axis(y, ggplot2::scale_y_continuous) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(result)) + theme_ensayo()
}

joint_plot_data <- function(result, x, y, x_limit, y_limit, most) {
  at <- joint_limits_given(result, c(x, y), list(x_limit = x_limit, y_limit = y_limit))
  chances <- unclass_table(joint_chances_of(result, at$conditions))$chance
  a <- as.double(values_of(result, x))
  b <- as.double(values_of(result, y))
  good <- which(is.finite(a) & is.finite(b))
  shown <- good[unique(round(seq(1, length(good), length.out = min(most, length(good)))))]
  corners <- data.frame(x = c(-Inf, Inf, -Inf, Inf), y = c(-Inf, -Inf, Inf, Inf), hjust = c(-0.05, 1.05, -0.05, 1.05),
    vjust = c(-0.4, -0.4, 1.4, 1.4), text = paste(format_share(c(chances[3], chances[2] - chances[3], chances[1] - chances[3], chances[4])),
      c("keep both", sprintf("keep only the %s", short_of(y)), sprintf("keep only the %s", short_of(x)), "keep neither")))
  said <- function(name, value, given) {
    kind <- output_kind_of(result, name)
    shown <- if (given && kind != "date") format_given(value) else format_value(value, kind, output_decimals(result, name))
    with_unit(shown, quantity_unit(result$study, name))
  }
  readings <- result$study$readings
  chance <- not_exceeded(readings$planning, readings$sense) / 100
  limits <- joint_limits_of(result, x, y, chance, 60)
  list(points = data.frame(x = a[shown], y = b[shown], kept = a[shown] <= at$limits[1] & b[shown] <= at$limits[2]),
    at = list(x = at$limits[1], y = at$limits[2]), corners = corners, limits = data.frame(x = as.double(limits$x), y = limits$y),
    title = sprintf("%s of runs keep both: %s by %s, %s of %s at most", format_share(chances[3]), lower_first(quantity_label(result$study, x)),
      said(x, at$limits[1], at$given[1]), lower_first(quantity_label(result$study, y)), said(y, at$limits[2], at$given[2])),
    subtitle = sprintf("Any pair of limits on the line is kept together in %s of runs", format_share(chance, 0)))
}

short_of <- function(name) switch(name, project_finish = "date", project_cost = "budget", name)
