#' Figures of a surrogate
#'
#' `plot_predictions()`: what held-out runs came to against what they were predicted to be. `plot_effects()`: how the output goes with
#' each input, with its 95 % band. `plot_input_parts()`: predictive R squared that is lost without each input. `plot_surface()`: the
#' output over two inputs, with the runs on it. `plot_failing()`: where the model fails, with the runs that did.
#'
#' @inheritParams surrogate_effects
#' @param most Whole number: how many inputs to show at most.
#' @return A ggplot object.
#' @section Errors: as for [surrogate_effects()]; `ensayo_error_argument` where there is nothing to draw.
#' @examples
#' slow <- function(slope, flow) {
#'   if (flow > 0.7 && slope < 0.9) stop("no convergence")
#'   60 - 40 * flow^1.85 / (slope + 0.2)
#' }
#' res <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9)) |>
#'   add_model(slow, outputs = "pressure") |>
#'   simulate(nsim = 60, seed = 11)
#' fast <- surrogate(res, kinds = "gaussian")
#' plot_predictions(fast)
#' plot_effects(fast)
#' plot_input_parts(fast)
#' plot_surface(fast, slope, flow)
#' plot_failing(fast, slope, flow)
#' @name plot_surrogate
NULL

#' @rdname plot_surrogate
#' @export
plot_predictions <- function(surrogate, output) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  runs <- surrogate_runs(surrogate)
  runs <- unclass_table(runs[runs$output == output, ])
  row <- summary(surrogate)
  row <- row[row$output == output, ]
  label <- quantity_label(surrogate$study, output)
  title <- function(what) with_unit(sprintf("%s, %s", label, what), unit_in_brackets(quantity_unit(surrogate$study, output)))
  ggplot2::ggplot(runs, ggplot2::aes(.data$predicted, .data$observed)) +
    ggplot2::geom_abline(colour = palette_ensayo$quiet, linetype = "42") +
    ggplot2::geom_segment(ggplot2::aes(x = .data$predicted - 1.96 * .data$error, xend = .data$predicted + 1.96 * .data$error, yend = .data$observed),
      colour = palette_ensayo$fill, linewidth = 0.7) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$missed, shape = .data$missed), size = 2.4) +
    ggplot2::scale_colour_manual(NULL, values = c(`FALSE` = palette_ensayo$line, `TRUE` = palette_ensayo$accent), guide = "none") +
    ggplot2::scale_shape_manual(NULL, values = c(`FALSE` = 16, `TRUE` = 17), guide = "none") +
    ggplot2::scale_x_continuous(title("predicted without the run"), labels = axis_numbers) +
    ggplot2::scale_y_continuous(title("as it came"), labels = axis_numbers) +
    ggplot2::labs(title = wrapped(if (is.finite(row$r_squared)) sprintf("The surrogate predicts %s of the variance of runs that it was not fitted to",
      known_share(row$r_squared)) else sprintf("%s has the same value in every run", label)),
      subtitle = sprintf("Bars: 95 %% of the prediction's error; %s outside their own (triangles)", runs_of(sum(runs$missed), nrow(runs))),
      caption = surrogate_caption(surrogate)) + theme_ensayo()
}

runs_of <- function(n, all) sprintf("%s of %s", format_given(n), count_of(all, "run"))

surrogate_caption <- function(surrogate) {
  p <- surrogate$provenance
  added <- sum(!surrogate$taught$designed)
  sprintf("%s: surrogate of %s%s, %s, seed %s", surrogate$study$title, count_of(length(surrogate$taught$failed), "run"),
    if (added) sprintf(" (%s added)", format_given(added)) else "", design_words[[p$design]], format_given(p$seed))
}

#' @rdname plot_surrogate
#' @export
plot_effects <- function(surrogate, output, most = 9) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  effects <- unclass_table(surrogate_effects(surrogate, !!output))
  if (nrow(effects) == 0) stop_ensayo("argument", "An input must have an effect.", "None can be seen in these runs.")
  inputs <- unique(effects$input)
  shown <- utils::head(inputs, check_count(most))
  effects <- effects[effects$input %in% shown, ]
  titles <- vapply(shown, function(name) axis_title(surrogate$study, name), "")
  effects$panel <- factor(titles[effects$input], titles)
  label <- quantity_label(surrogate$study, output)
  first <- effects[effects$input == shown[1], ]
  wide <- max(first$effect) - min(first$effect)
  text <- effects[nzchar(effects$level), ]
  ggplot2::ggplot(effects, ggplot2::aes(.data$value, .data$effect)) +
    ggplot2::geom_ribbon(ggplot2::aes(ymin = .data$low, ymax = .data$high), fill = palette_ensayo$fill, alpha = 0.7) +
    ggplot2::geom_line(colour = palette_ensayo$line, linewidth = 1.1) +
    (if (nrow(text)) ggplot2::geom_label(ggplot2::aes(label = .data$level), text, size = 3.4, colour = palette_ensayo$ink)) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free_x", labeller = ggplot2::label_wrap_gen(30)) + ggplot2::scale_x_continuous(NULL, labels = axis_numbers) +
    ggplot2::scale_y_continuous(axis_title(surrogate$study, output), labels = axis_numbers) +
    ggplot2::labs(title = wrapped(sprintf("%s goes most with %s: by %s on the average", label, lower_first(quantity_label(surrogate$study, shown[1])),
      with_unit(decimal_text(wide, decimals_for(wide, 2)), quantity_unit(surrogate$study, output)))),
      subtitle = paste0("Mean over the other inputs, with its 95 % band", if (length(inputs) > length(shown)) sprintf("; %s not shown",
        count_of(length(inputs) - length(shown), "more input"))), caption = surrogate_caption(surrogate)) + theme_ensayo() +
    ggplot2::theme(panel.spacing = ggplot2::unit(1.6, "lines"), strip.text = ggplot2::element_text(hjust = 0, size = ggplot2::rel(1.05)))
}

