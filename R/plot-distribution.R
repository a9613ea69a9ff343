#' Distribution of an output
#'
#' A histogram of the runs with the cumulative curve over it, percentile markers on the curve, the base case, and the
#' limits that specs set for the output, each with the share of runs that meets the spec.
#'
#' @param result A result.
#' @param output Name of an output, bare or as text; may be left out where there is one only.
#' @param percentiles Numeric from 0 to 100: the markers.
#' @return A ggplot object; titles, scales and limits can be changed the usual way.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for percentiles outside 0 to
#'   100.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_distribution(res, velocity, percentiles = c(10, 50, 90))
#' @export
plot_distribution <- function(result, output, percentiles = c(10, 50, 90)) {
  check_result(result)
  name <- resolve_single_output(rlang::enquo(output), result)
  data <- distribution_plot_data(result, name, check_percentiles(percentiles))
  if (nrow(data$bars) == 0) return(empty_plot(sprintf("%s: no good runs to show", data$label), run_caption(result)))
  top <- max(data$bars$share) * 1.06
  ggplot2::ggplot() +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$share), data$bars,
      fill = palette_ensayo$fill, colour = "white", linewidth = 0.2) +
    ggplot2::geom_line(ggplot2::aes(.data$value, .data$cumulative * top), data$curve, colour = palette_ensayo$line,
      linewidth = 0.9) +
    distribution_lines(data, top) +
    distribution_markers(data, top) +
    ggplot2::scale_y_continuous("Share of runs in each bar", labels = scales::label_percent(suffix = " %"),
      expand = ggplot2::expansion(c(0, 0.02)),
      sec.axis = ggplot2::sec_axis(~ . / top, "Cumulative share of runs (curve)",
        labels = scales::label_percent(suffix = " %"),
        breaks = seq(0, 1, 0.2))) +
    ggplot2::scale_x_continuous(axis_title(result$study, name), labels = format_number) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(result)) +
    theme_ensayo()
}

# Everything the figure shows, unrounded but for the texts.
distribution_plot_data <- function(result, name, percentiles) {
  values <- finite_values(result, name)
  study <- result$study
  unit <- quantity_unit(study, name)
  percentiles <- sort(percentiles)
  markers <- data.frame(percentile = percentiles, value = percentile_values(values, percentiles))
  base <- as.double(result$base$outputs[[name]])
  base_at <- percentile_of(values, base)
  data <- list(
    label = quantity_label(study,
      name), bars = histogram_bars(values), curve = cumulative_curve(values), markers = markers,
    lines = rbind(
      data.frame(value = base, kind = rep("base", length(base)),
        text = sprintf("base case %s (%s)", format_number(base), format_percentile(base_at)))[is.finite(base), ],
      limit_lines(result, name)
    )
  )
  data$title <- distribution_title(data$label, unit, markers, values)
  data$subtitle <- distribution_subtitle(result, name, values, unit)
  data
}

limit_lines <- function(result, name) {
  limits <- spec_limits(result$study, name)
  if (nrow(limits) == 0) return(NULL)
  rates <- pass_rate(result)
  met <- format_share(rates$pass_rate[match(limits$spec, rates$spec)])
  data.frame(value = limits$limit, kind = "limit",
    text = sprintf("spec %s %s: met by %s", limits$operator, format_number(limits$limit), met))
}

distribution_title <- function(label, unit, markers, values) {
  if (length(values) == 0) return(label)
  if (min(values) == max(values)) return(with_unit(sprintf("%s is %s in every run", label, format_number(values[1])),
    unit))
  ends <- markers[c(1, nrow(markers)), ]
  covered <- ends$percentile[2] - ends$percentile[1]
  if (covered <= 0) return(with_unit(sprintf("%s: P%s is %s", label, format(ends$percentile[1]),
    format_number(ends$value[1])), unit))
  with_unit(sprintf("%s: %s %% of runs from %s to %s", label, format(covered), format_number(ends$value[1]),
    format_number(ends$value[2])), unit)
}

distribution_subtitle <- function(result, name, values, unit) {
  if (length(values) < 2) return(NULL)
  failed <- length(result$outputs[[name]]) - length(values)
  paste0(
    with_unit(sprintf("Mean %s, standard deviation %s", format_number(mean(values)),
      format_number(stats::sd(values))), unit),
    if (failed > 0) sprintf("; %s failed and left out", count_of(failed, "run"))
  )
}

# Base case and limits: a line each, with its text at the top, one under the other.
distribution_lines <- function(data, top) {
  lines <- data$lines
  if (nrow(lines) == 0) return(NULL)
  span <- range(c(data$bars$from, data$bars$to, lines$value))
  right <- lines$value > mean(span)
  lines$y <- top * (1.02 + 0.075 * rev(seq_len(nrow(lines))))
  lines$x <- lines$value + diff(span) * ifelse(right, -0.008, 0.008)
  lines$hjust <- as.numeric(right)
  colours <- c(base = palette_ensayo$ink, limit = palette_ensayo$accent)
  list(
    ggplot2::geom_segment(ggplot2::aes(.data$value, 0, xend = .data$value, yend = .data$y + top * 0.03), lines,
      colour = colours[lines$kind], linetype = ifelse(lines$kind == "base", "dashed", "solid"), linewidth = 0.7),
    ggplot2::geom_text(ggplot2::aes(.data$x, .data$y, label = .data$text, hjust = .data$hjust), lines,
      colour = colours[lines$kind], size = 4, fontface = "bold")
  )
}

distribution_markers <- function(data, top) {
  markers <- data$markers
  markers$share <- markers$percentile / 100
  markers$text <- sprintf("P%s  %s", vapply(markers$percentile, format, ""), format_number(markers$value))
  ends <- range(c(data$bars$from, data$bars$to))
  span <- diff(ends)
  # to the left of a rising curve there is room, but at the figure's left edge
  right <- markers$value < ends[1] + 0.15 * span
  list(
    ggplot2::geom_point(ggplot2::aes(.data$value, .data$share * top), markers, colour = palette_ensayo$line,
      size = 2.6),
    ggplot2::geom_text(ggplot2::aes(.data$value + span * ifelse(right, 0.012, -0.012), .data$share * top,
      label = .data$text, hjust = ifelse(right, 0, 1)), markers, colour = palette_ensayo$line, size = 4.2,
      fontface = "bold")
  )
}

empty_plot <- function(title, caption) {
  ggplot2::ggplot() + ggplot2::labs(title = title, caption = caption) + theme_ensayo()
}

resolve_single_output <- function(quosure, result, call = rlang::caller_env()) {
  known <- names(result$outputs)
  if (rlang::quo_is_missing(quosure) && length(known) == 1) return(known)
  resolve_name(quosure, known, "an output of the result", call)
}
