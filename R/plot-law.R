#' Pictures of laws
#'
#' `plot_law()` draws density and cumulative probability of one law, or of several for comparison. `plot()` of a law
#' is the same.
#'
#' @param ... Laws of numbers; names become labels. Also a list of laws.
#' @param percentiles Numbers above 0 and below 100: marked on the curves.
#' @param unit Text or `NULL`: the unit, for the axis.
#' @return A ggplot object. `plot()` draws it and returns it invisibly.
#' @section Errors: `ensayo_error_argument` where something is not a law of numbers, or there are more than six.
#' @examples
#' plot_law(law_pert(28, 34, 48), unit = "L/s")
#' plot_law(pert = law_pert(28, 34, 48), triangular = law_triangular(28, 34, 48))
#' @export
plot_law <- function(..., percentiles = c(10, 50, 90), unit = NULL) {
  laws <- check_laws_to_draw(rlang::dots_list(..., .named = NULL))
  percentiles <- check_percentiles(percentiles)
  check_string(unit, null = TRUE)
  data <- laws_plot_data(laws, percentiles)
  several <- length(laws) > 1
  look <- law_looks(names(laws))
  curve <- data$curve
  bars <- curve[curve$discrete & curve$panel == "Density", ]
  lines <- curve[!(curve$discrete & curve$panel == "Density"), ]
  figure <- ggplot2::ggplot(lines, ggplot2::aes(.data$value, .data$height, colour = .data$law, linetype = .data$law))
  if (!several) {
    figure <- figure + ggplot2::geom_ribbon(ggplot2::aes(ymin = 0, ymax = .data$height),
      lines[lines$panel == "Density", ], fill = palette_ensayo$fill, colour = NA)
  }
  if (nrow(bars)) {
    figure <- figure + ggplot2::geom_segment(ggplot2::aes(xend = .data$value, yend = 0), bars,
      linewidth = if (several) 1.2 else 2.5, alpha = 0.8)
  }
  figure +
    ggplot2::geom_line(linewidth = 0.9) +
    ggplot2::geom_point(data = data$markers, size = 2.4, show.legend = FALSE) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text), data$labels, colour = palette_ensayo$ink, size = 4,
      hjust = -0.12,
      vjust = 1.2, show.legend = FALSE) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), ncol = 1, scales = "free_y") +
    ggplot2::scale_colour_manual(NULL, values = look$colour) +
    ggplot2::scale_linetype_manual(NULL, values = look$linetype) +
    ggplot2::scale_x_continuous(with_unit("Value", unit_in_brackets(unit)), labels = axis_numbers) +
    ggplot2::scale_y_continuous(NULL, labels = axis_numbers, expand = ggplot2::expansion(c(0, 0.08))) +
    ggplot2::labs(title = wrapped(laws_title(laws, percentiles, unit), 84),
      subtitle = sprintf("%s: values not exceeded with that chance in per cent",
        paste0("P", percentiles, collapse = ", "))) +
    theme_ensayo() +
    ggplot2::theme(legend.position = if (several) "top" else "none",
      strip.text = ggplot2::element_text(hjust = 0, face = "bold"))
}

#' @rdname plot_law
#' @param x A law of numbers.
#' @export
plot.ensayo_law <- function(x, ...) {
  check_no_dots(..., .options = character())
  figure <- plot_law(x)
  print(figure)
  invisible(figure)
}

check_laws_to_draw <- function(given, call = rlang::caller_env()) {
  if (length(given) == 1 && is.list(given[[1]]) && !is.object(given[[1]])) given <- given[[1]]
  if (length(given) == 0 || length(given) > 6) {
    stop_ensayo("argument", "A picture shows one to six laws.", sprintf("You gave %d.", length(given)),
      argument = "...", call = call)
  }
  for (law in given) {
    check_plain_law(law, "...", call)
    if (is_categorical(law)) stop_argument("...", "laws of numbers", "a law of categories", call = call)
  }
  named <- names(given) %||% rep("", length(given))
  names(given) <- make.unique(ifelse(nzchar(named), named, vapply(given, format, "")), sep = " ")
  given
}

