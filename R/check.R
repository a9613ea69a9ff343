# Argument checks, shared at the public boundary. Each returns the value it checked, in its plain type.

check_number <- function(x, arg = rlang::caller_arg(x), above = -Inf, below = Inf, at_least = -Inf, at_most = Inf,
                         mend = NULL, call = rlang::caller_env()) {
  if (missing(x)) stop_ensayo("argument", sprintf("%s must be given.", quoted(arg)), argument = arg, call = call)
  ok <- is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x) &&
    x > above && x < below && x >= at_least && x <= at_most
  if (!ok) stop_argument(arg, paste0("a finite number", bounds_text(above, below, at_least, at_most)), x, mend, call)
  as.double(x)
}

check_count <- function(x, arg = rlang::caller_arg(x), at_least = 1, at_most = 2^53, mend = NULL,
                        call = rlang::caller_env()) {
  ok <- is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x) && x == floor(x) &&
    x >= at_least && x <= at_most
  if (!ok) {
    stop_argument(arg, paste0("a whole number", bounds_text(at_least = at_least, at_most = at_most)), x, mend, call)
  }
  as.double(x)
}

check_string <- function(x, arg = rlang::caller_arg(x), null = FALSE, call = rlang::caller_env()) {
  if (null && is.null(x)) return(NULL)
  if (!is.character(x) || length(x) != 1 || is.na(x)) stop_argument(arg, "one text", x, call = call)
  if (grepl(control_characters, enc2utf8(x), perl = TRUE)) {
    stop_argument(arg, "a text without control characters", x, "They would steer the terminal that shows it.", call)
  }
  utf8::utf8_normalize(enc2utf8(as.vector(x)))
}

check_flag <- function(x, arg = rlang::caller_arg(x), null = FALSE, call = rlang::caller_env()) {
  if (null && is.null(x)) return(NULL)
  if (!is.logical(x) || length(x) != 1 || is.na(x)) stop_argument(arg, "TRUE or FALSE", x, call = call)
  x
}

check_choice <- function(x, choices, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  if (is.character(x) && length(x) == 1 && x %in% choices) return(x)
  listed <- paste0("\"", choices, "\"")
  near <- if (is.character(x) && length(x) == 1) nearest_name(x, choices)
  stop_argument(arg, paste("one of", paste(listed, collapse = ", ")), x,
    if (!is.null(near)) sprintf("Did you mean \"%s\"?", near), call)
}

check_numeric <- function(x, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  force(arg)
  if (is.logical(x) && all(is.na(x))) x <- as.double(x)
  if (!is.numeric(x) || is.object(x)) stop_argument(arg, "numbers", x, call = call)
  as.double(x)
}

check_probabilities <- function(x, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  force(arg)
  x <- check_numeric(x, arg, call)
  outside <- x[!is.na(x) & (x < 0 | x > 1)]
  if (length(outside)) {
    stop_argument(arg, "probabilities from 0 to 1", outside[1],
      if (all(outside >= 0 & outside <= 100)) "Divide percentages by 100.", call)
  }
  x
}

# "P90", as percentiles are named.
is_percentile_name <- function(names) grepl("^P[0-9]+([.][0-9]+)?$", names)

percentile_of_name <- function(name) as.double(sub("P", "", name))

# Percentiles are told apart from probabilities: they run from 0 to 100.
check_percentiles <- function(x, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  force(arg)
  if (is.character(x) && all(is_percentile_name(x))) x <- percentile_of_name(x)
  x <- check_numeric(x, arg, call)
  if (length(x) == 0) stop_argument(arg, "one percentile or more", x, call = call)
  outside <- x[is.na(x) | x < 0 | x > 100]
  if (length(outside)) stop_argument(arg, "percentiles from 0 to 100", outside[1], call = call)
  if (all(x > 0 & x < 1)) {
    warn_ensayo(c(sprintf("`%s` holds percentiles from 0 to 100, and all of them are below 1.", arg),
      i = sprintf("For the share %s ask for the percentile %s.", format(x[1]), format(100 * x[1]))), "percentiles")
  }
  x
}

check_class <- function(x, class, what, arg = rlang::caller_arg(x), mend = NULL, call = rlang::caller_env()) {
  if (!inherits(x, class)) stop_argument(arg, what, x, mend, call)
  invisible(x)
}

