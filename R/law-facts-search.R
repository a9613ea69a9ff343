# The search for the parameters that meet facts.

# How far a law is from the facts: percentiles by their scores, which hold over many powers of ten, values in units of
# the typical spread, spreads as logarithms.
fact_misses <- function(law, facts, spread, at = percentile_facts(facts)) {
  law <- ready_law(law)
  if (any(names(facts) %in% c("mean", "sd", "cv"))) {
    m <- ask(law, "moments")
    mean <- m[["mean"]]
    sd <- sqrt(m[["variance"]])
  }
  c(
    score_at(law, at$value) - stats::qnorm(at$p),
    if (!is.null(facts$mean)) (mean - facts$mean) / spread,
    if (!is.null(facts$sd)) log(sd / facts$sd),
    if (!is.null(facts$cv)) log(sd / abs(mean) / facts$cv)
  )
}

score_at <- function(law, x) {
  if (length(x) == 0) return(numeric())
  below <- ask(law, "cumulative", x, TRUE, TRUE)
  score <- ifelse(below < log(0.5), stats::qnorm(below, log.p = TRUE),
    -stats::qnorm(ask(law, "cumulative", x, FALSE, TRUE), log.p = TRUE))
  pmin(pmax(score, -40), 40)
}

solve_facts <- function(family, record, held, facts, unknown, call = rlang::caller_env(2)) {
  typical <- typical_of(c(facts, held))
  constructor <- get(paste0("law_", family), envir = topenv(), mode = "function")
  at <- percentile_facts(facts)
  best <- list(miss = Inf)
  solutions <- list()
  again <- 0
  for (start in starting_points(record, typical, held, unknown)) {
    free <- unconstrained(record$parameters[unknown], start, typical_step(unknown, typical$sd))
    misses <- function(theta) {
      par <- c(held, free$parameters(theta))
      if (!plainly_valid(record, par)) return(rep(NaN, length(facts)))  # sooner than by raising an error
      law <- tryCatch(do.call(constructor, par), ensayo_error = function(e) NULL)
      if (is.null(law)) return(rep(NaN, length(facts)))
      suppressWarnings(fact_misses(law, facts, typical$sd, at))
    }
    found <- least_squares(misses, rep(0, length(unknown)))
    if (!is.finite(found$miss)) next
    law <- do.call(constructor, c(held, free$parameters(found$theta)))
    if (found$miss < 1e-6 && facts_met(law, facts, typical$sd)) {
      refuse_redundant(slopes_of(misses, found$theta, misses(found$theta), both = TRUE), facts, family, call)
      if (!any(vapply(solutions, same_law, TRUE, law = law))) solutions <- c(solutions, list(law))
      # percentiles alone have one law at the most; mean or spread beside them may have two
      if (all(is_percentile_name(names(facts)) | names(facts) == "median") || length(solutions) > 1) break
      again <- again + 1
      if (again > 6) break
    }
    # the same nearest law from three starts: there is none nearer
    if (length(solutions) == 0 && abs(found$miss - best$miss) < 1e-4 * best$miss) again <- again + 1
    if (length(solutions) == 0 && again == 2) break
    if (found$miss < best$miss) best <- list(miss = found$miss, law = law)
  }
  if (length(solutions) == 1) return(solutions[[1]])
  if (length(solutions) > 1) {
    stop_ensayo("argument", sprintf("Two %s laws have these facts.", family),
      sprintf("They are %s.", paste(vapply(solutions, format, ""), collapse = " and ")),
      "Give another fact, such as a percentile, in place of one of these; or take the one that is meant as it stands.",
      argument = "...", call = call)
  }
  stop_ensayo("argument", sprintf("No %s law has all of these facts.", family),
    nearest_miss(best, facts, family), paste0("Check the figures, leave one more parameter free, or take another family.",
      if (any(is_percentile_name(names(facts)))) " Percentiles are values not exceeded unless `sense = \"exceeded\"`."),
    argument = "...", call = call)
}

same_law <- function(other, law) {
  p <- c(0.05, 0.5, 0.95)
  max(abs(quantile(other, p) - quantile(law, p))) < 1e-4 * diff(quantile(law, c(0.05, 0.95)))
}

# Facts that say the same twice leave a parameter open, and any figure for it would be made up.
refuse_redundant <- function(slopes, facts, family, call) {
  if (is.null(slopes)) return(invisible())
  sizes <- svd(scale(slopes, FALSE, pmax(sqrt(colSums(slopes^2)), 1e-300)))$d
  if (min(sizes) > 1e-6 * max(sizes) && all(colSums(slopes^2) > 0)) return(invisible())
  stop_ensayo("argument", "Each fact must say something new.",
    sprintf("In %s %s law %s say the same.", tolower(article(family)), family, and_list(quoted(names(facts)))),
    "Give a spread or another percentile besides.", argument = "...", call = call)
}

nearest_miss <- function(best, facts, family) {
  if (is.null(best$law)) return("None was found.")
  at <- percentile_facts(facts)
  has <- c(stats::setNames(quantile(best$law, at$p), at$name), mean = mean(best$law), sd = moments(best$law)$sd,
    cv = moments(best$law)$sd / mean(best$law))[names(facts)]
  sprintf("The nearest has %s.", paste(sprintf("%s = %s instead of %s", names(facts), signif(has, 4),
    vapply(facts, function(x) format(x, digits = 10), "")), collapse = ", "))
}

