# Conformity and joint regions as figures.

#' Conformity with limits, and the region of two results
#'
#' `plot_conformity()`: what is known of the item as a density with its limits; what lies outside is shaded, and so are guard bands.
#' `plot_region()`: two results together: the ellipse and the rectangle that hold both with the stated probability, and from runs the
#' smallest region.
#'
#' @inheritParams conformity
#' @return A ggplot object.
#' @section Errors: as for [conformity()] and [joint_budget()].
#' @examples
#' meter <- study("Meter") |>
#'   add_inputs(reading = law_observed(c(20.11, 20.04, 20.09, 20.13), of = "mean"),
#'     reference = law_measured(20.02, expanded = 0.06, k = 2)) |>
#'   add_outputs(error = output(100 * (reading / reference - 1), unit = "%", label = "Error"),
#'     sum = reading + reference)
#' plot_conformity(budget(meter, error), -1, 1, rule = "guarded")
#' plot_region(joint_budget(simulate(meter, 10000, 11)))
#' @export
plot_conformity <- function(x, lower = -Inf, upper = Inf, output, ..., prior = NULL, rule = NULL, risk = 0.05) {
  check_no_dots(..., .options = c("output", "prior", "rule", "risk"))
  limits <- check_tolerance(lower, upper)
  known <- known_item(x, rlang::enquo(output), prior)
  accepted <- accepted_of(known, limits, rule, risk)
  table <- conformity_of(known, limits, accepted)
  data <- conformity_plot_data(known, limits, table, accepted)
  ggplot2::ggplot() +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to), data$bands, ymin = -Inf, ymax = Inf, fill = palette_ensayo$lowers, alpha = 0.35) +
    data$layers +
    ggplot2::geom_vline(xintercept = data$limits, colour = palette_ensayo$ink, linewidth = 1) +
    ggplot2::geom_vline(xintercept = data$accepted, colour = palette_ensayo$ink, linetype = "42") +
    ggplot2::geom_vline(xintercept = table$value, colour = palette_ensayo$accent, linewidth = 0.9) +
    ggplot2::geom_label(ggplot2::aes(.data$value, .data$level, label = .data$text, hjust = .data$hjust), data$labels, size = 4, label.size = 0,
      fill = "#ffffffd0", colour = palette_ensayo$ink) +
    ggplot2::scale_x_continuous(data$axis, labels = axis_numbers) + ggplot2::scale_y_continuous("Density", labels = NULL, breaks = NULL) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = data$caption) + theme_ensayo()
}

conformity_plot_data <- function(known, limits, table, accepted) {
  study <- if (!is.null(known$budget)) known$budget$study else if (!is.null(known$result)) known$result$study
  name <- if (!is.null(known$budget)) known$budget$output else known$name
  label <- if (is.null(study)) "The item" else quantity_label(study, name)
  unit <- if (!is.null(study)) quantity_unit(study, name)
  spread <- known$value + c(-4.2, 4.2) * known$standard
  near <- c(limits, accepted$accept_from, accepted$accept_to)
  view <- range(spread, near[is.finite(near) & abs(near - known$value) < 12 * known$standard])
  view <- view + c(-0.04, 0.04) * diff(view)
  decimals <- decimals_for(known$standard, 2)
  number <- function(value) decimal_text(value, decimals)
  if (is.null(known$values)) {
    grid <- seq(view[1], view[2], length.out = 801)
    curve <- data.frame(value = grid, density = known$density(grid))
    top <- max(curve$density)
    outside <- list(curve[curve$value < limits[1], ], curve[curve$value > limits[2], ])
    layers <- c(lapply(Filter(nrow, outside), function(part) ggplot2::geom_area(ggplot2::aes(.data$value, .data$density), part, fill = palette_ensayo$accent)),
      list(ggplot2::geom_line(ggplot2::aes(.data$value, .data$density), curve, colour = palette_ensayo$line, linewidth = 1.2)))
  } else {
    breaks <- sort(unique(c(seq(view[1], view[2], length.out = 71), limits[limits > view[1] & limits < view[2]])))
    counts <- tabulate(findInterval(known$values, breaks, rightmost.closed = TRUE), length(breaks) - 1)
    bars <- data.frame(from = breaks[-length(breaks)], to = breaks[-1], density = counts / length(known$values) / diff(breaks))
    bars$out <- bars$to <= limits[1] | bars$from >= limits[2]
    top <- max(bars$density)
    layers <- list(ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$density, fill = .data$out), bars),
      ggplot2::scale_fill_manual(values = c(`FALSE` = palette_ensayo$fill, `TRUE` = palette_ensayo$accent), guide = "none"))
  }
  guards <- if (!is.null(accepted) && accepted$guard != 0) data.frame(from = c(limits[1], accepted$accept_to), to = c(accepted$accept_from, limits[2]))
  if (!is.null(guards)) {
    guards[] <- list(pmin(guards$from, guards$to), pmax(guards$from, guards$to))
    guards <- guards[is.finite(guards$from) & is.finite(guards$to) & guards$to > view[1] & guards$from < view[2], ]
  }
  labels <- data.frame(value = c(limits, known$value), level = top * c(1.04, 1.04, 1.13), hjust = c(0, 1, 0.5),
    text = c(sprintf("below: %s", format_share(table$below)), sprintf("above: %s", format_share(table$above)), sprintf("measured %s", number(table$value))))
  labels <- labels[is.finite(labels$value) & labels$value >= view[1] & labels$value <= view[2], ]
  inside <- if (!is.null(accepted)) setdiff(c(accepted$accept_from, accepted$accept_to), limits)
  seen <- function(x) x[x >= view[1] & x <= view[2]]
  list(layers = layers, bands = guards %||% data.frame(from = numeric(), to = numeric()), accepted = seen(inside), limits = seen(limits),
    labels = labels, axis = with_unit(label, unit_in_brackets(unit)),
    title = paste0(sprintf("%s lies %s with probability %s", label, limits_words(limits[1], limits[2], unit), format_share(table$conforms)),
      if (nzchar(table$decision)) sprintf(": %s", table$decision)),
    subtitle = paste0("Solid: limits", if (length(seen(limits)) < sum(is.finite(limits))) ", as far as they are near",
      if (!is.null(guards) && nrow(guards)) sprintf("; shaded: guard bands of %s", number(abs(accepted$guard)))),
    caption = if (!is.null(known$budget)) budget_caption(known$budget) else if (!is.null(known$result)) run_caption(known$result))
}