check_law <- function(x, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  check_class(x, "ensayo_law", "a law", arg, "Laws are made by functions such as `law_normal()`.", call)
}

check_study <- function(x, arg = rlang::caller_arg(x), call = rlang::caller_env()) {
  check_class(x, "ensayo_study", "a study", arg, "Studies are made by `study()` or `read_study()`.", call)
}

check_result <- function(x, arg = rlang::caller_arg(x), mend = NULL, call = rlang::caller_env()) {
  check_class(x, "ensayo_result", "a result", arg, mend %||% "Results are made by `simulate()` or `read_result()`.",
    call)
}

# Options after the dots: whatever is left in the dots is a misspelt option.
check_no_dots <- function(..., .options, call = rlang::caller_env()) {
  if (...length() == 0) return(invisible())
  given <- names(list(...))[1]
  if (is.null(given) || is.na(given) || given == "") {
    stop_ensayo("argument", "Every further argument must be named.",
      sprintf("An unnamed one was given: %s.", shown_value(..1)),
      sprintf("Options: %s.", paste(quoted(.options), collapse = ", ")), call = call)
  }
  stop_ensayo("argument", sprintf("%s is not an option here.", quoted(given)), NULL,
    suggestion(given, .options), argument = given, call = call)
}

stop_argument <- function(arg, expected, came, mend = NULL, call = NULL) {
  stop_ensayo("argument", sprintf("`%s` must be %s.", arg, expected), sprintf("You gave %s.", shown_value(came)),
    mend, argument = arg, call = call)
}

bounds_text <- function(above = -Inf, below = Inf, at_least = -Inf, at_most = Inf) {
  if (at_least > -Inf && at_most < 2^53) return(sprintf(" from %s to %s", plain_bound(at_least), plain_bound(at_most)))
  limits <- c(
    if (above > -Inf) paste("above", plain_bound(above)), if (at_least > -Inf) paste("of at least", plain_bound(at_least)),
    if (below < Inf) paste("below", plain_bound(below)), if (at_most < 2^53) paste("of at most", plain_bound(at_most))
  )
  if (length(limits)) paste0(" ", paste(limits, collapse = " and ")) else ""
}

plain_bound <- function(x) format(x, digits = 15, scientific = if (abs(x) < 1e15) FALSE else 9)

number_pattern <- "^[-+]?([0-9]+[.]?[0-9]*|[.][0-9]+)([eE][-+]?[0-9]+)?$"

# Characters that steer a terminal or turn text round.
control_characters <- "[\u0001-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069]"

# What needs every run of the design refuses a part of them.
check_whole <- function(result, what, call = rlang::caller_env()) {
  if (!is.null(result$provenance$step)) {
    stop_ensayo("argument", sprintf("%s needs a result with its series.", what),
      sprintf("This one is at step %s.", result$provenance$step), "Use the result that `at_step()` was asked of.",
      call = call)
  }
  if (length(result$provenance$added)) {
    stop_ensayo("argument", sprintf("%s needs a result as it was simulated.", what), sprintf("This one has %s besides.",
      result$provenance$added), "Use the result that `cash_flow()` was asked of.", call = call)
  }
  if (length(result$provenance$from_start)) {
    stop_ensayo("argument", sprintf("%s needs a result with its series as they are.", what),
      sprintf("One is counted from its start: %s.", result$provenance$from_start[1]),
      "Use the result that `from_start()` was asked of.", call = call)
  }
  if (length(result$provenance$in_unit)) {
    stop_ensayo("argument", sprintf("%s needs a result as it was simulated.", what),
      sprintf("%s is in another unit.", quoted(names(result$provenance$in_unit)[1])), "Use the result that `in_unit()` was asked of.", call = call)
  }
  if (length(result$provenance$given)) {
    stop_ensayo("argument", sprintf("%s needs all runs of a result.", what),
      sprintf("This one holds those given %s.", paste(quoted(result$provenance$given), collapse = " and ")),
      "Use the result that `given()` was asked of.", call = call)
  }
}

# Whether data are what they should be, without an error.
numbers_of <- function(x, n, finite = TRUE) is.numeric(x) && length(x) == n && !anyNA(x) && (!finite || all(is.finite(x)))

places_in <- function(x, n) is.numeric(x) && !anyNA(x) && all(x == round(x) & x >= 1 & x <= n) && anyDuplicated(x) == 0
