# Calls of a user's function that leave the session as it was: random state, options, working folder, output.

# Runs `body`, which is given a function of a run's place among `runs` and its arguments that makes one call and gives
# `value`, or `fault`, `warnings` that are kept, and whether it `drew` random numbers. Without a seed it must not draw.
guarded <- function(model, seed, runs, body) {
  home <- getwd()
  scratch <- tempfile("ensayo-run-")
  dir.create(scratch)
  before <- options()
  state <- random_state()
  kinds <- if (is.null(state)) RNGkind()
  sinks <- sink.number()
  silent <- file(nullfile(), "w")
  devices <- grDevices::dev.list()
  restore <- function() {
    for (device in setdiff(grDevices::dev.list(), devices)) grDevices::dev.off(device)
    while (sink.number() > sinks) sink()
    close(silent)
    setwd(home)
    unlink(scratch, recursive = TRUE)
    restore_options(before)
    # without a state it is the kind alone that can be given back
    if (is.null(state)) do.call(RNGkind, as.list(kinds))
    set_random_state(state)
    if (!is.null(state)) RNGkind()  # R takes the kind from the state when it next looks
  }
  on.exit(restore())
  sink(silent)
  states <- if (!is.null(seed)) run_states(model$name, seed, runs)
  one <- function(i, arguments) {
    if (!dir.exists(scratch)) dir.create(scratch)
    setwd(scratch)
    set_random_state(if (is.null(seed)) no_random_state else states[[i]])
    drawn <- random_state()
    outcome <- called_once(model, arguments)
    drew <- !identical(random_state(), drawn)
    if (is.null(seed) && drew) {
      outcome <- list(fault = sprintf("`%s()` draws random numbers, which a function of whole columns must not",
        model$name))
    }
    restore_options(before)
    while (sink.number() > sinks + 1) sink()
    if (sink.number() == sinks) sink(silent)
    left <- list.files(scratch, all.files = TRUE, no.. = TRUE, full.names = TRUE)
    if (length(left)) unlink(left, recursive = TRUE, force = TRUE)
    outcome$drew <- drew
    outcome
  }
  body(one)
}

restore_options <- function(before) {
  now <- options()
  if (identical(now, before)) return(invisible())
  new <- setdiff(names(now), names(before))
  options(c(before, stats::setNames(vector("list", length(new)), new)))
}

called_once <- function(model, arguments) {
  warnings <- character()
  failed <- function(condition) list(fault = sprintf("`%s()` failed: %s", model$name, one_line(conditionMessage(condition))))
  outcome <- tryCatch(
    withCallingHandlers(
      list(value = do.call(model$fun$fun, arguments, quote = TRUE)),
      warning = function(w) {
        if (model$warnings == "fail") return()
        warnings <<- unique(c(warnings, conditionMessage(w)))
        invokeRestart("muffleWarning")
      },
      message = function(m) invokeRestart("muffleMessage")
    ),
    error = failed,
    warning = function(w) list(fault = sprintf("`%s()` warned: %s", model$name, one_line(conditionMessage(w))))
  )
  outcome$warnings <- warnings
  outcome
}

one_line <- function(text) gsub("[[:space:]]+", " ", trimws(text))

# R's generator for each run: the combined multiple-recursive generator of L'Ecuyer (1999), whose state of six whole
# numbers comes from the stream of the model and the run, normal numbers by inversion, samples by rejection.
run_states <- function(name, seed, runs) {
  first <- min(runs) - 1
  count <- max(runs) - first
  words <- vapply(0:5, function(index) {
    u <- stream_uniforms(paste("model", name), seed, "random", first + count, first, count, index)
    floor(u * 4294944443)[runs - first]
  }, numeric(length(runs)))
  words <- matrix(as.integer(ifelse(words >= 2^31, words - 2^32, words)), length(runs))
  lapply(seq_along(runs), function(i) c(10407L, words[i, ]))
}

no_random_state <- c(10407L, 1L, 2L, 3L, 4L, 5L, 6L)

random_state <- function() get0(".Random.seed", globalenv(), inherits = FALSE)

set_random_state <- function(state) {
  if (is.null(state)) suppressWarnings(rm(".Random.seed", envir = globalenv()))
  else assign(".Random.seed", state, envir = globalenv())
}
