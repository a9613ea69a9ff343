#' A series over its steps
#'
#' Bands that hold shares of the runs, the median, the base case, and a few runs as lines. A band between percentiles holds at
#' each step by itself; how many runs stay within it all the way is said. Beside it, the distribution at one of the steps.
#'
#' @inheritParams plot_distribution
#' @param output Name of a series, bare or as text; may be left out where there is one only.
#' @param percentiles Numbers from 0 to 100, the edges of the bands, in the study's sense; `NULL` for the study's. P10 and
#'   P90 where there is one alone.
#' @param runs Whole number: how many runs are drawn as lines, the first ones.
#' @param hold `"steps"`: bands that hold their share of the runs at each step; `"paths"`: wider ones that hold it all the way,
#'   from [series_bands()].
#' @param paths What [pick_paths()] gives, or numbers of runs: these are drawn as lines with their names in place of the first runs.
#' @param at A step, or `"last"`: its distribution is drawn beside the series.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for what is not a series; `ensayo_error_argument` for other arguments.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), fall = law_pert(5, 10, 30)) |>
#'   add_model(function(volume, fall) data.frame(step = 1:10, level = volume - fall * (1:10))) |>
#'   simulate(nsim = 200, seed = 11)
#' plot_series(res, level, at = "last")
#' plot_series(res, level, c(5, 95), hold = "paths", paths = pick_paths(res, level))
#' @export
plot_series <- function(result, output, percentiles = NULL, runs = 12, hold = "steps", paths = NULL, at = NULL) {
  check_result(result)
  name <- resolve_name(rlang::enquo(output), series_of(result), "a series of the result")
  marks <- sort(unique(check_percentiles(percentiles %||% result$study$readings$percentiles, "percentiles")))
  if (length(marks) < 2) marks <- sort(unique(c(marks, 10, 90)))  # a band has two edges
  hold <- check_choice(hold, c("steps", "paths"))
  data <- series_plot_data(result, name, marks, check_count(runs, at_least = 0), hold, paths)
  if (is.null(data$bands)) return(empty_plot(sprintf("%s: no good runs to show", data$label), run_caption(result)))
  shades <- grDevices::colorRampPalette(c("#e2edf0", palette_ensayo$fill))(length(data$names))
  ggplot2::ggplot() +
    ggplot2::geom_ribbon(ggplot2::aes(.data$step, ymin = .data$low, ymax = .data$high, fill = .data$band), data$bands) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value, group = .data$run), data$runs,
      colour = palette_ensayo$ink, linewidth = if (is.null(paths)) 0.3 else 0.7, alpha = if (is.null(paths)) 0.6 else 0.9) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value), data$median, colour = palette_ensayo$line, linewidth = 1.3) +
    ggplot2::geom_line(ggplot2::aes(.data$step, .data$value), data$base, colour = palette_ensayo$accent, linewidth = 0.9,
      linetype = "dashed") +
    path_names(data) + (if (!is.null(at)) distribution_beside(result, name, at, data)) +
    ggplot2::geom_label(ggplot2::aes(.data$step, .data$value, label = .data$text, vjust = .data$vjust), data$labels,
      hjust = 1, size = 4, label.size = 0, fill = "#ffffffc0", colour = data$labels$colour, fontface = "bold") +
    ggplot2::scale_fill_manual(NULL, values = stats::setNames(shades, data$names), breaks = data$names) +
    step_scale(data$steps) +
    quantity_scale(ggplot2::scale_y_continuous, axis_title(result$study, name), data$kind) +
    ggplot2::labs(title = wrapped(data$title), subtitle = wrapped(data$subtitle, 88), caption = run_caption(result)) +
    theme_ensayo()
}

series_plot_data <- function(result, name, marks, runs, hold = "steps", paths = NULL) {
  output <- list(steps = quantity_steps(result$study, name))
  column <- run_column(result, name)
  label <- quantity_label(result$study, name)
  good <- which(is_finite_run(column))
  if (length(good) == 0) return(list(label = label))
  kind <- output_kind_of(result, name)
  sense <- result$study$readings$sense
  pairs <- rev(band_pairs(marks))
  read <- function(p) series_percentiles(result, name, p, NULL, NULL, 0.95)$value
  bands <- do.call(rbind, lapply(pairs, function(pair) {
    if (hold == "paths") {
      band <- series_bands(result, !!name, abs(diff(pair)) / 100)
      return(data.frame(step = band$step, low = band$path_low, high = band$path_high, band = path_words(pair)))
    }
    ends <- lapply(not_exceeded(pair, sense), function(p) read(not_exceeded(p, sense)))
    data.frame(step = output$steps, low = pmin(ends[[1]], ends[[2]]), high = pmax(ends[[1]], ends[[2]]),
      band = band_words(pair))
  }))
  names <- vapply(pairs, if (hold == "paths") path_words else band_words, "")
  bands$band <- factor(bands$band, names)
  median <- data.frame(step = output$steps, value = read(50))
  at_base <- result$base$outputs[[name]] %||% rep(result$base$inputs[[name]], length(output$steps))
  base <- data.frame(step = output$steps, value = as.double(at_base))
  drawn <- if (is.null(paths)) utils::head(good, runs) else picked_places(result, paths, good)
  n <- nrow(median)
  unit <- quantity_unit(result$study, name)
  wide <- bands[bands$band == names[1], ]
  last <- format_value(c(wide$low[n], wide$high[n]), kind, decimals_of(wide$high[n] - wide$low[n]))
  above <- isTRUE(median$value[n] >= base$value[n])
  runs <- data.frame(step = rep(output$steps, each = length(drawn)), run = rep(drawn, n), value = as.double(column[drawn, ]))
  lines <- lapply(list(bands = bands, median = median, base = base, runs = runs), wide_steps)
  end <- max(lines$median$step)
  c(lines, list(names = names, steps = output$steps, kind = kind, label = label,
    ends = if (!is.null(paths)) data.frame(step = end, value = column[drawn, n], text = path_labels(result, paths, drawn)),
    labels = data.frame(step = end, value = c(median$value[n], base$value[n]), text = c("median", "base case"),
      vjust = if (above) c(-0.3, 1.3) else c(1.3, -0.3), colour = c(palette_ensayo$line, palette_ensayo$accent)),
    title = sprintf(if (hold == "paths") "%s: %s of runs stay in a band that ends from %s to %s"
      else "%s at the last step: %s of runs from %s to %s", label, share_between(pairs[[1]]), last[1], with_unit(last[2], unit)),
    subtitle = paste0(held_words(column[good, , drop = FALSE], wide, names[1], hold),
      if (length(drawn) && is.null(paths)) sprintf("; thin lines: the first %s", count_of(length(drawn), "run")) else "")))
}

