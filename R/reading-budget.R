# Uncertainty budgets: what each input contributes to the uncertainty of an output, by the law of propagation.

#' Uncertainty budget
#'
#' What each input contributes to the uncertainty of an output, and what is stated: estimate, combined standard uncertainty, effective
#' degrees of freedom, coverage factor and expanded uncertainty. It is linear: [budget_verdict()] sets the simulation beside it and says
#' whether it will do.
#'
#' @param study A study, or a result, whose study is taken.
#' @param output Name of an output, bare or as text; may be left out where there is one.
#' @param ... Not used; anything here is an error.
#' @param coverage Number between 0 and 1: the coverage probability. Where `k` is given, what is stated is the one that `k` has.
#' @param k Number above 0, or `NULL`: the coverage factor; when `NULL` that of Student's law at the effective degrees of freedom,
#'   cut to a whole number (G.6.4).
#' @param digits 1 or 2: significant digits of the stated uncertainty (7.2.6).
#' @param rounding `"nearest"`, ties to the even digit; or `"up"`: the stated uncertainty is never less than the calculated one.
#' @param unit Text or `NULL`: another unit of the output's dimension to state it in ([add_units()]).
#' @param second_order `TRUE`: the terms of second order (5.1.2, note) are part of what is stated.
#' @return A budget, a list of class `ensayo_budget` with a method for `as.data.frame()`: a row for each input behind the output that
#'   varies, the largest share first: `input`, `label`, `estimate` and `uncertainty` (standard, in the input's `unit`), `type` (`"A"`,
#'   `"B"`), `law`, `n` (observations) and `df` (degrees of freedom; `Inf` where it is taken as known), `sensitivity` (coefficient, output
#'   per input), `contribution` (sensitivity times uncertainty, with its sign, in the output's unit), `share` (of the variance, with its
#'   correlation terms; shares add up to 1, and one may be below 0), `second_order` (what terms of second order add to the variance, in
#'   the output's unit squared; `NA` where not known), and `remark`. [budget_result()] has the figures that are stated.
#' @details
#' **Inputs.** The estimate is the law's mean, the standard uncertainty its standard deviation. A Student law, such as
#' [law_observed()] makes, counts with its scale and its degrees of freedom, as the guide has it. A type B input has infinite degrees of
#' freedom, except where a certificate states them, and for [law_curvilinear()], whose limits are known within `within`: half of the square of
#' half-width over `within` (G.4.2).
#'
#' **Sensitivity coefficients** of formulas and functions of R are exact, by Taylor arithmetic of third order. Those of programs, of
#' steps and of functions that take numbers apart come from differences over one standard uncertainty and half of it, extrapolated
#' (Richardson); the print says so, with how far they may be off. Where the estimate sits on a kink (`abs()` of 0, the edge of an `if`)
#' there is none: `NaN`, and the advice to simulate.
#'
#' **Correlations** are those of the values, from the study's rank correlations, shared uncertainties and rows of data.
#'
#' **Degrees of freedom** are by Welch and Satterthwaite (G.4.1), which holds for independent inputs. Inputs that are correlated count as
#' one: with the degrees of freedom that they share, where they come from the same number of readings taken together or points of a line,
#' else with the least of theirs; and a remark says so.
#'
#' **Second order**: \eqn{\sum_i \sum_j [f_{ij}^2/2 + f_i f_{ijj}] u_i^2 u_j^2}, as for inputs with normal laws; of correlated ones the
#' squares are the variance of the quadratic form, and the other terms those of independent inputs. And half of
#' \eqn{\sum f_{ij} u_i u_j r_{ij}}, by which the mean is off the value at the estimates.
#' @section Source: JCGM 100:2008, clauses 4, 5.1.2, 5.2.2, 7.2.6, G.4 and G.6.4.
#' @section Errors: `ensayo_error_argument` where nothing varies behind the output, a law has no standard deviation, an input is drawn
#'   at steps or is a category, or the output cannot be calculated at the estimates; `ensayo_error_name` for an unknown output.
#' @seealso [budget_verdict()], [plot_budget()], [write_budget()], [law_measured()], [add_observations()].
#' @examples
#' gauge <- study("Length of a gauge") |>
#'   add_inputs(
#'     standard = input(law_measured(50.000623, expanded = 0.000075, k = 3, df = 18), unit = "mm"),
#'     difference = input(law_observed(n = 5, mean = 0.000215, sd = 0.000013, of = "mean", df = 24),
#'       unit = "mm")) |>
#'   add_outputs(length = output(standard + difference, unit = "mm"))
#' b <- budget(gauge, length, coverage = 0.99)
#' b
#' as.data.frame(b)
#' budget_result(b)
#' @export
budget <- function(study, output, ..., coverage = 0.95, k = NULL, digits = 2, rounding = "nearest", second_order = FALSE,
                   unit = NULL) {
  check_no_dots(..., .options = c("coverage", "k", "digits", "rounding", "second_order", "unit"))
  if (inherits(study, "ensayo_result")) study <- study$study
  check_study(study)
  validate_study(study)
  output <- resolve_name(rlang::enquo(output), scalar_outputs(study), "an output of the study")
  check_number(coverage, above = 0, below = 1)
  if (!is.null(k)) check_number(k, above = 0)
  digits <- check_count(digits, at_most = 2)
  rounding <- check_choice(rounding, c("nearest", "up"))
  check_flag(second_order)
  if (!is.null(unit)) study <- study_in_unit(study, output, check_string(unit))
  parts <- propagated(study, output)
  new_budget(study, output, parts, list(coverage = coverage, k = k, digits = digits, rounding = rounding, second_order = second_order))
}

