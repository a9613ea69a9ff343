# Functions of R as models: several outputs from one call, one run at a time unless the function takes whole columns.

#' Add a function of R as a model
#'
#' The function takes inputs and other outputs by name and gives one output or several: numbers, dates, yes/no values, or
#' series over steps. It may loop, draw random numbers and call what it likes; a run that fails is recorded with its
#' reason, and the rest goes on.
#'
#' @param .study A study.
#' @param f A function. Its arguments are names of inputs or outputs of the study (a series comes as the vector of its values);
#'   others must have defaults, which they keep. A function of one argument that is no such name takes a list of all that it
#'   needs.
#' @param outputs What it gives: names, or a named list of [output()]s without formulas, which say unit, label and, where
#'   the call at base values does not show them, kind and steps. `NULL` to find all that it gives from that call.
#' @param ... Not used; anything here is an error.
#' @param name Text: what the model is called; the function's own name when left out.
#' @param needs Names of inputs and outputs that a function of one list takes, all inputs when left out; or that a
#'   function with `...` takes besides those it names.
#' @param vectorised `TRUE` where the function takes whole columns and gives whole columns (for a series a matrix with a
#'   row for each run). It must not draw random numbers then.
#' @param warnings `"fail"`: a run that warns has failed; `"keep"`: its values stand, and the warning is told once.
#' @param checked Whole number: how many runs are evaluated once more, alone, to see that they have the same values. When
#'   left out 32 of a vectorised function, none otherwise.
#' @return The study with the model and its outputs added at the end.
#' @section What the function returns: one number, date or `TRUE`/`FALSE` where there is one output; else a list or a
#'   vector with the outputs' names (others are ignored); or a data frame, whose columns are series and whose rows are
#'   steps: those of its column `step` (numbers or dates), else 1, 2, 3 and so on. A list may hold a data frame. Steps
#'   are the same in every run.
#' @section Series: formulas, specs and chances read them by `last(level)`, `at(level, 30)`, `max(level)`, `min()`,
#'   `sum()`, `mean()`, `any(level < 2)`, `all()` and `first_step(level < 2, never = 121)`; results by
#'   [percentiles()] with `step`, [output_values()] and [plot_series()].
#' @section What a run cannot do to the rest: random numbers come from a stream of each run, made of the seed, so that
#'   any run can be made again alone; R's own random state is given back. Relative paths are looked up in an empty folder
#'   that is the run's alone and goes afterwards (give full paths to files of yours). What is printed is not shown.
#'   Options and the working folder are given back. The function and what it needs are bound when the model is added:
#'   later changes in the session do not matter.
#' @section Errors: `ensayo_error_argument` for what is not a function, and outputs that cannot be told;
#'   `ensayo_error_name` for arguments that are no quantity of the study and names that are taken; `ensayo_error_model`
#'   where the call at base values fails.
#' @examples
#' emptying <- function(volume, inflow, demand) {
#'   level <- volume + cumsum(rep(inflow - demand, 10))
#'   list(lowest = min(level), path = data.frame(step = 1:10, level = level))
#' }
#' tank <- study("Tank over ten days") |>
#'   add_inputs(volume = law_uniform(300, 500), inflow = law_normal(40, 5),
#'     demand = law_pert(35, 50, 80)) |>
#'   add_model(emptying) |>
#'   add_outputs(empty = any(level < 0))
#' res <- simulate(tank, nsim = 200, seed = 11)
#' percentiles(res, level, step = 10)
#' chance(res, empty)
#' @export
add_model <- function(.study, f, outputs = NULL, ..., name = NULL, needs = NULL, vectorised = FALSE,
                      warnings = "fail", checked = NULL) {
  check_study(.study)
  check_no_dots(..., .options = c("name", "needs", "vectorised", "warnings", "checked"))
  symbol <- rlang::enexpr(f)
  if (!is.function(f)) stop_argument("f", "a function", f)
  name <- check_string(name, null = TRUE) %||% if (is.symbol(symbol)) as.character(symbol) else "model"
  check_model_name(.study, name, NULL)
  vectorised <- check_flag(vectorised)
  needs <- rlang::enquo(needs)
  known <- quantity_names(.study)
  taken <- taken_by(f, known, if (!rlang::quo_is_null(needs)) resolve_names(needs, known, "a quantity of the study"),
    names(.study$inputs), name)
  if (!is.null(checked)) checked <- check_count(checked, at_least = 0)
  model <- list(kind = "function", uses = taken$uses, as_list = taken$as_list,
    fun = bind_model(f, name, vectorised), vectorised = vectorised,
    warnings = check_choice(warnings, c("fail", "keep")), checked = checked %||% if (vectorised) 32 else 0,
    dates = intersect(taken$uses, date_outputs(.study)), name = name)
  declared <- declared_outputs(outputs)
  model$found <- model_at_base(.study, model, must = is.null(declared))
  outputs <- if (is.null(model$found)) lapply(declared, function(output) output %||% new_output(NULL))
    else found_outputs(model, declared)
  names(outputs) <- check_new_names(outputs, "output", c(quantity_names(.study), names(.study$tables)))
  model$gives <- names(outputs)
  model$steps <- lapply(outputs, function(output) output$steps)
  with_model(.study, name, model, outputs)
}

