# Models that go step by step, as a study holds them:
#   lines    formulas in the order in which they are calculated at each step, by name
#   starts   formulas of starting values, of the lines that have one
#   known    values for each step, by name; `step` is the step itself
#   steps    numbers or dates; of all series that are kept, which `gives` names

#' Add a model that goes step by step
#'
#' What happens over time: a tank over a dry summer, a stock that is ordered and arrives later. At each step its lines are
#' calculated from top to bottom, in every run. Lines are formulas as in [add_outputs()], of inputs, outputs and other
#' lines; a line that carries its value from step to step is a [state()].
#'
#' @param .study A study.
#' @param ... Lines, by name, in the order in which they are calculated: formulas, [output()]s of formulas, or [state()]s.
#' @param .steps How many steps there are, a whole number; or the steps themselves, numbers or dates in increasing order. Those of
#'   the inputs that are drawn at each step, when left out.
#' @param .known A named list, or a data frame, of numbers that are known for each step, such as a profile of the week; a
#'   value for each step. Lines use them by their names.
#' @param .keep Names of lines that become outputs, series over the steps; all when this and `.last` are left out. Others are
#'   calculated, and not kept.
#' @param .last Names of lines whose value at the last step becomes an output, one value a run: totals over the horizon, and
#'   whatever else a [state()] carries along. They take no memory for the other steps.
#' @param .name Text: what the model is called.
#' @return The study with the model, and the lines that are kept, added at the end.
#' @section Names in lines: a line's name stands for its latest value: in lines below it that of this step; in its own
#'   formula, and in lines above it, that of the step before, which must be a [state()]'s. `before(level)` is the value at the
#'   end of the step before, `before(ordered, 5)` that of five steps ago; before the first step it is the starting value.
#'   `step` is the step: its number, or the day. Inputs and outputs of one value a run are the same at all steps; series of the same
#'   steps, such as inputs that are drawn at each ([input()]), stand for their value at the step.
#' @section Failed runs: a run in which a line is missing, not a number or infinite at a step has failed: [failures()] names
#'   the line and the part of its formula, and in a column of its own the `step`; its series are missing as a whole.
#' @section A random beginning: an input may say at which step something begins, `if (step >= begins) ... else ...`; stretches of
#'   recorded data as long as the horizon, `input(law_empirical(recorded), steps = 90, block = 90)`, begin at a random place.
#' @details Lines are compiled, and calculated for many runs at once; there is no loop in R. Functions of your own cannot be
#'   called in them: write such a model as a function, [add_model()].
#' @section Errors: `ensayo_error_name` for names that are not known, taken, or used before they are set; for `before()` of a line
#'   without a starting value; `ensayo_error_formula` for what a formula must not hold; `ensayo_error_argument` for steps, or known
#'   values, of the wrong kind or number.
#' @seealso [state()]; [plot_series()], [percentiles()] and [series_table()] read series.
#' @examples
#' tank <- study("Tank over a dry summer") |>
#'   add_inputs(volume = law_uniform(300, 500), inflow = law_normal(47, 5),
#'     demand = law_pert(35, 45, 60)) |>
#'   add_steps(
#'     use = demand * week,
#'     level = state(min(600, max(0, level + inflow - use)), start = volume, unit = "m3"),
#'     called = state(if (level < 100 && before(called, 3) == 0) 1 else 0, start = 0),
#'     .steps = seq(as.Date("2026-07-01"), by = "day", length.out = 60),
#'     .known = list(week = rep_len(c(1, 1, 1, 1, 1.1, 1.3, 1.2), 60)),
#'     .keep = level
#'   ) |>
#'   add_outputs(lowest = output(min(level), unit = "m3")) |>
#'   add_specs(never_empty = all(level > 0))
#' simulate(tank, nsim = 1000, seed = 11)
#' @export
add_steps <- function(.study, ..., .steps, .known = NULL, .keep = NULL, .last = NULL, .name = "steps") {
  check_study(.study)
  steps <- if (missing(.steps)) steps_of_inputs(.study) else steps_given(.steps, ".steps")
  given <- captured_lines(rlang::enquos(..., .ignore_empty = "all"))
  known <- known_values(.known, steps)
  keep <- rlang::enquo(.keep)
  last <- rlang::enquo(.last)
  with_steps(.study, check_string(.name), given, steps, known, function(lines) {
    of <- function(quosure, default) if (rlang::quo_is_null(quosure)) default else resolve_names(quosure, lines, "a line of the steps")
    last <- of(last, character())
    list(keep = of(keep, if (length(last)) character() else lines), last = last)
  })
}

