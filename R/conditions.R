# Every error of the package is raised here. Each has class `ensayo_error`, a class for its cause
# (`ensayo_error_<cause>`), the fields a program needs, and a message of up to three parts:
# what was expected, what came instead, how to mend it.

# The causes, and when each is raised; the help page of errors is written from this table.
error_causes <- c(
  argument    = "an argument is of the wrong type, size or range",
  name        = "a name that is not known, not allowed or taken",
  cycle       = "outputs that need each other",
  formula     = "a formula that cannot be evaluated run by run",
  across_runs = "a function that acts across runs, or gives another value when a run is evaluated alone",
  correlation = "a correlation that no joint law can have",
  draw        = "a draw outside its law, which is a fault of the package",
  model       = "the calculation failed",
  file        = "a file that cannot be read or written, or does not say what it must",
  package     = "a package that is needed besides is not installed",
  call        = "the command line was called wrongly"
)

#' Errors raised by Ensayo
#'
#' Every error has the class `ensayo_error` and one class for its cause, so that programs can tell them apart with
#' `tryCatch()`:
#'
#' ```{r, echo = FALSE, results = "asis"}
#' cat(sprintf("* `ensayo_error_%s`: %s\n", names(error_causes), error_causes), sep = "")
#' ```
#'
#' Conditions carry the fields a program needs, such as `name`, `known`, `argument` or `line`.
#'
#' @name ensayo_errors
#' @keywords internal
NULL

stop_ensayo <- function(cause, expected, came = NULL, mend = NULL, ..., call = NULL) {
  stopifnot(cause %in% names(error_causes))
  message <- c(expected, if (!is.null(came)) c(x = came), if (!is.null(mend)) c(i = mend))
  rlang::abort(message, class = c(paste0("ensayo_error_", cause), "ensayo_error"), cause = cause, expected = expected,
    came = came, mend = mend, ..., call = call)
}

# The same error with a place put before its words, and further fields.
stop_restated <- function(error, place, ...) {
  own <- c("message", "trace", "parent", "call", "rlang", "body", "header", "footer", "use_cli_format", "expected")
  fields <- utils::modifyList(unclass(error)[setdiff(names(error), own)], list(...))
  do.call(stop_ensayo, c(fields, list(expected = paste0(place, ": ", error$expected))))
}

# An error that the package itself catches, to find another way.
leave_for <- function(reason, why, ...) rlang::abort(why, class = paste0("ensayo_", reason), ..., call = NULL)

warn_ensayo <- function(message, cause, ...) {
  rlang::warn(message, class = c(paste0("ensayo_warning_", cause), "ensayo_warning"), ...)
}

tell_ensayo <- function(told, mend, cause) {
  rlang::inform(c(i = told, i = mend), class = c(paste0("ensayo_message_", cause), "ensayo_message"))
}

# Runs an expression; an error of any package becomes an ensayo_error of the given cause, with its own words kept.
rethrow_as <- function(expr, cause, expected, ..., mend = NULL) {
  tryCatch(expr, error = function(e) {
    if (inherits(e, "ensayo_error")) stop(e)
    stop_ensayo(cause, expected, conditionMessage(e), mend, ...)
  })
}

stop_unknown_name <- function(name, known, what, ..., call = NULL) {
  stop_ensayo("name", sprintf("%s must name %s.", quoted(name), what), "It is not known here.",
    suggestion(name, known), name = name, known = known, ..., call = call)
}

# The hint that ends a message about an unknown name: the nearest one, or all of them where they are few; those that the attribute
# `aside` has come last.
suggestion <- function(name, known) {
  near <- nearest_name(name, known)
  if (!is.null(near)) return(sprintf("Did you mean %s?", quoted(near)))
  if (length(known) == 0) return("None is defined yet.")
  shown <- utils::head(union(setdiff(known, attr(known, "aside")), known), 12)
  rest <- length(known) - length(shown)
  paste0("Known: ", paste(quoted(shown), collapse = ", "), if (rest > 0) sprintf(" and %d more", rest), ".")
}

longest_name <- 200

# The known name with the fewest changes to `name`, or NULL where none is near enough to be a slip of the hand.
nearest_name <- function(name, known) {
  if (length(known) == 0 || nchar(name) > longest_name) return(NULL)
  distance <- as.vector(utils::adist(name, known, ignore.case = TRUE))
  allowed <- max(1, nchar(name) %/% 3)
  if (min(distance) > allowed || min(distance) >= nchar(name)) return(NULL)
  known[which.min(distance)]
}

quoted <- function(x) paste0("`", x, "`")

# "a, b and c"
and_list <- function(x) if (length(x) < 2) x else paste(paste(x[-length(x)], collapse = ", "), "and", x[length(x)])

# The first few of many.
few_listed <- function(words, most = 5) {
  if (length(words) <= most) return(and_list(words))
  and_list(c(words[seq_len(most - 1)], count_of(length(words) - most + 1, "other")))
}

# "1 run", "2 runs"
count_of <- function(n, noun) paste(count_text(n), if (n == 1 || endsWith(noun, "series")) noun else paste0(noun, "s"))

count_text <- function(n) format(n, big.mark = if (n >= 1e4) " " else "", scientific = FALSE, trim = TRUE)

# A value as it is quoted in a message: short, and never more than a line.
shown_value <- function(x) {
  if (is.null(x)) return("NULL")
  if (is.character(x) && length(x) == 1) return(encodeString(x, quote = "\"", na.encode = TRUE))
  if (is.atomic(x) && length(x) == 1) return(format(x, digits = 10))
  if (is.atomic(x) && !is.object(x)) {
    kind <- if (is.numeric(x)) "numbers" else if (is.character(x)) "texts" else "values"
    return(sprintf("%d %s", length(x), kind))
  }
  sprintf("an object of class %s", paste(class(x), collapse = "/"))
}

# "Pressure at ..." within a sentence; abbreviations stay as they are.
lower_first <- function(text) {
  if (grepl("^[[:upper:]][[:lower:]]", text)) paste0(tolower(substr(text, 1, 1)), substring(text, 2)) else text
}

upper_first <- function(text) paste0(toupper(substr(text, 1, 1)), substring(text, 2))

# An error of a constructor, with the place of the record put before its words where they do not name it.
in_place <- function(place, expr) {
  tryCatch(expr, ensayo_error = function(e) if (startsWith(e$expected, place)) stop(e) else stop_restated(e, place))
}