# To the last check: percentiles to 1e-8 in probability, the rest to 1e-8.
facts_met <- function(law, facts, spread) {
  at <- percentile_facts(facts)
  all(abs(cumulative(law, at$value) - at$p) <= 1e-8) && all(abs(fact_misses(law, facts, spread)) <= 1e-7)
}

# A rough centre and spread from whatever is known.
typical_of <- function(facts) {
  at <- percentile_facts(facts)
  z <- stats::qnorm(at$p)
  ends <- c(facts[["min"]], facts[["max"]])
  values <- c(at$value, facts$mode, facts$mean, ends)
  sd <- facts$sd
  if (is.null(sd)) sd <- if (!is.null(facts$cv)) facts$cv * abs(facts$mean %||% mean(values))
    else if (nrow(at) > 1) diff(range(at$value)) / diff(range(z))
    else if (length(values) > 1 && nrow(at) == 1 && z[1] != 0 &&
      !is.null(facts$mean)) abs(at$value - facts$mean) / abs(z)
    else if (length(values) > 1) diff(range(values)) / 2 else max(abs(values), 1) / 4
  if (!is.finite(sd) || sd <= 0) sd <- max(abs(values), 1) / 4
  mean <- facts$mean %||% if (nrow(at)) mean(at$value - sd * z) else mean(values)
  list(mean = mean, sd = sd)
}

starting_points <- function(record, typical, held, unknown) {
  wide <- rbind(expand.grid(sd = c(1, 0.5, 2, 0.25), shift = c(0, -0.7, 0.7)), data.frame(sd = c(6, 20), shift = 0))
  defaults <- list(min = typical$mean - 3 * typical$sd, max = typical$mean + 3 * typical$sd, weight = 4)
  lapply(seq_len(nrow(wide)), function(i) {
    sd <- typical$sd * wide$sd[i]
    inner <- defaults[intersect(unknown, names(defaults))]
    start <- record$start(typical$mean + wide$shift[i] * sd, sd, c(held, inner))
    start <- utils::modifyList(c(inner, start[setdiff(names(start), names(inner))]),
      start[intersect(names(start), unknown)])
    within_held(start[unknown], held, sd)
  })
}

# A start that respects what is held: ends outside a held mode, a mode inside held ends.
within_held <- function(start, held, sd) {
  mode <- held$mode %||% start$mode
  if (!is.null(start$min) && !is.null(mode)) start$min <- min(start$min, mode - sd / 2)
  if (!is.null(start$max) && !is.null(mode)) start$max <- max(start$max, mode + sd / 2)
  if (!is.null(start$mode)) {
    low <- held$min %||% start$min
    high <- held$max %||% start$max
    if (!is.null(low) && !is.null(high)) start$mode <- min(max(start$mode, low + 0.1 * (high - low)),
      high - 0.1 * (high - low))
  }
  start
}

# How far a parameter moves: those without the quantity's unit by ones, others by its spread.
typical_step <- function(names, sd) ifelse(names %in% c("meanlog", "shape"), 1, sd)

# Parameters as free numbers around a start: positive ones through their logarithm.
unconstrained <- function(asked, start, step) {
  positive <- asked %in% c("spread", "positive")
  share <- asked == "share"
  step <- rep_len(step, length(asked))
  list(parameters = function(theta) {
    value <- Map(function(first, theta, positive, share, step) {
      if (positive) first * exp(theta) else if (share) stats::plogis(stats::qlogis(first) + theta) else first +
        step * theta
    }, start, theta, positive, share, step)
    stats::setNames(value, names(asked))
  })
}

# Levenberg and Marquardt with slopes by one-sided differences. `misses` gives NaN where there is no law.
least_squares <- function(misses, theta, most = 40) {
  now <- misses(theta)
  if (any(!is.finite(now))) return(list(theta = theta, miss = Inf))
  damping <- 1e-3
  for (round in seq_len(most)) {
    slopes <- slopes_of(misses, theta, now)
    if (is.null(slopes) || max(abs(now)) < 1e-14) break
    normal <- crossprod(slopes)
    repeat {
      move <- tryCatch(-solve(normal + damping * diag(diag(normal) + 1e-12, length(theta)), crossprod(slopes, now)),
        error = function(e) NULL)
      following <- if (is.null(move) || max(abs(move)) > 20) NaN else misses(theta + drop(move))
      if (all(is.finite(following)) && sum(following^2) < sum(now^2)) break
      damping <- damping * 4
      if (damping > 1e8) return(list(theta = theta, miss = max(abs(now))))
    }
    # no nearer by as much as a part in a hundred thousand: a nearest point that does not meet the facts
    still <- max(abs(move)) < 1e-14 || sum(following^2) > (1 - 1e-5) * sum(now^2) && max(abs(following)) > 1e-6
    theta <- theta + drop(move)
    now <- following
    damping <- max(damping / 10, 1e-15)
    if (still) break
  }
  list(theta = theta, miss = max(abs(now)))
}

# From both sides, or from one where there is a law.
slopes_of <- function(misses, theta, now, both = FALSE, step = if (both) 1e-5 else 1e-7) {
  columns <- lapply(seq_along(theta), function(i) {
    move <- replace(numeric(length(theta)), i, step)
    up <- misses(theta + move)
    if (!both && all(is.finite(up))) return((up - now) / step)
    down <- misses(theta - move)
    if (all(is.finite(up)) && all(is.finite(down))) (up - down) / (2 * step)
    else if (all(is.finite(up))) (up - now) / step else if (all(is.finite(down))) (now - down) / step
  })
  if (any(vapply(columns, is.null, TRUE))) return(NULL)
  do.call(cbind, columns)
}
