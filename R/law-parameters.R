# Making a law: its parameters are checked against what the family's record asks of them.

constant_hint <- "A quantity that never varies is given as the number itself, not as a law."

# A law of a family from the arguments of its constructor, `as.list(environment())`; those left out are dropped.
make_law <- function(family, given, call = rlang::caller_env()) {
  record <- family_record(family)
  given <- given[intersect(names(record$parameters), names(given))]
  given <- given[!vapply(given, function(x) rlang::is_missing(x) || is.null(x), TRUE)]
  check_form(record, names(given), call)
  if (any(vapply(given, rlang::is_formula, TRUE))) return(new_linked_law(family, given, call))
  par <- Map(function(value, name) check_parameter(value, name, record$parameters[[name]], call), given, names(given))
  if (!is.null(record$check)) record$check(par, call)
  new_law(family, par)
}

# Every parameter without a default, or exactly one of the sets there is a choice of.
check_form <- function(record, given, call) {
  chosen <- unique(unlist(record$forms))
  for (name in setdiff(names(record$parameters), c(chosen, record$optional, given))) {
    stop_ensayo("argument", sprintf("%s must be given.", quoted(name)), argument = name, call = call)
  }
  if (is.null(record$forms)) return(invisible())
  given <- intersect(given, chosen)
  if (any(vapply(record$forms, setequal, TRUE, y = given))) return(invisible())
  forms <- vapply(record$forms, function(form) paste(quoted(form), collapse = " and "), "")
  stop_ensayo("argument", sprintf("%s %s law needs either %s.", article(tolower_first(record$title)), tolower_first(record$title),
    paste(forms, collapse = ", or ")),
    sprintf("You gave %s.", if (length(given)) paste(quoted(given), collapse = ", ") else "none of them"), call = call)
}

tolower_first <- function(text) {
  if (grepl("^[A-Z]{2}", text)) text else paste0(tolower(substr(text, 1, 1)), substring(text, 2))
}

# What a record may ask of a parameter; the words stand in the records, so that no file needs to be read before another.
check_parameter <- function(x, name, asked, call) {
  number <- function(..., mend = NULL) check_number(x, name, ..., mend = mend, call = call)
  switch(asked,
    number = number(),
    spread = number(above = 0, mend = constant_hint),
    positive = number(above = 0),
    factor = number(above = 1, mend = "A geometric standard deviation of 1.2 means: a factor of 1.2 up or down."),
    share = check_share(x, name, call),
    limit = check_limit(x, name, call),
    whole = check_count(x, name, -2^52, 2^52, call = call),
    count = check_count(x, name, 1, 2^31, call = call),
    numbers = check_numbers(x, name, 1, call),
    values = if (is.character(x)) check_texts(x, name, call) else check_numbers(x, name, 1, call),
    tail = check_choice(x, c("largest", "smallest"), name, call),
    flag = check_flag(x, name, call = call),
    law = check_plain_law(x, name, call),
    laws = check_laws(x, name, call),
    `function` = check_function(x, name, call)
  )
}

check_share <- function(x, name, call) {
  if (is.numeric(x) && length(x) == 1 && isTRUE(x > 0 && x < 1)) return(as.double(x))
  stop_argument(name, "a probability above 0 and below 1", x,
    if (is.numeric(x) && length(x) == 1 && isTRUE(x %in% 0:1)) "What is certain is given as a number, not as a law."
    else if (is.numeric(x) && length(x) == 1 && isTRUE(x > 1 && x < 100)) "Divide percentages by 100.", call)
}

check_limit <- function(x, name, call) {
  if (identical(x, Inf) || identical(x, -Inf)) return(x)
  check_number(x, name, call = call)
}

check_numbers <- function(x, name, least, call) {
  x <- check_numeric(x, name, call)
  if (length(x) < least || any(!is.finite(x))) {
    stop_argument(name, sprintf("%s finite numbers", if (least > 1) paste("at least", least) else "one or more"),
      if (any(!is.finite(x))) x[!is.finite(x)][1] else x, call = call)
  }
  x
}

check_texts <- function(x, name, call) {
  if (anyNA(x) || any(!nzchar(x)) || length(x) == 0) stop_argument(name, "texts that are not empty", x, call = call)
  if (any(grepl(control_characters, x, perl = TRUE))) stop_argument(name, "texts without control characters",
    grep(control_characters, x, perl = TRUE, value = TRUE)[1], call = call)
  normal_name(x)
}

# Laws with linked parameters stand alone: nothing is derived from what is not known before the run.
check_plain_law <- function(x, name, call) {
  check_law(x, name, call)
  if (is_linked(x)) {
    stop_argument(name, "a law with numbers for parameters", x,
      "Name the law with linked parameters as an input, and write the rest in `add_outputs()`.", call)
  }
  x
}

most_parts <- 1000

check_laws <- function(x, name, call) {
  if (is_law(x) || !is.list(x) || length(x) == 0) stop_argument(name, "a list of laws", x, call = call)
  if (length(x) > most_parts) stop_argument(name, sprintf("a list of at most %d laws", most_parts), length(x), call = call)
  for (i in seq_along(x)) check_plain_law(x[[i]], sprintf("%s[[%d]]", name, i), call)
  if (any(vapply(x, is_categorical, TRUE))) stop_argument(name, "laws of numbers", "a law of categories", call = call)
  x
}

