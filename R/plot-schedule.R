#' Figures of a schedule
#'
#' `plot_schedule()`: tasks as bars over time, with how far they may move and how often each is critical. `plot_schedule_gains()`: what is won by
#' shortening each, with its simulation error. `plot_slip()`: how late each may be. `plot_critical_paths()`: which chains of tasks set the
#' finish, and how often.
#'
#' @inheritParams plot_distribution
#' @param most Whole number: the most tasks to show; of more, those that are critical most often.
#' @param gains What [schedule_gains()] gives; or `NULL` for tasks that are ten per cent shorter, and events.
#' @param days Numbers: by how many days the planning percentile of the finish may move, two at most.
#' @return A ggplot object.
#' @section Reading them: a dark bar goes from the median start to the median finish. The light bar around it goes from the early start (P10) to
#'   the late finish (the planning percentile). What a schedule on paper shows is the base case, a diamond at each base finish.
#' @section Errors: `ensayo_error_argument` where the study has no tasks.
#' @examples
#' works <- study("Works") |>
#'   add_tasks(dig = task(law_pert(8, 10, 18)), order = task(law_pert(5, 9, 20)),
#'     lay = task(law_pert(6, 8, 14), after = "dig, order"), .start = "2027-03-01")
#' res <- simulate(works, nsim = 1000, seed = 11)
#' plot_schedule(res)
#' plot_schedule_gains(res)
#' plot_slip(res)
#' plot_critical_paths(res)
#' @export
plot_schedule <- function(result, most = 45) {
  check_schedule(result)
  data <- schedule_plot_data(result, check_count(most))
  rows <- data$rows
  size <- if (nrow(rows) > 25) 3 else 3.7
  thick <- max(min(130 / nrow(rows), 7), 2)
  ggplot2::ggplot(rows, ggplot2::aes(y = .data$task)) +
    (if (is.finite(data$promised)) ggplot2::geom_vline(xintercept = data$promised, colour = palette_ensayo$accent, linewidth = 0.6,
      linetype = "42")) +
    ggplot2::geom_segment(ggplot2::aes(.data$early, xend = .data$late, yend = .data$task), rows, colour = palette_ensayo$fill, linewidth = thick) +
    ggplot2::geom_segment(ggplot2::aes(.data$start, xend = .data$finish, yend = .data$task, colour = .data$critical >= 0.5), linewidth = thick) +
    ggplot2::geom_point(ggplot2::aes(.data$base), shape = 23, size = 2.2, fill = "white", colour = palette_ensayo$ink, stroke = 0.9) +
    ggplot2::geom_point(ggplot2::aes(.data$finish), rows[rows$milestone, ], shape = 18, size = 3.4, colour = palette_ensayo$line) +
    ggplot2::geom_label(ggplot2::aes(.data$late, label = .data$shown), hjust = -0.1, size = size, colour = palette_ensayo$ink, fill = "white",
      label.size = 0, label.padding = grid::unit(0.08, "lines")) +
    ggplot2::scale_colour_manual(values = c(`TRUE` = palette_ensayo$line, `FALSE` = palette_ensayo$shade), guide = "none") +
    quantity_scale(function(...) ggplot2::scale_x_continuous(..., expand = ggplot2::expansion(c(0.02, 0.09))), NULL, data$kind) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, x = data$axis,
      caption = paste(c(data$note, run_caption(result)), collapse = "\n")) +
    theme_ensayo(dense_size(nrow(rows))) + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank(),
      axis.text.y = ggplot2::element_text(hjust = 0))
}

# Letters that many rows have room for.
dense_size <- function(rows) if (rows > 35) 9.5 else if (rows > 15) 11 else 13

