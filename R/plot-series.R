#' A series over its steps
#'
#' Bands that hold shares of the runs at each step, the median, the base case, and a few runs as lines. A band holds at
#' each step by itself: few runs stay within it all the way, as the lines show.
#'
#' @inheritParams plot_distribution
#' @param output Name of a series, bare or as text; may be left out where there is one only.
#' @param percentiles Numbers from 0 to 100, the edges of the bands, in the study's sense; `NULL` for the study's. P10 and
#'   P90 where there is one alone.
#' @param runs Whole number: how many runs are drawn as lines, the first ones.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for what is not a series; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), fall = law_pert(5, 10, 30)) |>
#'   add_model(function(volume, fall) data.frame(step = 1:10, level = volume - fall * (1:10))) |>
#'   simulate(nsim = 200, seed = 11)
#' plot_series(res, level)
#' @export
plot_series <- function(result, output, percentiles = NULL, runs = 12) {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), series_names(result$study), "a series of the result")
  marks <- sort(unique(check_percentiles(percentiles %||% result$study$readings$percentiles, "percentiles")))
  if (length(marks) < 2) marks <- sort(unique(c(marks, 10, 90)))  # a band has two edges
  data <- series_plot_data(result, name, marks, check_count(runs, at_least = 0))
  if (is.null(data$bands)) return(empty_plot(sprintf("%s: no good runs to show", data$label), run_caption(result)))
  shades <- grDevices::colorRampPalette(c("#e2edf0", palette_ensayo$fill))(length(data$names))
  ggplot2::ggplot() +
    ggplot2::geom_ribbon(ggplot2::aes(.data$step, ymin = .data$low, ymax = .data$high, fill = .data$band), data$bands) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value, group = .data$run), data$runs,
      colour = palette_ensayo$ink, linewidth = 0.3, alpha = 0.6) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value), data$median, colour = palette_ensayo$line, linewidth = 1.3) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value), data$base, colour = palette_ensayo$accent, linewidth = 0.9,
      linetype = "dashed") +
    ggplot2::geom_label(ggplot2::aes(.data$step, .data$value, label = .data$text, vjust = .data$vjust), data$labels,
      hjust = 1, size = 4, label.size = 0, fill = "#ffffffc0", colour = data$labels$colour, fontface = "bold") +
    ggplot2::scale_fill_manual(NULL, values = stats::setNames(shades, data$names), breaks = data$names) +
    (if (inherits(data$median$step, "Date")) ggplot2::scale_x_date(NULL) else ggplot2::scale_x_continuous("Step")) +
    quantity_scale(ggplot2::scale_y_continuous, axis_title(result$study, name), data$kind) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(result)) +
    theme_ensayo()
}

series_plot_data <- function(result, name, marks, runs) {
  output <- result$study$outputs[[name]]
  column <- run_column(result, name)
  label <- quantity_label(result$study, name)
  good <- which(is_finite_run(column))
  if (length(good) == 0) return(list(label = label))
  kind <- output_kind_of(result, name)
  sense <- result$study$readings$sense
  pairs <- rev(band_pairs(marks))
  read <- function(p) series_percentiles(result, name, p, NULL, NULL, 0.95)$value
  bands <- do.call(rbind, lapply(pairs, function(pair) {
    ends <- lapply(not_exceeded(pair, sense), function(p) read(not_exceeded(p, sense)))
    data.frame(step = output$steps, low = pmin(ends[[1]], ends[[2]]), high = pmax(ends[[1]], ends[[2]]),
      band = band_words(pair))
  }))
  names <- vapply(pairs, band_words, "")
  bands$band <- factor(bands$band, names)
  median <- data.frame(step = output$steps, value = read(50))
  base <- data.frame(step = output$steps, value = as.double(result$base$outputs[[name]]))
  drawn <- utils::head(good, runs)
  n <- nrow(median)
  unit <- quantity_unit(result$study, name)
  wide <- bands[bands$band == names[1], ]
  last <- format_value(c(wide$low[n], wide$high[n]), kind, decimals_of(wide$high[n] - wide$low[n]))
  above <- isTRUE(median$value[n] >= base$value[n])
  list(bands = bands, names = names, median = median, base = base, kind = kind, label = label,
    runs = data.frame(step = rep(output$steps, each = length(drawn)), run = rep(drawn, n),
      value = as.double(column[drawn, ])),
    labels = data.frame(step = output$steps[n], value = c(median$value[n], base$value[n]), text = c("median", "base case"),
      vjust = if (above) c(-0.3, 1.3) else c(1.3, -0.3), colour = c(palette_ensayo$line, palette_ensayo$accent)),
    title = sprintf("%s at the last step: %s of runs from %s to %s", label, share_between(pairs[[1]]), last[1],
      with_unit(last[2], unit)),
    subtitle = sprintf("Bands hold at each step by itself%s",
      if (length(drawn)) sprintf("; thin lines: the first %s", count_of(length(drawn), "run")) else ""))
}

# Percentiles in pairs from the middle outwards.
band_pairs <- function(marks) {
  k <- length(marks) %/% 2
  lapply(rev(seq_len(k)), function(i) marks[c(i, length(marks) + 1 - i)])
}

share_between <- function(pair) sprintf("%s %%", format(abs(diff(pair))))

band_words <- function(pair) sprintf("P%s to P%s", format(pair[1]), format(pair[2]))
