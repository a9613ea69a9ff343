# What calculates what: every quantity of a study in one graph, found by walking it in order, never by recursion.

# The names in an order in which each comes after those it needs, otherwise as they stand: `needs` has for each name what
# it needs, of which other names than these are there already.
order_of <- function(needs, what, call) {
  n <- length(needs)
  from <- match(unlist(needs, use.names = FALSE), names(needs))
  to <- rep(seq_len(n), lengths(needs))[!is.na(from)]
  from <- from[!is.na(from)]
  users <- split(to, factor(from, seq_len(n)))
  missing <- tabulate(to, n)
  ready <- which(missing == 0)
  rounds <- list()
  while (length(ready)) {
    rounds[[length(rounds) + 1]] <- ready
    told <- unlist(users[ready], use.names = FALSE)
    reached <- if (length(told) > 1) sort(unique(told)) else told
    missing[reached] <- missing[reached] - tabulate(match(told, reached), length(reached))
    ready <- reached[missing[reached] == 0]
  }
  done <- unlist(rounds)
  if (length(done) == n) return(names(needs)[done])
  left <- setdiff(names(needs), names(needs)[done])
  path <- find_cycle(needs[left], left)
  stop_ensayo("cycle", sprintf("%s must not need each other in a circle.", what),
    sprintf("%s.", paste(quoted(path), collapse = " needs ")),
    "Write one of them without the other.", outputs = path, call = call)
}

find_cycle <- function(needs, left) {
  path <- left[1]
  repeat {
    following <- intersect(needs[[path[length(path)]]], left)[1]
    if (following %in% path) return(c(path[match(following, path):length(path)], following))
    path <- c(path, following)
  }
}

# A list of names as one of their places among others, all looked up at once.
places_of <- function(needs, names) {
  split(match(unlist(needs, use.names = FALSE), names), factor(rep(seq_along(needs), lengths(needs)), seq_along(needs)))
}

# What each input needs for its parameters.
input_needs <- function(study) lapply(study$inputs, function(input) links_of(input$law))

# Inputs in an order in which each comes after those its parameters need.
input_order <- function(study, call = rlang::caller_env()) {
  needs <- input_needs(study)
  if (all(lengths(needs) == 0)) names(study$inputs) else order_of(needs, "Inputs", call)
}

# The order in which outputs are evaluated.
output_order <- function(outputs, call = rlang::caller_env()) {
  order_of(lapply(outputs, function(output) output$formula$uses), "Outputs", call)
}

# What is behind quantities, as a function of their names: the inputs that they need, by way of outputs and of other
# inputs' parameters too, and of `through` those outputs at which the way stops.
reach_of <- function(study, through = character()) {
  ends <- c(names(study$inputs), through)
  needs <- c(input_needs(study)[input_order(study)],
    lapply(study$outputs, function(output) output$formula$uses)[output_order(study$outputs)])
  names <- names(needs)
  places <- places_of(needs, names)
  stops <- names %in% through
  own <- match(names, ends)
  # a column for each quantity, a byte for each end
  behind <- matrix(as.raw(0), length(ends), length(needs))
  for (j in seq_along(needs)) {
    at <- places[[j]]
    column <- behind[, j]
    for (k in at[!stops[at]]) column <- column | behind[, k]
    column[own[c(at[stops[at]], if (j <= length(study$inputs)) j)]] <- as.raw(1)
    behind[, j] <- column
  }
  function(of) {
    at <- match(of, names, 0)
    ends[rowSums(behind[, at, drop = FALSE] != 0) > 0]
  }
}

# For each output whether any input that varies is behind it.
outputs_that_vary <- function(study) {
  names <- quantity_names(study)
  needs <- c(rep(list(character()), length(study$inputs)), lapply(study$outputs, function(output) output$formula$uses))
  needs <- places_of(needs, names)
  varies <- names %in% varying_names(study)
  for (j in match(output_order(study$outputs), names)) varies[j] <- any(varies[needs[[j]]])
  stats::setNames(varies, names)[names(study$outputs)]
}

# An output and the outputs that it is calculated from.
needed_outputs <- function(study, output) {
  found <- character()
  while (length(output)) {
    found <- c(found, output)
    output <- setdiff(intersect(unlist(lapply(study$outputs[output], function(one) one$formula$uses)), names(study$outputs)), found)
  }
  found
}

# The study with the outputs that are needed alone, and what the models give that they need.
study_for <- function(study, needed) {
  models <- Filter(function(model) any(model$gives %in% needed), study$models)
  needed <- c(needed, unlist(lapply(models, function(model) model$gives)))
  study$outputs <- study$outputs[names(study$outputs) %in% needed]
  study$models <- models
  study
}
