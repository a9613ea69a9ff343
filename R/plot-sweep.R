#' Picture of a swept input
#'
#' A figure against the values of the input, with its confidence interval; and where it just meets a target.
#'
#' @inheritParams sweep_input
#' @param statistic Texts: one figure or several of the same unit, as in the column `statistic`.
#' @param target A number or `NULL`.
#' @return A ggplot object.
#' @section Errors: as in [sweep_input()].
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048), diameter = 0.25) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' sweep <- sweep_input(main, diameter = seq(0.2, 0.3, 0.02), .nsim = 500, .seed = 11)
#' plot_sweep(sweep, "velocity", c("P10", "P50", "P90"), target = 0.8)
#' @export
plot_sweep <- function(sweep, about, statistic = "mean", target = NULL) {
  check_string(about)
  parts <- lapply(statistic, function(one) swept(sweep, about, one))
  rows <- do.call(rbind, parts)
  rows$statistic <- factor(rows$statistic, statistic)
  share <- all(rows$statistic == "pass rate")
  number <- if (share) format_share else format_number
  met <- if (!is.null(target)) do.call(rbind, lapply(statistic, function(one) value_where(sweep, about, one, target)))
  input <- rows$input[1]
  what <- sprintf("%s of %s", upper_first(and_list(statistic)), about)
  title <- if (is.null(target)) {
    first <- parts[[1]]
    sprintf("%s of %s: from %s at %s %s to %s at %s", upper_first(statistic[1]), about, number(first$figure[1]), input,
      format_number(first$value[1]), number(utils::tail(first$figure, 1)), format_number(utils::tail(first$value, 1)))
  } else if (nrow(met) == 0) sprintf("%s does not cross %s on this grid", what, number(target))
    else sprintf("%s of %s is %s where %s is %s", upper_first(met$statistic[1]), about, number(target), input,
      format_number(met$value[1]))
  ggplot2::ggplot(rows, ggplot2::aes(.data$value, .data$figure)) +
    ggplot2::geom_ribbon(ggplot2::aes(ymin = .data$low, ymax = .data$high, group = .data$statistic),
      fill = palette_ensayo$fill, alpha = 0.5) +
    ggplot2::geom_line(ggplot2::aes(colour = .data$statistic, linetype = .data$statistic), linewidth = 1) +
    (if (!is.null(target)) ggplot2::geom_hline(yintercept = target, colour = palette_ensayo$accent, linewidth = 0.8)) +
    (if (!is.null(met) && nrow(met)) ggplot2::geom_vline(xintercept = met$value, colour = palette_ensayo$accent,
      linetype = "42")) +
    side_scales(statistic) + (if (length(statistic) == 1) ggplot2::theme(legend.position = "none")) +
    ggplot2::scale_x_continuous(input, labels = axis_numbers) +
    ggplot2::scale_y_continuous(with_unit(what, unit_in_brackets(rows$unit[1])),
      labels = if (share) scales::label_percent(suffix = " %") else axis_numbers) +
    ggplot2::labs(title = wrapped(title), subtitle = "Shaded: 95 % confidence interval, for lack of runs") +
    theme_ensayo()
}
