# What a function of a model returned, as values of its outputs.

is_output_value <- function(x) length(x) > 0 && (is.numeric(x) || is.logical(x) || inherits(x, "Date"))

# What a function returned, by output: a column of a data frame carries its steps. A text says what is wrong.
named_parts <- function(value, outputs) {
  if (is.data.frame(value)) return(series_of_frame(value))
  if (is.list(value) && !is.object(value)) {
    frames <- vapply(value, is.data.frame, TRUE)
    return(do.call(c, c(list(list()), unname(value_list(value[!frames])), lapply(unname(value[frames]), series_of_frame))))
  }
  if (is.null(names(value)) && length(outputs) == 1) return(stats::setNames(list(value), outputs))
  if (is.atomic(value) && !is.null(value)) return(as.list(value))
  sprintf("it returned %s", shown_value(value))
}

value_list <- function(values) lapply(seq_along(values), function(i) values[i])

series_of_frame <- function(frame) {
  steps <- frame$step
  if (!is.null(steps) && !inherits(steps, "Date")) steps <- as.double(steps)
  lapply(as.list(frame[setdiff(names(frame), "step")]), structure, steps = steps %||% as.double(seq_len(nrow(frame))))
}

# A run's parts as the model says they are: plain numbers or TRUE and FALSE. One that is not has a fault; a text says
# what is wrong with all of them.
checked_parts <- function(value, model) {
  parts <- named_parts(value, model$gives)
  if (is.character(parts)) return(sprintf("`%s()` failed: %s", model$name, parts))
  if (is.null(names(parts)) && length(parts) == 1) names(parts) <- model$gives
  lapply(stats::setNames(nm = model$gives), function(name) checked_part(parts[[name]], name, model$steps[[name]]))
}

checked_part <- function(part, name, steps) {
  fault <- function(...) structure(NA, fault = sprintf(...))
  if (is.null(part)) return(fault("nothing was returned under this name"))
  if (length(part) && !is_output_value(part)) {
    return(fault("%s was returned, not a number, a date or yes/no", shown_value(part)))
  }
  n <- if (is.null(steps)) 1 else length(steps)
  if (length(part) != n) return(fault("%s, not %d", count_of(length(part), "value"), n))
  own <- attr(part, "steps")
  if (!is.null(own) && !identical(as.double(own), as.double(steps))) return(fault("its steps are others than the model's"))
  if (!is.logical(part)) part <- as.double(part)
  attributes(part) <- NULL
  broken <- which(!is.finite(part))[1]
  if (is.na(broken)) return(part)
  at <- if (is.null(steps)) "" else sprintf(" at step %s", format(steps[broken]))
  fault("%s%s", broken_words(part[broken]), at)
}
