# Series in formulas: a quantity with a value at each step enters a formula through a verb that makes one value of it:
# `max(level)`, `min()`, `sum()`, `mean()`, `any(level < 2)`, `all()`, `at(level, 30)`, `last(level)`,
# `first_step(level < 2, never = 121)`, `highest_step(level)`, `lowest_step()`, `longest_stay(level < 2)`,
# `deepest_fall(level)` and `recovery(level, never = 121)`. What stands inside is evaluated at each step, as any formula is.

series_verbs <- c("at", "last", "first_step", "highest_step", "lowest_step", "longest_stay", "deepest_fall", "recovery")

# The verbs of series are words of the language where there are series.
is_verb <- function(head, found) {
  head %in% names(formula_verbs) && (!head %in% series_verbs || length(attr(found$known, "series")) > 0)
}

# `max(level)`, of one thing that holds a series, is over its steps; of several it is over these.
is_over_steps <- function(head, expr, found) {
  head %in% several_verbs && length(expr) == 2 && holds_series(expr[[2]], found)
}

holds_series <- function(expr, found) {
  series <- names(attr(found$known, "series"))
  length(series) > 0 && any(normal_name(all.vars(expr)) %in% series)
}

read_over_steps <- function(head, expr, found) {
  if (!is.null(found$over)) {
    stop_ensayo("formula", sprintf("%s must not read a series inside another reading of one.", found$what),
      sprintf("It holds %s.", quoted(deparse1(expr))), "Make the inner one an output of its own.")
  }
  given <- tryCatch(match.call(args_of_series[[head]] %||% function(x) NULL, expr), error = function(e) NULL)
  if (is.null(given) || length(given) < 2 || rlang::is_missing(given[[2]])) stop_series_call(head, expr, found)
  found$over <- list(steps = NULL)
  given[[2]] <- read_node(given[[2]], found)
  steps <- found$over$steps
  found$over <- NULL
  if (is.null(steps)) {
    stop_ensayo("formula", sprintf("%s: `%s()` reads a series.", found$what, head),
      sprintf("%s holds none.", quoted(deparse1(expr[[2]]))), suggestion("", names(attr(found$known, "series"))))
  }
  if (head == "at") given[[3]] <- step_constant(given[[3]], steps, found)
  if (head %in% c("first_step", "recovery")) return(read_never(head, given, steps, found))
  given <- as.list(given)
  names(given) <- NULL
  as.call(given)
}

args_of_series <- list(at = function(series, step) NULL, last = function(series) NULL,
  first_step = function(condition, never) NULL, highest_step = function(series) NULL, lowest_step = function(series) NULL,
  longest_stay = function(condition) NULL, deepest_fall = function(series) NULL, recovery = function(series, never) NULL)

stop_series_call <- function(head, expr, found) {
  asked <- c(at = "at(level, 30)", first_step = "first_step(level < 2, never = 121)",
    longest_stay = "longest_stay(level < 2)", recovery = "recovery(level, never = 121)")
  stop_ensayo("formula", sprintf("%s: `%s()` needs a series%s.", found$what, head,
    switch(head, at = " and a step", first_step = ", as a condition, and what stands where it is never met",
      recovery = ", and what stands where it never recovers", "")),
    sprintf("It reads %s.", quoted(deparse1(expr))),
    sprintf("Such as `%s`.", if (head %in% names(asked)) asked[[head]] else sprintf("%s(level)", head)))
}

# Every series that is read together must have the same steps.
note_series <- function(name, found) {
  steps <- attr(found$known, "series")[[name]]
  if (is.null(found$over)) {
    stop_ensayo("formula", sprintf("%s must say what it wants of a series.", found$what),
      sprintf("%s has a value at each of %s.", quoted(name), count_of(length(steps), "step")),
      sprintf("Write `last(%s)`, `at(%s, %s)`, `max(%s)`, `min(%s)`, `sum(%s)` or `mean(%s)`; of a condition, `all(%s > 0)` or `any(%s > 0)`.",
        name, name, step_text(steps)[1], name, name, name, name, name, name), name = name)
  }
  if (!is.null(found$over$steps) && !identical(found$over$steps, steps)) {
    stop_ensayo("formula", sprintf("%s must put series of the same steps together.", found$what),
      sprintf("%s has others than the rest.", quoted(name)), name = name)
  }
  found$over$steps <- steps
}

# Steps as they are written in formulas.
step_text <- function(steps) {
  if (inherits(steps, "Date")) sprintf("date(\"%s\")", format(steps)) else format(steps, digits = 10, trim = TRUE)
}

