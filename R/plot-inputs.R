#' Pictures of all inputs, and of their correlations
#'
#' `plot_inputs()` draws the law of each input that varies, with its base value; of a result the draws too.
#' `plot_correlation()` draws the rank correlations between inputs: of a study as asked, of a result as achieved.
#'
#' @param x A study or a result.
#' @param inputs Names of inputs, bare or as text; all that vary when left out.
#' @param most Whole number: how many inputs are drawn at most, the first ones.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown input; `ensayo_error_model` where there is nothing to draw.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003)) |>
#'   add_correlation(demand, friction, 0.4) |>
#'   add_outputs(loss = friction * demand^2)
#' plot_inputs(main)
#' plot_correlation(simulate(main, nsim = 1000, seed = 11))
#' @export
plot_inputs <- function(x, inputs = NULL, most = 24) {
  study <- study_or_result(x)
  names <- resolve_names(rlang::enquo(inputs), varying_names(study), "an input of the study that varies")
  refuse_nothing_varies(names)
  all <- length(names)
  names <- utils::head(names, check_count(most))
  result <- if (inherits(x, "ensayo_result")) x
  crowded <- length(names) > 12
  data <- inputs_plot_data(study, names, result)
  figure <- ggplot2::ggplot(mapping = ggplot2::aes(.data$value, .data$density)) + ggplot2::geom_blank(data = data$frame)
  if (nrow(data$draws)) {
    figure <- figure + ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0,
      ymax = .data$density),
      data$draws, fill = palette_ensayo$fill)
  } else if (nrow(data$curve)) figure <- figure + ggplot2::geom_ribbon(ggplot2::aes(ymin = 0,
    ymax = .data$density), data$curve, fill = palette_ensayo$fill)
  figure +
    ggplot2::geom_line(data = data$curve, colour = palette_ensayo$line, linewidth = 0.8) +
    ggplot2::geom_segment(ggplot2::aes(xend = .data$value, yend = 0), data$bars, colour = palette_ensayo$line,
      linewidth = 2.2) +
    ggplot2::geom_text(ggplot2::aes(label = .data$text), data$bars, vjust = -0.4, size = 3.3,
      colour = palette_ensayo$ink) +
    ggplot2::geom_vline(ggplot2::aes(xintercept = .data$value), data$base, colour = palette_ensayo$accent,
      linewidth = 0.8,
      linetype = "longdash") +
    ggplot2::facet_wrap(ggplot2::vars(.data$panel), scales = "free") +
    ggplot2::scale_x_continuous(NULL, labels = axis_numbers, breaks = scales::breaks_extended(if (crowded) 3 else 4)) +
    ggplot2::scale_y_continuous(NULL, breaks = NULL, expand = ggplot2::expansion(c(0, if (crowded) 0.45 else 0.18))) +
    ggplot2::labs(title = wrapped(sprintf("%s: %s", study$title, inputs_title(study, names, all)), 84),
      subtitle = paste0("Dashed: base value", if (!is.null(result)) "; filled: the draws; line: the law"),
      caption = if (!is.null(result)) run_caption(result)) +
    theme_ensayo() +
    ggplot2::theme(strip.text = ggplot2::element_text(hjust = 0, size = ggplot2::rel(if (crowded) 0.75 else 0.95)),
      axis.text = ggplot2::element_text(size = ggplot2::rel(if (crowded) 0.75 else 0.95)),
      panel.spacing.x = ggplot2::unit(if (crowded) 14 else 8, "pt"))
}

study_or_result <- function(x, call = rlang::caller_env()) {
  if (inherits(x, "ensayo_study")) return(x)
  check_result(x, "x", "Give a study or a result.", call)
  x$study
}

inputs_title <- function(study, names, all) {
  held <- length(study$inputs) - length(varying_names(study))
  paste0(count_of(all, "input"), " that ", if (all == 1) "varies" else "vary",
    if (length(names) < all) sprintf(", the first %d drawn", length(names)), if (held) sprintf("; %d held constant",
      held))
}

# Curves, bars, draws and base values, each with the panel it belongs to.
inputs_plot_data <- function(study, names, result = NULL) {
  titles <- vapply(names,
    function(name) with_unit(quantity_label(study, name), unit_in_brackets(quantity_unit(study, name))), "")
  panels <- factor(unique_labels(titles, names), unique_labels(titles, names))
  bases <- base_values(study)
  parts <- lapply(seq_along(names), function(i) {
    law <- study$inputs[[names[i]]]$law
    of_panel <- function(table) if (nrow(table)) cbind(table, panel = panels[i])
    if (is_categorical(law)) {
      par <- family_discrete$canonical(parameters_of(law))
      at <- seq_along(par$values)
      return(list(bars = of_panel(data.frame(value = at, density = par$shares, text = par$values)),
        base = of_panel(data.frame(value = match(bases[[names[i]]], par$values))),
        frame = of_panel(data.frame(value = c(0.4, length(at) + 0.6), density = 0))))
    }
    draws <- if (!is.null(result)) draws_histogram(run_column(result, names[i]))
    base <- of_panel(data.frame(value = bases[[names[i]]]))
    if (is_linked(law)) return(list(draws = if (!is.null(draws)) of_panel(draws), base = base))
    curve <- law_plot_data(law)$curve
    if (!is_discrete(law)) return(list(curve = of_panel(curve), draws = if (!is.null(draws)) of_panel(draws),
      base = base))
    list(bars = of_panel(cbind(curve, text = "")), base = base)
  })
  collect <- function(field, empty) do.call(rbind, c(list(empty), lapply(parts, function(part) part[[field]])))
  none <- data.frame(value = numeric(), density = numeric(), panel = panels[0])
  list(curve = collect("curve", none), bars = collect("bars", cbind(none, text = character())),
    draws = collect("draws",
      data.frame(from = numeric(), to = numeric(), value = numeric(), density = numeric(), panel = panels[0])),
    base = collect("base", none[c("value", "panel")]), frame = collect("frame", none))
}

