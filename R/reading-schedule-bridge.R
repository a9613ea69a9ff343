# What moved a schedule's finish from one result to another: bridge_results() of `project_finish`.

# Runs go from the one schedule to the other item by item: a task's own days, an event, days of a calendar, and what is no number of
# days (links, calendars, dates, progress, tasks that came or went). Each item is exchanged in the order of the work and in the opposite
# order, and its share is the mean of what it does in both.
schedule_bridge <- function(from, to, percentile) {
  sides <- list(bridge_schedule_side(from), bridge_schedule_side(to))
  at <- not_exceeded(percentile, to$study$readings$sense)
  items <- bridge_items(sides)
  finish <- function(taken) bridge_finish(sides, items, taken)
  none <- rep(FALSE, length(items))
  paths <- lapply(list(seq_along(items), rev(seq_along(items))), function(order) {
    taken <- none
    ends <- list(finish(taken))
    for (k in order) {
      taken[k] <- TRUE
      ends <- c(ends, list(finish(taken)))
    }
    list(order = order, ends = ends)
  })
  kept <- Reduce(`&`, lapply(paths[[1]]$ends, is.finite)) & Reduce(`&`, lapply(paths[[2]]$ends, is.finite))
  if (!any(kept)) stop_ensayo("argument", "The finish must be good in at least one run of both results.", "It is in none.",
    call = rlang::caller_env(2))
  read <- lapply(paths, function(path) lapply(path$ends, function(values) part_of_gain(values[kept], at, NULL)))
  step <- function(which, k, field) {
    place <- match(k, paths[[which]]$order)
    read[[which]][[place + 1]][[field]] - read[[which]][[place]][[field]]
  }
  replicates <- telling_replicates(from)[kept]
  rows <- lapply(seq_along(items), function(k) {
    both <- function(field) (step(1, k, field) + step(2, k, field)) / 2
    influence <- both("influence")
    data.frame(name = items[[k]]$name, row = "part", label = items[[k]]$label, mean_change = mean(both("values")), change = both("percentile"),
      error = if (all(influence == 0)) 0 else mean_error(influence, replicates))
  })
  moved <- stacked(c(list(bridge_end("part", "")[0, ]), Filter(function(row) row$change != 0 || row$mean_change != 0, rows)))
  moved <- moved[order(-abs(moved$change)), ]
  table <- rbind(bridge_end("from", "then"), moved, bridge_end("to", "now"))
  dated <- sides[[2]]$model$plan$dated
  ends <- vapply(list(from, to), function(result) day_percentiles(finite_values(result, "project_finish"), at, sides[[2]]$model$plan), 0)
  value <- c(ends[1] + cumsum(c(0, moved$change)), ends[2])
  table$value <- if (dated) as_day(floor(value)) else value
  table$percentile <- percentile
  table$unit <- if (dated) "" else "days"
  bridge_rows(table)
}

bridge_end <- function(row, label) data.frame(name = "project_finish", row = row, label = label, mean_change = NA_real_, change = NA_real_,
  error = NA_real_)

# A result as the bridge takes it: the schedule, and the columns of all that it is calculated from. Work with events on it is calculated
# from the task's own days and what the events add.
bridge_schedule_side <- function(result) {
  study <- result$study
  model <- study$models$schedule
  works <- intersect(task_part(names(study$tasks), "work"), unname(model$uses))
  formulas <- lapply(study$outputs[works], function(output) output$formula)
  leaves <- unique(c(setdiff(unname(model$uses), works), unlist(lapply(formulas, function(formula) formula$uses))))
  columns <- columns_for(result, leaves)
  list(study = study, model = model, formulas = formulas, columns = lapply(columns, function(column) if (is.matrix(column)) column else
    rep_len(column, run_count(result))), start = as.double(study$schedule$start %||% 0), count = run_count(result))
}

# What differs: list(name, label, leaves) for each, in the order of the work; the plan itself first.
bridge_items <- function(sides) {
  leaves <- union(names(sides[[1]]$columns), names(sides[[2]]$columns))
  differ <- leaves[!vapply(leaves, function(name) identical(sides[[1]]$columns[[name]], sides[[2]]$columns[[name]]), NA)]
  quantity <- function(name) {
    for (side in rev(sides)) {
      found <- side$study$inputs[[name]] %||% side$study$outputs[[name]]
      if (!is.null(found)) return(found)
    }
  }
  owner <- vapply(differ, function(name) {
    found <- quantity(name)
    found$event %||% found$task %||% name
  }, "")
  order <- unique(c(sides[[1]]$model$plan$names, sides[[2]]$model$plan$names))
  owners <- unique(owner)[order(match(unique(owner), order))]
  label <- function(name) {
    for (side in rev(sides)) {
      found <- side$study$tasks[[name]]$label %||% side$study$events[[name]]$label %||% quantity(name)$label
      if (!is.null(found)) return(found)
    }
    name
  }
  items <- lapply(owners, function(name) list(name = name, label = label(name), leaves = differ[owner == name]))
  # a task that is in one plan alone comes or goes with the plan, and so does what it alone uses
  plain <- function(side) canonical_text(c(side$model$plan, list(side$start, lapply(side$formulas, function(formula) formula$text))))
  if (identical(plain(sides[[1]]), plain(sides[[2]]))) return(items)
  c(list(list(name = "(plan)", label = "links, calendars, dates, progress, tasks", leaves = character(), plan = TRUE)), items)
}

# The finish of each run, in days, with some items as they are in the second.
bridge_finish <- function(sides, items, taken) {
  now <- unlist(lapply(items[taken], function(item) item$leaves))
  plan <- any(vapply(items[taken], function(item) isTRUE(item$plan), NA))
  side <- sides[[if (plan) 2 else 1]]
  value <- function(name) {
    chosen <- sides[[if (name %in% now) 2 else 1]]$columns[[name]]
    # what the other does not know is as it is here, but an event, which does not happen there
    chosen %||% if (is.null(side$study$outputs[[name]]$event)) side$columns[[name]] else numeric(side$count)
  }
  columns <- lapply(stats::setNames(nm = names(side$columns)), value)
  if (length(side$formulas)) columns <- c(columns, new_evaluator(side$formulas)(columns, seq_len(side$count))$values)
  made <- run_schedule(side$model, columns, side$count)
  ifelse(made$failed == 0, made$exact + side$start, NA)
}