# A step of the series, which must be a constant.
step_constant <- function(expr, steps, found) {
  value <- tryCatch(eval(expr, list(date = as.Date), found$env %||% baseenv()), error = function(e) NULL)
  if (is.character(value) && inherits(steps, "Date")) value <- tryCatch(as.Date(value), error = function(e) NULL)
  if (length(value) != 1 || !as.double(value) %in% as.double(steps)) {
    stop_ensayo("formula", sprintf("%s must name a step of the series.", found$what),
      sprintf("%s is none.", quoted(deparse1(expr))),
      sprintf("Its steps go from %s to %s.", step_text(steps)[1], step_text(steps)[length(steps)]))
  }
  step <- steps[match(as.double(value), as.double(steps))]
  if (inherits(step, "Date")) call("date", format(step)) else as.double(step)
}

# The steps themselves are the values of `first_step()`, and a number of steps those of `recovery()`.
read_never <- function(head, given, steps, found) {
  never <- given$never
  if (is.null(never)) {
    first <- head == "first_step"
    stop_ensayo("formula", sprintf("%s: `%s()` needs a value for runs in which %s.", found$what, head,
      if (first) "the condition is never met" else "the series does not come back"), NULL,
      sprintf("Such as `%s(%s, never = %s)`, the last step.", head, deparse1(given[[2]]),
        if (first) step_text(steps)[length(steps)] else format(length(steps))))
  }
  as.call(list(as.symbol(head), given[[2]], never = read_node(never, found)))
}

# The values at each step of an expression with series in it.
over_steps <- function(expr, env) {
  series <- series_in(expr, env)
  steps <- if (length(series)) ncol(env[[series[1]]]) else 1
  lapply(seq_len(steps), value_at_step, expr = expr, env = env, series = series)
}

series_in <- function(expr, env) Filter(function(name) is.matrix(env[[name]]), intersect(all.vars(expr), names(env)))

value_at_step <- function(step, expr, env, series) {
  columns <- as.list(env, all.names = TRUE)
  columns[series] <- lapply(columns[series], function(column) unname(column[, step]))
  context <- attr(env, "context")
  eval(expr, new_context(columns, context$runs, context$fail, parent.env(env)))
}

# At one of the steps; at the last where none is given.
series_at <- function(expr, step, env) {
  series <- series_in(expr, env)
  keys <- colnames(env[[series[1]]])
  value_at_step(if (is.null(step)) length(keys) else match(step_keys(step), keys), expr, env, series)
}

# The first step at which a condition is met, run by run.
step_of_first <- function(expr, never, env) {
  series <- series_in(expr, env)
  steps <- as.double(colnames(env[[series[1]]]))
  n <- length(attr(env, "context")$runs)
  found <- rep_len(as.double(never), n)
  open <- rep(TRUE, n)
  for (i in seq_along(steps)) {
    met <- rep_len(as.logical(value_at_step(i, expr, env, series)), n)
    now <- open & !met %in% FALSE
    found[now] <- ifelse(is.na(met[now]), NA, steps[i])
    open <- open & !now
    if (!any(open)) break
  }
  found
}

# The first step at which a series is highest, or lowest; the step itself.
step_of_extreme <- function(expr, highest, env) {
  steps <- as.double(colnames(env[[series_in(expr, env)[1]]]))
  values <- over_steps(expr, env)
  best <- values[[1]]
  found <- 0 * best + steps[1]
  for (i in seq_along(values)[-1]) {
    beyond <- if (highest) values[[i]] > best else values[[i]] < best
    found <- ifelse(beyond, steps[i], found)
    best <- ifelse(beyond, values[[i]], best)
  }
  found
}

# The largest number of steps in a row at which a condition is met.
longest_of_stays <- function(expr, env) {
  stay <- longest <- 0
  for (met in over_steps(expr, env)) {
    stay <- (stay + 1) * as.logical(met)
    longest <- pmax(longest, stay)
  }
  longest
}

# How far a series falls at most from the highest value that it had before.
deepest_of_falls <- function(expr, env) {
  high <- -Inf
  fall <- 0
  for (value in over_steps(expr, env)) {
    high <- pmax(high, value)
    fall <- pmax(fall, high - value)
  }
  fall
}

# How many steps it takes from the lowest point of the deepest fall until the series is back where it fell from; 0 where it
# never falls.
steps_of_recovery <- function(expr, never, env) {
  values <- over_steps(expr, env)
  never <- as.double(never)
  high <- values[[1]]
  fall <- took <- since <- goal <- 0 * values[[1]]
  falling <- values[[1]] < values[[1]]
  for (value in values[-1]) {
    high <- pmax(high, value)
    deeper <- high - value > fall
    fall <- pmax(fall, high - value)
    goal <- ifelse(deeper, high, goal)
    since <- (since + 1) * !deeper
    back <- falling & value >= goal
    took <- ifelse(deeper, never, ifelse(back, since, took))
    falling <- deeper | falling & !back
  }
  took
}