# The quantities that a function takes, by the names of its arguments, or as one list.
taken_by <- function(f, known, needs, inputs, name, call = rlang::caller_env()) {
  arguments <- formals(args(f))
  asked <- setdiff(names(arguments), "...")
  needed <- asked[vapply(arguments[asked], rlang::is_missing, TRUE)]
  own <- intersect(asked, known)
  unknown <- setdiff(needed, known)
  if (length(unknown) == 1 && length(own) == 0 && (!is.null(needs) || is.null(nearest_name(unknown, known)))) {
    uses <- needs %||% inputs
    return(list(uses = stats::setNames(uses, uses), as_list = TRUE))
  }
  if (length(unknown)) {
    stop_ensayo("name", sprintf("The arguments of %s must be inputs or outputs of the study.", quoted(name)),
      sprintf("%s is none.", quoted(unknown[1])),
      paste(suggestion(unknown[1], known), "Else give it a default, or let the function take one list."),
      name = unknown[1], known = known, call = call)
  }
  if (!is.null(needs) && !"..." %in% names(arguments)) {
    stop_ensayo("argument", "`needs` goes with a function that takes one list, or `...`.",
      sprintf("%s takes %s by name.", quoted(name), and_list(quoted(own))), "Leave it out.", argument = "needs", call = call)
  }
  uses <- c(own, if ("..." %in% names(arguments)) setdiff(needs, own))
  list(uses = stats::setNames(uses, uses), as_list = FALSE)
}

# Names alone leave kind and steps to be found; NULL leaves all.
declared_outputs <- function(outputs, call = rlang::caller_env()) {
  if (is.null(outputs)) return(NULL)
  if (is.character(outputs)) return(stats::setNames(vector("list", length(outputs)), outputs))
  ok <- is.list(outputs) && !is.object(outputs) && length(outputs) > 0 && !is.null(names(outputs)) &&
    all(vapply(outputs, is_output, TRUE)) && all(vapply(outputs, function(output) is.null(output$formula), TRUE))
  if (!ok) {
    stop_argument("outputs", "names, or a named list of `output()`s without formulas", outputs,
      "Such as `outputs = list(lowest = output(unit = \"m\"))`.", call)
  }
  outputs
}

# One call with every input at its base value: what it was given and what it gave. The base case of a simulation takes it
# from here.
model_at_base <- function(study, model, must, call = rlang::caller_env()) {
  columns <- base_case_of(study)
  columns <- with_series(study, c(columns$inputs, columns$outputs), 1)
  arguments <- run_arguments(model, columns[model$uses], 1)
  outcome <- guarded(model, if (!model$vectorised) base_seed, 1, function(one) one(1, arguments))
  if (!is.null(outcome$fault) && !must) return(NULL)
  if (!is.null(outcome$fault)) {
    stop_ensayo("model", sprintf("%s must give its outputs at base values.", quoted(model$name)),
      paste0(outcome$fault, "."), "Mend it, or say what it gives with `outputs`.", call = call)
  }
  list(arguments = arguments, value = outcome$value, drew = outcome$drew)
}

# Outputs with their kinds and steps as the call at base values shows them.
found_outputs <- function(model, declared, call = rlang::caller_env()) {
  parts <- named_parts(model$found$value, names(declared) %||% model$name)
  fault <- if (is.character(parts)) parts else if (length(parts) == 0) "It gave nothing"
    else if (is.null(names(parts)) || any(!nzchar(names(parts)))) "It gave values without names"
  # of outputs that are declared the base case may be a run that fails
  odd <- if (is.null(fault) && is.null(declared)) Filter(function(name) !is_output_value(parts[[name]]), names(parts))
  if (length(odd)) fault <- sprintf("It gave %s for %s", shown_value(parts[[odd[1]]]), quoted(odd[1]))
  missing <- setdiff(names(declared), names(parts))
  if (is.null(fault) && length(missing)) fault <- sprintf("It gave no %s", quoted(missing[1]))
  if (!is.null(fault)) {
    stop_ensayo("model", sprintf("%s must return what its outputs can be told from.", quoted(model$name)),
      paste0(fault, "."), "One value, or a list with names; see `?add_model`.", call = call)
  }
  if (!is.null(declared)) parts <- parts[names(declared)]
  Map(function(part, name) {
    output <- declared[[name]] %||% new_output(NULL)
    if (!is_output_value(part)) return(output)
    if (is.null(output$kind) && inherits(part, "Date")) output$kind <- "date"
    if (is.null(output$steps)) {
      output$steps <- attr(part, "steps") %||% if (length(part) > 1) as.double(seq_along(part))
    }
    output
  }, parts, names(parts))
}

