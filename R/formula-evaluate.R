# Evaluating formulas: columns in, columns and failures out. Nothing here knows laws, designs or results.

# An evaluator of named formulas, in the given order: function(columns, runs) returns
#   values     named list of columns, one value a run
#   failures   data frame: run, output, reason, folder (where the run left something to look at, else ""), step (at which of
#              a model that goes step by step, else "")
#   warnings   data frame: output, message
# `columns` are vectors with a value for each of `runs`, or single values; a series is a matrix with a row for each run.
new_evaluator <- function(formulas, order = names(formulas), step = formula_step) {
  evaluator_of(list(step(formulas, order)), order)
}

# An evaluator of steps: functions of an environment of columns, into which each puts its own, of runs and of a log.
# One step that is compiled is called without more ado, where it finds no fault in any run.
evaluator_of <- function(steps, names) {
  names <- as.character(names)
  compiled <- if (length(steps) == 1) attr(steps[[1]], "compiled")
  if (!is.null(compiled) && !identical(compiled$order, names)) compiled <- NULL
  function(columns, runs) {
    if (!is.null(compiled)) {
      made <- compiled$evaluate(columns, length(runs))
      if (is_faultless(made)) return(list(values = made$values, failures = no_failures, warnings = no_warnings))
    }
    log <- new_failure_log()
    values <- list2env(as.list(columns), new.env(size = 2L * (length(columns) + length(names)), parent = emptyenv()))
    for (step in steps) step(values, runs, log)
    list(values = mget(names, envir = values), failures = failure_table(log), warnings = log$warnings)
  }
}

# Formulas of the closed language are compiled (formula-compile.R); those that call functions of the user's own are R's.
formula_step <- function(formulas, order = names(formulas), threads = threads_to_use()) {
  if (length(order) == 0) return(function(values, runs, log) NULL)
  compiled <- cpp_formulas_to_compile(unname(formulas[order]))
  groups <- unname(split(order, cumsum(c(TRUE, diff(compiled) != 0))[seq_along(order)]))
  steps <- lapply(groups, function(names) {
    if (compiled[match(names[1], order)]) compiled_step(formulas[names], names, threads) else interpreted_step(formulas[names], names)
  })
  if (length(steps) == 1) return(steps[[1]])
  function(values, runs, log) for (step in steps) step(values, runs, log)
}

# R's own evaluation, one formula after the other.
interpreted_step <- function(formulas, order = names(formulas)) {
  language <- language_functions()
  prepared <- lapply(formulas[order], function(formula) {
    list(expr = formula$expr, uses = formula$uses, known = known_to(formula, language))
  })
  function(values, runs, log) {
    for (i in seq_along(order)) {
      log$output <- order[i]
      used <- mget(prepared[[i]]$uses, envir = values)
      assign(order[i], evaluate_one(prepared[[i]], used, runs, order[i], log), envir = values)
    }
  }
}

# The functions of the closed language, and `pi`; nothing stands behind them.
language_functions <- function() {
  from_base <- mget(c(elementwise_functions, "c"), envir = baseenv())
  from_stats <- mget(elementwise_stats, envir = asNamespace("stats"))
  list2env(utils::modifyList(c(list(pi = pi), from_base, from_stats), formula_verbs), parent = emptyenv())
}

# Everything a formula may call or use besides quantities. Constants stand before functions, so that a constant `beta`
# and the function `beta()` do not clash.
known_to <- function(formula, language) {
  functions <- Map(caller_of, formula$functions, names(formula$functions))
  values <- c(lapply(formula$constants, plain_number), formula$tables)
  if (length(functions)) language <- list2env(functions, parent = language)
  if (length(values)) list2env(values, parent = language) else language
}

# Days are numbers wherever runs are calculated.
plain_number <- function(x) {
  if (inherits(x, "Date")) as.double(x) else if (inherits(x, "difftime")) as.double(x, units = "days") else x
}

evaluate_one <- function(formula, columns, runs, name, log) {
  context <- new_context(columns, runs, log$fail, formula$known)
  value <- withCallingHandlers(
    rethrow_as(eval(formula$expr, context), "model", sprintf("%s could not be evaluated.", quoted(name)), name = name),
    warning = function(w) {
      log$warn(conditionMessage(w))
      invokeRestart("muffleWarning")
    }
  )
  value <- plain_number(value)
  check_output_value(value, name, length(runs))
  if (length(value) == 1) value <- rep(value, length(runs))
  # a run that failed on its way has no value, whatever the rest of the formula made of it
  failed <- log$failed_runs(name)
  if (length(failed)) value[runs %in% failed] <- NA
  broken <- if (!all_finite(value)) which(!is.finite(value))
  if (length(broken)) log$add(name, runs[broken], broken_reasons(broken_words(value[broken]), runs[broken], names(columns), log))
  value
}

all_finite <- function(x) {
  if (is.double(x)) cpp_counts_about(x, 0)[["finite"]] == length(x) else !anyNA(x)
}

check_output_value <- function(value, name, n) {
  if (is.object(value) || !(is.numeric(value) || is.logical(value))) {
    stop_ensayo("model", sprintf("%s must be a number or yes/no.", quoted(name)),
      sprintf("Its formula gives %s.", shown_value(value)), name = name)
  }
  if (!length(value) %in% c(1, n)) {
    stop_ensayo("model", sprintf("%s must have one value a run.", quoted(name)),
      sprintf("Its formula gives %d values for %d runs.", length(value), n), name = name)
  }
}

broken_words <- function(value) {
  ifelse(is.nan(value), "not a number (NaN)", ifelse(is.na(value), "missing (NA)", "infinite (Inf)"))
}

# What is wrong with a value itself, where nothing that it uses failed before.
broken_reasons <- function(words, runs, uses, log) {
  for (name in rev(uses)) {
    from_here <- runs %in% log$failed_runs(name)
    words[from_here] <- sprintf("`%s` failed", name)
  }
  words
}

# Failures as they come up during one evaluation; the first reason of a run and output stands.
new_failure_log <- function() {
  log <- list2env(list(output = NULL, entries = list(),
    warnings = no_warnings))
  log$add <- function(output, runs, reasons, folders = "", steps = "") {
    new <- !runs %in% log$failed_runs(output)
    log$entries[[output]] <- rbind(log$entries[[output]], data.frame(run = runs[new], output = rep(output, sum(new)),
      reason = rep_len(reasons, length(runs))[new], folder = rep_len(folders, length(runs))[new], step = rep_len(steps, length(runs))[new]))
  }
  log$fail <- function(runs, reasons) log$add(log$output, runs, reasons)
  log$failed_runs <- function(output) log$entries[[output]]$run
  log$warn <- function(message) {
    if (message == gettext("NaNs produced", domain = "R")) return()  # counted as failures already
    log$warnings <- unique(rbind(log$warnings, data.frame(output = log$output, message = message)))
  }
  log
}

failure_table <- function(log) {
  if (length(log$entries)) do.call(rbind, unname(log$entries)) else no_failures
}

# Made once: every run that is evaluated alone needs them.
no_failures <- data.frame(run = numeric(), output = character(), reason = character(), folder = character(),
  step = character())
no_warnings <- data.frame(output = character(), message = character())
