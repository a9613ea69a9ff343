#' Run chart and convergence
#'
#' `plot_runs()` shows an output's value in each run against the run's number, with the limits that specs set: odd
#' runs stand out. `plot_convergence()` shows a statistic over the first runs, then over more and more of them, with
#' its interval.
#'
#' @inheritParams plot_distribution
#' @param most Whole number: the most points to draw; of more runs every second, third, ... is drawn, and the extremes.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_runs(res, velocity)
#' @export
plot_runs <- function(result, output, most = 5000) {
  check_result(result)
  name <- resolve_single_output(rlang::enquo(output), result)
  data <- runs_plot_data(result, name, check_count(most, at_least = 10))
  if (nrow(data$points) == 0) return(empty_plot(sprintf("%s: no good runs to show", data$label), run_caption(result)))
  ggplot2::ggplot(data$points, ggplot2::aes(.data$run, .data$value)) +
    ggplot2::geom_point(colour = palette_ensayo$line, alpha = if (nrow(data$points) > 1000) 0.35 else 0.7, size = 1.3) +
    ggplot2::geom_hline(ggplot2::aes(yintercept = .data$value), data$lines, colour = palette_ensayo$accent,
      linewidth = 0.8) +
    ggplot2::geom_label(ggplot2::aes(Inf, .data$value, label = .data$text), data$lines, hjust = 1.02, vjust = -0.15,
      size = 4, label.size = 0, fill = "#ffffffc0", colour = palette_ensayo$accent, fontface = "bold") +
    ggplot2::scale_x_continuous("Run",
      labels = function(x) format(x, big.mark = " ", scientific = FALSE, trim = TRUE)) +
    quantity_scale(ggplot2::scale_y_continuous, axis_title(result$study, name), data$kind) +
    ggplot2::labs(title = wrapped(data$title), caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo()
}

runs_plot_data <- function(result, name, most) {
  values <- values_of(result, name)
  kind <- output_kind_of(result, name)
  run <- run_numbers(result)
  good <- which(is.finite(values))
  step <- ceiling(length(good) / most)
  shown <- sort(unique(c(good[seq_along(good) %% step == 1 | step == 1], good[c(which.min(values[good]),
    which.max(values[good]))])))
  label <- quantity_label(result$study, name)
  unit <- quantity_unit(result$study, name)
  ends <- if (length(good)) vapply(format_value(range(values[good]), kind), with_unit, "", unit = unit)
  list(points = data.frame(run = run[shown], value = values[shown]), label = label, kind = kind,
    lines = limit_lines(result, name, kind) %||% data.frame(value = numeric(), text = character()),
    title = if (length(good)) sprintf("%s: from %s in run %s to %s in run %s", label, ends[1],
      format_given(run[good[which.min(values[good])]]), ends[2], format_given(run[good[which.max(values[good])]])),
    note = if (step > 1) sprintf("One run in %d is drawn, and the extremes.", step))
}

#' @rdname plot_runs
#' @inheritParams convergence_table
#' @export
plot_convergence <- function(result, output, statistic = "mean", points = 60, confidence = 0.95) {
  check_result(result)
  name <- resolve_single_output(rlang::enquo(output), result)
  table <- convergence_table(result, !!name, statistic, points, confidence)
  table <- table[is.finite(table$value), ]
  label <- quantity_label(result$study, name)
  if (nrow(table) == 0) return(empty_plot(sprintf("%s: no good runs to show", label), run_caption(result)))
  last <- table[nrow(table), ]
  half <- max(last$high - last$value, last$value - last$low)
  title <- if (is.finite(half)) with_unit(sprintf("%s of %s is known to about \u00b1 %s", upper_first(statistic),
    lower_first(label), format_number(half, 2)), if (last$kind == "date") "days" else last$unit)
    else sprintf("%s of %s is not bounded by %s", upper_first(statistic), lower_first(label),
      count_of(last$runs, "run"))
  ggplot2::ggplot(table, ggplot2::aes(.data$runs, .data$value)) +
    ggplot2::geom_ribbon(ggplot2::aes(ymin = ifelse(is.na(.data$low), -Inf, .data$low),
      ymax = ifelse(is.na(.data$high), Inf, .data$high)), fill = palette_ensayo$fill, alpha = 0.6) +
    (if (nrow(table) > 1) ggplot2::geom_line(colour = palette_ensayo$line, linewidth = 1)) +
    ggplot2::geom_point(data = last, colour = palette_ensayo$line, size = 3) +
    ggplot2::scale_x_log10("Number of runs", breaks = function(limits) Filter(function(at) at == round(at), scales::breaks_log()(limits)),
      labels = function(x) format(x, big.mark = " ", scientific = FALSE, trim = TRUE)) +
    quantity_scale(ggplot2::scale_y_continuous, axis_title(result$study, name), last$kind) +
    ggplot2::labs(title = wrapped(title), caption = run_caption(result), subtitle = sprintf(
      "%s over the first runs; shaded: its %s %% confidence interval, as of independent runs", upper_first(statistic),
      format(100 * confidence))) +
    theme_ensayo()
}
