# The series of a result, and their steps.

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

# A quantity's values as users hold them; of a series at a step, where one is given.
series_values <- function(result, name, step, call = rlang::caller_env()) {
  values <- typed_column(result, name)
  steps <- quantity_steps(result$study, name)
  if (is.null(steps)) {
    if (!is.null(step)) stop_argument("step", "left out for a quantity with one value a run", step, call = call)
    return(values)
  }
  colnames(values) <- vapply(as.list(steps), step_words, "")
  if (is.null(step)) return(values)
  at <- step_place(steps, step)
  if (is.na(at)) stop_no_step(step, stats::setNames(list(steps), name), call)
  typed_values(run_column(result, name, at), output_kind_of(result, name))
}

# Inputs with steps that vary: a store knows of which runs they are.
is_drawn_series <- function(result, name) {
  input <- .subset2(result, "study")$inputs[[name]]
  !is.null(input) && is_stepped(input) && varies(input)
}

drawn_series <- function(result, name, runs) {
  result <- unclass(result)
  series_of_runs(result$study, plan_again(result$provenance), name, runs)[[name]]
}

# The plan by which a result's draws are made again.
plan_again <- function(provenance) {
  c(provenance[c("nsim", "seed", "design", "replicates", "block")], list(threads = threads_to_use()))
}
