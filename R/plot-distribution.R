#' Distribution of an output
#'
#' A histogram of the runs with the cumulative curve over it, percentile markers on the curve, the base case, and the
#' limits that specs set for the output, each with the share of runs that meets the spec. Dates stand on a calendar, a
#' bar a day (or a week), so that days that cannot occur leave gaps; counts have a bar each. Where a few runs lie far
#' out, the figure ends before them and says how many they are.
#'
#' @param result A result.
#' @param output Name of an output, bare or as text; may be left out where there is one only.
#' @param percentiles Numeric from 0 to 100, in the study's sense: the markers. `NULL` for P10, P50 and P90, or, where
#'   the study reads others, those (of many the outer two and P50), and the planning percentile; none beside a target.
#' @param show `"histogram"`, with the cumulative curve over it; `"cumulative"`, the share of runs not above each value;
#'   `"exceedance"`, the share above it.
#' @param target A number or `NULL`: a value of the output to compare with. The figure is shaded below it, and both
#'   sides are labelled with their chance, counted over the runs and not read off the bars.
#' @return A ggplot object; titles, scales and limits can be changed the usual way.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_distribution(res, velocity, percentiles = c(10, 50, 90))
#' plot_distribution(res, velocity, show = "exceedance", target = 0.8)
#' @export
plot_distribution <- function(result, output, percentiles = NULL, show = "histogram", target = NULL) {
  check_result(result)
  name <- resolve_single_output(rlang::enquo(output), result)
  check_choice(show, c("histogram", "cumulative", "exceedance"))
  marked <- !is.null(percentiles) || is.null(target)
  percentiles <- if (is.null(percentiles)) reading_marks(result$study$readings) else
    check_percentiles(percentiles)
  if (!is.null(target)) target <- check_target(target, output_kind_of(result, name))
  data <- distribution_plot_data(result, name, percentiles, target)
  if (nrow(data$bars) == 0) return(empty_plot(sprintf("%s: no good runs to show", data$label), run_caption(result)))
  if (!marked) data$markers <- data$markers[0, ]
  figure <- if (show == "histogram") histogram_layers(data) else curve_layers(data, show)
  ggplot2::ggplot() + figure + value_scale(result, name, data$kind) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle,
      caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo()
}

check_target <- function(target, kind, call = rlang::caller_env()) {
  if (kind == "date" && (inherits(target, "Date") || rlang::is_string(target))) {
    day <- tryCatch(as.double(as.Date(target)), error = function(e) NA_real_)
    if (!is.na(day)) return(day)
  }
  mend <- if (kind == "date") "Give a date, such as `as.Date(\"2027-05-01\")`."
    else if (inherits(target, "Date")) "The output is no date."
  check_number(target, "target", mend = mend, call = call)
}

# Everything the figure shows, unrounded but for the texts.
distribution_plot_data <- function(result, name, percentiles, target = NULL) {
  values <- finite_values(result, name)
  study <- result$study
  kind <- output_kind_of(result, name)
  unit <- quantity_unit(study, name)
  sense <- study$readings$sense
  percentiles <- sort(percentiles)
  at <- not_exceeded(percentiles, sense)
  view <- central_view(values)
  base <- as.double(result$base$outputs[[name]])
  decimals <- output_decimals(result, name)
  data <- list(
    label = quantity_label(study, name), kind = kind, decimals = decimals,
    bars = histogram_bars(values, kind, view),
    curve = cumulative_curve(values, view, kind), view = view,
    markers = data.frame(percentile = percentiles, share = at / 100,
      value = percentile_values(values, at, kind_type(kind))),
    lines = rbind(base_line(base, values, kind, sense, decimals), limit_lines(result, name, kind)),
    target = if (length(values)) target_sides(target, result, name)
  )
  data$title <- distribution_title(data, unit, values)
  data$subtitle <- distribution_subtitle(result, name, values, unit, kind)
  data$note <- c(if (sense == "exceeded") sense_words(sense), joint_note(result, name), view_note(values, view, kind))
  data
}

base_line <- function(base, values, kind, sense, decimals) {
  line <- data.frame(value = base, kind = rep("base", length(base)), text = sprintf("base case %s (%s)",
    format_value(base, kind, decimals), format_percentile(percentile_in_sense(values, base, sense))))
  line[is.finite(base), ]
}

limit_lines <- function(result, name, kind) {
  limits <- limit_rates(result, name)
  if (nrow(limits) == 0) return(NULL)
  data.frame(value = limits$limit, kind = "limit", text = sprintf("spec %s %s: met by %s", limits$operator,
    if (kind == "date") format_value(limits$limit, kind) else vapply(limits$limit, format_given, ""),
    format_share(limits$rate)))
}