check_function <- function(x, name, call) {
  if (!is.function(x)) stop_argument(name, "a function", x, call = call)
  x
}

# Shared by the laws between two limits, with or without a mode.
check_limits <- function(par, call) {
  min <- par$min
  max <- par$max
  mode <- par$mode
  if (min >= max) {
    stop_ensayo("argument", "`min` must be below `max`.",
      sprintf("You gave min = %s and max = %s.", shown_value(min), shown_value(max)),
      if (min == max) constant_hint else "Are they the wrong way round?", argument = "min", call = call)
  }
  if (!is.finite(max - min)) {
    stop_ensayo("argument", "`max` less `min` must be a finite number.",
      sprintf("You gave min = %s and max = %s.", shown_value(min), shown_value(max)), argument = "max", call = call)
  }
  if (!is.null(mode) && (mode < min || mode > max)) {
    stop_ensayo("argument",
      sprintf("`mode` must lie from `min` = %s to `max` = %s.", shown_value(min), shown_value(max)),
      sprintf("You gave mode = %s.", shown_value(mode)), argument = "mode", call = call)
  }
}

# Numbers that must grow from each to the next.
check_increasing <- function(x, name, call) {
  at <- which(diff(x) <= 0)[1]
  if (is.na(at)) return(invisible())
  stop_ensayo("argument", sprintf("%s must be in increasing order, none twice.", quoted(name)),
    sprintf("%s comes after %s.", shown_value(x[at + 1]), shown_value(x[at])), argument = name, call = call)
}

# Shares of a whole: not negative, not all 0, as many as `count`. Returned as shares that add up to 1.
as_shares <- function(x) x / sum(x)

check_weights <- function(x, name, count, of, call) {
  if (length(x) != count) {
    stop_argument(name, sprintf("as many as %s, %d", of, count), length(x), call = call)
  }
  if (any(x < 0) || sum(x) == 0) stop_argument(name, "of at least 0, and not all of them 0", min(x), call = call)
}

# Which parameters are what the constructor takes when nothing is said, and so need not be shown or written.
is_default <- function(family, parameters) {
  if (!family %in% c(law_family_names, "occurrences")) return(rep(FALSE, length(parameters)))
  defaults <- formals(paste0("law_", family))
  equal <- vapply(names(parameters), function(name) {
    if (rlang::is_missing(defaults[[name]])) return(FALSE)
    identical(parameters[[name]], eval(defaults[[name]], baseenv()))
  }, TRUE)
  # probabilities and weights that are left out are equal
  equal | names(parameters) %in% family_record(family)$optional & vapply(parameters, function(x) is.numeric(x) &&
    all(x == 1), TRUE)
}

#' The library of laws
#'
#' Lists every law with its parameters and when to use it:
#'
#' ```{r, echo = FALSE, results = "asis"}
#' abouts <- vapply(law_family_names, function(name) family_record(name)$about, "")
#' cat(sprintf("* [law_%s()]: %s\n", law_family_names, abouts), sep = "")
#' ```
#'
#' @param kind Text or `NULL` for all: `"continuous"`, `"discrete"`, `"data"` (made from data or points) or
#'   `"derived"` (made from other laws).
#' @return A data frame with a row for each law: `law` (its name: the function is `law_<name>()`, the key in a study
#'   file `law: <name>`), `kind`, `parameters` (text; sets of which one is chosen are separated by ` | `) and `use`.
#' @section Errors: `ensayo_error_argument` where `kind` is none of those.
#' @seealso [law_from_facts()] for laws by percentiles, mean or mode; [law_around()] relative to a base value;
#'   [law_measured()] by a certificate or observations; [fit_law()] by data; [law_accessors] for what laws answer.
#' @examples
#' laws("discrete")
#' @export
laws <- function(kind = NULL) {
  records <- lapply(stats::setNames(nm = law_family_names), family_record)
  kinds <- vapply(records, function(record) record$kind, "")
  keep <- if (is.null(kind)) rep(TRUE, length(kinds)) else kinds == check_choice(kind, unique(unname(kinds)))
  new_table(list(
    law = law_family_names[keep], kind = unname(kinds[keep]),
    parameters = vapply(law_family_names[keep], parameters_text, "", USE.NAMES = FALSE),
    use = vapply(records[keep], function(record) record$about, "", USE.NAMES = FALSE)
  ))
}

# "mean, sd | meanlog, sdlog; min = 0"
parameters_text <- function(family) {
  record <- family_record(family)
  defaults <- formals(paste0("law_", family))
  chosen <- unlist(record$forms)
  rest <- setdiff(names(record$parameters), chosen)
  own <- vapply(rest, function(name) {
    required <- rlang::is_missing(defaults[[name]]) || is.null(defaults[[name]])
    if (required) name else paste(name, "=", deparse1(defaults[[name]]))
  }, "")
  forms <- vapply(record$forms, paste, "", collapse = ", ")
  paste(c(if (length(forms)) paste(forms, collapse = " | "), if (length(own)) paste(own, collapse = ", ")),
    collapse = "; ")
}