schedule_plot_data <- function(result, most) {
  study <- result$study
  table <- unclass_table(schedule_rows(result, schedule_percentiles(result)))
  plan <- percentile_names(study$readings$planning)
  late <- paste0("finish_", plan)
  all <- table[table$row == "project", ]
  tasks <- table[table$row %in% c("task", "milestone"), ]
  kept <- if (nrow(tasks) > most) sort(order(-tasks$critical)[seq_len(most)]) else seq_len(nrow(tasks))
  tasks <- tasks[kept, ]
  dated <- inherits(all$base_finish, "Date")
  # a day is there until its end
  ends <- if (dated) 1 else 0
  milestone <- tasks$row == "milestone"
  label <- short_labels(tasks$label, tasks$name)
  rows <- data.frame(task = factor(label, rev(label)), early = as.double(tasks$start_P10), start = as.double(tasks$start_P50),
    finish = as.double(tasks$finish_P50) + ends, late = as.double(tasks[[late]]) + ends, base = as.double(tasks$base_finish) + ends,
    critical = tasks$critical, shown = format_share(tasks$critical, 0), milestone = milestone)
  rows$early[milestone] <- as.double(tasks$finish_P10[milestone]) + ends
  rows$start[milestone] <- rows$finish[milestone]
  promised <- study$schedule$promised
  day <- function(x) if (dated) format(x) else sprintf("day %s", format_number(as.double(x)))
  chance <- if (!is.null(promised)) promise_kept(result)
  list(rows = rows, kind = if (dated) "date" else "number", promised = if (is.null(promised)) NA_real_ else as.double(promised) + 1,
    axis = if (!dated) "Days from the start",
    title = sprintf("In %s of runs all is finished by %s; the base case says %s", format_share(not_exceeded(study$readings$planning,
      study$readings$sense) / 100, 0), day(all[[late]]), day(all$base_finish)),
    subtitle = sprintf("Dark: P50 start to P50 finish. Light: P10 start to %s finish. Diamond: base finish. %%: runs in which it is critical", plan),
    note = c(if (!is.null(promised)) sprintf("Dashed: the promised %s, kept in %s of runs", format(promised), format_share(chance)),
      if (length(kept) < length(study$tasks)) sprintf("%d of %d tasks: those that are critical most often", length(kept), length(study$tasks))))
}

#' @rdname plot_schedule
#' @export
plot_schedule_gains <- function(result, gains = NULL, most = 20) {
  check_schedule(result)
  most <- check_count(most)
  if (is.null(gains)) gains <- schedule_gains(result, c("shorter", if (has_schedule_events(result)) "events"))
  data <- schedule_gains_plot_data(result, gains, most)
  if (is.null(data)) return(empty_plot("Nothing is won by any of it", run_caption(result)))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$gain, .data$what)) +
    ggplot2::geom_vline(xintercept = 0, colour = palette_ensayo$noise) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$event), width = 0.62) +
    ggplot2::geom_errorbar(ggplot2::aes(xmin = .data$low, xmax = .data$high), width = 0.22, colour = palette_ensayo$ink, linewidth = 0.5) +
    ggplot2::geom_point(ggplot2::aes(.data$mean), shape = 21, size = 2.6, fill = "white", colour = palette_ensayo$ink, stroke = 0.9) +
    ggplot2::scale_fill_manual(NULL, values = c(task = palette_ensayo$fill, event = palette_ensayo$shade),
      guide = if (length(unique(data$rows$event)) > 1) "legend" else "none") +
    ggplot2::scale_x_continuous("Days by which the finish gets earlier", labels = axis_numbers) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = paste(c(data$note, run_caption(result)),
      collapse = "\n")) +
    theme_ensayo(dense_size(nrow(data$rows))) + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank())
}

gain_words <- c(shorter = "shorter", least = "at its least", certain = "without spread", event = "without the event")

schedule_gains_plot_data <- function(result, gains, most) {
  gains <- unclass_table(gains)
  told <- gains[gains$gain != 0 | gains$mean_gain != 0, ]
  if (nrow(told) == 0) return(NULL)
  shown <- utils::head(told, most)
  half <- half_interval(shown$error, result)
  label <- ifelse(nzchar(shown$label), shown$label, shown$name)
  several <- length(unique(shown$kind)) > 1
  what <- if (several) sprintf("%s, %s", label, gain_words[shown$kind]) else label
  what <- make.unique(what, " ")
  rows <- data.frame(what = factor(what, rev(what)), gain = shown$gain, low = shown$gain - half, high = shown$gain + half, mean = shown$mean_gain,
    event = ifelse(shown$kind == "event", "event", "task"))
  plan <- sprintf("P%s", format(shown$percentile[1]))
  list(rows = rows, title = sprintf("%s: %s is %s days earlier, the most of all", what[1], plan, format_decimals(shown$gain[1], decimals_of(0,
    shown$error[1]))), subtitle = sprintf("Bar: %s, with its 95 %% simulation error. Ring: mean", plan),
    note = c("Gains do not add up", if (nrow(shown) < nrow(gains)) sprintf("%d of %d: the others win nothing, or less", nrow(shown), nrow(gains))))
}

#' @rdname plot_schedule
#' @export
plot_slip <- function(result, days = c(0, 5), most = 45) {
  check_schedule(result)
  data <- slip_plot_data(result, utils::head(sort(unique(days)), 2), check_count(most))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$slip, .data$task)) +
    ggplot2::geom_line(ggplot2::aes(group = .data$task), rows_to_join(data$rows, "task"), colour = palette_ensayo$fill, linewidth = 2.2) +
    ggplot2::geom_point(ggplot2::aes(shape = .data$days, fill = .data$days), size = 3, colour = palette_ensayo$line, stroke = 1) +
    ggplot2::scale_shape_manual(NULL, values = stats::setNames(c(21, 22)[seq_along(levels(data$rows$days))], levels(data$rows$days))) +
    ggplot2::scale_fill_manual(NULL, values = stats::setNames(c(palette_ensayo$line, "white")[seq_along(levels(data$rows$days))],
      levels(data$rows$days))) +
    ggplot2::scale_x_continuous("Days of work by which it may start later", labels = axis_numbers,
      expand = ggplot2::expansion(c(0.02, 0.05)), limits = c(0, NA)) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, y = NULL, caption = run_caption(result)) +
    theme_ensayo(dense_size(nlevels(data$rows$task))) + ggplot2::theme(panel.grid.major.y = ggplot2::element_blank(),
      legend.position = "top", legend.justification = "left")
}

