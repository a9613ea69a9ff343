#' Figures of costs
#'
#' `plot_costs()`: a cost tree as bars, each code with its percentiles. `plot_allotments()`: parts of a reserve that add up to it.
#' `plot_bridge()`: what moved a percentile from one result to another.
#'
#' @inheritParams cost_table
#' @inheritParams plot_distribution
#' @param depth Whole number: how many levels of the tree to show.
#' @param most Whole number: the most bars to show.
#' @param total Name of the output, bare or as text; the cost tree's, or that which most events enter, when left out.
#' @param bridge What [bridge_results()] gives.
#' @return A ggplot object.
#' @section Errors: `ensayo_error_argument` where the study has no costs, or `bridge` is none.
#' @examples
#' tree <- data.frame(code = c("1", "2"), label = c("Main", "Trench"),
#'   amount = c("pert(370, 410, 520)", "pert(540, 620, 900)"))
#' res <- study("Renewal") |> add_costs(tree, .currency = "kEUR") |> simulate(1000, seed = 11)
#' plot_costs(res)
#' plot_allotments(res)
#' @export
plot_costs <- function(result, tree = NULL, depth = 3, most = 60) {
  check_result(result)
  tree <- cost_tree_asked(result, tree)
  data <- costs_plot_data(result, tree, check_count(depth), check_count(most))
  ggplot2::ggplot(data$rows, ggplot2::aes(y = .data$label)) +
    ggplot2::geom_segment(ggplot2::aes(.data$low, xend = .data$high, yend = .data$label, linewidth = .data$total, colour = .data$total)) +
    ggplot2::geom_point(ggplot2::aes(.data$mean), colour = palette_ensayo$ink, size = 2.2) +
    ggplot2::geom_point(ggplot2::aes(.data$base), shape = 23, size = 2.6, fill = "white", colour = palette_ensayo$accent, stroke = 1.1) +
    ggplot2::scale_linewidth_manual(values = c(`TRUE` = 4.6, `FALSE` = 2.8), guide = "none") +
    ggplot2::scale_colour_manual(values = c(`TRUE` = palette_ensayo$shade, `FALSE` = palette_ensayo$fill), guide = "none") +
    ggplot2::facet_wrap(~panel, scales = "free_x", strip.position = "bottom") +
    ggplot2::scale_x_continuous(NULL, labels = axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = paste(c(data$note, run_caption(result)),
      collapse = "\n")) +
    theme_ensayo(if (nrow(data$rows) > 30) 11 else 13) + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank(),
      axis.text.y = ggplot2::element_text(hjust = 0),
      strip.placement = "outside", panel.spacing.x = grid::unit(1.2, "lines"))
}

costs_plot_data <- function(result, tree, depth, most) {
  readings <- result$study$readings
  ends <- range(not_exceeded(range(readings$percentiles), readings$sense))
  table <- cost_table_of(result, tree, sort(unique(readings$percentiles)), readings$planning)
  shown <- utils::head(table[table$level <= depth, ], most)
  read <- vapply(shown$quantity, function(name) percentile_values(finite_values(result, name), ends), numeric(2))
  label <- ifelse(nzchar(shown$code), trimws(paste(shown$code, shown$label)), "Total")
  label <- paste0(strrep("    ", pmax(shown$level - 1, 0)), label)
  rows <- data.frame(label = factor(label, rev(label)), low = read[1, ], high = read[2, ], mean = shown$mean, base = shown$base,
    total = !shown$leaf, row.names = NULL)
  decimals <- output_decimals(result, tree$name)
  rows$panel <- with_unit("Cost", unit_in_brackets(tree$currency))
  # small items show how uncertain they are beside the largest
  relative <- rows[rows$base != 0, ]
  relative[c("low", "high", "mean", "base")] <- lapply(relative[c("low", "high", "mean", "base")],
    function(x) 100 * (x / relative$base - 1))
  relative$panel <- "Off the base value [%]"
  widest <- which.max(ifelse(shown$leaf, rows$high - rows$low, -1))
  rows <- rbind(rows, relative)
  rows$panel <- factor(rows$panel, unique(rows$panel))
  list(rows = rows,
    title = sprintf("%s is the most uncertain item: from %s to %s", trimws(shown$label[widest]), format_decimals(read[1, widest],
      decimals),
      with_unit(format_decimals(read[2, widest], decimals), tree$currency)),
    subtitle = sprintf("Bar: P%s to P%s. Dot: mean. Diamond: base value", format(min(readings$percentiles)),
      format(max(readings$percentiles))),
    note = c("Means add up to the total; percentiles do not.", if (nrow(table) > nrow(shown)) sprintf("%s not shown.",
      count_of(nrow(table) - nrow(shown), "more code"))))
}