# A spec of two limits, or of more than this output, has a rate of its own.
joint_note <- function(result, name) {
  limits <- spec_limits(result$study, name)
  wider <- Filter(function(spec) {
    formula <- result$study$specs[[spec]]
    sum(limits$spec == spec) > 1 || length(formula$uses) > 1
  }, unique(limits$spec))
  if (length(wider) == 0) return(NULL)
  rates <- pass_rate(result)
  at <- match(wider, rates$spec)
  paste0(paste(sprintf("Spec %s: met by %s of runs", rates$condition[at], format_share(rates$pass_rate[at])),
    collapse = "; "), ".")
}

# The chance on either side of a target, over all runs.
target_sides <- function(target, result, name) {
  if (is.null(target)) return(NULL)
  values <- values_of(result, name)
  if (output_kind_of(result, name) == "date") values <- floor(values)
  counts <- cpp_counts_about(values, target)
  below <- counts[["below"]] / length(values)
  above <- (counts[["finite"]] - counts[["below"]] - counts[["equal"]]) / length(values)
  list(value = target, below = below, above = above, equal = counts[["equal"]] / length(values))
}

view_note <- function(values, view, kind) {
  words <- c(if (any(values < view[1])) sprintf("%s below %s", count_of(sum(values < view[1]), "run"),
    format_value(view[1], kind)), if (any(values > view[2])) sprintf("%s above %s",
      count_of(sum(values > view[2]), "run"), format_value(view[2], kind)))
  if (length(words)) paste0("Not shown: ", paste(words, collapse = ", "), ".")
}

distribution_title <- function(data, unit, values) {
  label <- data$label
  kind <- data$kind
  if (length(values) == 0) return(label)
  if (min(values) == max(values)) {
    return(with_unit(sprintf("%s is %s in every run", label, format_value(values[1], kind)), unit))
  }
  if (!is.null(data$target)) {
    return(sprintf("%s: %s of runs below %s", label, format_share(data$target$below),
      with_unit(format_value(data$target$value, kind), unit)))
  }
  if (kind == "yes/no") return(sprintf("%s in %s of runs", label, format_share(mean(values))))
  ends <- data$markers[c(which.min(data$markers$share), which.max(data$markers$share)), ]
  covered <- 100 * diff(ends$share)
  if (covered <= 0) return(with_unit(sprintf("%s: P%s is %s", label, format(ends$percentile[1]),
    format_value(ends$value[1], kind, data$decimals)), unit))
  with_unit(sprintf("%s: %s %% of runs from %s to %s", label, format(covered),
    format_value(ends$value[1], kind, data$decimals), format_value(ends$value[2], kind, data$decimals)), unit)
}

distribution_subtitle <- function(result, name, values, unit, kind) {
  if (length(values) < 2 || kind == "yes/no") return(NULL)
  failed <- length(run_column(result, name)) - length(values)
  decimals <- output_decimals(result, name)
  spread <- if (kind == "date") paste(format_number(stats::sd(values)), "days")
    else with_unit(format_decimals(stats::sd(values), decimals), unit)
  paste0(
    sprintf("Mean %s, standard deviation %s", format_value(mean(values), kind, decimals), spread),
    if (failed > 0) sprintf("; %s failed and left out", count_of(failed, "run"))
  )
}

histogram_layers <- function(data) {
  top <- max(data$bars$share) * 1.06
  list(
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$share), data$bars,
      fill = palette_ensayo$fill, colour = "white", linewidth = 0.2),
    shaded_bars(data), if (data$kind != "yes/no") step_or_line(data, data$curve$cumulative * top),
    target_layers(data, top), distribution_lines(data, top), distribution_markers(data, data$markers$share * top),
    ggplot2::scale_y_continuous("Share of runs in each bar", labels = scales::label_percent(suffix = " %"),
      breaks = function(limits) Filter(function(at) at <= 1, scales::breaks_extended()(limits)),
      expand = ggplot2::expansion(c(0, 0.02)),
      sec.axis = if (data$kind == "yes/no") ggplot2::waiver() else ggplot2::sec_axis(~ . / top,
        "Cumulative share of runs (curve)", labels = scales::label_percent(suffix = " %"), breaks = seq(0, 1, 0.2)))
  )
}

# The cumulative curve, or its complement, alone.
curve_layers <- function(data, show) {
  share <- function(x) if (show == "exceedance") 1 - x else x
  title <- if (show == "exceedance") "Share of runs above the value" else "Share of runs not above the value"
  list(
    step_or_line(data, share(data$curve$cumulative)), target_layers(data, 1), distribution_lines(data, 1),
    distribution_markers(data, share(data$markers$share), falls = show == "exceedance"),
    ggplot2::scale_y_continuous(title, labels = scales::label_percent(suffix = " %"), breaks = seq(0, 1, 0.2),
      expand = ggplot2::expansion(c(0, 0.02)))
  )
}

