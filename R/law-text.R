# Laws as text: `pert(28, 34, 48)`, `2 * poisson(mean = 3) + 1`, `truncated(normal(2, 1), min = 0)`. Study files and
# tables of inputs hold laws this way, and prints show them so. The text is data: it is read by a closed list of names,
# and nothing in it is evaluated.

# Exact texts hold every digit and value; others are for readers.
law_text <- function(law, exact = TRUE, told = TRUE) {
  if (told && !is.null(told_of(law))) {
    return(call_text(told_of(law)$call, told_of(law)$arguments, exact))
  }
  family <- family_name(law)
  parameters <- parameters_of(law)
  if (family == "scaled") return(scaled_text(parameters, exact))
  if (family == "linked") {
    given <- parameters$given
    return(call_text(parameters$family, given[!is_default(parameters$family, given)], exact))
  }
  call_text(family, parameters[!is_default(family, parameters)], exact)
}

scaled_text <- function(par, exact) {
  number <- function(x) parameter_text(x, exact)
  of <- law_text(par$of, exact)
  text <- if (par$times == -1) paste0("-", of) else if (par$times == 1) of else paste(number(par$times), "*", of)
  if (par$plus == 0) text else paste(text, if (par$plus > 0) "+" else "-", number(abs(par$plus)))
}

call_text <- function(name, arguments, exact) {
  shown <- vapply(arguments, parameter_text, "", exact = exact)
  named <- names(arguments) %||% rep("", length(arguments))
  # a law's own law comes first and needs no name
  named[vapply(arguments, function(x) is_law(x) || is.list(x) && is_law(x[[1]]), TRUE)] <- ""
  paste0(name, "(", paste0(ifelse(nzchar(named), paste(named, "= "), ""), shown, collapse = ", "), ")")
}

parameter_text <- function(x, exact) {
  if (is_law(x)) return(law_text(x, exact))
  if (rlang::is_formula(x)) return(deparse1(rlang::f_rhs(x)))
  if (is.function(x)) return("<function>")
  if (is.list(x) && !is.null(x$text)) return(x$text)  # a formula that was read
  parts <- if (is.list(x)) vapply(x, parameter_text, "", exact = exact, USE.NAMES = FALSE)
    else if (is.character(x)) encodeString(x, quote = "\"")
    else if (is.logical(x)) as.character(x)
    else if (exact) vapply(x, exact_number, "", USE.NAMES = FALSE) else vapply(x, format_given, "", USE.NAMES = FALSE)
  if (!is.null(names(x))) parts <- ifelse(nzchar(names(x)), paste(argument_name(names(x)), "=", parts), parts)
  if (length(parts) == 1 && is.null(names(x)) && !is.list(x)) return(parts)
  if (!exact && length(parts) > 6 && !is.list(x)) parts <- c(parts[1:3], "...", parts[length(parts)])
  paste0(if (is.list(x)) "list(" else "c(", paste(parts, collapse = ", "), ")")
}

# Decimal where R's parser reads the same number from it, else hexadecimal, which it always does.
exact_number <- function(x) {
  text <- cpp_number_text(as.double(x))
  if (!is.finite(x) || identical(abs(as.double(x)), str2lang(sub("^-", "", text)))) text else sprintf("%a", x)
}

argument_name <- function(name) ifelse(make.names(name) == name, name, paste0("`", name, "`"))

# The law that a text stands for. `place` says where it stands, for messages.
law_from_text <- function(text, place) {
  force(text)
  expr <- tryCatch(str2lang(text), error = function(e) NULL)
  if (nchar(text) > 1e5 || !(is.call(expr) || is.symbol(expr)) || expression_depth(expr) > max_depth) {
    stop_ensayo("file", sprintf("%s must be a law.", place), sprintf("It reads %s.", quoted(substr(text, 1, 80))),
      if (grepl("[", text, fixed = TRUE)) "Within a law several values are written `c(1, 2)`."
      else "Write it as `pert(28, 34, 48)`; `ensayo laws` lists the laws.")
  }
  law <- law_from_call(expr, place)
  if (is_law(law)) return(law)
  stop_ensayo("file", sprintf("%s must be a law.", place), sprintf("It reads %s.", quoted(substr(text, 1, 80))),
    "Write it as `pert(28, 34, 48)`; `ensayo laws` lists the laws.")
}

# Laws, numbers, texts, TRUE and FALSE, `c()` and `list()` of them; anything else is a formula of other inputs.
law_from_call <- function(expr, place) {
  if (is.numeric(expr) || is.character(expr) || is.logical(expr)) return(expr)
  if (is.symbol(expr)) {
    constant <- list(`Inf` = Inf, pi = pi)[[as.character(expr)]]
    return(constant %||% rlang::new_formula(NULL, expr, env = emptyenv()))
  }
  head <- call_head(expr)
  if (head %in% c(law_family_names, law_forms)) return(law_call(head, expr, place))
  if (head == "-" && length(expr) == 2 && is.numeric(expr[[2]])) return(-expr[[2]])
  if (head == "-" && length(expr) == 2 && identical(expr[[2]], quote(Inf))) return(-Inf)
  if (head == "(") return(law_from_call(expr[[2]], place))
  if (head %in% c("c", "list")) return(collected_values(expr, place))
  if (head %in% c("+", "-", "*", "/") && holds_law(expr)) {
    parts <- lapply(as.list(expr)[-1], law_from_call, place = place)
    return(in_place(place, do.call(head, parts)))
  }
  if (!head %in% c(elementwise_functions, names(formula_verbs))) {
    stop_ensayo("file", sprintf("%s must call laws that are known.", place), sprintf("%s is none.", quoted(head)),
      suggestion(head, c(law_family_names, law_forms)), name = head)
  }
  rlang::new_formula(NULL, expr, env = emptyenv())
}

# Ways to state a law besides its parameters, and the functions that read them.
law_forms <- c("around", "measured", "observed", "coefficient", "resolution", "hysteresis", "drift", "cycle", "rows", "growth", "occurrences")

law_call <- function(head, expr, place) {
  arguments <- lapply(as.list(expr)[-1], law_from_call, place = place)
  law_from_arguments(head, arguments, place)
}

# By the family's own parameters, or by facts about it where one of the names is that of a fact.
law_from_arguments <- function(head, arguments, place) {
  by_facts <- any(is_fact(names(arguments), head))
  fun <- if (by_facts) "law_from_facts" else paste0("law_", head)
  known <- if (!by_facts) names(formals(fun)) else c(names(arguments))
  unknown <- setdiff(Filter(nzchar, names(arguments)), known)
  if (length(unknown)) {
    stop_ensayo("file", sprintf("%s must use parameters of the law %s.", place, quoted(head)),
      sprintf("%s is none.", quoted(unknown[1])), suggestion(unknown[1], known), name = unknown[1])
  }
  in_place(place, rlang::exec(fun, !!!c(if (by_facts) list(head), arguments)))
}

holds_law <- function(expr) is.call(expr) && any(all.names(expr) %in% c(law_family_names, law_forms))

collected_values <- function(expr, place) {
  if (length(expr) - 1 > most_parts && holds_law(expr[[2]])) {
    stop_ensayo("file", sprintf("%s must be made of at most %d laws.", place, most_parts),
      sprintf("It lists %d.", length(expr) - 1), "Fit one law to what they are from, or take `empirical()` of draws.")
  }
  parts <- lapply(as.list(expr)[-1], law_from_call, place = place)
  if (any(vapply(parts, is_law, TRUE))) return(parts)
  unlist(parts)
}
