# Laws from facts: percentiles, mean, standard deviation, mode, ends. As many facts as the family has parameters; they
# are solved for, and the solution is checked.

#' A law from facts about it
#'
#' Finds the law of a family that has the stated percentiles, mean, standard deviation and so on: a triangular law
#' whose low and high are P10 and P90 rather than the ends, a lognormal by P20 and P80, a beta by its mean and P95.
#'
#' @param family Text: the name of a continuous law of [laws()], such as `"triangular"`.
#' @param ... As many named numbers as the law has parameters: `P10`, `P2.5`, ... (values not exceeded with 10 or 2.5
#'   % chance; see `sense`), `median`, `mean`, `sd`, `cv` (sd / mean), and any of the law's own parameters, which are
#'   then held at that value, such as `mode`, `min`, `df`. A parameter that has a default, such as `min` of the
#'   lognormal, is found too where there is one fact more.
#' @param sense `"not exceeded"`: P10 is the value not exceeded with 10 % chance; `"exceeded"`: the one exceeded with 10
#'   % chance; `NULL`: the sense of the study the law is used in (see [add_readings()]), else not exceeded. Percentiles
#'   that fall as their names rise are taken as exceeded, which a message says.
#' @return A law of that family with the facts met: percentiles to 1e-8 in probability, mean, standard deviation and
#'   mode to 1e-8 of the standard deviation. It prints as it was stated.
#' @section Errors: `ensayo_error_argument` where there are too few or too many facts, percentiles out of order, or no
#'   law of the family that has them (with the nearest that was found).
#' @section Source: least squares by Levenberg and Marquardt from several starting points (Marquardt 1963, SIAM
#'   Journal 11(2)).
#' @examples
#' law_from_facts("triangular", P10 = 30, mode = 34, P90 = 45)
#' law_from_facts("lognormal", P20 = 3, P80 = 12)
#' leakage <- law_from_facts("beta", mean = 0.22, P95 = 0.30)
#' parameters(leakage)
#' @export
law_from_facts <- function(family, ..., sense = NULL) {
  family <- check_choice(family, Filter(function(name) {
    record <- family_record(name)
    !is.null(record$start) && record$kind == "continuous"
  }, law_family_names))
  stated <- rlang::dots_list(..., .homonyms = "error")
  if (!is.null(sense)) check_choice(sense, senses)
  if (is.null(sense) && falls(stated)) {
    sense <- "exceeded"
    tell_ensayo(sprintf("%s: taken as values exceeded.", falling_words(stated)),
      "Say `sense = \"exceeded\"` where that is meant, or put them right.", "sense")
  }
  facts <- facts_not_exceeded(stated, sense)
  check_facts(facts, family)
  record <- family_record(family)
  held <- facts[names(facts) %in% held_names(record)]
  asked <- facts[setdiff(names(facts), names(held))]
  unknown <- unknown_parameters(family, record, names(held), length(asked))
  told <- list(call = family, arguments = c(stated, if (!is.null(sense)) list(sense = sense)))
  if (length(asked) == 0) return(new_law(family, parameters_of(do.call(paste0("law_", family), facts)), told))
  law <- solve_facts(family, record, held, asked, unknown)
  new_law(family, parameters_of(law), told)
}

# "P90 = 30, exceeded" is "P10 = 30, not exceeded".
facts_not_exceeded <- function(facts, sense) {
  if (!identical(sense, "exceeded")) return(facts)
  at <- which(is_percentile_name(names(facts)))
  names(facts)[at] <- paste0("P", 100 - as.double(sub("P", "", names(facts)[at])))
  facts
}

# Percentiles that fall as their names rise can only be values exceeded.
falls <- function(facts) {
  named <- facts[is_percentile_name(names(facts))]
  if (length(named) < 2 || !all(vapply(named, function(x) is.numeric(x) && length(x) == 1 && is.finite(x), TRUE))) {
    return(FALSE)
  }
  all(diff(percentile_facts(named)$value) < 0)
}

falling_words <- function(facts) {
  at <- percentile_facts(facts[is_percentile_name(names(facts))])
  sprintf("%s is below %s", at$name[nrow(at)], at$name[1])
}

fact_words <- c("median", "mean", "sd", "cv")

# Whether a call's argument states a fact rather than a parameter.
is_fact <- function(names, family) {
  if (!family %in% law_family_names) return(rep(FALSE, length(names)))
  is_percentile_name(names) | names %in% setdiff(fact_words, names(family_record(family)$parameters)) & nzchar(names)
}

# Parameters that may be held; what is a fact of every law is solved for, though some families have it as a parameter.
held_names <- function(record) setdiff(names(record$parameters), fact_words)

