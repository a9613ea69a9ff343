#' Worth of knowing, as a figure
#'
#' Bars of what it is worth to know each input before deciding, and half of its spread, with their intervals; everything together stands
#' at the top.
#'
#' @param worth What [worth_of_knowing()] gives.
#' @param most Whole number: how many inputs to show at most.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_argument` where `worth` is no such table.
#' @examples
#' res <- study("Line or replace") |>
#'   add_inputs(lining = law_normal(10, 6), trench = law_normal(9, 2)) |>
#'   add_outputs(line = 15 + lining, replace = 17 + trench) |>
#'   simulate(nsim = 2000, seed = 11)
#' plot_worth(worth_of_knowing(res, c(line, replace), better = "low"))
#' @export
plot_worth <- function(worth, most = 15) {
  needed <- c("about", "worth", "halved", "noise", "unit")
  if (!is.data.frame(worth) || !all(needed %in% names(worth))) stop_argument("worth", "what `worth_of_knowing()` gives", worth)
  data <- worth_plot_data(worth, check_count(most))
  ggplot2::ggplot(data$bars, ggplot2::aes(.data$worth, .data$about, fill = .data$what)) +
    ggplot2::geom_col(position = ggplot2::position_dodge(width = 0.8, preserve = "single"), width = 0.74) +
    ggplot2::geom_errorbar(ggplot2::aes(xmin = .data$low, xmax = .data$high),
      position = ggplot2::position_dodge(width = 0.8, preserve = "single"), width = 0.25,
      colour = palette_ensayo$ink, orientation = "y") +
    ggplot2::scale_fill_manual(NULL, values = stats::setNames(c(palette_ensayo$fill, palette_ensayo$line), levels(data$bars$what)),
      breaks = rev(levels(data$bars$what))) +
    ggplot2::scale_x_continuous(data$axis, labels = axis_numbers) + ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

worth_plot_data <- function(worth, most) {
  rows <- utils::head(unclass_table(worth), most + 1)
  hidden <- nrow(worth) - nrow(rows)
  what <- c("known to half its spread", "known for certain")
  certain <- data.frame(about = rows$about, worth = rows$worth, low = rows$low, high = rows$high, what = what[2])
  half <- data.frame(about = rows$about, worth = rows$halved, low = rows$halved_low, high = rows$halved_high, what = what[1])
  bars <- rbind(certain, half)
  bars$about <- factor(bars$about, rev(rows$about))
  bars$what <- factor(bars$what, what)
  first <- rows[2, ]
  spread <- max(rows$high - rows$worth, 1e-300)
  number <- function(x) with_unit(format_decimals(x, decimals_of(0, spread)), rows$unit[1])
  told <- rows[-1, ][!rows$noise[-1], ]
  list(bars = bars[is.finite(bars$worth), ],
    title = if (nrow(told) == 0) "Knowing any of these would not change the decision by more than noise"
      else sprintf("Knowing %s is worth up to %s, %s of what knowing everything is", first$about, number(first$worth), format_share(first$share, 0)),
    subtitle = paste0("Gain of the decision in the mean, with 95 % intervals", if (hidden > 0) sprintf("; %s not shown", count_of(hidden, "smaller one"))),
    axis = with_unit("Worth", unit_in_brackets(rows$unit[1])))
}
