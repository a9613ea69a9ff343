# `before(level)` and `before(ordered, 5)` in the lines of a model that goes step by step: a line's value so many steps ago.

read_before <- function(expr, found) {
  lines <- attr(found$known, "lines")
  given <- tryCatch(match.call(function(line, steps) NULL, expr), error = function(e) NULL)
  if (is.null(given$line) || !(is.symbol(given$line) || is.character(given$line))) {
    stop_ensayo("formula", sprintf("%s: `before()` takes the name of a line, and how many steps ago.", found$what),
      sprintf("It reads %s.", quoted(deparse1(expr))), "Such as `before(level)` or `before(ordered, 5)`.")
  }
  name <- normal_name(given$line)
  if (!name %in% lines) {
    stop_ensayo("name", sprintf("%s: `before()` takes a line of the steps.", found$what), sprintf("%s is none.", quoted(name)),
      suggestion(name, lines), name = name, known = lines)
  }
  steps <- if (is.null(given$steps)) 1 else tryCatch(eval(given$steps, found$env %||% baseenv()), error = function(e) NULL)
  if (!is.numeric(steps) || length(steps) != 1 || !steps %in% 1:100000) {
    stop_ensayo("formula", sprintf("%s: `before()` takes how many steps ago as a whole number of at least 1.", found$what),
      sprintf("It reads %s.", quoted(deparse1(expr))), "It is the same in all runs.")
  }
  found$uses <- c(found$uses, name)
  found$lags <- c(found$lags, stats::setNames(as.double(steps), name))
  call("before", as.symbol(name), as.double(steps))
}
