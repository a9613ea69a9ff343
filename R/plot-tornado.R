#' Tornado chart of an output's drivers
#'
#' A bar for each input that enters the output, the strongest on top: to the right where it raises the output, to the
#' left where it lowers it.
#'
#' @inheritParams plot_distribution
#' @param measure `"rank"` or `"pearson"`, as in [drivers()].
#' @param most Whole number: the most bars to show.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_tornado(res, velocity)
#' @export
plot_tornado <- function(result, output, measure = "rank", most = 12) {
  check_result(result)
  name <- resolve_single_output(rlang::enquo(output), result)
  data <- tornado_plot_data(result, name, check_choice(measure, c("rank", "pearson")), check_count(most))
  if (nrow(data$bars) == 0) return(empty_plot(data$title, run_caption(result)))
  bars <- data$bars
  ggplot2::ggplot(bars, ggplot2::aes(.data$value, .data$label, fill = .data$effect)) +
    ggplot2::geom_col(width = 0.62) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$ink) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text, hjust = ifelse(.data$value < 0, 1.08, -0.08)), size = 4.4,
      colour = palette_ensayo$ink) +
    ggplot2::scale_fill_manual(NULL, values = c(raises = palette_ensayo$raises, lowers = palette_ensayo$lowers),
      labels = c(raises = "raises the output", lowers = "lowers the output"), drop = TRUE) +
    ggplot2::scale_x_continuous(data$axis, limits = c(-1.38, 1.38), breaks = seq(-1, 1, 0.5)) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL,
      caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

tornado_plot_data <- function(result, name, measure, most) {
  table <- drivers_of(result, name, measure)
  table <- table[table$remark == "" & is.finite(table$value), ]
  label <- quantity_label(result$study, name)
  if (nrow(table) == 0) return(list(bars = table, title = sprintf("%s: no input makes it vary", label)))
  bars <- utils::head(table, most)
  inputs <- vapply(bars$input, function(input) quantity_label(result$study, input), "")
  bars$label <- factor(unique_labels(inputs, bars$input), rev(unique_labels(inputs, bars$input)))
  bars$effect <- ifelse(bars$value < 0, "lowers", "raises")
  bars$text <- sprintf("%s  (%s)", formatC(bars$value, format = "f", digits = 2), format_share(bars$share, 0))
  hidden <- nrow(table) - nrow(bars)
  list(
    bars = bars, title = tornado_title(inputs, bars$share, label),
    subtitle = "Bars: correlation with the output. In brackets: share of the output's variance",
    axis = c(rank = "Rank correlation over the runs", pearson = "Pearson correlation over the runs")[[measure]],
    note = c(
      if (nrow(live_correlations(result$study))) "Some inputs are correlated: each is credited with what its companions do.",
      if (hidden > 0) sprintf("%s not shown.", count_of(hidden, "weaker input"))
    )
  )
}

# Names the one input, or the two, that the output's spread mostly comes from.
tornado_title <- function(inputs, shares, label) {
  shown <- sprintf("%s (%s)", inputs, format_share(shares, 0))
  if (length(shown) == 1 || shares[1] >= 0.75) return(sprintf("%s drives %s", shown[1], lower_first(label)))
  sprintf("%s and %s drive %s", shown[1], lower_first(shown[2]), lower_first(label))
}

# Labels that stand for two inputs get the name beside them.
unique_labels <- function(labels, names) {
  twice <- labels %in% labels[duplicated(labels)]
  unname(ifelse(twice, sprintf("%s (%s)", labels, names), labels))
}

# "Pressure at ..." within a sentence; abbreviations stay as they are.
lower_first <- function(text) {
  if (grepl("^[[:upper:]][[:lower:]]", text)) paste0(tolower(substr(text, 1, 1)), substring(text, 2)) else text
}