# Rows that a line joins: those of groups of more than one.
rows_to_join <- function(rows, group) rows[rows[[group]] %in% rows[[group]][duplicated(rows[[group]])], ]

slip_plot_data <- function(result, days, most) {
  table <- unclass_table(slip_allowed(result, days))
  table <- table[!is.na(table$start_later), ]
  first <- table[table$days == days[1], ]
  kept <- utils::head(order(first$start_later), most)
  names <- first$name[kept]
  table <- table[table$name %in% names, ]
  label <- ifelse(nzchar(table$label), table$label, table$name)
  own <- label[match(names, table$name)]
  plan <- sprintf("P%s", format(result$study$readings$planning))
  words <- ifelse(days == 0, sprintf("%s of the finish stays", plan), sprintf("%s moves by %s", plan, vapply(days, function(d) count_of(d, "day"), "")))
  none <- sum(first$start_later < 0.05)
  list(rows = data.frame(task = factor(label, rev(unique(own))), slip = table$start_later, days = factor(words[match(table$days, days)], words)),
    title = if (days[1] == 0) sprintf("%s without moving the %s", if (none == 1) "One task has no day to be late" else sprintf(
      "%s have no day to be late", count_of(none, "task")), plan) else "How late each task may start",
    subtitle = "For one task at a time, the others as they come")
}

#' @rdname plot_schedule
#' @export
plot_critical_paths <- function(result, most = 6) {
  check_schedule(result)
  data <- paths_plot_data(result, check_count(most))
  ggplot2::ggplot(data$rows, ggplot2::aes(.data$path, .data$task)) +
    ggplot2::geom_line(ggplot2::aes(group = .data$path), rows_to_join(data$rows, "path"), colour = palette_ensayo$noise, linewidth = 0.8) +
    ggplot2::geom_point(ggplot2::aes(fill = .data$always, size = .data$share), shape = 21, colour = palette_ensayo$line, stroke = 1) +
    ggplot2::scale_fill_manual(NULL, values = c(`on all of them` = palette_ensayo$line, `on some of them` = palette_ensayo$fill)) +
    ggplot2::scale_size_area(max_size = 6.5, guide = "none", limits = c(0, 1)) +
    ggplot2::scale_x_discrete(position = "top") +
    ggplot2::guides(fill = ggplot2::guide_legend(override.aes = list(size = 4))) +
    ggplot2::labs(title = wrapped(data$title), subtitle = data$subtitle, x = NULL, y = NULL, caption = run_caption(result)) +
    theme_ensayo(dense_size(nlevels(data$rows$task))) + ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0),
      legend.position = "bottom")
}

paths_plot_data <- function(result, most) {
  paths <- unclass_table(critical_paths(result, most))
  tasks <- strsplit(paths$path, " > ", fixed = TRUE)
  names <- intersect(result$study$models$schedule$plan$names, unlist(tasks))
  label <- short_labels(text_of(result$study$tasks[names], function(task) task$label), names)
  shown <- make.unique(format_share(paths$share, 0), " ")
  times <- table(factor(unlist(tasks), names))
  rows <- data.frame(task = factor(label[match(unlist(tasks), names)], rev(label)), path = factor(rep(shown, lengths(tasks)), shown),
    share = rep(paths$share, lengths(tasks)), always = ifelse(times[unlist(tasks)] == nrow(paths), "on all of them", "on some of them"))
  list(rows = rows, title = if (paths$paths[1] == 1) "One chain of tasks sets the finish in all runs" else sprintf(
      "The most frequent critical path sets the finish in %s of runs; there are %s in all", shown[1], format_given(paths$paths[1])),
    subtitle = if (nrow(paths) < paths$paths[1]) sprintf("The %d most frequent ones, and the share of runs in which each sets the finish",
      nrow(paths)) else "Each path, and the share of runs in which it sets the finish")
}

# Labels that fit beside or into a figure, none twice.
short_labels <- function(label, names) {
  label <- ifelse(nzchar(label), label, names)
  label <- ifelse(nchar(label) > 34, paste0(substr(label, 1, 33), "\u2026"), label)
  twice <- duplicated(label)
  label[twice] <- paste0(label, " (", names, ")")[twice]
  label
}
