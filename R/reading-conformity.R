# Conformity: whether an item meets its limits, given a measured result, and what deciding so risks (JCGM 106:2012).

#' Does the item meet its limits?
#'
#' `conformity()`: the probability that the item lies within its limits, given what was measured. `acceptance_limits()`: where results
#' are accepted, by a rule named by what it does. `decision_risks()`: how often, over all items, a rule accepts what should be rejected,
#' and the reverse.
#'
#' @param x A budget ([budget()]), a result, or a law: what is known of the item.
#' @param lower,upper Numbers, in the output's unit: the limits of tolerance; one may be left out.
#' @param output Name of an output of a result, bare or as text; may be left out where there is one.
#' @param ... Not used; anything here is an error.
#' @param prior A law, or `NULL`: how such items are known to scatter, before this one is measured. With a budget, or a law of the
#'   measured value.
#' @return `conformity()`: a data frame of one row: `value`, `standard` (standard uncertainty), `lower`, `upper`, `conforms`, `below`, `above`
#'   (probabilities), `basis` (`"budget"`, `"runs"`, `"law"`), `decision` (`"accept"`, `"reject"`, `""` without a rule), and `wrong`: the probability
#'   that the decision is wrong.
#' @details A budget counts with a Student law of its effective degrees of freedom, a normal one where they are infinite; a result with its
#'   runs, which is exact where the law is neither. With a `prior` the measured value moves towards what such items usually are (JCGM 106,
#'   6.2 and 7).
#' @section Source: JCGM 106:2012, clauses 7 (conformance probability), 8 (acceptance limits, guard bands) and 9 (risks).
#' @section Errors: `ensayo_error_argument` where no limit is given, one is not below the other, or no result could be accepted with the
#'   risk asked for.
#' @seealso [plot_conformity()].
#' @examples
#' flow <- study("Meter") |>
#'   add_inputs(reading = law_observed(c(20.11, 20.04, 20.09, 20.13), of = "mean"),
#'     reference = law_measured(20.02, expanded = 0.06, k = 2)) |>
#'   add_outputs(error = output(100 * (reading / reference - 1), unit = "%"))
#' conformity(budget(flow), -1, 1)
#' conformity(budget(flow), -1, 1, rule = "guarded", risk = 0.05)
#' conformity(simulate(flow, 10000, 11), -1, 1)
#' acceptance_limits(-1, 1, uncertainty = 0.2, rule = "guarded", risk = 0.05)
#' decision_risks(law_normal(0, 0.5), uncertainty = 0.1, lower = -1, upper = 1)
#' @export
conformity <- function(x, lower = -Inf, upper = Inf, output, ..., prior = NULL, rule = NULL, risk = 0.05) {
  check_no_dots(..., .options = c("output", "prior", "rule", "risk"))
  limits <- check_tolerance(lower, upper)
  if (!is.null(prior)) check_law(prior)
  known <- known_item(x, rlang::enquo(output), prior)
  conformity_of(known, limits, accepted_of(known, limits, rule, risk))
}

accepted_of <- function(known, limits, rule, risk) {
  if (!is.null(rule)) acceptance_limits(limits[1], limits[2], known$standard, rule, risk, df = known$df)
}

conformity_of <- function(known, limits, accepted) {
  table <- list(value = known$value, standard = known$standard, lower = limits[1], upper = limits[2], conforms = known$conforms(limits),
    below = known$below(limits[1]), above = known$above(limits[2]), basis = known$basis, decision = "", wrong = NA_real_)
  if (!is.null(accepted)) {
    inside <- known$value >= accepted$accept_from && known$value <= accepted$accept_to
    table$decision <- if (inside) "accept" else "reject"
    table$wrong <- if (inside) table$below + table$above else table$conforms
  }
  new_table(table)
}

check_tolerance <- function(lower, upper, call = rlang::caller_env()) {
  numeric <- function(x) is.numeric(x) && length(x) == 1 && !is.na(x)
  if (!numeric(lower)) stop_argument("lower", "one number, or left out", lower, call = call)
  if (!numeric(upper)) stop_argument("upper", "one number, or left out", upper, call = call)
  if (is.infinite(lower) && is.infinite(upper)) {
    stop_ensayo("argument", "A limit must be given: `lower`, `upper` or both.", "There is none.", argument = "lower", call = call)
  }
  if (lower >= upper) {
    stop_ensayo("argument", "`lower` must be below `upper`.", sprintf("They are %s and %s.", format(lower), format(upper)), argument = "lower", call = call)
  }
  c(lower, upper)
}