#' @rdname plot_costs
#' @export
plot_allotments <- function(result, total = NULL, most = 25) {
  check_result(result)
  total <- total_drawn(rlang::enquo(total), result)
  data <- allotments_plot_data(result, total, check_count(most))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$allotment, .data$label)) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$allotment >= 0), width = 0.68) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$low, xmax = .data$high), data$rows[is.finite(data$rows$error), ],
      colour = palette_ensayo$ink, linewidth = 0.6) +
    ggplot2::geom_text(ggplot2::aes(.data$place, label = .data$shown), hjust = data$side, size = 3.7, colour = palette_ensayo$ink) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$quiet, linewidth = 0.5) +
    ggplot2::scale_fill_manual(values = c(`TRUE` = palette_ensayo$shade, `FALSE` = palette_ensayo$lowers), guide = "none") +
    ggplot2::scale_x_continuous(with_unit("Part of the reserve", unit_in_brackets(data$unit)), labels = axis_numbers,
      expand = ggplot2::expansion(mult = c(0.08, 0.12))) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = run_caption(result)) + theme_ensayo() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

# The lowest parts; what is beyond `most` is summed.
allotments_plot_data <- function(result, total, most) {
  table <- allotments(result, !!total)
  leaves <- table[is_lowest(table) & table$level > 0, ]
  leaves <- leaves[order(-abs(leaves$allotment)), ]
  rest <- leaves[-seq_len(min(most, nrow(leaves))), ]
  leaves <- utils::head(leaves, most)
  labels <- unique_labels(ifelse(nzchar(leaves$label), leaves$label, leaves$name), leaves$name)
  rows <- data.frame(label = labels, allotment = leaves$allotment, error = leaves$error)
  if (nrow(rest)) rows <- rbind(rows, data.frame(label = count_of(nrow(rest), "other"), allotment = sum(rest$allotment),
    error = NA_real_))
  rows$label <- factor(rows$label, rev(rows$label))
  rows$low <- rows$allotment - half_interval(rows$error, result)
  rows$high <- rows$allotment + half_interval(rows$error, result)
  rows$place <- ifelse(rows$allotment >= 0, pmax(rows$allotment, rows$high, na.rm = TRUE), pmin(rows$allotment, rows$low, na.rm = TRUE))
  decimals <- output_decimals(result, total)
  rows$shown <- sprintf(" %s ", format_decimals(rows$allotment, decimals))
  plan <- sprintf("P%s", format(table$percentile[1]))
  list(rows = rows, side = ifelse(rows$allotment >= 0, 0, 1), unit = quantity_unit(result$study, total),
    title = sprintf("The reserve at %s is %s; its largest part: %s", plan, with_unit(format_decimals(table$allotment[1], decimals),
      quantity_unit(result$study, total)), labels[1]),
    subtitle = "The parts add up to the reserve beyond the base case. Lines: 95 % simulation error")
}

