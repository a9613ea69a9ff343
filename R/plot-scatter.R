#' Scatter plots
#'
#' `plot_scatter()` draws one quantity against another, run by run, with the trend of the mean over bands and the
#' rank correlation. `plot_scatter_matrix()` draws many inputs against several outputs. `plot_driver_map()` shows all
#' rank correlations of inputs with outputs as a map of colours.
#'
#' @param result A result.
#' @param x,y Names of an input or output, bare or as text.
#' @param most Whole number: the most points to draw; of more runs every second, third, ... is drawn. Trend and
#'   correlation are over all.
#' @param label Runs to label with their numbers, which [run_details()] takes: whole numbers; or `"outer"`, for the ten
#'   that lie farthest out. `NULL` for none.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown name; `ensayo_error_argument` where there is nothing to draw.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_scatter(res, flow, velocity, label = "outer")
#' plot_scatter_matrix(res)
#' plot_driver_map(res)
#' @export
plot_scatter <- function(result, x, y, most = 3000, label = NULL) {
  check_result(result)
  known <- c(draw_names(result), output_names(result))
  x <- resolve_name(rlang::enquo(x), known, "an input that varies or an output")
  y <- resolve_name(rlang::enquo(y), known, "an input that varies or an output")
  data <- scatter_plot_data(result, x, y, check_count(most, at_least = 10), label)
  axis <- function(name, scale) quantity_scale(scale, axis_title(result$study, name, over = TRUE),
    if (name %in% output_names(result)) output_kind_of(result, name) else "number")
  ggplot2::ggplot(data$points, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_point(colour = palette_ensayo$line, alpha = if (nrow(data$points) > 500) 0.25 else 0.6, size = 1.4) +
    (if (nrow(data$trend) > 1) ggplot2::geom_line(data = data$trend, colour = palette_ensayo$accent, linewidth = 1.3)) +
    label_layers(data$labelled) + axis(x, ggplot2::scale_x_continuous) + axis(y, ggplot2::scale_y_continuous) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle,
      caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo()
}

label_layers <- function(points) {
  if (is.null(points)) return(NULL)
  list(ggplot2::geom_point(data = points, colour = palette_ensayo$accent, shape = 1, size = 3),
    ggplot2::geom_text(ggplot2::aes(label = .data$run), points, colour = palette_ensayo$ink, size = 3.6, vjust = -0.9,
      check_overlap = TRUE))
}

# The runs of `label` among the good ones, with their numbers.
labelled_runs <- function(label, a, b, run, call = rlang::caller_env()) {
  if (is.null(label)) return(NULL)
  if (identical(label, "outer")) {
    out <- function(x) if (max(x) > min(x)) abs(x - mean(x)) / stats::sd(x) else numeric(length(x))
    shown <- utils::head(order(out(a)^2 + out(b)^2, decreasing = TRUE), 10)
  } else {
    if (!is.numeric(label) || anyNA(label)) stop_argument("label", "numbers of runs, or \"outer\"", label, call = call)
    shown <- match(label, run)
    if (anyNA(shown)) {
      stop_argument("label", "numbers of runs in which both quantities are good", label[is.na(shown)][1], call = call)
    }
  }
  data.frame(x = a[shown], y = b[shown], run = run[shown])
}

scatter_plot_data <- function(result, x, y, most, asked) {
  columns <- numeric_columns(result, c(x, y))
  good <- is.finite(columns[[1]]) & is.finite(columns[[2]])
  if (!any(good)) stop_ensayo("argument", "Both quantities must be good in at least one run.", "They are in none.")
  a <- columns[[1]][good]
  b <- columns[[2]][good]
  n <- length(a)
  step <- ceiling(n / most)
  shown <- seq(1, n, by = step)
  band <- bands_of(a, bands_to_use(list(), n))
  trend <- data.frame(x = as.double(tapply(a, band, mean)), y = as.double(tapply(b, band, mean)))
  r <- if (n > 2) correlations_between(list(a), list(b), TRUE)[1, 1] else NaN
  label <- function(name) quantity_label(result$study, name)
  way <- if (!is.finite(r) || abs(r) < 0.1) "hardly goes with" else if (r > 0) "rises with" else "falls with"
  list(points = data.frame(x = a[shown], y = b[shown]), trend = trend, r = r,
    labelled = labelled_runs(asked, a, b, run_numbers(result)[good]),
    title = sprintf("%s %s %s", label(y), way, lower_first(label(x))),
    subtitle = sprintf("Rank correlation %s. Line: mean in each of %d bands",
      if (is.finite(r)) formatC(r, format = "f", digits = 2) else
      "not defined", nrow(trend)), note = if (step > 1) sprintf("One run in %d is drawn.", step))
}

#' @rdname plot_scatter
#' @param inputs,outputs Names, bare or as text. When left out the twelve strongest inputs and the last six outputs.
#' @param line `TRUE` for a straight line by least squares in each panel.
#' @export
plot_scatter_matrix <- function(result, inputs = NULL, outputs = NULL, line = FALSE) {
  check_result(result)
  all_outputs <- rlang::quo_is_null(rlang::enquo(outputs))
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  if (all_outputs) outputs <- utils::tail(outputs, 6)
  chosen <- rlang::quo_is_null(rlang::enquo(inputs))
  inputs <- resolve_names(rlang::enquo(inputs), draw_names(result), "an input that varies")
  refuse_nothing_varies(inputs)
  table <- drivers(result, "rank", !!outputs)
  if (chosen) inputs <- utils::head(strongest_inputs(table), 12)
  check_flag(line)
  data <- matrix_plot_data(result, inputs, outputs, table)
  ggplot2::ggplot(data$points, ggplot2::aes(.data$x, .data$y)) +
    ggplot2::geom_point(colour = palette_ensayo$line, alpha = 0.35, size = 0.7) +
    (if (line) ggplot2::geom_smooth(formula = y ~ x, method = "lm", se = FALSE, colour = palette_ensayo$accent,
      linewidth = 0.7)) +
    ggplot2::geom_label(ggplot2::aes(-Inf, Inf, label = .data$text), data$labels, hjust = 0, vjust = 1, size = 3.2,
      label.size = 0, fill = "#ffffffc0", colour = palette_ensayo$ink, fontface = "bold") +
    ggplot2::facet_grid(ggplot2::vars(.data$output), ggplot2::vars(.data$input), scales = "free", switch = "both") +
    ggplot2::scale_x_continuous(NULL, breaks = scales::breaks_extended(3), labels = axis_numbers) +
    ggplot2::scale_y_continuous(NULL, breaks = scales::breaks_extended(3), labels = axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = "Each panel: runs, and the rank correlation",
      caption = run_caption(result)) +
    theme_ensayo(11) + ggplot2::theme(strip.placement = "outside", panel.spacing = ggplot2::unit(5, "pt"),
      axis.text = ggplot2::element_text(size = ggplot2::rel(0.7)),
      strip.text = ggplot2::element_text(size = ggplot2::rel(0.85)))
}

strongest_inputs <- function(table) {
  strength <- tapply(ifelse(is.finite(table$value), abs(table$value), 0), table$input, max)
  names(sort(strength, decreasing = TRUE))
}

matrix_plot_data <- function(result, inputs, outputs, table, most = 400) {
  columns <- numeric_columns(result, c(inputs, outputs))
  shown <- unique(round(seq(1, run_count(result), length.out = min(most, run_count(result)))))
  factors <- function(x, names) factor(x, names)
  pairs <- expand.grid(input = inputs, output = outputs, stringsAsFactors = FALSE)
  points <- do.call(rbind, Map(function(input, output) {
    data.frame(input = input, output = output, x = columns[[input]][shown], y = columns[[output]][shown])
  }, pairs$input, pairs$output))
  points <- points[is.finite(points$x) & is.finite(points$y), ]
  value <- table$value[match(paste(pairs$input, pairs$output), paste(table$input, table$output))]
  labels <- data.frame(pairs, text = ifelse(is.finite(value), formatC(value, format = "f", digits = 2), ""))
  for (name in c("input", "output")) {
    known <- if (name == "input") inputs else outputs
    points[[name]] <- factor(points[[name]], known)
    labels[[name]] <- factor(labels[[name]], known)
  }
  top <- labels[which.max(abs(value)), ]
  list(points = points, labels = labels,
    title = if (nrow(top)) sprintf("%s goes most closely with %s (%s)", top$output, top$input, top$text)
    else "Inputs against outputs")
}

#' @rdname plot_scatter
#' @export
plot_driver_map <- function(result, inputs = NULL, outputs = NULL) {
  check_result(result)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  chosen <- rlang::quo_is_null(rlang::enquo(inputs))
  inputs <- resolve_names(rlang::enquo(inputs), draw_names(result), "an input that varies")
  table <- unclass_table(drivers(result, "rank", !!outputs))
  if (chosen) inputs <- utils::head(strongest_inputs(table), 40)
  rows <- table[table$input %in% inputs & is.finite(table$value), ]
  if (nrow(rows) == 0) return(empty_plot("No input makes an output vary", run_caption(result)))
  rows$input <- factor(rows$input, rev(inputs))
  rows$output <- factor(rows$output, outputs)
  few <- length(inputs) * length(outputs) <= 300
  top <- rows[which.max(abs(rows$value)), ]
  ggplot2::ggplot(rows, ggplot2::aes(.data$output, .data$input, fill = .data$value)) +
    ggplot2::geom_tile(colour = "white", linewidth = if (few) 1 else 0.1) +
    (if (few) ggplot2::geom_text(ggplot2::aes(label = ifelse(.data$beyond_noise,
      formatC(.data$value, format = "f", digits = 2), "\u00b7"),
      colour = .data$value > 0.45 | .data$value < -0.7), size = 4, show.legend = FALSE)) +
    ggplot2::scale_colour_manual(values = c(`FALSE` = palette_ensayo$ink, `TRUE` = "white")) +
    correlation_fill() +
    ggplot2::scale_x_discrete(NULL, guide = ggplot2::guide_axis(angle = if (length(outputs) > 6) 45 else 0)) +
    ggplot2::labs(y = NULL) +
    ggplot2::labs(title = wrapped(sprintf("%s goes most closely with %s (%s)", top$output, top$input,
      formatC(top$value, format = "f", digits = 2))),
      subtitle = "Rank correlation of inputs with outputs; a dot: not told from noise", caption = run_caption(result)) +
    theme_ensayo() + ggplot2::theme(panel.grid.major = ggplot2::element_blank())
}

correlation_fill <- function() {
  ggplot2::scale_fill_gradient2("Rank correlation", low = "#c2571a", mid = "#f4f1ea", high = "#0d5c75", limits = c(-1, 1),
    na.value = "#e3e8ea", guide = ggplot2::guide_colourbar(barwidth = 14, barheight = 0.8, title.position = "top"))
}
