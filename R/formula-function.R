# The user's own functions in a formula: bound by value with all that they need, refused where they act across runs, and
# called for whole columns or one run at a time.

# A bound function: `fun`, `text` (its source, for the canonical text) and `each` (TRUE: one run at a time).
bind_function <- function(fun, name, what, vectorised = NULL) {
  scan <- list2env(list(what = what, inside = name, seen = list(), one_run = FALSE, free = FALSE, beyond = baseenv()),
    parent = emptyenv())
  users <- !is_package_function(fun)
  if (users) fun <- bind_closure(fun, scan)
  else if (!is.primitive(fun)) scan$one_run <- any(called_names(fun) %in% one_run_functions)
  list(fun = fun, text = if (users) source_of(fun) else name,
    each = if (is.null(vectorised)) scan$one_run else !vectorised)
}

# A model of one run at a time may do what a formula may not: it is bound as it is, its helpers' sources and what it finds
# besides with it. What it looks up by a text alone, it finds in the session as it is then.
bind_model <- function(fun, name, vectorised) {
  scan <- list2env(list(what = sprintf("Model %s", quoted(name)), inside = name, seen = list(), one_run = FALSE,
    free = !vectorised, beyond = asNamespace("stats")), parent = emptyenv())
  if (is_package_function(fun)) return(list(fun = fun, text = name))
  bound <- bind_closure(fun, scan)
  helpers <- lapply(scan$seen, function(pair) source_of(pair$bound))
  values <- lapply(scan$seen, function(pair) Filter(Negate(is.function), as.list(environment(pair$bound), sorted = TRUE)))
  list(fun = bound, text = unlist(helpers), values = values)
}

source_of <- function(fun) {
  paste(deparse(rlang::zap_srcref(fun), control = c("keepNA", "keepInteger", "hexNumeric")), collapse = "\n")
}

called_names <- function(fun) codetools::findGlobals(fun, merge = FALSE)$functions

# A copy of the closure whose environment holds, by value, what the closure finds outside itself. Functions that it
# calls are bound the same way, so that nothing the user changes later, or another session lacks, can matter.
bind_closure <- function(fun, scan) {
  for (pair in scan$seen) if (identical(pair$fun, fun)) return(pair$bound)
  home <- environment(fun)
  bound <- rlang::zap_srcref(fun)
  own <- new.env(parent = scan$beyond)
  environment(bound) <- own
  scan$seen <- c(scan$seen, list(list(fun = fun, bound = bound)))
  if (!scan$free) check_body(fun, scan)
  globals <- codetools::findGlobals(fun, merge = FALSE)
  for (name in globals$functions) bind_needed(name, get0(name, home, mode = "function"), own, scan)
  for (name in globals$variables) bind_needed(name, get0(name, home), own, scan)
  bound
}

bind_needed <- function(name, value, own, scan) {
  if (is.null(value) || identical(value, get0(name, baseenv()))) return()
  users <- is.function(value) && !is_package_function(value)
  assign(name, if (users) bind_closure(value, scan) else value, envir = own)
}

check_body <- function(fun, scan) {
  home <- environment(fun)
  for (name in called_names(fun)) {
    called <- get0(name, home, mode = "function")
    if (!is.null(called) && !comes_with_r(called)) next
    fault <- function_fault(name)
    if (!is.null(fault)) stop_function_fault(fault, scan$what, scan$inside)
    if (name %in% one_run_functions) scan$one_run <- TRUE
  }
  picked <- picked_from(body(fun), names(formals(fun)))
  if (!is.null(picked)) stop_function_fault(picking_fault(picked), scan$what, scan$inside)
}

# The first `x[...]` in a body where x is one of the function's own arguments.
picked_from <- function(expr, arguments) {
  if (!is.call(expr)) return(NULL)
  if (rlang::is_call(expr, c("[", "[[")) && is.symbol(expr[[2]]) && as.character(expr[[2]]) %in% arguments) return(expr)
  for (part in as.list(expr)) {
    if (rlang::is_missing(part)) next
    picked <- picked_from(part, arguments)
    if (!is.null(picked)) return(picked)
  }
  NULL
}

# What stands for the bound function while a formula is evaluated.
caller_of <- function(bound, name) {
  if (bound$each) return(function(...) call_each(bound$fun, name, list(...), attr(parent.frame(), "context")))
  function(...) call_whole(bound$fun, name, list(...), attr(parent.frame(), "context"))
}

call_whole <- function(fun, name, arguments, context) {
  n <- max(1L, lengths(arguments))
  value <- tryCatch(do.call(fun, arguments, quote = TRUE), error = function(e) NULL)
  # an error in one run must not take the others along: find out which it is
  if (is.null(value)) return(call_each(fun, name, arguments, context))
  if (length(value) != n) {
    stop_ensayo("across_runs", sprintf("%s must return a value for each run.", quoted(name)),
      sprintf("It returned %d for %d runs.", length(value), n),
      "If it takes one run's numbers at a time, say `output(..., vectorised = FALSE)`.", name = name)
  }
  value
}

call_each <- function(fun, name, arguments, context) {
  n <- max(1L, lengths(arguments))
  faults <- rep(NA_character_, n)
  values <- vector("list", n)
  for (i in seq_len(n)) {
    run <- lapply(arguments, function(column) if (length(column) == 1) column else column[[i]])
    value <- tryCatch(do.call(fun, run, quote = TRUE), error = identity)
    faults[i] <- call_fault(name, value)
    values[[i]] <- if (is.na(faults[i])) value else NA
  }
  failed <- !is.na(faults)
  # a function of single values is called once for all runs
  if (any(failed)) context$fail(if (n == 1) context$runs else context$runs[failed], faults[failed])
  do.call(c, values)
}

call_fault <- function(name, value) {
  if (inherits(value, "error")) return(sprintf("`%s()` failed: %s", name, conditionMessage(value)))
  if (is_plain_scalar(value)) NA_character_ else sprintf("`%s()` returned %s, not one value", name, shown_value(value))
}