# What the law of propagation gives of one output.
propagated <- function(study, output, second = TRUE, call = rlang::caller_env(2)) {
  if (is_day(study$outputs[[output]])) {
    stop_ensayo("argument", sprintf("%s must be a number.", quoted(output)), "It is a day.", "Simulate the study, and read its percentiles.", call = call)
  }
  names <- intersect(varying_names(study), reach_of(study)(output))
  if (length(names) == 0) {
    stop_ensayo("argument", sprintf("Something must vary behind %s.", quoted(output)), "All its inputs are constants.",
      "Give an input a law, such as `law_measured(20.02, expanded = 0.06, k = 2)`.", call = call)
  }
  at <- estimates_of(study, call)
  known <- lapply(stats::setNames(nm = names), function(name) measured_input(study, name, at, call))
  u <- vapply(known, function(one) one$u, 0)
  found <- derivatives_of(study, output, at, u, second = second && length(u) <= 200)
  if (!is.finite(found$value)) {
    stop_ensayo("argument", sprintf("%s must have a value where all inputs are at their estimates.", quoted(output)),
      sprintf("It is %s there.", format_not_finite(found$value)), call = call)
  }
  r <- value_correlations(study, names)
  list(names = names, known = known, u = u, r = r, at = at[names], derivatives = found)
}

# Every input at its law's mean, and what is held where it is.
estimates_of <- function(study, call) {
  values <- list()
  for (name in input_order(study)) {
    input <- study$inputs[[name]]
    values[[name]] <- if (!varies(input)) held_value(input)
      else if (is_categorical(input$law)) base_values(study)[[name]]
      else standard_uncertainty(if (is_linked(input$law)) linked_law_at(input$law, values) else input$law)$estimate
  }
  values[names(study$inputs)]
}

measured_input <- function(study, name, at, call) {
  input <- study$inputs[[name]]
  fault <- if (is_stepped(input)) "It is drawn anew at each step." else if (is_categorical(input$law)) "It is a category."
  if (is.null(fault)) {
    known <- standard_uncertainty(if (is_linked(input$law)) linked_law_at(input$law, at) else input$law)
    if (is.finite(known$u) && is.finite(known$estimate)) return(known)
    fault <- "Its law has none: the tails are too heavy."
  }
  stop_ensayo("argument", sprintf("Input %s must have an estimate and a standard uncertainty.", quoted(name)), fault,
    "Simulate the study instead, or hold the input at one value (`fix_inputs()`).", name = name, call = call)
}

