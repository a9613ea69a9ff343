#' Picture of variance indices
#'
#' First-order and total index of each input (or group) with their confidence intervals, the strongest on top. The
#' distance between the two is what the input does through others.
#'
#' @param indices What [variance_indices()] gives.
#' @param output Name of an output of the table, bare or as text; may be left out where there is one only.
#' @param most Whole number: the most inputs to show.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for another table.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' plot_indices(variance_indices(main, nsim = 500, seed = 11))
#' @export
plot_indices <- function(indices, output = NULL, most = 15) {
  if (!is.data.frame(indices) || !all(c("measure", "value", "error", "model_runs") %in% names(indices))) {
    stop_argument("indices", "what `variance_indices()` gives", indices)
  }
  output <- resolve_of_table(rlang::enquo(output), indices$output)
  rows <- unclass_table(indices)[indices$output == output & indices$measure %in% c("first_order", "total"), ]
  rows <- rows[is.finite(rows$value), ]
  if (nrow(rows) == 0) return(empty_plot(sprintf("%s does not vary", output), NULL))
  total <- rows[rows$measure == "total", ]
  shown <- utils::head(total$input[order(-total$value)], check_count(most))
  rows <- rows[rows$input %in% shown, ]
  rows$label <- factor(rows$input, rev(shown))
  first <- rows[rows$measure == "first_order", ]
  alone <- sum(first$value)
  top <- first[which.max(first$value), ]
  dodge <- ggplot2::position_dodge(width = 0.5)
  ggplot2::ggplot(rows, ggplot2::aes(.data$value, .data$label, colour = .data$measure, shape = .data$measure)) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$ink) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$low, xmax = .data$high), position = dodge, linewidth = 1) +
    ggplot2::geom_point(position = dodge, size = 3.4) +
    ggplot2::scale_colour_manual(NULL, values = c(first_order = palette_ensayo$line, total = palette_ensayo$accent),
      labels = c(first_order = "first order: alone", total = "total: with what it does through others")) +
    ggplot2::scale_shape_manual(NULL, values = c(first_order = 16, total = 17),
      labels = c(first_order = "first order: alone", total = "total: with what it does through others")) +
    ggplot2::scale_x_continuous("Share of the output's variance", labels = scales::label_percent(suffix = " %")) +
    ggplot2::labs(title = wrapped(sprintf("%s: inputs alone explain %s of the variance, %s most (%s)", output,
      format_share(min(max(alone, 0), 1), 0), top$input, format_share(max(top$value, 0), 0))), y = NULL,
      caption = sprintf("%s of the model; lines: confidence intervals", count_of(rows$model_runs[1], "run"))) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}
