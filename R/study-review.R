# A review of a study: what is likely to be a mistake, before anything is drawn. Each finding is a row.

#' Review a study
#'
#' Looks for the usual mistakes in a study's inputs, correlations and outputs, and says what to do about each. Nothing
#' is drawn. An empty table is good news; a finding of severity `"hint"` may be as intended.
#'
#' @param study A study.
#' @param nsim Whole number or `NULL`: the number of runs planned, to be told when they are too few.
#' @param percentiles Numbers from 0 to 100: percentiles that will be read off, for the same.
#' @param share Number from 0 to 1: how much of a law's probability may lie where the quantity cannot be.
#' @return A data frame with a row for each finding, the gravest first: `severity` (`"error"`: it cannot be simulated;
#'   `"warning"`: the result is probably wrong; `"hint"`), `about` (an input, output or spec), `seen` and `todo`.
#' @section What is looked for: inputs that nothing uses; inputs described as uncertain but fixed; outputs that no
#'   uncertain input reaches; outputs that fail in the base case; laws with probability beyond `positive`, `lower` or
#'   `upper`; base values outside the law or far in its tail (below P1, above P99); truncations that cut more than 5
#'   %; a count of occurrences multiplied by one draw of their size; units that do not belong together ([add_units()]); too few runs; correlations near the edge of the possible; inputs of one group or source taken as
#'   independent; inputs that look alike. Of events and costs: what may be counted twice, as an event and in an item's range; per cents
#'   of what is uncertain itself; events too rare for the runs; ranges without a reason; costs that are all independent, with what a
#'   correlation of 0.2 would do. Of schedules: open ends; waits that should be tasks; overlaps longer than a task; fixed dates; long tasks
#'   without a range, and ranges that are all even; calendars that never meet; start-to-finish links; tasks that look alike.
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(
#'     diameter = input(law_normal(0.25, 0.2), unit = "m", positive = TRUE),
#'     spare = law_uniform(0, 1)
#'   ) |>
#'   add_outputs(area = pi * diameter^2 / 4) |>
#'   review()
#' @export
review <- function(study, nsim = NULL, percentiles = numeric(), share = 0.001) {
  check_study(study)
  if (!is.null(nsim)) nsim <- check_count(nsim)
  if (length(percentiles)) percentiles <- check_percentiles(percentiles)
  share <- check_number(share, at_least = 0, at_most = 1)
  asked <- list(nsim = nsim, percentiles = percentiles, share = share)
  findings <- do.call(rbind, c(list(finding(character(), character(), character(), character()), review_use(study)),
    unname(of_parts("reviewed", study, asked)), list(review_runs(study, nsim, percentiles))))
  findings <- findings[order(match(findings$severity, c("error", "warning", "hint"))), , drop = FALSE]
  new_table(as.list(findings))
}

finding <- function(severity, about, seen, todo) {
  n <- max(length(about), length(seen)) * (length(about) > 0)
  data.frame(severity = rep_len(severity, n), about = rep_len(about, n), seen = rep_len(seen, n),
    todo = rep_len(todo, n))
}

review_use <- function(study) {
  # a chance that is read off is no use to the study
  used <- unique(c(unlist(lapply(formulas_of(study, hashed_parts()), function(formula) formula$uses)),
    unlist(lapply(study$inputs, function(input) c(links_of(input$law), input$shares)))))
  idle <- setdiff(names(study$inputs), used)
  fixed <- names(Filter(function(input) is_law(input$law) && !is.null(input$fixed), study$inputs))
  rbind(
    if (length(study$outputs)) {
      finding("warning", idle, "No output uses it.", "Use it in an output, or take it out.")
    },
    finding("hint", fixed, "It has a law but is fixed, so its uncertainty is left out.",
      "If that is an oversight, give it its law again.")
  )
}

review_reach <- function(study) {
  if (length(study$outputs) == 0) return(NULL)
  still <- setdiff(names(which(!outputs_that_vary(study))), aside_names(study))
  failed <- tryCatch(formula_failures(study), ensayo_error = function(e) NULL)
  rbind(
    finding("warning", still, "No uncertain input reaches it: it is the same in every run.",
      "Check its formula, or that its inputs are not fixed."),
    if (length(failed$output)) finding("warning", failed$output,
      sprintf("It fails in the base case: %s.", failed$reason),
      "Check the base values and the formula.")
  )
}

# What fails in the base case, of the outputs that hang on formulas alone: a review runs no other model.
formula_failures <- function(study) {
  alone <- names(Filter(function(output) is.null(output$model), study$outputs))
  behind <- reach_of(study, setdiff(names(study$outputs), alone))
  alone <- Filter(function(name) !any(behind(name) %in% names(study$outputs)), alone)
  formulas <- lapply(study$outputs[intersect(output_order(study$outputs), alone)], function(output) output$formula)
  new_evaluator(formulas)(base_values(study), 1)$failures
}

review_laws <- function(study, share) {
  do.call(rbind, lapply(varying_names(study), function(name) {
    input <- study$inputs[[name]]
    if (is_linked(input$law) || is_categorical(input$law)) return(NULL)
    below <- if (is.null(input$lower)) 0 else share_below(input$law, input$lower)
    above <- if (is.null(input$upper)) 0 else cumulative(input$law, input$upper, tail = "upper")
    cut <- if (family_name(input$law) == "truncated") 1 - kept_share(parameters_of(input$law)) else 0
    percent <- function(x) paste(signif(100 * x, 2), "%")
    rbind(
      if (below > share) finding("warning", name,
        sprintf("%s of its law lies below %s, where it cannot be.", percent(below), format(input$lower)),
        "Take a law that stays above, such as lognormal, gamma or PERT, or truncate it."),
      if (above > share) finding("warning", name,
        sprintf("%s of its law lies above %s, where it cannot be.", percent(above), format(input$upper)),
        "Take a law with an upper end, such as beta or PERT, or truncate it."),
      if (cut > 0.05) finding("warning", name,
        sprintf("The truncation cuts %s of the law, which moves its mean.", percent(cut)),
        "Check the limits, or state a law that has them as its ends.")
    )
  }))
}

share_below <- function(law, limit) {
  cumulative(law, limit) - if (is_discrete(law)) density_at(law, limit) else 0
}

review_base <- function(study) {
  bases <- base_values(study)
  do.call(rbind, lapply(varying_names(study), function(name) {
    law <- study$inputs[[name]]$law
    base <- bases[[name]]
    if (is_linked(law) || is_categorical(law)) return(NULL)
    ends <- support(law)
    if (base < ends[1] || base > ends[2]) {
      return(finding("warning", name, sprintf("Its base value %s lies outside its law, which runs from %s to %s.",
        format(base), format(ends[[1]]), format(ends[[2]])), "Correct the base value or the law."))
    }
    skewed <- !study$inputs[[name]]$base_rule %in% c("given", "stated")
    at <- c(cumulative(law, base), cumulative(law, base, tail = "upper"))
    if (skewed || min(at) >= 0.01) return(NULL)
    finding("warning", name,
      sprintf("Its base value %s is at P%s of its law.", format(base), format(100 * at[1], digits = 2)),
      "Correct the base value or the law.")
  }))
}

# A count times one draw of a size: each occurrence has a size of its own, and the sum spreads less.
review_counts <- function(study) {
  counts <- names(Filter(function(input) varies(input) && is_law(input$law) && is_count_law(input$law), study$inputs))
  sizes <- names(Filter(function(input) varies(input) && !is_discrete(input$law) && !is_linked(input$law),
    study$inputs))
  if (length(counts) == 0) return(NULL)
  do.call(rbind, lapply(names(study$outputs), function(name) {
    hit <- multiplied_pair(study$outputs[[name]]$formula$expr, counts, sizes)
    if (is.null(hit)) return(NULL)
    count <- hit[1]
    size <- hit[2]
    finding("warning", name, sprintf("It multiplies the count `%s` by one draw of `%s`.", count, size),
      paste0("If each occurrence has a size of its own, the sum spreads less than this product: take the law of the sum, ",
        "`compound`, or draw each by itself, `occurrences`, in place of both."))
  }))
}

is_count_law <- function(law) {
  family <- if (is_linked(law)) parameters_of(law)$family else family_name(law)
  family %in% c("poisson", "binomial", "negative_binomial", "geometric", "hypergeometric")
}

# Names of a set multiplied with a name of another somewhere in an expression: the first two.
multiplied_pair <- function(expr, some, others) {
  if (!is.call(expr)) return(NULL)
  parts <- product_parts(expr)
  factors <- as.character(Filter(is.symbol, parts))
  pair <- c(intersect(some, factors)[1], intersect(others, factors)[1])
  if (!anyNA(pair)) return(pair)
  for (part in if (length(parts) > 1) parts else as.list(expr)[-1]) {
    pair <- multiplied_pair(part, some, others)
    if (!is.null(pair)) return(pair)
  }
}

# What a product multiplies, its spine walked in a loop; anything else is its own only part.
product_parts <- function(expr) {
  parts <- list()
  repeat {
    while (rlang::is_call(expr, "(")) expr <- expr[[2]]
    if (!rlang::is_call(expr, "*", n = 2)) return(c(list(expr), parts))
    parts <- c(if (rlang::is_call(expr[[3]], c("*", "("))) product_parts(expr[[3]]) else list(expr[[3]]), parts)
    expr <- expr[[2]]
  }
}

# A percentile wants ten runs beyond it; a spec is a share that wants a hundred.
review_runs <- function(study, nsim, percentiles) {
  if (is.null(nsim)) return(NULL)
  beyond <- nsim * pmin(percentiles, 100 - percentiles) / 100
  thin <- percentiles[beyond < 10 & !percentiles %in% c(0, 100)]
  rbind(
    finding("warning", sprintf("P%s", thin), sprintf("%s of %s lie beyond it.",
      format(nsim * pmin(thin, 100 - thin) / 100), count_of(nsim, "run")),
      sprintf("Take %s runs or more.", format(ceiling(1000 / pmin(thin, 100 - thin)), big.mark = " ", trim = TRUE))),
    if (length(study$specs) && nsim < 100) finding("warning", names(study$specs),
      sprintf("%s cannot tell a pass rate.", count_of(nsim, "run")), "Take 1 000 runs or more.")
  )
}

review_correlations <- function(study) {
  do.call(rbind, lapply(correlated_sets(study), function(set) {
    scores <- score_correlation(correlation_matrix(study, set))
    diag(scores) <- 1
    smallest <- smallest_eigenvalue(scores)
    about <- paste(utils::head(conflicting_inputs(scores, set), 6), collapse = ", ")
    if (smallest < -1e-8) return(finding("error", about,
      sprintf("No joint law has these correlations: the smallest eigenvalue is %s.", format(smallest, digits = 3)),
      "Weaken the strongest, or have them repaired: `repair = TRUE`."))
    exact <- any(abs(scores[upper.tri(scores)]) > 1 - 1e-9)
    if (smallest < 0.01 && !exact) finding("hint", about,
      sprintf("Their correlations are near the edge of the possible: the smallest eigenvalue is %s.",
        format(smallest, digits = 2)),
      "Check that they come from one source.")
  }))
}

# Inputs of one group or one source are seldom independent; two with the same words may be one quantity.
review_alike <- function(study) {
  varying <- varying_names(study)
  linked <- unique(c(unlist(correlated_sets(study)),
    names(Filter(function(input) !is.null(input$shares), study$inputs)),
    unlist(lapply(study$inputs, function(input) input$shares))))
  text <- function(field) stats::setNames(text_of(study$inputs[varying], function(input) input[[field]]), varying)
  together <- function(field, words) {
    sets <- split(varying, text(field))
    sets <- sets[nzchar(names(sets)) & lengths(sets) > 1]
    sets <- Filter(function(set) !any(set %in% linked), sets)
    finding("hint", vapply(sets, function(set) paste(utils::head(set, 6), collapse = ", "), "", USE.NAMES = FALSE),
      sprintf("They have the same %s and are taken as independent.", words),
      "If they are high and low together, correlate them or let them share one uncertainty.")
  }
  labels <- split(varying, text("label"))
  labels <- labels[nzchar(names(labels)) & lengths(labels) > 1]
  rbind(
    finding("warning", vapply(labels, paste, "", collapse = ", ", USE.NAMES = FALSE), "They have the same label.",
      "If they are one quantity, use one input; else give each a label of its own."),
    together("group", "group"), together("note", "source")
  )
}
