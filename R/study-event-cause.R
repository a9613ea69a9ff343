# When events happen: by themselves, without others, after others, and with a common cause.

# It happens where its uniform number is above 1 less its probability; of exclusive events each has its share of what those before
# it leave.
happened_expr <- function(study, name, now, pairs) {
  if (!is.null(now$closed)) return(any(now$closed != 0))
  if (!is.null(now$rate)) {
    own <- call("!=", as.symbol(part_name(name, "impact", names(now$impacts)[1])), 0)
  } else {
    p <- if (is_law(now$probability)) as.symbol(part_name(name, "probability")) else now$probability
    before <- exclusive_before(study, name, pairs)
    open <- Filter(function(other) is.null(study$events[[other]]$closed), before)
    if (length(before)) {
      left <- 1 - sum(vapply(open, function(other) event_now(study$events[[other]])$probability, 0))
      p <- if (left <= 0) 0 else min(p / left, 1)
    }
    own <- call(">", as.symbol(part_name(name, "draw")), if (is.numeric(p)) 1 - p else call("-", 1, p))
    for (other in before) own <- call("&", own, call("!", as.symbol(part_name(other, "happened"))))
  }
  if (length(now$needs)) own <- call("&", as.symbol(part_name(now$needs, "happened")), own)
  own
}

# The events that exclude one, of those before it; any two of a set must exclude each other.
exclusive_before <- function(study, name, pairs) {
  set <- exclusive_set(study, name, pairs)
  set[seq_len(match(name, set) - 1)]
}

exclusive_set <- function(study, name, pairs) {
  if (!name %in% pairs$one) return(name)
  set <- name
  while (length(new <- setdiff(pairs$other[pairs$one %in% set], set))) set <- c(set, new)
  intersect(names(study$events), set)
}

# Each event beside each that it excludes, or that excludes it.
exclusive_pairs <- function(study) {
  stated <- lapply(study$events, `[[`, "excludes")
  one <- rep(names(stated), lengths(stated))
  other <- unlist(stated, use.names = FALSE)
  list(one = c(one, other), other = c(other, one))
}

check_exclusive <- function(study, call) {
  pairs <- exclusive_pairs(study)
  for (name in intersect(names(study$events), pairs$one)) {
    set <- exclusive_set(study, name, pairs)
    if (set[1] != name) next
    for (one in set) {
      free <- setdiff(set, c(one, pairs$other[pairs$one == one]))
      if (length(free) == 0) next
      stop_ensayo("argument", sprintf("Any two of %s that exclude each other must do so.", count_of(length(set), "event")),
        sprintf("%s and %s do not.", quoted(one), quoted(free[1])), "Say so of each pair.", events = c(one, free[1]), call = call)
    }
    set <- Filter(function(other) is.null(study$events[[other]]$closed), set)
    for (event in study$events[set]) {
      now <- event_now(event)
      if (!is.numeric(now$probability) || length(now$needs)) {
        stop_ensayo("argument", sprintf("Events that exclude each other must have numbers as probabilities, and need none: %s.",
          paste(quoted(set), collapse = ", ")), NULL, "Give each a number.", call = call)
      }
    }
    total <- sum(vapply(study$events[set], function(event) event_now(event)$probability, 0))
    if (total > 1 + 1e-12) {
      stop_ensayo("argument", sprintf("The probabilities of events that exclude each other must add up to at most 1: %s.",
        paste(quoted(set), collapse = ", ")), sprintf("They add up to %s.", format_given(total)), events = set, call = call)
    }
  }
}

# Correlations of whether events happen, as rank correlations of the uniform numbers behind. Before and after a response it is the
# same, so that no other event changes.
with_causes <- function(study, call) {
  draws <- part_name(names(study$events), "draw")
  pairs <- study$correlations
  study$correlations <- pairs[!(pairs$a %in% draws & pairs$b %in% draws), , drop = FALSE]
  rownames(study$correlations) <- NULL
  for (name in names(study$events)) {
    for (other in names(study$events[[name]]$with)) {
      if (!other %in% names(study$events)) in_place(sprintf("Event %s, `with`", quoted(name)), stop_unknown_name(other, names(study$events),
        "an event of the study", call = call))
      events <- study$events[c(name, other)]
      if (any(vapply(events, function(event) !is.null(event$closed), NA))) next
      rated <- Filter(function(event) is.null(event$probability), events)
      if (length(rated)) {
        stop_ensayo("correlation", "Events with a common cause must have probabilities.", sprintf("%s has a rate.",
          quoted(names(rated)[1])), name = names(rated)[1], call = call)
      }
      p <- vapply(events, function(event) if (is_law(event$probability)) mean(event$probability) else event$probability, 0)
      score <- occurrence_score(p, events[[1]]$with[[other]], names(events), call)
      if (score != 0) study <- add_pair(study, part_name(name, "draw"), part_name(other, "draw"), rank_of(score, "score"), FALSE, call)
    }
  }
  for (set in correlated_sets(study)) check_correlation_set(study, set, call)
  study
}

# The events of each common cause.
common_causes <- function(study) {
  sets <- lapply(correlated_sets(study), function(set) names(study$events)[part_name(names(study$events), "draw") %in% set])
  sets[lengths(sets) > 1]
}

# Correlations that do not come from events with a common cause, or from groups of costs.
own_correlations <- function(study, of_events = FALSE) {
  pairs <- study$correlations
  draws <- if (!of_events) part_name(names(study$events), "draw")
  paired <- do.call(rbind, lapply(unname(study$costs), function(tree) tree$paired))
  key <- function(pairs) paste(pairs$a, pairs$b, sep = "\r")
  pairs[!(pairs$a %in% draws & pairs$b %in% draws) & !key(pairs) %in% key(paired), , drop = FALSE]
}

# The correlation of normal scores with which two events have this correlation of whether they happen.
occurrence_score <- function(p, r, names, call) {
  if (r == 0) return(0)
  if (any(p <= 0 | p >= 1)) {
    stop_ensayo("correlation", sprintf("%s must be uncertain to be correlated.", quoted(names[p <= 0 | p >= 1][1])), sprintf(
      "Its probability is %s.", format_given(p[p <= 0 | p >= 1][1])), call = call)
  }
  spread <- sqrt(prod(p * (1 - p)))
  ends <- (c(max(0, sum(p) - 1), min(p)) - prod(p)) / spread
  if (r < ends[1] || r > ends[2]) {
    stop_ensayo("correlation", sprintf("%s and %s can be correlated from %s to %s.", quoted(names[1]), quoted(names[2]),
      format_number(ends[1], 2), format_number(ends[2], 2)), sprintf("You gave %s.", format_given(r)),
      "Events of unlike probabilities cannot always happen together.", events = names, call = call)
  }
  both <- prod(p) + r * spread
  z <- stats::qnorm(p)
  # Plackett (1954): the probability of both grows with the correlation by the density of the two scores
  density <- function(t) exp(-(z[1]^2 - 2 * t * z[1] * z[2] + z[2]^2) / (2 * (1 - t^2))) / (2 * pi * sqrt(1 - t^2))
  miss <- function(t) prod(p) + stats::integrate(density, 0, t, rel.tol = 1e-10)$value - both
  reach <- if (r > 0) c(0, 1 - 1e-9) else c(-1 + 1e-9, 0)
  if (miss(reach[2]) <= 0) return(1)
  if (miss(reach[1]) >= 0) return(-1)
  stats::uniroot(miss, reach, tol = 1e-12)$root
}