# Colours that differ in lightness, and line types, so that grey prints tell them apart.
law_looks <- function(names) {
  colours <- c("#0d5c75", "#c2571a", "#7a9a3a", "#5b3a6e", "#22313a", "#b58a00")
  list(colour = stats::setNames(colours[seq_along(names)], names),
    linetype = stats::setNames(c("solid", "longdash", "dotdash", "dotted", "twodash", "dashed")[seq_along(names)],
      names))
}

laws_title <- function(laws, percentiles, unit) {
  ends <- percentiles[c(1, length(percentiles))]
  range_of <- function(law) {
    x <- format_number(quantile(law, ends / 100))
    if (ends[1] == ends[2]) x[1] else paste(x[1], "to", x[2])
  }
  span <- paste0("P", unique(ends), collapse = " to ")
  if (length(laws) == 1) return(sprintf("%s has %s at %s", format(laws[[1]]), span,
    with_unit(range_of(laws[[1]]), unit)))
  sprintf("%s: %s", with_unit(span, unit_in_brackets(unit)),
    paste(names(laws), vapply(laws, range_of, ""), collapse = ", "))
}

# The curves of several laws over one range: law, panel, value, height, discrete; and their percentiles.
laws_plot_data <- function(laws, percentiles, points = 301) {
  panels <- c("Density", "Cumulative probability")
  ends <- lapply(laws, law_range)
  ends <- c(min(vapply(ends, min, 0)), max(vapply(ends, max, 0)))
  curves <- lapply(names(laws), function(name) {
    law <- laws[[name]]
    own <- law_plot_data(law, points)$curve
    grid <- seq(ends[1], ends[2], length.out = points)
    steps <- if (is_discrete(law)) sort(c(own$value, own$value - 1e-9 * diff(ends),
      ends)) else sort(unique(c(own$value, grid)))
    data.frame(law = name, panel = rep(panels, c(nrow(own), length(steps))), value = c(own$value, steps),
      height = c(own$density, cumulative(law, steps)), discrete = is_discrete(law))
  })
  curve <- do.call(rbind, curves)
  markers <- do.call(rbind, lapply(names(laws), function(name) {
    at <- quantile(laws[[name]], percentiles / 100)
    data.frame(law = name, panel = panels[2], value = at, height = cumulative(laws[[name]], at),
      percentile = percentiles,
      text = sprintf("P%s  %s", percentiles, format_number(at)))
  }))
  as_panel <- function(table) {
    table$panel <- factor(table$panel, panels)
    table$law <- factor(table$law, names(laws))
    table
  }
  list(curve = as_panel(curve), markers = as_panel(markers),
    labels = as_panel(if (length(laws) == 1) markers else markers[0, ]))
}

# From where to where a law is drawn: to its ends where it comes near them; a lognormal's zero may lie far off.
law_range <- function(law) {
  ends <- quantile(law, c(0.001, 0.999))
  limits <- unname(support(law))
  near <- is.finite(limits) & abs(limits - ends) <= 0.2 * diff(ends)
  ends <- ifelse(near, limits, ends)
  # too narrow to be drawn to scale
  if (diff(ends) < 1e-290) ends + c(-0.5, 0.5) else ends
}

# Density of a continuous law, or masses of a discrete one: value, density; and markers at P10, P50, P90.
law_plot_data <- function(law, points = 301) {
  ends <- law_range(law)
  if (is_discrete(law)) {
    value <- unique(quantile(law, seq(0.0005, 0.9995, length.out = 2000)))
  } else {
    value <- sort(unique(c(seq(ends[1], ends[2], length.out = points), mode_parameter(law))))
  }
  density <- density_at(law, value)
  # where it is infinite, as high as its neighbours
  density[is.infinite(density)] <- max(density[is.finite(density)], 0)
  list(curve = data.frame(value = value, density = density))
}
