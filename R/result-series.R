# The steps of a result's series.

# The place of a step among others, NA where it is none of them.
step_place <- function(steps, step) {
  if (identical(step, "last")) return(length(steps))
  if (is.character(step) && inherits(steps, "Date")) step <- tryCatch(as.Date(step), error = function(e) NA)
  if (length(step) != 1 || is.character(step)) return(NA_integer_)
  match(as.double(step), as.double(steps))
}


stop_no_step <- function(step, known, call = rlang::caller_env()) {
  stop_ensayo("argument", "`step` must be one of the series' steps, or \"last\".",
    sprintf("You gave %s.", shown_value(step)),
    sprintf("%s goes from %s to %s.", quoted(names(known)), text_of(known, function(steps) step_words(steps[1])),
      text_of(known, function(steps) step_words(steps[length(steps)])))[1], argument = "step", call = call)
}
