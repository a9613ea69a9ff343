# Inputs that are drawn anew at each step: series, of steps that they name. Two fields say how their draws hang together:
#   persistence   rank correlation from each step to the next; 0 where every step is drawn by itself
#   block         length of the stretches of recorded data that stay together; NULL for none

is_stepped <- function(input) !is.null(input$steps)

stepped_names <- function(study) as.character(names(Filter(is_stepped, study$inputs)))

# The steps of a series, be it an input or an output; NULL of what has one value a run.
quantity_steps <- function(study, name) (study$inputs[[name]] %||% study$outputs[[name]])$steps

# Of all series of a study.
series_steps <- function(study) {
  lapply(Filter(function(quantity) !is.null(quantity$steps), c(study$inputs, study$outputs)), function(quantity) quantity$steps)
}

stepped_input <- function(input, steps, persistence, block, call = rlang::caller_env()) {
  check_number(persistence, "persistence", at_least = -1, at_most = 1, call = call)
  if (is.null(steps)) {
    if (persistence != 0) stop_argument("persistence", "0 for an input that is drawn once", persistence,
      "It goes with `steps`.", call)
    if (!is.null(block)) stop_argument("block", "left out for an input that is drawn once", block, "It goes with `steps`.", call)
    return(input)
  }
  if (!is_law(input$law)) stop_argument("steps", "left out for a constant, which is the same at all steps", NULL, call = call)
  if (is_categorical(input$law)) {
    stop_argument("law", "of numbers for an input with steps", input$law, "Give the categories numbers: `law_discrete(1:3, ...)`.", call)
  }
  if (abs(persistence) == 1) {
    stop_argument("persistence", "between -1 and 1", persistence,
      "What stays as it is at all steps is drawn once: leave `steps` out.", call)
  }
  input$steps <- steps_given(steps, "steps", call)
  input$persistence <- as.double(persistence)
  if (!is.null(block)) {
    block <- check_count(block, "block", at_most = length(input$steps), call = call)
    if (!family_name(input$law) %in% c("empirical", "rows") || isTRUE(parameters_of(input$law)$interpolate)) {
      stop_argument("block", "left out, or the law recorded values as they are", block,
        "Such as `input(law_empirical(recorded), steps = 90, block = 7)`.", call)
    }
    if (persistence != 0) stop_argument("persistence", "0 where recorded stretches stay together", persistence, call = call)
    # the order of the recorded values counts
    if (family_name(input$law) == "empirical") input$law <- law_rows(parameters_of(input$law)$data)
    input$block <- block
  }
  input
}

# Inputs that hang together must be drawn alike: once, or at the same steps.
check_drawn_alike <- function(study, a, b, what, call = rlang::caller_env()) {
  inputs <- study$inputs[c(a, b)]
  alike <- identical(inputs[[1]]$steps, inputs[[2]]$steps) && identical(inputs[[1]]$block, inputs[[2]]$block)
  if (alike) return(invisible())
  how <- function(input) if (is_stepped(input)) sprintf("at each of %s", count_of(length(input$steps), "step")) else "once a run"
  stop_ensayo("correlation", sprintf("%s and %s must be drawn alike to %s.", quoted(a), quoted(b), what),
    if (identical(inputs[[1]]$steps, inputs[[2]]$steps)) "Their stretches differ."
    else sprintf("%s is drawn %s, %s %s.", quoted(a), how(inputs[[1]]), quoted(b), how(inputs[[2]])),
    inputs = c(a, b), call = call)
}

# Names as a formula takes them that is evaluated at each of some steps: series of the same steps stand for their value there.
known_at_step <- function(known, steps) {
  if (is.null(steps)) return(known)
  attr(known, "series") <- Filter(function(own) !identical(own, steps), attr(known, "series"))
  known
}

# A parameter that changes from step to step belongs to an input that is drawn at the same steps.
check_links_over_steps <- function(study, call = rlang::caller_env()) {
  stepped <- stepped_names(study)
  for (name in if (length(stepped)) names(study$inputs)) {
    input <- study$inputs[[name]]
    for (other in if (is_law(input$law)) intersect(links_of(input$law), stepped)) {
      if (identical(study$inputs[[other]]$steps, input$steps)) next
      stop_ensayo("argument", sprintf("A parameter of %s must have one value where it is drawn.", quoted(name)),
        sprintf("%s has a value at each of %s.", quoted(other), count_of(length(study$inputs[[other]]$steps), "step")),
        sprintf("Give %s the same steps.", quoted(name)), name = name, call = call)
    }
  }
}

# Correlations of the normal scores of inputs that persist: within a step, and of what each step brings besides what is
# kept, which has the spread `size`. So the correlations within a step are the same at all of them.
persistence_scores <- function(study, set, call = rlang::caller_env()) {
  persistence <- vapply(study$inputs[set], function(input) input$persistence, 0)
  kept <- score_correlation(persistence)
  scores <- score_correlation(correlation_matrix(study, set))
  diag(scores) <- 1
  brought <- scores * (1 - outer(kept, kept))
  size <- sqrt(diag(brought))
  brought <- brought / outer(size, size)
  if (length(set) > 1 && smallest_eigenvalue(brought) < -1e-8) {
    stop_ensayo("correlation", sprintf("%s must be able to keep their correlation at every step.", and_list(quoted(set))),
      sprintf("Their persistences are %s: what each step brings would have to be correlated beyond 1.",
        and_list(vapply(persistence, format_given, ""))),
      "Weaken the correlation, or let them persist alike.", inputs = set, call = call)
  }
  list(kept = kept, scores = scores, brought = brought, size = size)
}

persists <- function(study, set) any(vapply(study$inputs[set], function(input) !identical(input$persistence %||% 0, 0), NA))

# How an input's draws go over the steps, for readers; "" where it is drawn once.
over_steps_words <- function(input) {
  if (!is_stepped(input)) return("")
  anew <- sprintf("at each of %s", count_of(length(input$steps), "step"))
  if (!is.null(input$block)) sprintf("%s, in recorded stretches of %s", anew, format_given(input$block))
  else if (input$persistence != 0) sprintf("%s, persistence %s", anew, format_given(input$persistence))
  else paste("anew", anew)
}

# A count, or the steps themselves: numbers or dates.
steps_given <- function(steps, arg, call = rlang::caller_env()) {
  if (is.numeric(steps) && length(steps) == 1) return(as.double(seq_len(check_count(steps, arg, at_most = most_steps, call = call))))
  steps <- check_steps(steps, call)
  if (length(steps) > most_steps) stop_argument(arg, sprintf("at most %s", count_of(most_steps, "step")), length(steps), call = call)
  steps
}

most_steps <- 1e6

# The steps of a model that does not name its own.
steps_of_inputs <- function(study, call = rlang::caller_env()) {
  known <- unique(lapply(study$inputs[stepped_names(study)], function(input) input$steps))
  if (length(known) == 1) return(known[[1]])
  stop_ensayo("argument", "`.steps` must say how many steps there are, or which.",
    if (length(known) == 0) "It is left out, and no input has steps." else "It is left out, and the inputs have different steps.",
    "Such as `.steps = 120`, or dates.", argument = ".steps", call = call)
}
