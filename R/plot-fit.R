#' Pictures of a fit
#'
#' The density over the data's histogram, and how the data's percentiles (Q-Q) and probabilities (P-P) lie against the
#' law's: points along the line are a good fit.
#'
#' @param fit A fit, made by [fit_law()].
#' @param families Names of fitted laws, at most three; the first of the table when `NULL`.
#' @param unit Text or `NULL`: the unit, for the axis.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_argument` for a law that was not fitted.
#' @examples
#' fit <- fit_law(c(4.1, 5.2, 6.1, 4.8, 9.3, 7.2, 5.6, 4.5), c("lognormal", "gamma"))
#' plot_fit(fit)
#' @export
plot_fit <- function(fit, families = NULL, unit = NULL) {
  check_class(fit, "ensayo_fit", "a fit", mend = "Fits are made by `fit_law()`.")
  families <- families %||% fit$table$law[1]
  for (family in families) check_choice(family, names(fit$fits), "families")
  if (length(families) > 3) stop_argument("families", "at most three laws", families)
  check_string(unit, null = TRUE)
  data <- fit_plot_data(fit, families)
  look <- law_looks(families)
  ggplot2::ggplot(mapping = ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$y), data$bars,
      fill = palette_ensayo$fill, colour = "white") +
    ggplot2::geom_line(ggplot2::aes(colour = .data$law, linetype = .data$law), data$curve, linewidth = 0.9) +
    ggplot2::geom_abline(ggplot2::aes(slope = 1, intercept = 0), data$line, colour = palette_ensayo$quiet,
      linewidth = 0.6) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$law, shape = .data$law), data$points, size = 1.8, alpha = 0.7) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free") +
    ggplot2::scale_colour_manual(NULL, values = look$colour, limits = families) +
    ggplot2::scale_linetype_manual(NULL, values = look$linetype, limits = families) +
    ggplot2::scale_shape_manual(NULL, values = stats::setNames(c(16, 17, 4)[seq_along(families)], families),
      limits = families) +
    ggplot2::scale_x_continuous(NULL, labels = axis_numbers) +
      ggplot2::scale_y_continuous(NULL, labels = axis_numbers) +
    ggplot2::labs(title = wrapped(fit_title(fit, families), 84),
      subtitle = paste0("Points on the line: data and law agree",
      if (!is.null(unit)) sprintf(". Values in %s", unit)), caption = paste(sub("[.]$", "", c(count_of(length(fit$data) + length(fit$below),
        "observation"), fit$warnings)), collapse = ". ")) +
    theme_ensayo() +
    ggplot2::theme(legend.position = if (length(families) > 1) "top" else "none",
      strip.text = ggplot2::element_text(hjust = 0, face = "bold"))
}

fit_title <- function(fit, families) {
  row <- fit$table[match(families[1], fit$table$law), ]
  place <- match(families[1], fit$table$law[fit$table$kind == row$kind])
  lead <- if (place == 1) sprintf("The %s law is nearest to the data", families[1]) else
    sprintf("The %s law is number %d of %d", families[1], place, sum(fit$table$kind == row$kind))
  sprintf("%s (AIC %s)", lead, formatC(row$aic, format = "f", digits = 1))
}

fit_plot_data <- function(fit, families) {
  panels <- c("Density over histogram", "Q-Q: data against law's percentiles",
    "P-P: data against law's shares")
  data <- sort(fit$data)
  n <- length(data)
  shares <- empirical_shares(data, fit$below)
  classes <- grDevices::nclass.FD(data)
  breaks <- seq(data[1], data[n], length.out = min(max(classes, 5), 60) + 1)
  count <- tabulate(findInterval(data, breaks, rightmost.closed = TRUE), length(breaks) - 1)
  of_panel <- function(table, i) cbind(table, panel = factor(panels[i], panels))
  ranks <- if (n > 500) unique(round(seq(1, n, length.out = 500))) else seq_len(n)
  x <- seq(data[1], data[n], length.out = 301)
  by_law <- function(f) do.call(rbind,
    lapply(families, function(family) cbind(f(fitted_law(fit, family)), law = family)))
  list(
    bars = of_panel(data.frame(from = breaks[-length(breaks)], to = breaks[-1], x = breaks[-1],
      y = count / (n + length(fit$below)) / diff(breaks)), 1),
    curve = of_panel(by_law(function(law) {
      at <- if (is_discrete(law)) seq(ceiling(data[1]), data[n]) else x
      density <- density_at(law, at)
      data.frame(x = at, y = ifelse(is.finite(density), density, NA))
    }), 1),
    points = rbind(
      of_panel(by_law(function(law) data.frame(x = quantile(law, shares[ranks]), y = data[ranks])), 2),
      of_panel(by_law(function(law) data.frame(x = cumulative(law, data[ranks]), y = shares[ranks])), 3)),
    line = rbind(of_panel(data.frame(x = 0), 2), of_panel(data.frame(x = 0), 3))
  )
}