#' @rdname plot_costs
#' @export
plot_bridge <- function(bridge, most = 15) {
  if (!is.data.frame(bridge) || !all(c("row", "change", "value") %in% names(bridge)) || !"from" %in% bridge$row) {
    stop_argument("bridge", "what `bridge_results()` gives", bridge)
  }
  data <- bridge_plot_data(bridge, check_count(most))
  rows <- data$rows
  steps <- rows[-nrow(rows), ]
  ggplot2::ggplot(rows, ggplot2::aes(y = .data$place)) +
    ggplot2::geom_segment(ggplot2::aes(x = .data$value, xend = .data$value, y = .data$place - 0.36, yend = .data$place + 1.36), steps,
      colour = palette_ensayo$noise, linewidth = 0.5) +
    ggplot2::geom_rect(ggplot2::aes(ymin = .data$place - 0.36, ymax = .data$place + 0.36, xmin = .data$bottom, xmax = .data$top,
      fill = .data$what)) +
    ggplot2::geom_linerange(ggplot2::aes(xmin = .data$value - .data$half, xmax = .data$value + .data$half), rows[is.finite(rows$half), ],
      colour = palette_ensayo$ink, linewidth = 0.5) +
    ggplot2::geom_text(ggplot2::aes(.data$above, label = .data$shown), hjust = -0.15, size = 3.8, colour = palette_ensayo$ink) +
    ggplot2::scale_fill_manual(NULL, values = c(total = palette_ensayo$line, raises = palette_ensayo$accent, lowers = palette_ensayo$fill),
      breaks = intersect(c("raises", "lowers"), rows$what)) +
    ggplot2::scale_y_reverse(NULL, breaks = rows$place, labels = rows$label) +
    quantity_scale(function(...) ggplot2::scale_x_continuous(..., expand = c(0, 0)), data$axis, data$kind) +
    ggplot2::coord_cartesian(xlim = data$limits) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, caption = "The axis does not begin at 0.") + theme_ensayo() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

bridge_plot_data <- function(bridge, most) {
  table <- unclass_table(bridge)
  parts <- table[table$row %in% c("part", "rest"), ]
  if (nrow(parts) > most) {
    others <- parts[seq(most, nrow(parts)), ]
    parts <- rbind(parts[seq_len(most - 1), ], within(others[1, ], {
      name <- label <- count_of(nrow(others), "other")
      change <- sum(others$change)
      error <- sqrt(sum(others$error^2))
    }))
  }
  kind <- if (inherits(table$value, "Date")) "date" else "number"
  start <- as.double(table$value[table$row == "from"])
  end <- as.double(table$value[table$row == "to"])
  value <- start + cumsum(c(0, parts$change))
  rows <- data.frame(place = seq_len(nrow(parts) + 2), label = c("then", parts$label, "now"), value = c(value, end),
    bottom = c(NA, pmin(value[-length(value)], value[-1]), NA), top = c(start, pmax(value[-length(value)], value[-1]), end),
    what = c("total", ifelse(parts$change > 0, "raises", "lowers"), "total"), half = c(NA, stats::qnorm(0.975) * parts$error, NA))
  span <- range(c(value, start, end))
  low <- span[1] - 0.25 * max(diff(span), if (kind == "date") 1 else 0.02 * abs(span[2]))
  rows$bottom[is.na(rows$bottom)] <- low
  # as many digits as the simulation errors bear
  error <- max(c(parts$error[parts$error > 0], diff(span) / 1000, if (kind == "number") abs(end) / 1e6))
  decimals <- max(0, min(6, -floor(log10(2 * error))))
  rows$above <- pmax(rows$top, rows$value + ifelse(is.finite(rows$half), rows$half, 0))
  told <- function(x) if (kind == "date") format(as_day(x)) else format_decimals(x, decimals)
  rows$shown <- c(told(start), sprintf("%s%s", ifelse(parts$change > 0, "+", ""), format_decimals(parts$change, decimals)), told(end))
  mark <- sprintf("P%s", format(table$percentile[1]))
  unit <- table$unit[1]
  largest <- parts$label[which.max(abs(parts$change))]
  moved <- if (nrow(parts) == 0) "nothing moved it" else sprintf("most by %s", largest)
  list(rows = rows, limits = c(low, max(rows$above) + (if (kind == "date") 0.3 else 0.14) * max(diff(span), if (kind == "date") 1 else 0.01 * abs(span[2]))),
    axis = if (kind == "date") sprintf("%s of the finish; changes in days", mark) else with_unit(mark, unit_in_brackets(unit)), kind = kind,
    title = sprintf("%s moved from %s to %s, %s", mark, told(start), with_unit(told(end), unit), moved),
    subtitle = if (kind == "date") "Shares are the mean of two orders of the parts. Lines: 95 % simulation error" else "Shares do not depend on the order of the parts. Lines: 95 % simulation error")
}
