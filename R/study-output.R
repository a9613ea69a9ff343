# Outputs: a formula each, with what readers want to know about it.

new_output <- function(formula, texts = list(), kind = NULL, vectorised = NULL, steps = NULL) {
  output <- structure(list(formula = formula, unit = texts$unit, label = texts$label, note = texts$note,
    group = texts$group, kind = kind, vectorised = vectorised), class = "ensayo_output")
  output$steps <- steps
  output
}

#' Describe an output
#'
#' An output is a formula of inputs and other outputs. A bare expression in [add_outputs()] is an output without
#' trimmings.
#'
#' @param formula An expression; see [add_outputs()] for what it may hold. It is left out where a model gives the output
#'   ([add_model()]).
#' @param unit,label,note,group Texts or `NULL`: the unit; what readers call the output; a remark; what it belongs
#'   with, so that formulas can say `max(group)`.
#' @param kind `"number"`, `"whole"` (a count), `"date"` (a number of days since 1970-01-01, shown on a calendar), or
#'   `NULL`: dates are known from the formula (`date("2027-03-01") + duration`), counts and yes/no outputs from their
#'   values.
#' @param vectorised `TRUE` or `FALSE`: whether functions of your own in the formula take whole columns of runs, or
#'   one run's numbers at a time. When `NULL` it is found from their bodies; see [add_outputs()].
#' @param steps Numbers or dates in increasing order, for a series, with a value at each step of a run; `NULL` for one
#'   value a run. Only a model gives series ([add_model()]).
#' @return An output, for [add_outputs()] or [add_model()].
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' output(spring - 12 - headloss, unit = "m", label = "Pressure at the last tap")
#' @export
output <- function(formula = NULL, unit = NULL, label = NULL, note = NULL, group = NULL, kind = NULL, vectorised = NULL,
                   steps = NULL) {
  formula <- rlang::enquo(formula)
  if (rlang::quo_is_null(formula)) formula <- NULL
  texts <- list(unit = check_string(unit, null = TRUE), label = check_string(label, null = TRUE),
    note = check_string(note, null = TRUE), group = check_string(group, null = TRUE))
  if (!is.null(kind)) check_choice(kind, output_kinds)
  new_output(formula, texts, kind, check_flag(vectorised, null = TRUE), check_steps(steps))
}

check_steps <- function(steps, call = rlang::caller_env()) {
  if (is.null(steps)) return(NULL)
  ok <- (is.numeric(steps) || inherits(steps, "Date")) && length(steps) > 0 && all(is.finite(steps)) &&
    all(diff(as.double(steps)) > 0)
  if (!ok) stop_argument("steps", "numbers or dates in increasing order", steps, call = call)
  if (inherits(steps, "Date")) steps else as.double(steps)
}

is_output <- function(x) inherits(x, "ensayo_output")

#' Add outputs to a study
#'
#' Each output is one expression of inputs, other outputs and constants. Every operation in it is **within a run**:
#' the expression is evaluated for all runs at once, but each run's value is what that run alone gives.
#'
#' @section What a formula may hold:
#' * numbers, names of inputs and outputs (in any order, but not in a circle), `pi`;
#' * `+ - * / ^ %% %/%`, comparisons, `! & | && ||`, `%in% c(...)`;
#' * `min()`, `max()`, `sum()`, `prod()`, `mean()`, `any()`, `all()` **of several quantities**, which act within the
#'   run: `mean(a, b)` and `mean(c(a, b))` are the average of `a` and `b`. Of one quantity they are an error, for the
#'   mean across runs is a reading of the result, not a part of the formula;
#' * families and groups of inputs by their names inside those: `sum(zone)`, `max(zone, 5)`; one member as `zone[2]`;
#'   and
#'   `weighted_sum(zone, weights)`, each member times its own weight, which are numbers or another family;
#' * `lookup(curve, flow)`, a table's value along straight lines between its points ([add_tables()]), and
#'   `date("2026-05-01")`, a day, to which days may be added; days are compared with days alone, as whole
#'   days: what is done in the course of a day is done on it;
#' * `if (condition) a else b` and `ifelse(condition, a, b)`: the branch that is not taken gives neither warning nor
#'   failure; where the condition is `NA` the run fails;
#' * `exp`, `log`, `sqrt`, `abs`, trigonometry, rounding, `gamma`, `pnorm` and the like;
#' * values of your own, which are taken from where you call `add_outputs()`, bound by value and listed in print;
#' * functions of your own, bound by value too. One whose body holds `min`, `max`, `sum`, `mean`, `if`, `while` or the
#'   like is called one run at a time, for such code seldom means what it says for whole columns; say `output(...,
#'   vectorised = TRUE)` for one that takes whole columns.
#'
#' Functions that act across runs (`cumsum`, `rank`, `sort`, `quantile`, `x[...]`, ...), random numbers, the clock and
#' `<<-` are errors, in formulas and in functions of your own. After a simulation each formula that hands whole columns
#' to a function of your own is evaluated again alone, in the runs that hold the extremes of what it uses and gives and in
#' 32 others, and must agree.
#'
#' @param .study A study.
#' @param ... Named outputs: expressions or [output()]s. Also a list of them, `!!!` and `!!name :=`, and a data frame
#'   with columns `name`, `formula` (text, read as in a study file) and if wanted `unit`, `label`, `note`, `group`,
#'   `kind`.
#' @return The study with the outputs added at the end.
#' @section Errors: `ensayo_error_name` for a name that is missing, taken, not allowed, or not known in a formula
#'   (with the nearest one); `ensayo_error_cycle` for outputs that need each other; `ensayo_error_across_runs` for
#'   functions that act across runs; `ensayo_error_formula` for all else a formula may not hold.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(
#'     velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"),
#'     scoured = if (velocity > 0.8) 1 else 0
#'   )
#' @export
add_outputs <- function(.study, ...) {
  check_study(.study)
  given <- captured_outputs(rlang::enquos(..., .ignore_empty = "all"))
  names <- check_new_names(given, "output", c(quantity_names(.study), names(.study$tables)))
  given <- stats::setNames(given, names)
  for (name in names) refuse_formless(given[[name]], name)
  .study$outputs[names] <- given
  with_formulas_read(.study, names)
}