new_budget <- function(study, output, parts, asked) {
  d <- parts$derivatives
  contribution <- d$first
  terms <- contribution * as.vector(parts$r %*% contribution)
  # what cancels leaves rounding, on either side of 0
  variance <- max(sum(terms), 0)
  second <- second_order_terms(d, parts$r)
  known <- parts$known
  of <- function(field) unname(vapply(known, `[[`, known[[1]][[field]], field))
  rows <- new_table(list(
    input = parts$names, label = vapply(parts$names, quantity_label, "", study = study, USE.NAMES = FALSE),
    estimate = of("estimate"), uncertainty = of("u"), unit = text_of(parts$names, function(name) quantity_unit(study, name)),
    type = of("type"), law = vapply(parts$names, function(name) format(study$inputs[[name]]$law), "", USE.NAMES = FALSE),
    n = of("n"), df = of("df"), sensitivity = contribution / of("u"), contribution = contribution,
    share = terms / variance, second_order = second$terms,
    remark = ifelse(is.nan(contribution), "on a kink", "")))
  clusters <- degrees_of_freedom(parts, contribution, variance)
  shift <- if (!is.null(d$second)) sum(d$second * parts$r) / 2 else sum(d$own) / 2
  # where the output leaves its tangent within one standard uncertainty, by a tenth of what it moves there or more
  off <- pmax(abs(d$moved[, 2] - d$value - d$first), abs(d$value - d$moved[, 1] - d$first))
  bent <- parts$names[which(off > 0.1 * pmax(abs(d$first), 0.1 * sqrt(variance)) & is.finite(off))]
  budget <- structure(list(study = study, output = output, asked = asked, rows = rows, value = d$value, variance = variance,
    second = second$sum, shift = shift, df = clusters$df, joined = clusters$joined, bent = bent, r = parts$r, derivatives = d, known = known),
    class = "ensayo_budget")
  budget$rows <- rows[order(-abs(rows$share), na.last = FALSE), ]
  rownames(budget$rows) <- NULL
  budget
}

# What terms of second order add to the variance, input by input; a pair's is halved between both. Half the trace of H R H R is the
# variance of a quadratic form of normal inputs with the correlations R.
second_order_terms <- function(d, r) {
  if (is.null(d$second)) return(list(terms = if (is.null(d$own)) rep(NA_real_, nrow(r)) else d$own^2 / 2, sum = NA_real_))
  curved <- d$second %*% r
  crossed <- curved * t(curved) / 2 + (d$first * d$third + t(d$first * d$third)) / 2
  list(terms = unname(rowSums(crossed)), sum = sum(crossed))
}

# Welch and Satterthwaite, where inputs that hang together are one.
degrees_of_freedom <- function(parts, contribution, variance) {
  sets <- connected(parts$r != 0)
  joined <- list()
  inverse <- vapply(sets, function(set) {
    df <- vapply(parts$known[set], function(one) one$df, 0)
    if (all(is.infinite(df))) return(0)
    own <- sum(outer(contribution[set], contribution[set]) * parts$r[set, set])
    if (length(set) > 1) {
      n <- vapply(parts$known[set], function(one) one$n, 0)
      together <- !anyNA(n) && length(unique(n)) == 1 && length(unique(df)) == 1
      joined[[length(joined) + 1]] <<- list(inputs = parts$names[set], together = together, unequal = !together && all(!is.na(n)), df = min(df))
    }
    own^2 / min(df)
  }, 0)
  total <- sum(inverse)
  list(df = if (is.nan(variance)) NaN else if (total == 0) Inf else variance^2 / total, joined = joined)
}