# What is known of an item, as functions of limits.
known_item <- function(x, output, prior, call = rlang::caller_env()) {
  if (inherits(x, "ensayo_result")) {
    if (!is.null(prior)) stop_argument("prior", "left out with a result", prior, "Give the budget or a law of the measured value.", call)
    name <- resolve_name(output, scalar_outputs(x$study), "an output of the result", call)
    values <- as.double(values_of(x, name))
    values <- values[is.finite(values)]
    if (length(values) == 0) stop_ensayo("argument", "The output must have good runs.", "All failed.", call = call)
    return(list(value = mean(values), standard = stats::sd(values), df = Inf, basis = "runs", values = values, result = x, name = name,
      conforms = function(limits) mean(values >= limits[1] & values <= limits[2]),
      below = function(limit) mean(values < limit), above = function(limit) mean(values > limit)))
  }
  if (inherits(x, "ensayo_budget")) {
    stated <- budget_result(x)
    if (!isTRUE(stated$standard > 0)) {
      stop_ensayo("argument", "The budget must state an uncertainty.", "At the estimates it has none.", "Simulate, and ask the result.", call = call)
    }
    law <- if (is.infinite(stated$df)) law_normal(stated$value, stated$standard)
      else law_student(whole_freedom(stated$df), stated$value, stated$standard)
    known <- list(value = stated$value, standard = stated$standard, df = stated$df, basis = "budget", budget = x)
  } else {
    check_law(x)
    law <- x
    told <- standard_uncertainty(law)
    known <- list(value = told$estimate, standard = told$u, df = told$df, basis = "law")
  }
  c(known, if (is.null(prior)) law_probabilities(law) else posterior_probabilities(law, prior, known$value))
}

law_probabilities <- function(law) {
  list(density = function(x) density_at(law, x), conforms = function(limits) exp(ask(law, "between", limits[1], limits[2], TRUE, TRUE)),
    below = function(limit) if (limit == -Inf) 0 else share_below(law, limit),
    above = function(limit) if (limit == Inf) 0 else cumulative(law, limit, tail = "upper"))
}

# Bayes: the prior's density times how likely the measured value is for each item, over the prior's probability.
posterior_probabilities <- function(law, prior, value) {
  likely <- function(item) density_at(law, 2 * value - item)
  whole <- prior_mean(prior, likely, value, standard_uncertainty(law)$u)
  within <- function(from, to) if (from >= to) 0 else prior_mean(prior, likely, value, standard_uncertainty(law)$u, from, to) / whole
  list(density = function(x) density_at(prior, x) * likely(x) / whole, conforms = function(limits) within(limits[1], limits[2]), below = function(limit) within(-Inf, limit),
    above = function(limit) within(limit, Inf))
}

# The integral of f over a law's probability, between two of its values; `near` and `width` say where f moves.
prior_mean <- function(prior, f, near, width, from = -Inf, to = Inf) {
  if (is_discrete(prior)) {
    points <- points_of(ready_law(prior))
    at <- points$values >= from & points$values <= to
    return(sum(points$shares[at] * f(points$values[at])))
  }
  inside <- function(x) sort(unique(pmin(pmax(x, from), to)))
  steps <- c(-40, -12, -8, -5, -3, -2, -1, -0.5, 0, 0.5, 1, 2, 3, 5, 8, 12, 40)
  breaks <- inside(c(from, to, as.vector(outer(steps * width, near, `+`)), quantile(prior, c(1e-12, 1e-6, 1e-3, 0.05, 0.25, 0.5, 0.75, 0.95)),
    quantile(prior, c(1e-3, 1e-6, 1e-12), tail = "upper"), ask(ready_law(prior), "kinks")))
  ends <- support(prior)
  breaks <- sort(unique(pmin(pmax(breaks, ends[[1]]), ends[[2]])))
  # what lies further out than the prior reaches adds less than 1e-12
  if (is.infinite(breaks[1])) breaks[1] <- quantile(prior, 1e-15)
  if (is.infinite(breaks[length(breaks)])) breaks[length(breaks)] <- quantile(prior, 1e-15, tail = "upper")
  breaks <- sort(unique(breaks))
  if (length(breaks) < 2) return(0)
  pieces <- vapply(seq_along(breaks)[-1], function(i) {
    stats::integrate(function(x) density_at(prior, x) * f(x), breaks[i - 1], breaks[i], rel.tol = 1e-10, abs.tol = 1e-13, stop.on.error = FALSE)$value
  }, 0)
  sum(pieces)
}