draws_histogram <- function(x, classes = 40) {
  x <- x[is.finite(x)]
  if (length(x) < 2 || min(x) == max(x)) return(NULL)
  # the outermost thousandths would leave the rest in a corner
  ends <- stats::quantile(x, c(0.001, 0.999), names = FALSE)
  breaks <- seq(ends[1], ends[2], length.out = classes + 1)
  count <- tabulate(findInterval(x[x >= ends[1] & x <= ends[2]], breaks, rightmost.closed = TRUE), classes)
  data.frame(from = breaks[-length(breaks)], to = breaks[-1], value = breaks[-1],
    density = count / length(x) / diff(breaks))
}

#' @rdname plot_inputs
#' @export
plot_correlation <- function(x) {
  study <- study_or_result(x)
  pairs <- if (inherits(x, "ensayo_result")) correlation_table(x) else live_correlations(study)
  if (nrow(pairs) == 0) stop_ensayo("model", "The study must have correlations to be drawn.", NULL,
    "Correlate inputs with `add_correlation()`.")
  data <- correlation_plot_data(study, pairs, result = inherits(x, "ensayo_result"))
  few <- nlevels(data$row) <= 25
  ggplot2::ggplot(data, ggplot2::aes(.data$column, .data$row)) +
    ggplot2::geom_tile(ggplot2::aes(fill = .data$r), colour = "white", linewidth = if (few) 1 else 0.1) +
    (if (few) ggplot2::geom_text(ggplot2::aes(label = .data$text, colour = .data$r > 0.45 | .data$r < -0.7), size = 4,
      show.legend = FALSE)) +
    ggplot2::scale_colour_manual(values = c(`FALSE` = palette_ensayo$ink, `TRUE` = "white")) +
    ggplot2::scale_fill_gradient2("Rank correlation", low = "#c2571a", mid = "#f4f1ea", high = "#0d5c75",
      limits = c(-1, 1),
      guide = ggplot2::guide_colourbar(barwidth = 14, barheight = 0.8, title.position = "top")) +
    ggplot2::scale_x_discrete(NULL, position = "bottom",
      guide = ggplot2::guide_axis(angle = if (nlevels(data$row) > 6) 45 else 0)) +
    ggplot2::scale_y_discrete(NULL, limits = rev) +
    ggplot2::labs(title = wrapped(correlation_title(study, pairs), 84), subtitle = if (inherits(x, "ensayo_result"))
      "Achieved in the draws; in brackets what was asked where it differs" else "As asked; pairs left blank are 0",
      caption = if (inherits(x, "ensayo_result")) run_caption(x)) +
    theme_ensayo() +
    ggplot2::theme(panel.grid.major = ggplot2::element_blank())
}

# The lower triangle: row, column, r, text. Pairs without a correlation are left out.
correlation_plot_data <- function(study, pairs, result) {
  names <- intersect(names(study$inputs), c(pairs$a, pairs$b))
  labels <- unique_labels(vapply(names, quantity_label, "", study = study), names)
  first <- match(pairs$a, names)
  second <- match(pairs$b, names)
  r <- if (result) pairs$achieved else pairs$r
  differs <- result & abs(pairs$achieved - (if (result) pairs$asked else 0)) >= 0.005
  data.frame(row = factor(labels[pmax(first, second)], labels), column = factor(labels[pmin(first, second)], labels),
    r = r,
    text = paste0(formatC(r, format = "f", digits = 2),
      if (result) ifelse(differs, sprintf("\n(%s)", formatC(pairs$asked,
      format = "f", digits = 2)), "")))
}

correlation_title <- function(study, pairs) {
  r <- pairs$achieved %||% pairs$r
  strongest <- which.max(abs(r))
  sprintf("%s go %s most (rank correlation %s)",
    paste(quantity_label(study, pairs$a[strongest]), "and", quantity_label(study, pairs$b[strongest])),
    if (r[strongest] > 0) "together" else "against each other", formatC(r[strongest], format = "f", digits = 2))
}

refuse_nothing_varies <- function(names, call = rlang::caller_env()) {
  if (length(names) == 0) stop_ensayo("model", "The study must have an input that varies to be drawn.", NULL,
    "Give an input a law with `add_inputs()`.", call = call)
}
