# Models that go step by step: their lines are compiled and calculated for blocks of runs (src/core/steps.h).

kind_steps <- list(
  dear = FALSE,
  prepare = function(model, setting) {
    known <- c(model$known, list(step = as.double(model$steps)))
    lines <- names(model$lines)
    compiled <- cpp_step_model(unname(model$lines), lines, unname(model$starts), match(names(model$starts), lines), known,
      ifelse(!lines %in% model$gives, 0L, ifelse(lines %in% model$last, 1L, 2L)), length(model$steps), unname(model$uses))
    function(values, runs, log) {
      columns <- mget(unname(model$uses), envir = values)
      made <- cpp_run_steps(compiled, columns, length(runs), setting$threads)
      if (is.null(made)) stop_uncalculated(model, columns)
      for (i in seq_along(model$gives)) {
        value <- made$values[[i]]
        if (is.matrix(value)) colnames(value) <- step_keys(model$steps)
        assign(model$gives[i], value, envir = values)
      }
      if (made$warnings > 0) log_warnings(made$warnings, model$gives[1], log)
      if (length(made$failed)) log_failed_steps(model, compiled, columns, made$failed, runs, log)
    }
  },
  alone = function(model, setting) list()
)

# A run that fails at a step has failed in every series.
log_failed_steps <- function(model, compiled, columns, failed, runs, log) {
  reasons <- broken_reasons(rep("", length(failed)), runs[failed], unname(model$uses), log)
  steps <- rep("", length(failed))
  own <- which(reasons == "")
  if (length(own)) {
    told <- cpp_explain_steps(compiled, columns, length(runs), failed[own])
    lines <- names(model$lines)
    texts <- vapply(told$expressions, function(expr) {
      if (is.null(expr)) "" else sprintf(" in `%s`", deparse1(expr, width.cutoff = 500L))
    }, "")
    words <- ifelse(told$fault > 0, fault_words[pmax(told$fault, 1)], paste0(broken_words(told$value), texts))
    reasons[own] <- sprintf("%s, in %s `%s`", words, ifelse(told$step == 0, "the starting value of", "line"), lines[told$line])
    later <- told$step > 0
    steps[own[later]] <- vapply(told$step[later], function(i) step_words(model$steps[i]), "")
  }
  for (name in model$gives) log$add(name, runs[failed], reasons, steps = steps)
}

stop_uncalculated <- function(model, columns) {
  texts <- names(Filter(Negate(is.numeric), columns))
  stop_ensayo("model", sprintf("The lines of %s must be calculated from numbers, and texts that are compared.", quoted(model$name)),
    sprintf("A text is more than compared: %s.", and_list(quoted(texts))), "A model of such quantities is a function of R (`add_model()`).", name = model$name)
}