#' A line that carries its value from step to step
#'
#' For lines of [add_steps()]. In its formula its own name stands for the value that it had at the step before.
#'
#' @param formula A formula as in [add_steps()].
#' @param start A formula of inputs and outputs of one value a run: the value before the first step.
#' @param unit,label,note,group,kind As for [output()].
#' @return A state, for [add_steps()].
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' study("Savings") |>
#'   add_inputs(rate = law_normal(0.02, 0.01)) |>
#'   add_steps(balance = state(balance * (1 + rate) + 100, start = 1000, unit = "EUR"), .steps = 10)
#' @export
state <- function(formula, start, unit = NULL, label = NULL, note = NULL, group = NULL, kind = NULL) {
  texts <- list(unit = check_string(unit, null = TRUE), label = check_string(label, null = TRUE),
    note = check_string(note, null = TRUE), group = check_string(group, null = TRUE))
  if (!is.null(kind)) check_choice(kind, output_kinds)
  start <- rlang::enquo(start)
  if (rlang::quo_is_missing(start)) {
    stop_ensayo("argument", "A state must have a starting value.", NULL, "Such as `state(level + inflow, start = 400)`.",
      argument = "start")
  }
  formula <- rlang::enquo(formula)
  # `state(output(..., unit = "m3"), start = 0)` says the same
  line <- if (rlang::is_call(rlang::quo_get_expr(formula), "output", ns = c("", "ensayo"))) rlang::eval_tidy(formula)
    else new_output(formula, texts, kind)
  structure(list(line = line, start = start), class = "ensayo_state")
}


known_values <- function(known, steps, call = rlang::caller_env()) {
  if (is.null(known)) return(list())
  known <- as.list(known)
  names <- check_new_names(known, "value known for each step", call = call)
  known <- stats::setNames(known, names)
  for (name in names) {
    values <- known[[name]]
    if (inherits(values, "Date") || !is.numeric(values) || !all(is.finite(values))) {
      stop_argument(".known", sprintf("numbers; %s is not", quoted(name)), values, call = call)
    }
    if (length(values) != length(steps)) {
      stop_ensayo("argument", sprintf("%s must have a value for each of %s.", quoted(name), count_of(length(steps), "step")),
        sprintf("It has %s.", format_given(length(values))), argument = ".known", call = call)
    }
    known[[name]] <- as.double(values)
  }
  known
}

captured_lines <- function(quosures) {
  stats::setNames(lapply(quosures, function(quosure) {
    expr <- rlang::quo_get_expr(quosure)
    if (rlang::is_call(expr, c("state", "output"), ns = c("", "ensayo")) || inherits(expr, c("ensayo_state", "ensayo_output"))) {
      made <- rlang::eval_tidy(quosure)
      if (inherits(made, "ensayo_state")) made else list(line = made)
    } else list(line = new_output(quosure))
  }), names(quosures))
}

# The study with such a model. `keep` tells which lines are kept, of all; `coming` are quantities that a file names later.
with_steps <- function(study, name, given, steps, known, keep, coming = character(), call = rlang::caller_env()) {
  taken <- c(quantity_names(study), names(study$tables))
  check_model_name(study, name, call, ".name")
  if (length(given) == 0) stop_ensayo("argument", "A model that goes step by step must have a line.", "It has none.", call = call)
  lines <- check_new_names(given, "line", c(taken, names(known)), call)
  clash <- intersect(names(known), taken)
  if (length(clash)) check_new_names(known[clash[1]], "value known for each step", taken, call)
  names(given) <- lines
  for (line in lines) refuse_formless(given[[line]]$line, line, call)
  model <- list(kind = "steps", name = name, steps = steps, known = known)
  series <- series_steps(study)
  single <- setdiff(c(quantity_names(study), setdiff(coming, lines)), names(series))
  # series of the same steps stand for their value at the step
  alike <- names(Filter(function(own) identical(own, steps), series))
  model$lines <- step_formulas(study, given, known, c(single, alike))
  model$starts <- start_formulas(study, given, single)
  refuse_unset(model, lines, call)
  asked <- keep(lines)
  gives <- c(asked$keep, asked$last)
  if (length(gives) == 0) stop_argument(".keep", "at least one line", gives, call = call)
  if (anyDuplicated(gives)) {
    twice <- gives[duplicated(gives)][1]
    stop_ensayo("name", "A line is kept as a series, or its last value is.", sprintf("%s is asked for twice.", quoted(twice)),
      "Keep the series and add an output such as `last(level)`.", name = twice, call = call)
  }
  uses <- setdiff(unique(unlist(lapply(c(model$lines, model$starts), function(formula) formula$uses))), c(lines, names(known), "step"))
  model$uses <- stats::setNames(uses, uses)
  model$gives <- lines[lines %in% gives]
  model$last <- if (length(asked$last)) asked$last
  outputs <- lapply(stats::setNames(nm = model$gives), function(name) {
    output <- given[[name]]$line
    output$formula <- NULL
    if (!name %in% asked$last) output$steps <- steps
    output
  })
  with_model(study, name, model, outputs)
}

