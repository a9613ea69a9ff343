#' Parallel lines
#'
#' A line for each run, over one axis for each of the strongest inputs and the outputs, each from its lowest to its
#' highest rank; the runs that fail a condition are picked out. Where their lines bundle, the failures come from.
#'
#' @param .result A result of a study with specs, or any result with a condition.
#' @param ... One condition instead of all specs together, or the name of a spec, as in [pass_rate_by()].
#' @param .inputs,.outputs Names, bare or as text. When left out the six strongest inputs by [pass_rate_by()], and
#'   the outputs the condition is about.
#' @param .most Whole number: the most lines to draw.
#' @return A ggplot object.
#' @section Errors: as in [pass_rate_by()].
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s")) |>
#'   add_specs(velocity <= 0.8) |>
#'   simulate(nsim = 1000, seed = 11)
#' plot_parallel(res)
#' @export
plot_parallel <- function(.result, ..., .inputs = NULL, .outputs = NULL, .most = 400) {
  check_result(.result)
  met <- condition_met(.result, rlang::enquos(...)) %in% TRUE
  inputs <- rlang::enquo(.inputs)
  inputs <- if (rlang::quo_is_null(inputs)) utils::head(unique(pass_rate_by(.result, ...)$input), 6) else
    resolve_names(inputs, draw_names(.result), "an input that varies")
  outputs <- rlang::enquo(.outputs)
  outputs <- if (rlang::quo_is_null(outputs)) leading_outputs(.result) else resolve_outputs(outputs, .result)
  data <- parallel_plot_data(.result, met, inputs, outputs, check_count(.most, at_least = 10))
  ggplot2::ggplot(data$lines, ggplot2::aes(.data$axis, .data$height, group = .data$run, colour = .data$met,
    alpha = .data$met)) +
    ggplot2::geom_line(linewidth = 0.4) +
    ggplot2::geom_text(ggplot2::aes(.data$axis, .data$height, label = .data$text, vjust = .data$vjust), data$ends,
      inherit.aes = FALSE, size = 3.8, colour = palette_ensayo$ink) +
    ggplot2::scale_colour_manual(NULL, values = c(met = palette_ensayo$fill, failed = palette_ensayo$accent),
      labels = c(met = "run meets the condition", failed = "run fails it"), breaks = c("met", "failed"),
      guide = ggplot2::guide_legend(override.aes = list(linewidth = 1.2, alpha = 1))) +
    ggplot2::scale_alpha_manual(values = c(met = 0.5, failed = 0.75), guide = "none") +
    ggplot2::scale_x_discrete(NULL, expand = ggplot2::expansion(0.05)) +
    ggplot2::scale_y_continuous("Rank among the runs", breaks = c(0, 0.5, 1), labels = c("lowest", "middle", "highest"),
      limits = c(-0.06, 1.06)) +
    ggplot2::labs(title = wrapped(data$title), caption = paste(c(data$note, run_caption(.result)), collapse = "\n")) +
    theme_ensayo()
}

parallel_plot_data <- function(result, met, inputs, outputs, most) {
  columns <- numeric_columns(result, c(inputs, outputs))
  good <- which(Reduce(`&`, lapply(columns, is.finite)))
  if (length(good) < 2) stop_ensayo("argument", "At least two runs must be good in all that is drawn.",
    if (length(good) == 0) "None is." else "One is.")
  step <- ceiling(length(good) / most)
  shown <- good[seq(1, length(good), by = step)]
  height <- lapply(columns, function(x) (mid_ranks(list(x[good]))[[1]][match(shown, good)] - 0.5) / length(good))
  lines <- do.call(rbind, Map(function(h, name) data.frame(run = shown, axis = name, height = h), height,
    names(columns)))
  lines$axis <- factor(lines$axis, names(columns))
  lines$met <- factor(ifelse(met[lines$run], "met", "failed"), c("met", "failed"))
  lines <- lines[order(lines$met, lines$run, lines$axis), ]  # those that fail on top
  kinds <- vapply(names(columns), function(name) if (name %in% outputs) output_kind_of(result, name) else "number", "")
  ends <- do.call(rbind, lapply(names(columns), function(name) {
    data.frame(axis = factor(name, names(columns)), height = c(0, 1), vjust = c(1.3, -0.4),
      text = format_value(range(columns[[name]][good]), kinds[[name]]))
  }))
  list(lines = lines, ends = ends,
    title = sprintf("%s of runs fail; see where their lines bundle", format_share(1 - mean(met))),
    note = if (step > 1) sprintf("One run in %d is drawn.", step))
}