#' @rdname plot_surrogate
#' @export
plot_input_parts <- function(surrogate, output, most = 15) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  parts <- surrogate_inputs(surrogate)
  parts <- unclass_table(parts[parts$output == output & is.finite(parts$part), ])
  if (nrow(parts) == 0) stop_ensayo("argument", "The output must vary.", "It has the same value in every run.")
  shown <- utils::head(parts, check_count(most))
  shown$name <- factor(shown$input, rev(shown$input))
  idle <- sum(parts$idle)
  ggplot2::ggplot(shown, ggplot2::aes(.data$part, .data$name, fill = .data$idle)) + ggplot2::geom_col(width = 0.7) +
    ggplot2::geom_errorbar(ggplot2::aes(xmin = .data$low, xmax = .data$high), width = 0.25, colour = palette_ensayo$ink, orientation = "y") +
    ggplot2::scale_fill_manual(NULL, values = c(`FALSE` = palette_ensayo$line, `TRUE` = palette_ensayo$noise), guide = "none") +
    ggplot2::scale_x_continuous("Predictive R squared lost without it", labels = function(x) format_share(x, 0)) +
    ggplot2::labs(title = wrapped(if (all(parts$idle)) "No input can be told from an idle one" else sprintf("Without `%s` the surrogate of %s would know %s less",
      parts$input[1], lower_first(quantity_label(surrogate$study, output)), format_share(parts$part[1], 0))),
      subtitle = paste0("With 99 % intervals", if (idle) sprintf("; %s idle (light)", count_of(idle, "input")),
        if (nrow(parts) > nrow(shown)) sprintf("; %s not shown", count_of(nrow(parts) - nrow(shown), "smaller one"))),
      y = NULL, caption = surrogate_caption(surrogate)) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

#' @rdname plot_surrogate
#' @export
plot_surface <- function(surrogate, x, y, output, at = list()) {
  check_surrogate(surrogate)
  output <- surrogate_output(surrogate, rlang::enquo(output))
  surface <- unclass_table(surrogate_surface(surrogate, {{ x }}, {{ y }}, !!output, at))
  names <- names(surface)[1:2]
  data <- surface_plot_data(surrogate, surface, names, output, at)
  ggplot2::ggplot(data$surface, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_tile(ggplot2::aes(fill = .data$value)) +
    ggplot2::geom_contour(ggplot2::aes(z = .data$value), colour = "white", breaks = data$breaks, linewidth = 0.5) +
    ggplot2::geom_tile(data = data$beyond, fill = "white", alpha = 0.6) +
    ggplot2::geom_point(data = data$runs, shape = 21, fill = palette_ensayo$accent, colour = "white", size = 2.2) +
    ggplot2::geom_label(ggplot2::aes(label = .data$text), data$labels, size = 3.6, label.size = 0, fill = "#ffffffc0", colour = palette_ensayo$ink) +
    ggplot2::scale_fill_gradient(axis_title(surrogate$study, output), low = "#e6eff1", high = "#0d4a60", labels = axis_numbers) +
    ggplot2::scale_x_continuous(axis_title(surrogate$study, names[1]), labels = axis_numbers, expand = c(0, 0)) +
    ggplot2::scale_y_continuous(axis_title(surrogate$study, names[2]), labels = axis_numbers, expand = c(0, 0)) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = surrogate_caption(surrogate)) + theme_ensayo() +
    ggplot2::guides(fill = ggplot2::guide_colourbar(barwidth = 14, barheight = 0.8, title.vjust = 0.9))
}