refuse_formless <- function(output, name, call = rlang::caller_env()) {
  if (!is.null(output$formula) && is.null(output$steps)) return(invisible())
  stop_ensayo("argument", sprintf("Output %s must be one formula.", quoted(name)),
    if (is.null(output$formula)) "It has none." else "It has steps.",
    "Series, and outputs without a formula, are given by a model: `add_model()`.", name = name, call = call)
}

#' Change outputs of a study
#'
#' `replace_outputs()` gives outputs another formula. The rest of the study stays as it is.
#'
#' @inheritParams add_outputs
#' @param ... As in [add_outputs()], for names the study has. A bare expression keeps the unit, label, note and group
#'   of the output it replaces; an [output()] replaces all of them.
#' @return The changed study.
#' @section Errors: as in [add_outputs()]; `ensayo_error_name` where a name is not an output of the study.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = flow / 0.049) |>
#'   replace_outputs(velocity = flow / 0.062)
#' @export
replace_outputs <- function(.study, ...) {
  check_study(.study)
  given <- captured_outputs(rlang::enquos(..., .ignore_empty = "all"))
  names <- names_of(given)
  for (name in names) {
    if (!name %in% names(.study$outputs)) stop_unknown_name(name, names(.study$outputs), "an output of the study")
    old <- .study$outputs[[name]]
    new <- given[[name]]
    refuse_formless(new, name)
    if (!is.null(old$model)) {
      stop_ensayo("name", sprintf("%s must be an output with a formula.", quoted(name)),
        sprintf("It is given by the model %s.", quoted(old$model)), name = name)
    }
    if (all(vapply(new[c("unit", "label", "note", "group")], is.null, TRUE))) {
      kept <- c("unit", "label", "note", "group")
      new[kept] <- old[kept]
    }
    .study$outputs[[name]] <- new
  }
  with_formulas_read(.study, names, among = names(.study$outputs))
}

# The study with the formulas of these outputs read, and the place and kind known of those `among` which they are.
with_formulas_read <- function(study, names, among = names, call = rlang::caller_env()) {
  known <- quantity_vocabulary(study)
  outputs <- study$outputs[among]
  for (i in match(names, among)) {
    outputs[[i]]$formula <- read_formula(outputs[[i]]$formula, known, sprintf("Output %s", quoted(among[i])),
      outputs[[i]]$vectorised)
  }
  study$outputs[among] <- with_date_kinds(outputs, c(date_outputs(study), dated_steps(attr(known, "series"))), call)
  if (length(study$events)) with_impacts_added(study, call) else study
}

# Each captured expression as an output: an `output()` call is evaluated, anything else is a formula.
captured_outputs <- function(quosures) {
  opened <- lapply(seq_along(quosures), function(i) {
    quosure <- quosures[[i]]
    expr <- rlang::quo_get_expr(quosure)
    name <- names(quosures)[i]
    if (rlang::is_call(expr, "output", ns = c("", "ensayo")) || is_output(expr)) {
      return(stats::setNames(list(rlang::eval_tidy(quosure)), name))
    }
    if (!nzchar(name)) {
      value <- tryCatch(rlang::eval_tidy(quosure), error = function(e) NULL)
      if (is.data.frame(value)) return(outputs_from_table(value))
      if (is.list(value) && !is.object(value)) return(lapply(value, as_output, env = rlang::quo_get_env(quosure)))
    }
    stats::setNames(list(as_output(quosure)), name)
  })
  do.call(c, c(list(list()), opened))
}

as_output <- function(x, env = NULL) {
  if (is_output(x)) x else if (rlang::is_quosure(x)) new_output(x) else new_output(rlang::new_quosure(x, env))
}

outputs_from_table <- function(table) {
  missing <- setdiff(c("name", "formula"), names(table))
  if (length(missing)) {
    stop_ensayo("argument", sprintf("A table of outputs must have a column %s.", quoted(missing[1])),
      sprintf("Its columns are %s.", paste(quoted(names(table)), collapse = ", ")), argument = missing[1])
  }
  rows <- lapply(seq_len(nrow(table)), function(i) {
    record <- Filter(function(cell) !is.na(cell),
      lapply(as.list(table[i, setdiff(names(table), "name"), drop = FALSE]), as.character))
    output_from_record(record, as.character(table$name[i]))
  })
  stats::setNames(rows, as.character(table$name))
}

# The names of a study's outputs that are days.
date_outputs <- function(study) as.character(names(Filter(is_day, study$outputs)))

is_day <- function(output) identical(output$kind, "date")

# Every output's kind where its formula tells it, after those it needs; a kind that was given stays. `dates` are
# outputs besides these that are days.
with_date_kinds <- function(outputs, dates, call = rlang::caller_env()) {
  dates <- union(setdiff(dates, names(outputs)), names(Filter(is_day, outputs)))
  for (i in match(output_order(outputs, call), names(outputs))) {
    output <- outputs[[i]]
    is_date <- is_date_formula(output$formula, dates, sprintf("Output %s", quoted(names(outputs)[i])), call)
    if (is_date && is.null(output$kind)) {
      output$kind <- "date"
      dates <- c(dates, names(outputs)[i])
    }
    output$formula <- days_compared(output$formula, dates)
    outputs[[i]] <- output
  }
  outputs
}