step_formulas <- function(study, given, known, single) {
  v <- quantity_vocabulary(study, single)
  names <- c(single, names(given), names(known), "step")
  vocabulary <- structure(names, set = set_of(names), groups = attr(v, "groups"), tables = study$tables, dates = attr(v, "dates"),
    yes_no = attr(v, "yes_no"), series = list(), lines = names(given))
  formulas <- Map(function(each, name) compiled_alone(read_formula(each$line$formula, vocabulary, sprintf("Line %s", quoted(name))), name),
    given, names(given))
  stats::setNames(formulas, names(given))
}

start_formulas <- function(study, given, single) {
  vocabulary <- quantity_vocabulary(study, single)
  started <- Filter(function(each) !is.null(each$start), given)
  Map(function(each, name) {
    compiled_alone(read_formula(each$start, vocabulary, sprintf("The starting value of %s", quoted(name))), name)
  }, started, names(started))
}

# Lines are calculated by compiled code alone.
compiled_alone <- function(formula, name) {
  if (cpp_formulas_to_compile(list(formula))) return(formula)
  own <- c(names(formula$functions), setdiff(all.names(formula$expr), names(formula_verbs)))
  stop_ensayo("formula", sprintf("Line %s must call functions that are compiled.", quoted(name)),
    sprintf("It reads %s.", quoted(formula$text)), if (length(formula$functions)) sprintf(
      "%s is a function of your own: write such a model as a function, `add_model()`.", quoted(own[1]))
    else "Densities, probabilities, gamma functions and the like are none of these.", name = name)
}

# A name that stands for nothing yet when a line is calculated for the first time.
refuse_unset <- function(model, lines, call) {
  for (i in seq_along(lines)) {
    formula <- model$lines[[lines[i]]]
    late <- setdiff(intersect(plain_uses(formula), lines[i:length(lines)]), names(model$starts))
    if (length(late)) {
      stop_ensayo("name", sprintf("Line %s must use what is set before it.", quoted(lines[i])),
        if (late[1] == lines[i]) "It uses itself, and has no starting value." else sprintf("%s stands below it.", quoted(late[1])),
        if (late[1] == lines[i]) sprintf("Make it a state: `%s = state(%s, start = ...)`.", lines[i], formula$text)
        else sprintf("Put %s above it, or make that a state: it then stands for the value of the step before.", quoted(late[1])),
        name = lines[i], call = call)
    }
    unknown <- setdiff(names(formula$lags), names(model$starts))
    if (length(unknown)) {
      stop_ensayo("name", sprintf("Line %s: `before()` needs a starting value.", quoted(lines[i])),
        sprintf("%s has none.", quoted(unknown[1])), sprintf("Make it a state: `%s = state(%s, start = ...)`.", unknown[1],
          model$lines[[unknown[1]]]$text), name = lines[i], call = call)
    }
  }
}

# Names that a formula uses besides those in `before()`.
plain_uses <- function(formula) {
  found <- character()
  level <- list(formula$expr)
  while (length(level)) {
    found <- c(found, as.character(Filter(is.symbol, level)))
    calls <- Filter(function(part) is.call(part) && !rlang::is_call(part, "before"), level)
    level <- unlist(lapply(calls, function(part) as.list(part)[-1]), recursive = FALSE)
  }
  unique(found)
}

renamed_in_steps <- function(model, old, new) {
  model$lines[] <- lapply(model$lines, rename_in_formula, old, new)
  model$starts[] <- lapply(model$starts, rename_in_formula, old, new)
  names(model$uses)[model$uses == old] <- new
  model
}
