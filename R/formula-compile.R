# Formulas as compiled code: one list of instructions over blocks of runs for all that follow each other (src/core/program.h),
# with the bits of R's own evaluation. The core gives columns and which of them have faults; what a fault is called is said
# here.

# The step carries what it calls, for evaluator_of().
compiled_step <- function(formulas, order, threads) {
  uses <- setdiff(unique(unlist(lapply(formulas, function(formula) formula$uses))), order)
  program <- cpp_formulas(unname(formulas), order, uses)
  evaluate <- function(columns, n) cpp_evaluate_formulas(program, columns[uses], n, threads)
  interpreted <- NULL
  step <- function(values, runs, log) {
    columns <- mget(uses, envir = values)
    made <- evaluate(columns, length(runs))
    if (is.null(made)) {
      # kinds of values that have no operations there, such as texts put in order
      if (is.null(interpreted)) interpreted <<- interpreted_step(formulas, order)
      return(interpreted(values, runs, log))
    }
    list2env(made$values, values)
    if (made$warnings > 0) log_warnings(made$warnings, order, log)
    for (i in which(made$seen > 0)) {
      log_faults(program, columns, i, made$values[[i]], runs, formulas[[i]]$uses, log, order[i])
    }
  }
  structure(step, compiled = list(evaluate = evaluate, order = order))
}

is_faultless <- function(made) !is.null(made) && made$warnings == 0 && !any(made$seen > 0)

fault_words <- c("the condition of `if` is NA", "the condition of `&&` is NA", "the condition of `||` is NA",
  "beyond the ends of a look-up table")

# Runs without a value, with the first thing that went wrong.
log_faults <- function(program, columns, i, value, runs, uses, log, name) {
  broken <- which(!is.finite(value))
  # most runs fail because something before did
  reasons <- broken_reasons(rep("", length(broken)), runs[broken], uses, log)
  own <- which(reasons == "")
  if (length(own)) {
    told <- cpp_explain_formulas(program, columns, length(runs), i, broken[own])
    texts <- vapply(told$expressions, deparse1, "", width.cutoff = 500L)
    where <- rep("", length(own))
    known <- told$where > 0
    where[known] <- sprintf(" in `%s`", texts[told$where[known]])
    at_step <- known & told$step > 0
    where[at_step] <- sprintf("%s at step %d of %d", where[at_step], told$step[at_step],
      steps_of(told$expressions, columns)[told$where[at_step]])
    failed <- told$fault > 0
    reasons[own[failed]] <- fault_words[told$fault[failed]]
    reasons[own[!failed]] <- paste0(broken_words(told$value[!failed]), where[!failed])
  }
  log$add(name, runs[broken], reasons)
}

# How many steps the series have that stand in each of some expressions.
steps_of <- function(expressions, columns) {
  vapply(expressions, function(expr) {
    series <- Filter(is.matrix, columns[intersect(all.vars(expr), names(columns))])
    if (length(series)) ncol(series[[1]]) else 0L
  }, 0L)
}

log_warnings <- function(seen, order, log) {
  words <- c(gettext("NAs produced by integer overflow", domain = "R"),
    gettext("probable complete loss of accuracy in modulus", domain = "R"))
  log$output <- order[1]
  for (i in which(bitwAnd(seen, c(1L, 2L)) > 0)) log$warn(words[i])
}
