#' Figures of events
#'
#' `plot_split()`: a total with and without its events. `plot_events()`: how likely each event is, and what it does. `plot_gains()`: what
#' it is worth to be rid of each, with its simulation error.
#'
#' @inheritParams plot_distribution
#' @param total,output Name of one output, bare or as text; the one that most events and costs enter when left out.
#' @param gains What [removal_gain()] gives; or `NULL` for that of the events.
#' @param most Whole number: the most events to name, or rows to show.
#' @return A ggplot object.
#' @section Reading them: the curves of ranges alone and of events alone do not add up to that of both; percentiles never do. On the
#'   lines of `plot_events()` all events add the same to the mean: a rare and large one as much as a likely and small one, though
#'   they ask for other answers.
#' @section Errors: `ensayo_error_argument` where the study has no events.
#' @examples
#' works <- study("Works") |>
#'   add_inputs(pipe = law_pert(370, 410, 520)) |>
#'   add_events(rock = event(0.3, law_pert(20, 50, 120)), flood = event(0.05, 90)) |>
#'   add_outputs(cost = output(pipe + sum(events), unit = "kEUR"))
#' res <- simulate(works, nsim = 1000, seed = 11)
#' plot_split(res, cost)
#' plot_events(res)
#' plot_gains(res, cost)
#' @export
plot_split <- function(result, total = NULL) {
  check_result(result)
  total <- total_drawn(rlang::enquo(total), result)
  data <- split_plot_data(result, total)
  ggplot2::ggplot(data$curves, ggplot2::aes(.data$x, .data$share, colour = .data$part, linetype = .data$part)) +
    ggplot2::geom_hline(yintercept = data$at, colour = palette_ensayo$noise, linewidth = 0.4) +
    ggplot2::geom_vline(xintercept = data$plan, colour = palette_ensayo$quiet, linewidth = 0.5, linetype = "13") +
    ggplot2::geom_line(linewidth = 1) +
    ggplot2::geom_point(ggplot2::aes(.data$value, data$at), data$marks, size = 2.6, show.legend = FALSE) +
    ggplot2::annotate("text", x = data$plan, y = 0.02, label = sprintf("plan %s", data$plan_shown), hjust = -0.08, vjust = 0, size = 3.7,
      colour = palette_ensayo$quiet) +
    ggplot2::scale_colour_manual(NULL, values = stats::setNames(c(palette_ensayo$shade, palette_ensayo$accent, palette_ensayo$line),
      data$parts)) +
    ggplot2::scale_linetype_manual(NULL, values = stats::setNames(c("52", "22", "solid"), data$parts)) +
    ggplot2::scale_y_continuous("Share of runs not above", labels = function(x) format_share(x, 0), limits = c(0, 1.02), expand = c(0,
      0)) +
    quantity_scale(ggplot2::scale_x_continuous, axis_title(result$study, total), "number") +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = run_caption(result)) + theme_ensayo()
}

total_drawn <- function(quosure, result, call = rlang::caller_env()) {
  if (!rlang::quo_is_null(quosure)) return(resolve_single_output(quosure, result))
  total <- total_at_risk(result)
  if (is.null(total)) stop_ensayo("argument", "Name the total.", "No output holds events or costs.", suggestion("",
    output_names(result)), call = call)
  total
}

split_plot_data <- function(result, total) {
  table <- split_total(result, !!total)
  readings <- result$study$readings
  planning <- percentile_names(readings$planning)
  at <- not_exceeded(readings$planning, readings$sense) / 100
  columns <- parts_of_risk(result, total)[c("ranges alone", "events alone", "both")]
  curves <- do.call(rbind, lapply(names(columns), function(part) {
    x <- columns[[part]][is.finite(columns[[part]])]
    # a far tail would squeeze the rest
    share <- seq(0, 0.998, length.out = 401)
    data.frame(part = part, x = percentile_values(x, 100 * share), share = share)
  }))
  parts <- names(columns)
  shown <- function(x) format_decimals(x, output_decimals(result, total))
  marks <- data.frame(value = table[[planning]][match(parts, table$part)])
  # the legend says the figures
  words <- sprintf("%s: %s", parts, shown(marks$value))
  curves$part <- factor(curves$part, parts, words)
  marks$part <- factor(words, words)
  gap <- marks$value[3] - marks$value[1]
  list(curves = curves, parts = words, marks = marks, at = at, plan = table$mean[1], plan_shown = shown(table$mean[1]),
    title = sprintf("Events put %s on the %s of %s", with_unit(shown(gap), quantity_unit(result$study, total)), planning,
      quantity_label(result$study, total)),
    subtitle = sprintf("%s of the same runs with ranges alone, with events alone, and with both", planning))
}