surface_plot_data <- function(surrogate, surface, names, output, at) {
  study <- surrogate$study
  grid <- data.frame(x = surface[[names[1]]], y = surface[[names[2]]], value = surface$value)
  breaks <- pretty(range(grid$value), 8)
  breaks <- breaks[breaks > min(grid$value) & breaks < max(grid$value)]
  held <- held_inputs_words(surrogate, surrogate$data$outputs[[output]]$found$parts, names, at)
  hidden <- surface$outside | surface$failing > 0.5
  outside <- mean(hidden)
  label <- function(name) lower_first(quantity_label(study, name))
  list(surface = grid, breaks = breaks, beyond = grid[hidden, ], labels = contour_labels(grid, breaks),
    runs = data.frame(x = surrogate$taught$columns[[names[1]]], y = surrogate$taught$columns[[names[2]]])[surrogate$data$outputs[[output]]$rows, ],
    title = sprintf("%s over %s and %s: from %s to %s", quantity_label(study, output), label(names[1]), label(names[2]),
      format_number(min(grid$value), 3), with_unit(format_number(max(grid$value), 3), quantity_unit(study, output))),
    subtitle = wrapped(paste0(held, "Points: the runs it was fitted to, wherever the others were.",
      if (outside > 0) " Pale: outside them, or failing."), 100))
}

# "Others held: speed = 1050 m/s and air = 0.1 %. ": inputs that are not idle, besides those of the axes.
held_inputs_words <- function(surrogate, parts, axes, at) {
  others <- setdiff(parts$input[!parts$idle], axes)
  if (length(others) == 0) return("")
  words <- vapply(others, function(name) {
    value <- at[[name]] %||% base_values(surrogate$study)[[name]]
    with_unit(sprintf("%s = %s", name, if (is.numeric(value)) format_number(value, 3) else value), quantity_unit(surrogate$study, name))
  }, "")
  sprintf("Others held: %s. ", few_listed(words))
}

# A label on each contour, where it passes nearest to the middle.
contour_labels <- function(grid, breaks) {
  if (length(breaks) == 0) return(data.frame(x = numeric(), y = numeric(), text = character()))
  scaled <- function(x) (x - mean(range(x))) / diff(range(x))
  far <- scaled(grid$x)^2 + scaled(grid$y)^2
  step <- if (length(breaks) > 1) breaks[2] - breaks[1] else diff(range(grid$value))
  rows <- unlist(lapply(breaks, function(level) {
    near <- abs(grid$value - level) < 0.12 * step & far < 0.2
    if (any(near)) which(near)[which.min(far[near])] else NA
  }))
  kept <- !is.na(rows)
  data.frame(x = grid$x[rows[kept]], y = grid$y[rows[kept]], text = format_number(breaks[kept], 4))
}

#' @rdname plot_surrogate
#' @export
plot_failing <- function(surrogate, x, y, at = list()) {
  check_surrogate(surrogate)
  if (is.null(surrogate$data$failing)) {
    stop_ensayo("argument", "It must be known where runs fail.", if (any(surrogate$taught$failed)) "Too few of these runs fail, or nowhere in particular."
      else "None of these runs failed.")
  }
  surface <- unclass_table(surrogate_surface(surrogate, {{ x }}, {{ y }}, !!surrogate$outputs[1], at))
  names <- names(surface)[1:2]
  grid <- data.frame(x = surface[[names[1]]], y = surface[[names[2]]], failing = surface$failing)
  failed <- surrogate$taught$failed
  runs <- data.frame(x = surrogate$taught$columns[[names[1]]], y = surrogate$taught$columns[[names[2]]], what = ifelse(failed, "failed", "good"))
  told <- surrogate$data$failing$found$parts
  ggplot2::ggplot(grid, ggplot2::aes(.data$x, .data$y)) + ggplot2::geom_tile(ggplot2::aes(fill = .data$failing)) +
    ggplot2::geom_contour(ggplot2::aes(z = .data$failing), breaks = 0.5, colour = palette_ensayo$ink, linewidth = 0.9) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$what, colour = .data$what), runs, size = 2.6) +
    ggplot2::scale_fill_gradient("Chance to fail", low = "#f4f1ea", high = "#e0a458", limits = c(0, 1), labels = function(x) format_share(x, 0),
      guide = ggplot2::guide_colourbar(barwidth = 14, barheight = 0.8, title.vjust = 0.9)) +
    ggplot2::scale_shape_manual(NULL, values = c(failed = 4, good = 16)) +
    ggplot2::scale_colour_manual(NULL, values = c(failed = palette_ensayo$accent, good = palette_ensayo$line)) +
    ggplot2::scale_x_continuous(axis_title(surrogate$study, names[1]), labels = axis_numbers, expand = c(0, 0)) +
    ggplot2::scale_y_continuous(axis_title(surrogate$study, names[2]), labels = axis_numbers, expand = c(0, 0)) +
    ggplot2::labs(title = wrapped(sprintf("%s failed, told %s", upper_first(runs_of(sum(failed), length(failed))), failing_inputs(told))),
      subtitle = wrapped(paste0(held_inputs_words(surrogate, told, names, at), "Line: as likely to fail as not."), 100), caption = surrogate_caption(surrogate)) + theme_ensayo()
}