check_facts <- function(facts, family, call = rlang::caller_env()) {
  known <- c(fact_words, held_names(family_record(family)))
  names <- names(facts) %||% rep("", length(facts))
  bad <- names[!is_percentile_name(names) & !names %in% known]
  if (length(bad)) {
    stop_ensayo("argument",
      sprintf("Facts about a law are percentiles (`P10`), %s.", paste(quoted(known), collapse = ", ")),
      if (nzchar(bad[1])) sprintf("%s is none.",
        quoted(bad[1])) else "One has no name.", argument = bad[1], call = call)
  }
  for (name in names) if (name != "tail") check_number(facts[[name]], name, call = call)
  for (name in intersect(names, c("sd", "cv"))) check_number(facts[[name]], name, above = 0, call = call)
  at <- percentile_facts(facts)
  outside <- at$name[at$p <= 0 | at$p >= 1]
  if (length(outside)) {
    stop_ensayo("argument", "A percentile must lie between P0 and P100.", sprintf("You gave %s.", quoted(outside[1])),
      "An end of the law is `min` or `max`.", argument = outside[1], call = call)
  }
  wrong <- which(diff(at$value) <= 0)[1]
  if (!is.na(wrong)) {
    stop_ensayo("argument", sprintf("%s must be below %s.", at$name[wrong], at$name[wrong + 1]),
      sprintf("They are %s and %s.", shown_value(at$value[wrong]), shown_value(at$value[wrong + 1])),
      "A percentile is the value not exceeded with that chance, unless you say `sense = \"exceeded\"`.",
      argument = at$name[wrong], call = call)
  }
}

# Percentiles in order: name, p, value. The median is one of them.
percentile_facts <- function(facts) {
  names <- names(facts)[is_percentile_name(names(facts)) | names(facts) == "median"]
  p <- ifelse(names == "median", 0.5, suppressWarnings(as.double(sub("P", "", names))) / 100)
  table <- data.frame(name = names, p = p, value = vapply(facts[names], as.double, 0, USE.NAMES = FALSE))
  table[order(table$p), ]
}

unknown_parameters <- function(family, record, held, count, call = rlang::caller_env(2)) {
  needed <- sought_parameters(family, held)
  spare <- setdiff(names(Filter(function(asked) asked %in% c("number", "positive", "spread"), record$parameters)),
    c(unlist(record$forms), needed, held))
  if (count < length(needed) || count > length(needed) + length(spare)) {
    total <- length(needed) + length(held)
    stop_ensayo("argument", sprintf("%s %s law needs %s%s.", article(family), family, count_of(total, "fact"),
      if (length(spare)) sprintf(", or up to %d", total + length(spare)) else ""),
      sprintf("You gave %d.", count + length(held)), argument = "...", call = call)
  }
  c(needed, utils::head(spare, count - length(needed)))
}

# The parameters that are looked for when a law is found by facts or fitted, less those held.
sought_parameters <- function(family, held) {
  record <- family_record(family)
  setdiff(record$search %||% if (is.null(record$forms)) required_parameters(family) else record$forms[[1]], held)
}

required_parameters <- function(family) {
  names(Filter(rlang::is_missing, as.list(formals(paste0("law_", family)))))
}

# How far a law is from the facts: percentiles by their scores, which hold over many powers of ten, values in units of
# the typical spread, spreads as logarithms.
fact_misses <- function(law, facts, spread) {
  at <- percentile_facts(facts)
  c(
    score_at(law, at$value) - stats::qnorm(at$p),
    if (!is.null(facts$mean)) (mean(law) - facts$mean) / spread,
    if (!is.null(facts$sd)) log(moments(law)$sd / facts$sd),
    if (!is.null(facts$cv)) log(moments(law)$sd / abs(mean(law)) / facts$cv)
  )
}

score_at <- function(law, x) {
  below <- cumulative(law, x, log = TRUE)
  score <- ifelse(below < log(0.5), stats::qnorm(below, log.p = TRUE),
    -stats::qnorm(cumulative(law, x, "upper", log = TRUE), log.p = TRUE))
  pmin(pmax(score, -40), 40)
}

solve_facts <- function(family, record, held, facts, unknown, call = rlang::caller_env(2)) {
  typical <- typical_of(c(facts, held))
  constructor <- get(paste0("law_", family), envir = topenv(), mode = "function")
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
      suppressWarnings(fact_misses(law, facts, typical$sd))
    }
    found <- least_squares(misses, rep(0, length(unknown)))
    if (!is.finite(found$miss)) next
    law <- do.call(constructor, c(held, free$parameters(found$theta)))
    if (found$miss < 1e-6 && facts_met(law, facts, typical$sd)) {
      refuse_redundant(slopes_of(misses, found$theta, misses(found$theta)), facts, family, call)
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

# Levenberg and Marquardt with slopes by central differences. `misses` gives NaN where there is no law.
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

slopes_of <- function(misses, theta, now, step = 1e-5) {
  columns <- lapply(seq_along(theta), function(i) {
    move <- replace(numeric(length(theta)), i, step)
    up <- misses(theta + move)
    down <- misses(theta - move)
    if (all(is.finite(up)) && all(is.finite(down))) (up - down) / (2 * step)
    else if (all(is.finite(up))) (up - now) / step else if (all(is.finite(down))) (now - down) / step
  })
  if (any(vapply(columns, is.null, TRUE))) return(NULL)
  do.call(cbind, columns)
}