# What a band holds, so that nobody takes it for the other kind.
held_words <- function(column, band, name, hold) {
  if (hold == "paths") return("Bands hold that share of whole runs")
  sprintf("Bands hold at each step by itself: %s of runs stay within %s all the way",
    format_share(share_inside(column, band$low, band$high), 0), name)
}

path_words <- function(pair) sprintf("%s of whole runs", share_between(pair))

# Runs that are to be drawn, by their places in the result.
picked_places <- function(result, paths, good, call = rlang::caller_env(2)) {
  at <- vapply(unique(as.double(if (is.data.frame(paths)) paths$run else paths)), function(run) run_place(result, run, call), 0)
  at[at %in% good]
}

path_labels <- function(result, paths, drawn) {
  numbers <- run_numbers(result)[drawn]
  if (!is.data.frame(paths)) return(sprintf("run %s", vapply(numbers, format_given, "")))
  vapply(numbers, function(run) sprintf("%s (run %s)", paste(paths$picked[paths$run == run], collapse = ", "), format_given(run)), "")
}

path_names <- function(data) {
  if (is.null(data$ends)) return(NULL)
  ends <- data$ends
  ends$place <- kept_apart(ends$value, 0.045 * diff(range(data$runs$value, data$bands$low, data$bands$high)))
  list(ggplot2::geom_text(ggplot2::aes(.data$step, .data$place, label = .data$text), ends, hjust = -0.05, size = 3.8,
    colour = palette_ensayo$ink), ggplot2::expand_limits(x = ends$step[1] + 0.22 * max(as.double(diff(range(data$median$step))), 1)))
}

# Places for labels that keep off each other.
kept_apart <- function(values, apart) {
  order <- order(values)
  at <- values[order]
  for (i in seq_along(at)[-1]) at[i] <- max(at[i], at[i - 1] + apart)
  replace(values, order, at - mean(at - values[order]))
}

# A histogram of the values at one step, turned on its side, to the right of the last step.
distribution_beside <- function(result, name, step, data) {
  steps <- data$steps
  at <- step_place(steps, step)
  if (is.na(at)) stop_no_step(step, stats::setNames(list(steps), name), rlang::caller_env(2))
  values <- run_column(result, name, at)
  counts <- graphics::hist(values[is.finite(values)], breaks = 30, plot = FALSE)
  span <- max(as.double(diff(range(steps))), 1)
  left <- as.double(max(data$median$step)) + (if (is.null(data$ends)) 0.04 else 0.33) * span  # beyond the names of paths
  bars <- data.frame(from = left, to = left + 0.2 * span * counts$counts / max(counts$counts), low = utils::head(counts$breaks, -1),
    high = counts$breaks[-1])
  if (inherits(steps, "Date")) bars[c("from", "to")] <- lapply(bars[c("from", "to")], as.Date, origin = "1970-01-01")
  list(
    ggplot2::geom_vline(xintercept = as.double(steps[at]), colour = palette_ensayo$quiet, linetype = "13"),
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = .data$low, ymax = .data$high), bars,
      fill = palette_ensayo$shade, colour = "white", linewidth = 0.2),
    ggplot2::annotate("text", x = bars$from[1], y = Inf, label = sprintf("at %s", step_words(steps[at])), hjust = 0, vjust = 1.2,
      size = 4, colour = palette_ensayo$ink)
  )
}

# Percentiles in pairs from the middle outwards.
band_pairs <- function(marks) {
  k <- length(marks) %/% 2
  lapply(rev(seq_len(k)), function(i) marks[c(i, length(marks) + 1 - i)])
}

share_between <- function(pair) sprintf("%s %%", format(abs(diff(pair))))

band_words <- function(pair) sprintf("P%s to P%s", format(pair[1]), format(pair[2]))