# Sets of what is connected, by a matrix that says which pairs are.
connected <- function(linked) {
  set <- seq_len(nrow(linked))
  repeat {
    lowest <- vapply(seq_along(set), function(i) min(set[linked[i, ] | seq_along(set) == i]), 0L)
    if (identical(lowest, set)) return(unname(split(seq_along(set), set)))
    set <- lowest
  }
}

#' What a budget states
#'
#' @param budget A budget, as [budget()] makes it.
#' @return A data frame of one row: `output`, `value`, `standard` (combined standard uncertainty), `relative` (of the value; `NA` where the
#'   value is less than its standard uncertainty), `df` (effective), `k`, `coverage`, `expanded`, `low`, `high`, `second_order` (standard
#'   uncertainty with terms of second order; `NA` where not known), `shift` (by which the mean is off the value for curvature), `unit`, all
#'   unrounded; and `stated_value`, `stated_expanded` (texts, rounded as the budget asks).
#' @section Source: JCGM 100:2008, 7.2.
#' @examples
#' flow <- study("Flow") |>
#'   add_inputs(mass = law_measured(20.02, expanded = 0.06, k = 2),
#'     time = law_observed(c(9.9, 10.1, 10.2), of = "mean")) |>
#'   add_outputs(rate = output(mass / time, unit = "kg/s"))
#' budget_result(budget(flow))
#' @export
budget_result <- function(budget) {
  check_class(budget, "ensayo_budget", "a budget, as `budget()` makes it")
  asked <- budget$asked
  both <- sqrt(max(budget$variance + budget$second, 0))
  standard <- if (asked$second_order && is.finite(budget$second)) both else sqrt(budget$variance)
  df <- if (is.nan(budget$df)) NaN else whole_freedom(budget$df)
  k <- asked$k %||% coverage_factor(asked$coverage, df)
  # a factor that was given covers what it covers
  coverage <- if (is.null(asked$k)) asked$coverage else 2 * stats::pt(k, df) - 1
  expanded <- k * standard
  stated <- stated_texts(budget$value, expanded, asked$digits, asked$rounding)
  new_table(list(output = budget$output, value = budget$value, standard = standard,
    relative = if (isTRUE(abs(budget$value) > standard)) standard / abs(budget$value) else NA_real_, df = budget$df, k = k,
    coverage = coverage, expanded = expanded, low = budget$value - expanded, high = budget$value + expanded,
    second_order = if (is.finite(budget$second)) both else NA_real_, shift = budget$shift,
    unit = quantity_unit(budget$study, budget$output) %||% "", stated_value = stated[["value"]], stated_expanded = stated[["expanded"]]))
}

# A value and its uncertainty as texts: significant digits of the uncertainty, the value to the same place.
stated_texts <- function(value, expanded, digits = 2, rounding = "nearest") {
  if (!is.finite(expanded)) return(c(value = format_number(value), expanded = format_not_finite(expanded)))
  if (expanded == 0) return(c(value = format_given(value), expanded = "0"))
  up <- rounding == "up"
  decimals <- decimals_for(expanded, digits, up)
  c(value = decimal_text(value, decimals), expanded = decimal_text(rounded_decimal(expanded, decimals, up), decimals))
}

# Pairs of correlated inputs, with what each adds to the variance: 2 c_i c_j u_i u_j r_ij (JCGM 100:2008, 5.2.2).
correlation_terms <- function(budget) {
  at <- which(upper.tri(budget$r) & budget$r != 0, arr.ind = TRUE)
  names <- rownames(budget$r)
  contribution <- budget$rows$contribution[match(names, budget$rows$input)]
  r <- budget$r[at]
  list2DF(list(a = names[at[, 1]], b = names[at[, 2]], r = r, term = 2 * contribution[at[, 1]] * contribution[at[, 2]] * r))
}

# The decimals that contributions are shown with: one more than the combined standard uncertainty has.
contribution_decimals <- function(budget) decimals_for(sqrt(budget$variance), 2) + 1

#' @export
as.data.frame.ensayo_budget <- function(x, ...) unclass_table(x$rows)