#' @rdname plot_split
#' @export
plot_events <- function(result, most = 25) {
  check_result(result)
  data <- events_plot_data(result, check_count(most))
  if (is.null(data)) return(empty_plot("No event happened in any run", run_caption(result)))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$happens, .data$size)) +
    ggplot2::geom_line(ggplot2::aes(.data$x, .data$y, group = .data$level), data$lines, colour = palette_ensayo$noise, linewidth = 0.5) +
    ggplot2::geom_text(ggplot2::aes(.data$x, .data$y, label = .data$shown), data$ends, colour = palette_ensayo$quiet, size = 3.4,
      hjust = 1.05, vjust = -0.4) +
    ggplot2::geom_linerange(ggplot2::aes(ymin = .data$low, ymax = .data$high), colour = palette_ensayo$fill, linewidth = 1.6) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$sign, fill = .data$sign), size = 3.2, colour = palette_ensayo$line, stroke = 1) +
    ggplot2::geom_segment(ggplot2::aes(xend = .data$label_x, yend = .data$label_y), data$rows[data$rows$label_y != data$rows$size, ],
      colour = palette_ensayo$quiet, linewidth = 0.3) +
    ggplot2::geom_text(ggplot2::aes(.data$label_x, .data$label_y, label = .data$label, hjust = .data$side), size = 3.7,
      colour = palette_ensayo$ink) +
    ggplot2::scale_shape_manual(NULL, values = c(costs = 21, saves = 25),
      guide = if (any(data$rows$sign == "saves")) "legend" else "none") +
    ggplot2::scale_fill_manual(NULL, values = c(costs = palette_ensayo$line, saves = "white"),
      guide = if (any(data$rows$sign == "saves")) "legend" else "none") +
    ggplot2::scale_y_log10(with_unit("Impact where it happens", unit_in_brackets(data$unit)), labels = axis_numbers) +
    ggplot2::scale_x_continuous("Share of runs in which it happens", labels = scales::label_percent(suffix = " %"), limits = c(0, data$reach),
      breaks = function(range) pretty(c(0, min(range[2], 1))), expand = c(0, 0)) +
    ggplot2::labs(title = wrapped(data$title), subtitle = paste(c("Dot: mean impact. Bar: P10 to P90 of it. Lines: the same addition to the mean",
      data$named), collapse = ". "),
      caption = run_caption(result)) + theme_ensayo()
}

events_plot_data <- function(result, most) {
  table <- event_table(result)
  open <- table$state %in% c("open", "response taken") & table$happens > 0
  table <- table[open & is.finite(table$when_it_happens) & table$when_it_happens != 0, ]
  if (nrow(table) == 0) return(NULL)
  unit <- names(sort(-table(table$unit)))[1]
  table <- table[table$unit == unit, ]
  rows <- data.frame(event = table$event, happens = table$happens, size = abs(table$when_it_happens),
    low = pmin(abs(table$P10), abs(table$P90)), high = pmax(abs(table$P10), abs(table$P90)), mean = table$mean,
    sign = ifelse(table$when_it_happens > 0, "costs", "saves"))
  # what spans zero is drawn from its smallest visible part
  rows$low <- pmax(ifelse(sign(table$P10) == sign(table$P90), rows$low, 0), rows$size / 50)
  label <- ifelse(nzchar(table$label), table$label, table$event)
  rows$label <- ifelse(seq_len(nrow(rows)) <= most, paste0(" ", short_labels(table$label, table$event)), "")
  levels <- pretty_levels(abs(rows$mean))
  reach <- range(c(rows$low, rows$high))
  if (reach[2] < 2 * reach[1]) reach <- reach * c(0.5, 2)  # impacts that hardly vary leave no room for lines
  right <- min(max(rows$happens) * 1.35, 1.06)
  x <- right * seq(0.003, 1, length.out = 300)
  lines <- do.call(rbind, lapply(levels, function(level) data.frame(level = level, x = x, y = level / x)))
  lines <- lines[lines$y >= reach[1] & lines$y <= reach[2] & lines$x <= max(rows$happens) * 1.15, ]
  ends <- do.call(rbind, c(list(lines[0, ]), lapply(split(lines, lines$level), function(line) line[ceiling(0.8 * nrow(line)), ])))
  ends$shown <- vapply(ends$level, function(level) with_unit(format_number(level), unit), "")
  top <- which.max(abs(rows$mean))
  rows <- with_label_places(rows, right, reach)
  named <- sum(nzchar(rows$label))
  list(rows = rows, reach = right, lines = lines, ends = ends, unit = unit,
    named = if (named < nrow(rows)) sprintf("Named: %d of %d, those that add most and have room", named, nrow(rows)),
    title = sprintf("%s adds most to the mean: %s", trimws(label[top]), with_unit(format_number(rows$mean[top], 2), unit)))
}