#' @rdname conformity
#' @param uncertainty Number above 0, the standard uncertainty of a measured value in the output's unit; or a budget.
#' @param rule `"shared"`: accepted within the limits themselves, and both sides share the risk; `"guarded"`: accepted further inside, so
#'   that who accepts is wrong with a probability of at most `risk`; `"relaxed"`: rejected only so far outside that who rejects is
#'   wrong with at most `risk`. In `conformity()` `NULL` for no decision.
#' @param risk Number between 0 and 0.5.
#' @param df Number above 0: degrees of freedom of the uncertainty.
#' @return `acceptance_limits()`: a data frame of one row: `rule`, `risk`, `accept_from`, `accept_to`, and `guard`, the width of the guard band
#'   (below 0 where results outside the limits are accepted) and `factor`, the same over the standard uncertainty.
#' @export
acceptance_limits <- function(lower = -Inf, upper = Inf, uncertainty, rule = "shared", risk = 0.05, df = Inf) {
  limits <- check_tolerance(lower, upper)
  if (inherits(uncertainty, "ensayo_budget")) {
    stated <- budget_result(uncertainty)
    uncertainty <- stated$standard
    df <- stated$df
  }
  u <- check_number(uncertainty, above = 0)
  rule <- check_choice(rule, c("shared", "guarded", "relaxed"))
  check_number(risk, above = 0, below = 0.5)
  df <- checked_freedom(df)
  factor <- switch(rule, shared = 0, guarded = guard_factor(diff(limits) / u, risk, df), relaxed = -guard_factor(diff(limits) / u, risk, df, TRUE))
  guard <- factor * u
  new_table(list(rule = rule, risk = risk, accept_from = limits[1] + guard, accept_to = limits[2] - guard, guard = guard, factor = factor))
}

checked_freedom <- function(df, call = rlang::caller_env()) {
  if (!identical(df, Inf)) check_number(df, "df", above = 0, call = call)
  whole_freedom(df)
}

# The guard band over the standard uncertainty, for limits that are `width` standard uncertainties apart: of a result on the acceptance
# limit the probability of lying outside both limits (or, `relaxed`, inside) is the risk.
guard_factor <- function(width, risk, df, relaxed = FALSE, call = rlang::caller_env(2)) {
  one <- stats::qt(1 - risk, df)
  if (is.infinite(width)) return(one)
  if (relaxed) {
    inside <- function(w) stats::pt(-w, df) - stats::pt(-w - width, df)
    if (inside(0) <= risk) return(0)
    return(stats::uniroot(function(w) inside(w) - risk, c(0, one), tol = 1e-13)$root)
  }
  outside <- function(w) stats::pt(-w, df) + stats::pt(w - width, df)
  if (outside(width / 2) > risk) {
    stop_ensayo("argument", "The uncertainty must be small enough for the limits.",
      sprintf("Even a result half-way between them is wrong with probability %s.", format(outside(width / 2), digits = 2)),
      "Measure better, accept a larger `risk`, or decide by the rule \"shared\".", argument = "risk", call = call)
  }
  stats::uniroot(function(w) outside(w) - risk, c(min(one, width / 2) * 0.999, width / 2), extendInt = "no", tol = 1e-13)$root
}

#' @rdname conformity
#' @param accept_from,accept_to Numbers: where results are accepted; the limits themselves when left out ([acceptance_limits()] gives
#'   others).
#' @return `decision_risks()`: a data frame of one row: `conforming`, the share of items within the limits; `accepted`, the share whose
#'   result is accepted; `consumer`, the probability that an item does not conform and is accepted; `producer`, that it conforms and is
#'   rejected; `wrong_if_accepted` and `wrong_if_rejected`, the same among those accepted and among those rejected.
#' @export
decision_risks <- function(prior, uncertainty, lower = -Inf, upper = Inf, accept_from = lower, accept_to = upper, df = Inf) {
  check_law(prior)
  limits <- check_tolerance(lower, upper)
  accepted <- check_tolerance(accept_from, accept_to)
  if (inherits(uncertainty, "ensayo_budget")) {
    df <- budget_result(uncertainty)$df
    uncertainty <- budget_result(uncertainty)$standard
  }
  u <- check_number(uncertainty, above = 0)
  df <- checked_freedom(df)
  taken <- function(item) {
    lower <- stats::pt((accepted[2] - item) / u, df) - stats::pt((accepted[1] - item) / u, df)
    upper <- stats::pt((accepted[1] - item) / u, df, lower.tail = FALSE) - stats::pt((accepted[2] - item) / u, df, lower.tail = FALSE)
    ifelse(accepted[1] > item, upper, lower)
  }
  refused <- function(item) stats::pt((accepted[1] - item) / u, df) + stats::pt((accepted[2] - item) / u, df, lower.tail = FALSE)
  near <- c(accepted, limits)
  near <- near[is.finite(near)]
  part <- function(f, from = -Inf, to = Inf) prior_mean(prior, f, near, u, from, to)
  # a discrete item on a limit conforms
  conforming <- law_probabilities(prior)$conforms(limits)
  producer <- part(refused, limits[1], limits[2])
  all <- part(taken)
  consumer <- max(if (is_discrete(prior)) all - part(taken, limits[1], limits[2])
    else part(taken, to = limits[1]) + part(taken, from = limits[2]), 0)
  new_table(list(conforming = conforming, accepted = all, consumer = consumer, producer = producer, wrong_if_accepted = consumer / all,
    wrong_if_rejected = producer / (1 - all)))
}
