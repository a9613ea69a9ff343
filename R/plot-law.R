#' Picture of a law
#'
#' @param x A law.
#' @param ... Not used; anything here is an error.
#' @return The picture is drawn; the ggplot object is returned invisibly.
#' @examples
#' plot(law_pert(28, 34, 48))
#' @export
plot.ensayo_law <- function(x, ...) {
  check_no_dots(..., .options = character())
  data <- law_plot_data(x)
  figure <- ggplot2::ggplot(data$curve, ggplot2::aes(.data$value, .data$density)) +
    ggplot2::geom_area(fill = palette_ensayo$fill) +
    ggplot2::geom_line(colour = palette_ensayo$line, linewidth = 0.9) +
    ggplot2::geom_segment(ggplot2::aes(xend = .data$value, yend = 0), data$markers, colour = palette_ensayo$ink) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text), data$markers, vjust = -0.6, size = 4,
      colour = palette_ensayo$ink) +
    ggplot2::scale_x_continuous(NULL, labels = format_number) +
    ggplot2::scale_y_continuous("Density", expand = ggplot2::expansion(c(0, 0.12))) +
    ggplot2::labs(title = format(x), subtitle = "P10, P50 and P90 are not exceeded with 10, 50 and 90 % chance") +
    theme_ensayo()
  print(figure)
  invisible(figure)
}

law_plot_data <- function(law, points = 301) {
  ends <- quantile(law, c(0.001, 0.999))
  limits <- support(law)
  # a limit is shown where the law comes near it; a lognormal's zero may lie far off
  near <- is.finite(limits) & abs(limits - ends) <= 0.2 * diff(ends)
  ends <- ifelse(near, limits, ends)
  value <- sort(unique(c(seq(ends[1], ends[2], length.out = points), mode_parameter(law))))
  percentiles <- c(10, 50, 90)
  at <- quantile(law, percentiles / 100)
  list(
    curve = data.frame(value = value, density = density_at(law, value)),
    markers = data.frame(value = at, density = density_at(law, at),
      text = sprintf("P%d  %s", percentiles, format_number(at)))
  )
}