kind_function <- list(
  dear = TRUE,
  prepare = function(model, setting) {
    function(values, runs, log) {
      columns <- mget(unique(unname(model$uses)), envir = values)
      outcome <- if (model$vectorised) called_whole(model, columns, runs, log)
        else called_each(model, columns, runs, log, setting$seed)
      for (name in model$gives) assign(name, outcome[[name]], envir = values)
    }
  },
  alone = function(model, setting) {
    if (model$checked == 0) return(list())
    step <- kind_function$prepare(model, setting)
    list(list(uses = unname(model$uses), gives = model$gives, runs = model$checked,
      evaluate = evaluator_of(list(step), model$gives)))
  },
  taylor = function(model, columns, kinks) {
    if (isTRUE(model$found$drew)) stop_undifferentiable("it draws random numbers")
    if (length(Filter(Negate(is.null), model$steps))) stop_undifferentiable("it gives series")
    arguments <- lapply(model$uses, function(name) columns[[name]])
    names(arguments) <- names(model$uses)
    if (model$as_list) arguments <- list(arguments)
    kink_free(named_parts(do.call(taylor_function(model$fun$fun), arguments), model$gives)[model$gives], kinks)
  }
)

# The arguments of one run.
run_arguments <- function(model, columns, i) {
  values <- lapply(model$uses, function(name) {
    column <- columns[[name]]
    value <- if (is.matrix(column)) unname(column[i, ]) else if (length(column) == 1) column else column[[i]]
    if (name %in% model$dates) structure(value, class = "Date") else value
  })
  names(values) <- names(model$uses)
  if (model$as_list) list(values) else values
}

called_each <- function(model, columns, runs, log, seed) {
  known <- model$found
  guarded(model, seed, runs, function(one) run_each(model, columns, runs, log, function(i) {
    arguments <- run_arguments(model, columns, i)
    again <- identical(seed, base_seed) && identical(arguments, known$arguments)
    outcome <- if (again) list(value = known$value) else one(i, arguments)
    for (warning in outcome$warnings) {
      log$output <- model$gives[1]
      log$warn(warning)
    }
    list(parts = if (is.null(outcome$fault)) checked_parts(outcome$value, model) else outcome$fault)
  }))
}

# One run of a vectorised function that failed.
nothing_given <- function(model, runs, fault, log) {
  lapply(stats::setNames(nm = model$gives), function(name) {
    log$add(name, runs, fault)
    steps <- model$steps[[name]]
    if (is.null(steps)) NA else matrix(NA, 1, length(steps), dimnames = list(NULL, step_keys(steps)))
  })
}

# Whole columns in, whole columns out.
called_whole <- function(model, columns, runs, log) {
  n <- length(runs)
  columns <- lapply(columns, function(column) if (length(column) == 1) rep(column, n) else column)
  arguments <- lapply(model$uses, function(name) columns[[name]])
  if (model$as_list) arguments <- list(arguments)
  outcome <- guarded(model, NULL, runs, function(one) one(1, arguments))
  if (!is.null(outcome$fault) && n > 1) {
    # an error in one run must not take the others along: find out which it is
    alone <- lapply(seq_len(n), function(i) called_whole(model, lapply(columns, column_at, i), runs[i], log))
    return(joined_columns(alone))
  }
  if (!is.null(outcome$fault)) return(nothing_given(model, runs, outcome$fault, log))
  for (warning in outcome$warnings) {
    log$output <- model$gives[1]
    log$warn(warning)
  }
  parts <- named_parts(outcome$value, model$gives)
  faults <- faults_before(columns, n, runs, log)
  lapply(stats::setNames(nm = model$gives), function(name) {
    steps <- model$steps[[name]]
    column <- if (is.list(parts)) parts[[name]]
    size <- n * max(1, length(steps))
    if (!(is.numeric(column) || is.logical(column) || inherits(column, "Date")) || length(column) != size) {
      stop_ensayo("model", sprintf("%s must give %s for each run.", quoted(model$name), quoted(name)),
        sprintf("It gave %s for %s.", count_of(length(column), "value"), count_of(n, "run")), name = name)
    }
    if (!is.logical(column)) storage.mode(column) <- "double"
    attributes(column) <- NULL
    if (!is.null(steps)) column <- matrix(column, n, dimnames = list(NULL, step_keys(steps)))
    failed <- which(!is.na(faults))
    if (length(failed)) log$add(name, runs[failed], faults[failed])
    broken <- which(!is_finite_run(column) & is.na(faults))
    if (length(broken)) log$add(name, runs[broken], if (is.null(steps)) broken_words(column[broken]) else "missing at a step")
    if (is.null(steps)) column[failed] <- NA else column[failed, ] <- NA
    column
  })
}
