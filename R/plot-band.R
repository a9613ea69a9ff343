#' Pass rate by bands of the inputs
#'
#' The strongest inputs of [pass_rate_by()], each in a panel: the pass rate in each band with its interval, and the pass
#' rate of all runs as a line.
#'
#' @inheritParams pass_rate_by
#' @param .most Whole number: how many inputs to show.
#' @return A ggplot object.
#' @section Errors: as in [pass_rate_by()].
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   add_specs(velocity <= 0.8) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_pass_rate_by(res)
#' @export
plot_pass_rate_by <- function(.result, ..., .bands = 10, .inputs = NULL, .most = 6) {
  table <- pass_rate_by(.result, ..., .bands = .bands, .inputs = {{ .inputs }})
  data <- band_plot_data(.result, table, check_count(.most), rlang::enquos(...))
  rows <- data$rows
  ggplot2::ggplot(rows, ggplot2::aes(.data$middle, .data$pass_rate)) +
    ggplot2::geom_hline(yintercept = data$all, colour = palette_ensayo$quiet, linetype = "42") +
    ggplot2::geom_line(colour = palette_ensayo$fill, linewidth = 0.8) +
    ggplot2::geom_linerange(ggplot2::aes(ymin = .data$low, ymax = .data$high), colour = palette_ensayo$line,
      linewidth = 0.9) +
    ggplot2::geom_point(colour = palette_ensayo$line, size = 2.4) +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free_x") +
    ggplot2::scale_x_continuous("Middle of each band of the input", labels = data$labels, breaks = data$breaks) +
    ggplot2::scale_y_continuous("Pass rate", labels = scales::label_percent(suffix = " %"), limits = c(0, 1)) +
    ggplot2::labs(title = wrapped(data$title), caption = run_caption(.result), subtitle = sprintf(
      "A point a band, with its 95 %% simulation error. Dashed: all runs, %s", format_share(data$all))) +
    theme_ensayo() + ggplot2::theme(strip.text = ggplot2::element_text(face = "bold", hjust = 0))
}

band_plot_data <- function(result, table, most, quosures) {
  study <- result$study
  all <- sum(table$met[table$rank == 1]) / sum(table$runs[table$rank == 1])
  top <- unclass_table(table)[table$rank <= most, ]
  name <- function(input) axis_title(study, input, over = TRUE)
  inputs <- unique(top$input)
  top$middle <- ifelse(nzchar(top$category), top$band, (top$from + top$to) / 2)
  shown <- text_of(inputs, name)
  top$panel <- factor(shown[match(top$input, inputs)], shown)
  first <- top[top$rank == 1, ]
  ends <- first[c(1, nrow(first)), ]
  categories <- top$category[nzchar(top$category)]
  what <- if (length(quosures)) rlang::as_label(quosures[[1]]) else if (length(study$specs) > 1) "all specs"
    else names(study$specs)
  label <- quantity_label(study, first$input[1])
  title <- if (nzchar(first$direction[1])) {
    sprintf("%s decides on %s: %s pass in its lowest band, %s in its highest", label, what,
      format_share(ends$pass_rate[1], 0), format_share(ends$pass_rate[2], 0))
  } else sprintf("No input changes the pass rate of %s beyond chance", what)
  list(rows = top, all = all, title = title,
    labels = if (length(categories) && all(nzchar(top$category))) unique(categories)
      else axis_numbers,
    breaks = if (length(categories) && all(nzchar(top$category))) seq_along(unique(categories)) else ggplot2::waiver())
}
