# Names of quantities: what may be one, and how users name one bare or as text.

reserved_words <- c(
  "pi", "TRUE", "FALSE", "NA", "NA_integer_", "NA_real_", "NA_character_", "NaN", "Inf", "NULL",
  "if", "else", "for", "while", "repeat", "function", "in", "next", "break"
)

table_columns <- c("run", "replicate", "step", "failed")

# Checks the names of new inputs or outputs; returns them in Unicode's composed form, so that one name has one spelling.
check_new_names <- function(given, what, taken = character(), call = rlang::caller_env()) {
  names <- normal_name(names(given) %||% rep("", length(given)))
  if (any(is.na(names) | !nzchar(trimws(names)))) {
    stop_ensayo("name", sprintf("Every %s needs a name.", what), NULL,
      sprintf("Write it as `name = ...`."), call = call)
  }
  for (name in names) {
    reason <- if (nchar(name) > longest_name) sprintf("has %d characters, and %d are the most", nchar(name), longest_name)
      else if (grepl(control_characters, name, perl = TRUE)) "holds a control character"
      else if (name %in% reserved_words) "is a word of the formula language"
      else if (name %in% table_columns) "is a column of every table of runs"
    if (!is.null(reason)) {
      name <- encodeString(substr(name, 1, 40))
      stop_ensayo("name", sprintf("%s %s must have another name than %s.", article(what), what, quoted(name)),
        sprintf("%s %s.", quoted(name), reason), if (name %in% c(reserved_words, table_columns)) sprintf("Try %s.",
          quoted(paste0(name, "_1"))), name = name, call = call)
    }
  }
  twice <- unique(names[duplicated(names) | names %in% taken])
  if (length(twice)) {
    stop_ensayo("name", "Every input and output needs a name of its own.",
      sprintf("%s is used twice.", quoted(twice[1])),
      if (what == "input" &&
        twice[1] %in% taken) "To change an input use `replace_inputs()`.", name = twice[1], call = call)
  }
  names
}

normal_name <- function(name) {
  name <- enc2utf8(as.character(name))
  if (any(grepl("[^ -~]", name, useBytes = TRUE))) utf8::utf8_normalize(name) else name
}

article <- function(noun) if (grepl("^([aeio]|u(?!ni))", noun, perl = TRUE)) "An" else "A"

# Names given bare or as text: a known name wins; else the expression must have texts as its value. `c(a, "b")` names
# several; nothing names all that are known.
resolve_names <- function(quosure, known, what, call = rlang::caller_env()) {
  if (rlang::quo_is_null(quosure)) return(shown_names(known))
  expr <- rlang::quo_get_expr(quosure)
  if (rlang::is_call(expr, "c")) {
    parts <- lapply(rlang::call_args(expr), rlang::new_quosure, env = rlang::quo_get_env(quosure))
    return(unlist(lapply(unname(parts), resolve_names, known = known, what = what, call = call)))
  }
  name <- written_name(expr)
  if (!is.null(name) && name %in% known) return(name)
  value <- tryCatch(rlang::eval_tidy(quosure), error = function(e) NULL)
  given <- if (is.character(value) && length(value) > 0) normal_name(value) else deparse1(expr)
  unknown <- given[!given %in% known]
  if (length(unknown)) stop_unknown_name(unknown[1], known, what, call = call)
  given
}

# A name as it stands in formulas: bare, or `finish(dig)` for a part of something.
written_name <- function(expr) {
  if (is.symbol(expr)) return(normal_name(expr))
  if (!is.call(expr) || length(expr) != 2 || !is.symbol(expr[[1]]) || !(is.symbol(expr[[2]]) || is.character(expr[[2]]))) return(NULL)
  normal_name(sprintf("%s[%s]", as.character(expr[[2]]), as.character(expr[[1]])))
}

# Names without those that are asked for by name alone, which the attribute `aside` has.
shown_names <- function(known) {
  aside <- attr(known, "aside")
  shown <- setdiff(known, aside)
  if (length(shown)) shown else known
}

# Whether an argument that comes before the outputs was given outputs: `percentiles(result, pressure)`.
names_known <- function(quosure, known) {
  expr <- rlang::quo_get_expr(quosure)
  parts <- if (rlang::is_call(expr, "c")) rlang::call_args(expr) else list(expr)
  length(parts) > 0 && all(vapply(parts, function(part) {
    name <- if (rlang::is_string(part)) normal_name(part) else written_name(part)
    !is.null(name) && nzchar(name) && name %in% known
  }, TRUE))
}

# One name, which may be left out where there is one only that is not set aside.
resolve_name <- function(quosure, known, what, call = rlang::caller_env()) {
  if (rlang::quo_is_missing(quosure)) {
    shown <- shown_names(known)
    if (length(shown) == 1) return(shown)
    stop_ensayo("argument", sprintf("Name %s.", what), NULL, suggestion("", known), call = call)
  }
  names <- resolve_names(quosure, known, what, call)
  if (length(names) != 1) stop_ensayo("argument", sprintf("Name %s, not %d.", what, length(names)), NULL,
    suggestion("", known), call = call)
  names
}

text_of <- function(items, field) vapply(items, function(item) field(item) %||% "", "", USE.NAMES = FALSE)

senses <- c("not exceeded", "exceeded")
