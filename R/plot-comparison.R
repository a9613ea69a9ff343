#' Pictures of a comparison
#'
#' Alternatives in one figure: outlines of their histograms, densities, cumulative curves or their complements, their
#' ranges, or the distribution of the run-by-run difference.
#'
#' @param comparison What [compare_results()] or [compare_outputs()] gives.
#' @param output Name of an output, bare or as text; may be left out where one is compared only.
#' @param show `"outline"`, `"density"`, `"cumulative"`, `"exceedance"`, `"ranges"`, or `"difference"` (of each
#'   alternative from the first, run by run).
#' @param target A number or `NULL`: a line that the curves are compared with, labelled with the chance of each to be
#'   below.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_name` for an unknown output; `ensayo_error_argument` for another picture, or the
#'   difference of runs that are not paired.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' wider <- replace_outputs(main, velocity = flow / 0.05)
#' both <- compare_results(old = simulate(main, 1000, 11), new = simulate(wider, 1000, 11))
#' plot_comparison(both, velocity, show = "cumulative")
#' plot_comparison(both, velocity, show = "difference")
#' @export
plot_comparison <- function(comparison, output, show = "outline", target = NULL) {
  check_class(comparison, "ensayo_comparison", "a comparison", mend = "Comparisons are made by `compare_results()`.")
  check_choice(show, c("outline", "density", "cumulative", "exceedance", "ranges", "difference"))
  known <- comparison$about$output
  quosure <- rlang::enquo(output)
  name <- if (rlang::quo_is_missing(quosure) && length(known) == 1) known else
    resolve_name(quosure, known, "an output that is compared")
  about <- comparison$about[known == name, ]
  if (!is.null(target)) target <- check_target(target, about$kind)
  caption <- run_caption(comparison$results[[1]])
  if (show == "difference") return(difference_figure(comparison, name, about, caption))
  sides <- lapply(comparison$sides, function(side) side$columns[[name]][is.finite(side$columns[[name]])])
  sides <- Filter(length, sides)
  if (length(sides) == 0) return(empty_plot(sprintf("%s: no good runs to show", about$label), caption))
  title <- comparison_title(comparison, name, about)
  axis <- quantity_scale(ggplot2::scale_x_continuous, with_unit(about$label, unit_in_brackets(about$unit)), about$kind)
  base <- ggplot2::ggplot() + axis + ggplot2::labs(title = wrapped(title), caption = caption) + theme_ensayo()
  if (show == "ranges") return(base + side_ranges(sides))
  base + side_curves(sides, show, about$kind) + side_target(sides, target, about$kind) + side_scales(names(sides)) +
    share_scale(show)
}

side_ranges <- function(sides) {
  read <- vapply(sides, percentile_values, numeric(5), percentiles = c(5, 95, 25, 50, 75))
  rows <- data.frame(label = factor(names(sides), rev(names(sides))), low = read[1, ], high = read[2, ],
    quarter = read[3, ], median = read[4, ], three_quarters = read[5, ])
  layers <- lapply(range_layers(), function(layer) {
    layer$data <- rows
    layer
  })
  list(layers, ggplot2::aes(y = .data$label), ggplot2::labs(y = NULL,
    subtitle = "Thin: 90 % of runs. Thick: the middle half of the runs. Dot: median"),
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank()))
}

side_curves <- function(sides, show, kind) {
  data <- do.call(rbind, lapply(names(sides), function(name) cbind(side_curve(sides, name, show, kind), side = name)))
  data$side <- factor(data$side, names(sides))
  mapping <- ggplot2::aes(.data$value, .data$height, colour = .data$side, linetype = .data$side)
  if (show == "density") ggplot2::geom_line(mapping, data, linewidth = 1) else
    (if (show == "outline" || kind != "number") ggplot2::geom_step else ggplot2::geom_line)(mapping, data,
      linewidth = 1)
}

# Points of one alternative's curve. Outlines share their bars' limits, so that heights compare.
side_curve <- function(sides, name, show, kind) {
  values <- sides[[name]]
  view <- range(vapply(sides, central_view, c(0, 0)))
  if (show %in% c("cumulative", "exceedance")) {
    curve <- cumulative_curve(values, view, kind)
    height <- if (show == "exceedance") 1 - curve$cumulative else curve$cumulative
    return(data.frame(value = curve$value, height = height))
  }
  if (diff(view) == 0) view <- view + c(-0.5, 0.5)
  if (show == "density") return(side_density(values, view))
  all <- unlist(sides)
  all <- all[all >= view[1] & all <= view[2]]
  limits <- if (kind != "number" && diff(range(all)) <= 50) seq(floor(min(all)) - 0.5, max(all) + 1) else
    pretty(view, min(60, max(15, nrow(histogram_bars(all, "number", view)))))
  inside <- values[values >= limits[1] & values <= limits[length(limits)]]
  counts <- tabulate(findInterval(inside, limits, rightmost.closed = TRUE), length(limits) - 1)
  data.frame(value = c(limits[1], limits), height = c(0, counts, 0) / length(values))
}