# Between counts and days nothing lies: their curve has steps.
step_or_line <- function(data, height) {
  (if (data$kind == "number") ggplot2::geom_line else ggplot2::geom_step)(
    ggplot2::aes(.data$value, .data$height), data.frame(value = data$curve$value, height = height), colour = palette_ensayo$line, linewidth = 0.9)
}

# The bars below a target, cut at it; those of counts and days, which stand for one value, are not cut.
shaded_bars <- function(data) {
  if (is.null(data$target)) return(NULL)
  edge <- if (data$kind == "number") data$bars$from else (data$bars$from + data$bars$to) / 2
  bars <- data$bars[edge < data$target$value, ]
  if (data$kind == "number") bars$to <- pmin(bars$to, data$target$value)
  ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$share), bars,
    fill = palette_ensayo$shade, colour = "white", linewidth = 0.2)
}

target_layers <- function(data, top) {
  target <- data$target
  if (is.null(target)) return(NULL)
  span <- diff(range(c(data$bars$from, data$bars$to, target$value)))
  value <- format_value(target$value, data$kind)
  sides <- data.frame(
    x = target$value + c(-0.012, 0.012) * span, y = top * 0.3, hjust = c(1, 0),
    text = c(sprintf("%s\nbelow %s", format_share(target$below), value),
      sprintf("%s\nabove %s", format_share(target$above), value))
  )
  list(
    ggplot2::annotate("segment", x = target$value, xend = target$value, y = 0, yend = top, colour = palette_ensayo$ink,
      linewidth = 0.9),
    ggplot2::geom_label(ggplot2::aes(.data$x, .data$y, label = .data$text, hjust = .data$hjust), sides, size = 4.6,
      fontface = "bold", fill = "#ffffffd0", colour = palette_ensayo$ink, label.size = 0, lineheight = 0.95)
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

distribution_markers <- function(data, height, falls = FALSE) {
  if (data$kind == "yes/no" || nrow(data$markers) == 0) return(NULL)
  markers <- data$markers
  markers$height <- height
  markers$text <- sprintf("P%s  %s", vapply(markers$percentile, format, ""),
    format_value(markers$value, data$kind, data$decimals))
  ends <- range(c(data$bars$from, data$bars$to))
  span <- diff(ends)
  # to the left of a rising curve there is room, but at the figure's left edge; of a falling one to the right
  room <- span * 0.0135 * nchar(markers$text)  # in a figure of three quarters of the usual width
  right <- if (falls) markers$value < ends[2] - room else markers$value < ends[1] + room
  list(
    ggplot2::geom_point(ggplot2::aes(.data$value, .data$height), markers, colour = palette_ensayo$line, size = 2.6),
    ggplot2::geom_text(ggplot2::aes(.data$value + span * ifelse(right, 0.012, -0.012), .data$height,
      label = .data$text, hjust = ifelse(right, 0, 1)), markers, colour = palette_ensayo$line, size = 4.2,
      vjust = if (data$kind == "number") 0.5 else ifelse(right & !falls, 1.3, -0.4), fontface = "bold")  # off the steps
  )
}

# The axis of an output's values: numbers, whole numbers, days on a calendar, no and yes.
value_scale <- function(result, name, kind) {
  quantity_scale(ggplot2::scale_x_continuous, axis_title(result$study, name), kind)
}

quantity_scale <- function(scale, title, kind) {
  switch(kind,
    date = scale(title, labels = function(x) format_value(x, "date"), breaks = date_breaks),
    `yes/no` = scale(title, breaks = c(0, 1), labels = c("no", "yes")),
    whole = scale(title, labels = axis_numbers, breaks = function(range) unique(round(pretty(range)))),
    scale(title, labels = axis_numbers)
  )
}

# Breaks at days, months or years, as the range asks for; where it is not finite, none.
date_breaks <- function(range) {
  if (!all(is.finite(range))) return(numeric())
  as.double(pretty(structure(range, class = "Date"), 5))
}

empty_plot <- function(title, caption) {
  ggplot2::ggplot() + ggplot2::labs(title = title, caption = caption) + theme_ensayo()
}

#' @rdname plot_distribution
#' @param x A result.
#' @param ... For `plot()`: arguments of `plot_distribution()`, the output first; without one, the output that specs are
#'   about, else the last.
#' @export
plot.ensayo_result <- function(x, ...) {
  if (length(rlang::enquos(...)) == 0) return(plot_distribution(x, !!leading_outputs(x)[1]))
  plot_distribution(x, ...)
}