#' @rdname plot_conformity
#' @param joint What [joint_budget()] gives of two outputs.
#' @export
plot_region <- function(joint) {
  check_class(joint, "ensayo_joint", "what `joint_budget()` gives", "joint")
  if (length(joint$outputs) != 2) {
    stop_ensayo("argument", "`joint` must be of two outputs.", sprintf("It is of %d.", length(joint$outputs)),
      "Name them: `joint_budget(x, c(a, b))`.", argument = "joint")
  }
  data <- region_plot_data(joint)
  axis <- function(i) axis_title(joint$study, joint$outputs[i])
  ggplot2::ggplot() +
    (if (!is.null(joint$region)) ggplot2::geom_tile(ggplot2::aes(.data$x, .data$y, width = .data$width, height = .data$height), joint$region,
      fill = palette_ensayo$fill)) +
    (if (!is.null(joint$points)) ggplot2::geom_point(ggplot2::aes(.data$x, .data$y), data$points, colour = palette_ensayo$shade, size = 0.7, alpha = 0.5)) +
    ggplot2::geom_path(ggplot2::aes(.data$x, .data$y), data$ellipse, colour = palette_ensayo$line, linewidth = 1.2) +
    ggplot2::geom_path(ggplot2::aes(.data$x, .data$y), data$rectangle, colour = palette_ensayo$accent, linewidth = 0.9, linetype = "42") +
    ggplot2::geom_point(ggplot2::aes(.data$x, .data$y), data$middle, size = 3, colour = palette_ensayo$ink) +
    ggplot2::scale_x_continuous(axis(1), labels = axis_numbers) + ggplot2::scale_y_continuous(axis(2), labels = axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = sprintf("%s: %s", joint$study$title,
      if (joint$basis == "runs") "from runs" else "linear, by the law of propagation")) + theme_ensayo()
}

region_plot_data <- function(joint) {
  middle <- unname(joint$value)
  angle <- seq(0, 2 * pi, length.out = 241)
  root <- t(chol(joint$covariance + diag(1e-14 * diag(joint$covariance))))
  at <- joint$ellipse_factor * root %*% rbind(cos(angle), sin(angle))
  half <- joint$rectangle_factor * sqrt(diag(joint$covariance))
  points <- if (!is.null(joint$points)) {
    reach <- 2 * half
    near <- abs(joint$points[, 1] - middle[1]) < reach[1] & abs(joint$points[, 2] - middle[2]) < reach[2]
    data.frame(x = joint$points[near, 1], y = joint$points[near, 2])
  }
  r <- joint$correlation[1, 2]
  list(middle = data.frame(x = middle[1], y = middle[2]), points = points, ellipse = data.frame(x = middle[1] + at[1, ], y = middle[2] + at[2, ]),
    rectangle = data.frame(x = middle[1] + c(-1, 1, 1, -1, -1) * half[1], y = middle[2] + c(-1, -1, 1, 1, -1) * half[2]),
    title = if (abs(r) < 0.1) "The two results hardly go together" else sprintf("Where %s is high, %s is %s: correlation %s", joint$outputs[1],
      joint$outputs[2], if (r > 0) "high too" else "low", formatC(r, format = "f", digits = 2)),
    subtitle = sprintf("%s lie in the ellipse%s", format_share(joint$coverage, 0),
      if (is.null(joint$region)) " and in the rectangle (dashed)" else ", in the rectangle (dashed) and in the smallest region (shaded)"))
}