# Gaussian kernel, Silverman's (1986, equation 3.31) bandwidth.
side_density <- function(values, view) {
  spread <- c(stats::sd(values), diff(percentile_values(values, c(25, 75))) / 1.34)
  spread <- spread[is.finite(spread) & spread > 0]
  width <- if (length(spread)) 0.9 * min(spread) * length(values)^-0.2 else 0
  curve <- stats::density(values, bw = max(width, diff(view) / 512), n = 512, from = view[1], to = view[2])
  data.frame(value = curve$x, height = curve$y)
}

share_scale <- function(show) {
  title <- c(outline = "Share of runs in each bar", density = "Density",
    cumulative = "Share of runs not above the value", exceedance = "Share of runs above the value")[[show]]
  if (show == "density") return(ggplot2::scale_y_continuous(title, labels = axis_numbers,
    expand = ggplot2::expansion(c(0, 0.08))))
  ggplot2::scale_y_continuous(title, labels = scales::label_percent(suffix = " %"),
    expand = ggplot2::expansion(c(0, 0.08)))
}

# Colours that differ in lightness, and line types.
side_scales <- function(names) {
  colours <- rep_len(c("#0d5c75", "#c2571a", "#7d8f99", "#3b2a5c", "#c9a227", "#2f7d4f"), length(names))
  types <- rep_len(c("solid", "42", "11", "6212", "84", "1343"), length(names))
  list(ggplot2::scale_colour_manual(NULL, values = stats::setNames(colours, names)),
    ggplot2::scale_linetype_manual(NULL, values = stats::setNames(types, names)),
    ggplot2::theme(legend.key.width = ggplot2::unit(2.4, "lines")))
}

side_target <- function(sides, target, kind) {
  if (is.null(target)) return(NULL)
  below <- vapply(sides, function(values) mean((if (kind == "date") floor(values) else values) < target), 0)
  text <- paste(c(sprintf("below %s:", format_value(target, kind)),
    sprintf("%s %s", names(sides), format_share(below))),
    collapse = "\n")
  list(ggplot2::geom_vline(xintercept = target, colour = palette_ensayo$ink, linewidth = 0.8),
    ggplot2::annotate("label", x = target, y = Inf, label = text, hjust = 1.05, vjust = 1.1, size = 4.2, label.size = 0,
      fill = "#ffffffd0", colour = palette_ensayo$ink, lineheight = 0.95))
}

# The first alternative's difference from what it is compared with, or the largest of several.
comparison_title <- function(comparison, name, about) {
  rows <- comparison$differences[comparison$differences$output == name & comparison$differences$runs > 0, ]
  if (nrow(rows) == 0) return(about$label)
  row <- rows[which.max(abs(rows$difference)), ]
  if (!row$verdict %in% c("higher", "lower")) {
    return(sprintf("%s: %s and %s %s", about$label, row$alternative, row$against,
      if (row$verdict == "not told apart") "are not told apart" else "are equal in every run"))
  }
  sprintf("%s: %s is %s than %s by %s on average", about$label, row$alternative, row$verdict, row$against,
    with_unit(format_number(abs(row$difference), 3), about$unit))
}

difference_figure <- function(comparison, name, about, caption) {
  rows <- comparison$differences[comparison$differences$output == name & comparison$differences$paired, ]
  if (nrow(rows) == 0) {
    stop_ensayo("argument", "A difference is shown run by run, of results that share their random numbers.",
      comparison$differences$remark[1], "Show \"outline\" or \"cumulative\" instead.")
  }
  first <- comparison$sides[[1]]$columns[[name]]
  differences <- lapply(stats::setNames(nm = rows$alternative), function(side) {
    d <- comparison$sides[[side]]$columns[[name]] - first
    d[is.finite(d)]
  })
  limits <- histogram_bars(unlist(differences))
  bars <- do.call(rbind, lapply(names(differences), function(side) {
    d <- differences[[side]]
    counts <- cpp_cell_counts(d, limits$from[1], limits$to[1] - limits$from[1], nrow(limits))
    data.frame(limits[c("from", "to")], share = counts / length(d), side = side)
  }))
  row <- rows[which.max(abs(rows$difference)), ]
  title <- sprintf("%s: %s less %s is above 0 in %s of runs", about$label, row$alternative, row$against,
    format_share(row$chance_higher))
  subtitle <- paste(sprintf("%s: mean difference %s \u00b1 %s", rows$alternative, format_number(rows$difference, 3),
    with_unit(format_number((rows$high - rows$low) / 2, 2), about$unit)), collapse = "; ")
  ggplot2::ggplot(bars) +
    ggplot2::geom_rect(ggplot2::aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$share),
      fill = palette_ensayo$fill, colour = "white", linewidth = 0.2) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$ink, linewidth = 0.9) +
    (if (nrow(rows) > 1) ggplot2::facet_wrap(ggplot2::vars(.data$side), ncol = 1)) +
    ggplot2::scale_x_continuous(with_unit(sprintf("Difference from %s, run by run", row$against),
      unit_in_brackets(about$unit)),
      labels = axis_numbers) +
    ggplot2::scale_y_continuous("Share of runs in each bar", labels = scales::label_percent(suffix = " %"),
      expand = ggplot2::expansion(c(0, 0.05))) +
    ggplot2::labs(title = wrapped(title), subtitle = subtitle, caption = caption) + theme_ensayo()
}
