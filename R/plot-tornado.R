#' Tornado chart of an output's drivers
#'
#' A bar for each input that enters the output, the strongest on top: to the right where it raises the output, to the
#' left where it lowers it. By default a bar is the input's share of the output's variance, the same figure that prints
#' and reports give. Bars that cannot be told from an idle input's are grey.
#'
#' @inheritParams plot_distribution
#' @param measure A measure of [drivers()].
#' @param most Whole number: the most bars to show.
#' @param ... Further arguments of [drivers()]: `condition`, in place of the output, `by`, `through`, `bands`,
#'   `statistic`.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for other arguments.
#' @seealso [plot_one_at_a_time()] for the range tornado.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_tornado(res, velocity)
#' plot_tornado(res, velocity, "swing", statistic = "P90")
#' @export
plot_tornado <- function(result, output, measure = "variance_share", most = 12, ...) {
  check_result(result)
  more <- as.list(rlang::enquos(...))
  asked <- c("condition", "by", "through", "bands", "statistic", "confidence")
  if (length(more) && !all(names(more) %in% asked)) {
    stop_ensayo("argument", "Further arguments are those of `drivers()`.", sprintf("%s is none.",
      quoted(setdiff(names(more), asked)[1])), suggestion(setdiff(names(more), asked)[1], asked))
  }
  name <- if (!is.null(more$condition)) output_names(result)[1]
    else resolve_single_output(rlang::enquo(output), result)
  check_choice(measure, names(driver_measures))
  values <- names(more) %in% c("by", "bands", "statistic", "confidence")
  more[values] <- lapply(more[values], rlang::eval_tidy)  # the others name things
  table <- rlang::inject(drivers(result, measure, outputs = !!name, !!!more))
  data <- tornado_plot_data(result, unclass_table(table), measure, check_count(most))
  if (nrow(data$bars) == 0) return(empty_plot(data$title, run_caption(result)))
  tornado_figure(data, run_caption(result))
}

tornado_figure <- function(data, caption) {
  bars <- data$bars
  reach <- range(0, bars$value)
  room <- 0.38 * max(diff(reach), 1e-300)
  limits <- if (data$unit_scale) c(-1.38, 1.38) else c(reach[1] - if (reach[1] < 0) room else 0, reach[2] + room)
  ggplot2::ggplot(bars, ggplot2::aes(.data$value, .data$label, fill = .data$effect)) +
    ggplot2::geom_col(width = 0.62) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$ink) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text, hjust = ifelse(.data$value < 0, 1.08, -0.08)), size = 4.4,
      colour = palette_ensayo$ink) +
    ggplot2::scale_fill_manual(NULL, values = c(raises = palette_ensayo$raises, lowers = palette_ensayo$lowers,
      matters = palette_ensayo$raises, noise = palette_ensayo$noise),
      labels = c(raises = "raises the output", lowers = "lowers the output", matters = "moves the output",
        noise = "not told from noise"), drop = TRUE) +
    ggplot2::scale_x_continuous(data$axis, limits = limits, breaks = if (data$unit_scale) seq(-1, 1, 0.5) else
      ggplot2::waiver(), labels = if (data$shares) function(x) format_share(abs(x), 0) else axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL,
      caption = paste(c(data$note, caption), collapse = "\n")) +
    theme_ensayo() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

tornado_plot_data <- function(result, table, measure, most) {
  record <- driver_measures[[measure]]
  what <- table$output[1]
  table <- table[enters_output(table) & is.finite(table$value), ]
  label <- if (isTRUE(what %in% output_names(result))) quantity_label(result$study, what) else what
  if (nrow(table) == 0) return(list(bars = table,
    title = sprintf("%s: no input makes it vary", label %||% "The output")))
  bars <- utils::head(table, most)
  inputs <- vapply(bars$input, function(input) quantity_label(result$study, input), "")
  bars$label <- factor(unique_labels(inputs, bars$input), rev(unique_labels(inputs, bars$input)))
  shares <- isTRUE(record$shares)
  bars$effect <- ifelse(!bars$beyond_noise, "noise", ifelse(nzchar(bars$sign), bars$sign, "matters"))
  if (shares) bars$value <- bars$value * ifelse(bars$sign == "lowers", -1, 1)
  bars$text <- if (shares) format_share(bars$share, 0)
    else format_number(bars$value, 3)
  hidden <- nrow(table) - nrow(bars)
  list(
    bars = bars, unit_scale = isTRUE(record$signed) && measure != "swing", shares = shares,
    title = tornado_title(inputs, bars, label),
    subtitle = wrapped(upper_first(record$about), 90),
    axis = c(rank = "Rank correlation over the runs", pearson = "Pearson correlation over the runs",
      variance_share = "Share of the output's variance",
      swing = with_unit("Highest band less lowest", unit_in_brackets(quantity_unit(result$study, what))))[measure] %|%
      upper_first(gsub("_", " ", measure)),
    note = c(
      if (nrow(live_correlations(result$study)) && measure %in% c("rank", "pearson", "swing", "first_order",
        "moment_independent")) "Some inputs are correlated: each is credited with what its companions do.",
      if (measure == "variance_share" && isTRUE(bars$r_squared[1] < 0.9)) sprintf(
        "Straight effects explain %s; the rest is %s.", format_share(bars$r_squared[1], 0),
        rest_words(result, what, "curves", "what inputs do together")),
      if (any(has_finding(bars, unseen_findings))) sprintf("Not seen by this measure: %s.",
        paste(sprintf("%s %s", bars$input, bars$remark)[has_finding(bars, unseen_findings)], collapse = "; ")),
      if (hidden > 0) sprintf("%s not shown.", count_of(hidden, "weaker input"))
    )
  )
}