# Labels beside their dots, or a few lines above or below where they would lie on another or on a dot; of those that find no room so near
# there are none. Rows are served in their order. Lengths are in parts of a figure of usual size.
with_label_places <- function(rows, right, reach, letter = 0.0068, line = 0.034) {
  span <- log10(reach[2] / reach[1])
  x <- rows$happens / right
  y <- log10(rows$size / reach[1]) / span
  places <- expand.grid(side = 0:1, lines = c(0, 1, -1, 2, -2, 3, -3))
  placed <- data.frame(from = numeric(), to = numeric(), y = numeric())
  rows$side <- 0
  rows$label_y <- rows$size
  for (i in which(nzchar(rows$label))) {
    width <- nchar(rows$label[i]) * letter
    at <- data.frame(from = x[i] + ifelse(places$side == 0, 0.012, -0.012 - width), y = y[i] + 1.02 * line * places$lines)
    at$to <- at$from + width
    free <- which(vapply(seq_len(nrow(at)), function(k) {
      place <- at[k, ]
      over <- function(from, to, y, apart) any(place$from < to & from < place$to & abs(place$y - y) < apart)
      place$from > 0 && place$to < 0.99 && abs(place$y - 0.5) < 0.54 && !over(placed$from, placed$to, placed$y, line) &&
        !over(x[-i], x[-i], y[-i], 0.6 * line)
    }, NA))
    if (length(free) == 0) {
      rows$label[i] <- ""
      next
    }
    placed <- rbind(placed, at[free[1], ])
    rows$side[i] <- places$side[free[1]]
    if (places$lines[free[1]] != 0) rows$label_y[i] <- reach[1] * 10^(at$y[free[1]] * span)
  }
  rows$label_x <- rows$happens + ifelse(rows$side == 0, 0.012, -0.012) * right
  rows
}

# A few round numbers over a range.
pretty_levels <- function(x) {
  x <- x[x > 0]
  if (length(x) == 0) return(1)
  tens <- 10^(floor(log10(min(x))):ceiling(log10(max(x))))
  levels <- sort(c(tens, 3 * tens))
  levels <- levels[levels >= min(x) / 2 & levels <= max(x) * 2]
  if (length(levels) > 5) levels[seq(1, length(levels), length.out = 5)] else levels
}

#' @rdname plot_split
#' @export
plot_gains <- function(result, output = NULL, gains = NULL, most = 20) {
  check_result(result)
  output <- total_drawn(rlang::enquo(output), result)
  if (is.null(gains)) gains <- removal_gain(result, !!output, of = "events")
  data <- gains_plot_data(result, output, gains, check_count(most))
  if (is.null(data)) return(empty_plot("Nothing is gained by any of them", run_caption(result)))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$gain, .data$label)) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$quiet, linewidth = 0.5) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$low, xmax = .data$high), data$rows[is.finite(data$rows$low), ],
      colour = palette_ensayo$shade, linewidth = 1.4) +
    ggplot2::geom_point(ggplot2::aes(fill = .data$told), shape = 21, size = 3.6, colour = palette_ensayo$line, stroke = 1) +
    ggplot2::geom_point(ggplot2::aes(.data$net), data$rows[is.finite(data$rows$net), ], shape = 4, size = 2.8, stroke = 1.2,
      colour = palette_ensayo$accent) +
    ggplot2::scale_fill_manual(NULL, values = c(`told from noise` = palette_ensayo$line, `not told from noise` = "white"), drop = FALSE,
      guide = if (length(unique(data$rows$told)) > 1) "legend" else "none") +
    quantity_scale(ggplot2::scale_x_continuous, with_unit(sprintf("By how much %s falls without it", data$mark),
      unit_in_brackets(data$unit)), "number") +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = run_caption(result)) + theme_ensayo() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

gains_plot_data <- function(result, output, gains, most) {
  table <- utils::head(gains, most)
  if (nrow(table) == 0) return(NULL)
  labels <- unique_labels(ifelse(nzchar(table$label), table$label, table$name), table$name)
  labels <- ifelse(table$kind == "response", paste0(labels, ": response"), labels)
  labels <- make.unique(labels, sep = " ")
  told <- factor(ifelse(table$beyond_noise, "told from noise", "not told from noise"), c("told from noise", "not told from noise"))
  half <- half_interval(table$error, result)
  cost <- ifelse(table$kind == "response", NA_real_, table$cost)
  rows <- data.frame(label = factor(labels, rev(labels)), gain = table$gain, low = table$gain - half, high = table$gain + half,
    told = told, net = table$gain - cost)
  mark <- sprintf("P%s", format(table$percentile[1]))
  decimals <- output_decimals(result, output)
  list(rows = rows, mark = mark, unit = quantity_unit(result$study, output),
    title = sprintf("%s of %s falls most, by %s, without: %s", mark, quantity_label(result$study, output),
      with_unit(format_decimals(rows$gain[1], decimals), quantity_unit(result$study, output)), labels[1]),
    subtitle = paste0("Bars: 95 % simulation error. Gains do not add up",
      if (any(is.finite(rows$net))) ". Crosses: less what the response costs"))
}
