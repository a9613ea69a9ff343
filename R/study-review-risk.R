# What is looked for in events and costs.

review_events <- function(study, nsim) {
  rbind(review_double_count(study), review_percent_of(study), review_rare(study, nsim))
}

# An event whose impact is also in an item's range counts twice.
review_double_count <- function(study) {
  items <- do.call(c, c(list(list()), unname(lapply(study$costs, function(tree) {
    ranged <- Filter(has_range, tree$items)
    stats::setNames(lapply(ranged, function(item) item[c("label", "note", "group")]), cost_name(tree, names(ranged)))
  }))))
  # a note may say that it does: "without events"
  items <- Filter(function(item) !grepl("without", item$note %||% ""), items)
  items <- c(items, lapply(Filter(function(input) varies(input) && is.null(input$event) && is.null(input$cost) && is.null(input$task), study$inputs),
    function(input) input[c("label", "note", "group")]))
  words <- function(text) unique(tolower(unlist(regmatches(text %||% "", gregexpr("[[:alpha:]]{4,}", text %||% "")))))
  do.call(rbind, lapply(names(study$events), function(name) {
    event <- study$events[[name]]
    if (!is.null(event$closed)) return(NULL)
    own <- words(gsub("_", " ", name))
    noted <- names(Filter(function(item) {
      identical(tolower(item$label %||% ""), tolower(event$label %||% name)) || any(own %in% setdiff(words(item$note), words(item$label)))
    }, items))
    same <- names(Filter(function(item) !is.null(event$category) && identical(item$group, event$category), items))
    rbind(
      if (length(noted)) finding("warning", name, sprintf("%s may hold it in its range already: its label or note names it.",
        and_list(quoted(utils::head(noted, 3)))), "Take what it does out of that range, or take the event out."),
      if (length(noted) == 0 && length(same)) finding("hint", name,
        sprintf("%s of its category %s %s a range: does that leave out what the event does?", count_of(length(same), "item"),
          quoted(event$category), if (length(same) == 1) "has" else "have"),
        "Count it once: in the range, or as the event; \"without events\" in the note says that it is.")
    )
  }))
}

review_percent_of <- function(study) {
  varying <- outputs_that_vary(study)
  do.call(rbind, lapply(names(study$events), function(name) {
    of <- unique(unlist(lapply(study$events[[name]]$impacts, function(impact) impact$of)))
    moving <- Filter(function(item) isTRUE(varying[item]) || item %in% varying_names(study), of)
    if (length(moving) == 0) return(NULL)
    finding("hint", name, sprintf("Its impact is a per cent of %s, which is uncertain itself: it grows with it.",
      and_list(quoted(moving))), "If a per cent of the plan is meant, give the amount.")
  }))
}

# Events that happen in too few of the runs that are planned.
review_rare <- function(study, nsim) {
  if (is.null(nsim)) return(NULL)
  do.call(rbind, lapply(names(study$events), function(name) {
    if (!is.null(study$events[[name]]$closed)) return(NULL)
    p <- event_chance(study$events[[name]])
    if (p == 0 || p * nsim >= 30) return(NULL)
    finding("warning", name, sprintf("It happens in about %s of %s: too few for its percentiles, and for what it adds to the mean.",
      format_number(p * nsim, 2), count_of(nsim, "run")), sprintf("Make at least %s runs.", format_given(ceiling(30 / p / 1000) * 1000)))
  }))
}

review_costs <- function(study) {
  do.call(rbind, lapply(study$costs, function(tree) {
    ranged <- names(Filter(has_range, tree$items))
    bare <- Filter(function(code) is.null(tree$items[[code]]$note), ranged)
    rbind(
      if (length(bare)) finding("hint", tree$name, sprintf("%s no reason for %s range: %s.", paste(count_of(length(bare), "item"),
        if (length(bare) == 1) "gives" else "give"), if (length(bare) == 1) "its" else "their", and_list(quoted(utils::head(bare, 5)))),
        "Say in `note` where the range comes from."),
      review_independent(study, tree, ranged)
    )
  }))
}

# What a little correlation would do to the planning percentile, by the sum's variance: items alone are hardly ever independent.
review_independent <- function(study, tree, ranged, r = 0.2) {
  inputs <- names(Filter(function(input) identical(input$cost, tree$name), study$inputs))
  if (length(ranged) < 3 || any(study$correlations$a %in% inputs & study$correlations$b %in% inputs)) return(NULL)
  sd <- vapply(tree$items[ranged], item_sd, 0)
  sd <- sd[is.finite(sd)]
  if (length(sd) < 3 || sum(sd) == 0) return(NULL)
  alone <- sqrt(sum(sd^2))
  together <- sqrt(sum(sd^2) + r * (sum(sd)^2 - sum(sd^2)))
  planning <- study$readings$planning
  at <- stats::qnorm(not_exceeded(planning, study$readings$sense) / 100)
  finding("warning", tree$name, sprintf(paste0("All of its %s are independent: high and low ",
    "cancel. With a correlation of %s between them P%s would be about %s %s."),
    count_of(length(ranged), "uncertain item"), format_given(r), format_given(planning),
    with_unit(format_number(abs(at) * (together - alone), 2), tree$currency), if (at >= 0) "higher" else "lower"),
    "Say which hang together: groups of the tree by `together`, single items by a correlation.")
}

# The spread of an item, of independent figures; NA of an allowance.
item_sd <- function(item) {
  figures <- Filter(Negate(is.null), list(item$quantity, item$price, item$amount, item$factor))
  if (!is.null(item$percent) || length(figures) == 0) return(NA_real_)
  mean <- vapply(figures, function(x) if (is_law(x)) mean(x) else x, 0)
  variance <- vapply(figures, function(x) if (is_law(x)) ask(x, "moments")[["variance"]] else 0, 0)
  sqrt(max(prod(variance + mean^2) - prod(mean)^2, 0))
}