# Names the one input, or the two, that the output's spread mostly comes from.
tornado_title <- function(inputs, bars, label) {
  if (!any(bars$beyond_noise)) return(sprintf("No input can be told from noise as a driver of %s", lower_first(label)))
  unseen <- has_finding(bars, c("curved", "interacts")) & !bars$beyond_noise
  if (any(unseen)) {
    return(sprintf("%s moves %s steadily; %s %s so in ways that straight effects do not show", inputs[1],
      lower_first(label), and_list(inputs[unseen]), if (sum(unseen) > 1) "do" else "does"))
  }
  shown <- if (anyNA(bars$share)) inputs else sprintf("%s (%s)", inputs, format_share(bars$share, 0))
  alone <- length(shown) == 1 || isTRUE(bars$share[1] >= 0.75) || !bars$beyond_noise[2]
  if (alone) return(sprintf("%s drives %s", shown[1], lower_first(label)))
  sprintf("%s and %s drive %s", shown[1], lower_first(shown[2]), lower_first(label))
}

# Labels that stand for two inputs get the name beside them.
unique_labels <- function(labels, names) {
  twice <- labels %in% labels[duplicated(labels)]
  unname(ifelse(twice, sprintf("%s (%s)", labels, names), labels))
}

#' Range tornado: one input at a time
#'
#' The output at each input's low and high value while the others are at base, as [one_at_a_time()] gives it: a bar
#' from one to the other, the ends labelled with the input's values, and the base case as a line.
#'
#' @param table What [one_at_a_time()] gives.
#' @param output Name of an output of the table, bare or as text; may be left out where there is one only.
#' @param most Whole number: the most bars to show.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for another table.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' plot_one_at_a_time(one_at_a_time(main))
#' @export
plot_one_at_a_time <- function(table, output = NULL, most = 12) {
  if (!is.data.frame(table) || !all(c("input_low", "at_low", "swing") %in% names(table))) {
    stop_argument("table", "what `one_at_a_time()` gives", table)
  }
  output <- resolve_of_table(rlang::enquo(output), table$output)
  rows <- unclass_table(table)[table$output == output & is.finite(table$swing), ]
  rows <- utils::head(rows, check_count(most))
  if (nrow(rows) == 0) return(empty_plot(sprintf("%s: every case failed", output), NULL))
  rows$label <- factor(rows$input, rev(rows$input))
  span <- diff(range(rows$at_low, rows$at_high, rows$base))
  ends <- rbind(data.frame(label = rows$label, value = rows$at_low, other = rows$at_high,
    text = format_number(rows$input_low, 3), end = "low"),
    data.frame(label = rows$label, value = rows$at_high, other = rows$at_low, text = format_number(rows$input_high, 3),
      end = "high"))
  left <- ends$value < ends$other | ends$value == ends$other & ends$end == "low"
  halves <- rbind(data.frame(label = rows$label, from = rows$base, to = rows$at_low, end = "low"),
    data.frame(label = rows$label, from = rows$base, to = rows$at_high, end = "high"))
  ggplot2::ggplot() +
    ggplot2::geom_segment(ggplot2::aes(.data$from, .data$label, xend = .data$to, yend = .data$label,
      colour = .data$end), halves,
      linewidth = 10) +
    ggplot2::geom_text(ggplot2::aes(.data$value + ifelse(left, -0.012, 0.012) * span, .data$label, label = .data$text,
      hjust = as.numeric(left)), ends, size = 4.2, colour = palette_ensayo$ink) +
    ggplot2::geom_vline(xintercept = rows$base[1], colour = palette_ensayo$ink, linewidth = 0.8) +
    ggplot2::scale_colour_manual(NULL, values = c(low = palette_ensayo$lowers, high = palette_ensayo$raises),
      labels = c(low = "input low", high = "input high"), breaks = c("low", "high")) +
    ggplot2::scale_x_continuous(with_unit(output, unit_in_brackets(rows$unit[1])), labels = axis_numbers,
      expand = ggplot2::expansion(0.12)) +
    ggplot2::labs(title = wrapped(sprintf("%s moves %s most: from %s to %s", rows$input[1], output,
      format_number(min(rows$at_low[1], rows$at_high[1])),
      with_unit(format_number(max(rows$at_low[1], rows$at_high[1])), rows$unit[1]))),
      subtitle = sprintf("Each input alone from low to high, the others at base; line: base case %s",
        format_number(rows$base[1])), y = NULL) +
    theme_ensayo() + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

# The output a figure of a table is about.
resolve_of_table <- function(quosure, known, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quosure)) quosure <- rlang::quo()
  resolve_name(quosure, unique(known), "an output of the table", call)
}
