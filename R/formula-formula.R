# Reading a formula: every name and function in it is looked up once, here, and bound by value. What comes out is data:
#   expr       the expression, quantities and bound constants as symbols
#   text       the expression as text
#   uses       the inputs and outputs it needs
#   constants  values taken from the caller, by name
#   functions  the user's own functions, by name, each with how it is called (formula-function.R)
#   tables     look-up tables, by name (formula-lookup.R)
#   written    the text as it was written, where families were written out and nothing came from the session

# Deeper expressions would overflow R's own evaluator, or this reader where they do not lean to the left as sums do.
max_depth <- 500
max_nesting <- 100

# From an expression with the environment it was written in; or from a text, as files have it.
read_formula <- function(quosure, known, what, vectorised = NULL) {
  if (is.character(quosure)) return(read_formula_text(quosure, known, what))
  env <- rlang::quo_get_env(quosure)
  found <- new_findings(known, what, function(name) lookup_value(name, env), function(name) lookup_function(name, env),
    env)
  finish_formula(rlang::quo_get_expr(quosure), found, vectorised)
}

# A formula as text, from a file: the closed language alone, no value or function from outside.
read_formula_text <- function(text, known, what) {
  if (nchar(text) > 10000) {
    stop_ensayo("formula", sprintf("%s must have at most 10000 characters.", what),
      sprintf("It has %d.", nchar(text)), "Split it into several outputs.")
  }
  expr <- tryCatch(str2lang(text), error = function(e) {
    fault <- sub("\n.*", "", sub("^<text>:[0-9]+:[0-9]+: ", "", conditionMessage(e)))
    stop_ensayo("formula", sprintf("%s must be one formula.", what), sprintf("It reads %s: %s.", quoted(text), fault))
  })
  finish_formula(expr, new_findings(known, what, function(name) NULL, function(name) NULL, NULL), NULL)
}

new_findings <- function(known, what, value, fun, env) {
  set <- attr(known, "set") %||% set_of(known)
  list2env(list(known = known, set = set, what = what, value = value, fun = fun, env = env, uses = character(),
    constants = list(),
    functions = list(), tables = list(), families = FALSE, from_session = FALSE, over = NULL, nesting = 0, picks = TRUE), parent = emptyenv())
}

# Names to be asked for one by one.
set_of <- function(names) list2env(stats::setNames(rep(list(TRUE), length(names)), names), parent = emptyenv())

is_known <- function(name, found) exists(name, envir = found$set, inherits = FALSE)

finish_formula <- function(expr, found, vectorised) {
  if (is.character(expr)) {
    stop_ensayo("formula", sprintf("%s must be a formula.", found$what),
      sprintf("It is the text %s.", shown_value(expr)),
      "Write it without quotation marks.")
  }
  if (expression_depth(expr) > max_depth) stop_too_deep(found, max_depth)
  written <- deparse1(expr, width.cutoff = 500L)
  found$picks <- grepl("[$@]", written)
  given <- expr
  expr <- read_node(expr, found)
  functions <- lapply(names(found$functions), function(name) {
    bind_function(found$functions[[name]], name, found$what, vectorised)
  })
  names(functions) <- names(found$functions)
  formula <- list(expr = expr, text = if (identical(expr, given)) written else deparse1(expr, width.cutoff = 500L), uses = unique(found$uses),
    constants = found$constants, functions = functions)
  if (length(found$tables)) formula$tables <- found$tables
  if (length(found$lags)) formula$lags <- found$lags
  if (found$families) {
    formula$text <- written
    if (!found$from_session && length(found$constants) == 0) formula$written <- written
  }
  formula
}

# Depth without recursion: a sum of thousands of terms is a tree as deep.
expression_depth <- function(expr) {
  level <- list(expr)
  depth <- 0
  while (length(level) > 0 && depth <= max_depth) {
    depth <- depth + 1
    calls <- vapply(level, is.call, NA)
    level <- if (any(calls)) unlist(lapply(level[calls], as.list), recursive = FALSE)
  }
  depth
}

stop_too_deep <- function(found, limit) {
  stop_ensayo("formula", sprintf("%s must not be nested more than %d deep.", found$what, limit), NULL,
    "Split it into several outputs.")
}

read_node <- function(expr, found) {
  if (is.symbol(expr)) return(read_symbol(expr, found))
  if (is.call(expr)) {
    found$nesting <- found$nesting + 1
    if (found$nesting > max_nesting) stop_too_deep(found, max_nesting)
    expr <- read_call(expr, found)
    found$nesting <- found$nesting - 1
    return(expr)
  }
  # a day that was put in by value
  if (inherits(expr, "Date") && length(expr) == 1 && !is.na(expr)) return(call("date", format(as_day(expr))))
  if (rlang::is_scalar_atomic(expr)) return(expr)
  stop_ensayo("formula", sprintf("%s must be made of single numbers, names and functions.", found$what),
    sprintf("It holds %s.", shown_value(expr)))
}

read_symbol <- function(symbol, found) {
  name <- normal_name(symbol)
  if (is_known(name, found)) {
    if (!is.null(attr(found$known, "series")[[name]])) note_series(name, found)
    found$uses <- c(found$uses, name)
    return(as.symbol(name))
  }
  if (name == "pi") return(symbol)
  members <- family_named(symbol, found)
  if (!is.null(members)) stop_bare_family(name, members, found)
  value <- found$value(name)
  if (is.null(value)) {
    stop_ensayo("name", sprintf("%s must use names that are known.", found$what),
      sprintf("%s is not an input%s.", quoted(name),
        if (is.null(found$env)) " or output" else ", an output or a value of your own"),
      suggestion(name, found$known), name = name, known = found$known)
  }
  if (!is_plain_scalar(value)) {
    stop_ensayo("formula", sprintf("%s must use single values.", found$what),
      sprintf("%s is %s.", quoted(name), shown_value(value)),
      "Make it one number first, such as `sum(x)` of values of your own.", name = name)
  }
  found$constants[[name]] <- value
  as.symbol(name)
}

is_plain_scalar <- function(x) {
  length(x) == 1 && (inherits(x, "Date") || (is.numeric(x) || is.logical(x) || is.character(x)) && !is.object(x))
}

read_call <- function(expr, found) {
  head <- call_head(expr, found)
  if (head == "as.Date") head <- "date"
  expr[[1]] <- as.symbol(head)
  member <- family_member(expr, found) %||% task_quantity(head, expr, found)
  if (!is.null(member)) return(read_symbol(member, found))
  if (!head %in% c("(", "lookup", "happened") && !is.null(found$env) && is_outside(expr, found)) return(fold_constant(expr, found))
  if (is_verb(head, found)) return(read_verb(head, expr, found))
  if (head == "happened") return(read_happened(expr, found))
  if (head == "before" && !is.null(attr(found$known, "lines"))) return(read_before(expr, found))
  fun <- found$fun(head)
  if (is.null(fun) || comes_with_r(fun)) {
    fault <- function_fault(head)
    if (!is.null(fault)) stop_function_fault(fault, found$what)
    if (head %in% c("[", "[[", "$", "@")) stop_function_fault(picking_fault(expr), found$what)
    in_language <- head %in% c(elementwise_functions, if (!is.null(found$env)) elementwise_stats)
    if (in_language) return(read_arguments(expr, found))
    if (is.null(fun) || head %in% syntax_words) stop_unknown_function(head, found)
  }
  found$functions[[head]] <- fun
  read_arguments(expr, found)
}

syntax_words <- c("<-", "=", "{", "function", "c", "for", "while", "repeat", "~", "?", ":", "return", "next", "break",
  "::", ":::")

# The language decides on functions that come with R; others are looked at for themselves.
comes_with_r <- function(fun) {
  is.primitive(fun) || is_package_function(fun) &&
    getNamespaceName(environment(fun)) %in% c("base", "stats", "utils", "methods")
}

is_package_function <- function(fun) is.primitive(fun) || isNamespace(environment(fun))

picking_fault <- function(expr) {
  list(cause = "across_runs", why = sprintf("`%s` picks out runs.", deparse1(expr)),
    mend = "Name the quantity alone: it stands for the run's own value.")
}

# The name a call goes by: `stats::pnorm` is `pnorm`, another package's function keeps its full name. Anything but a
# name is refused, whatever it would evaluate to.
call_head <- function(expr, found = NULL) {
  head <- expr[[1]]
  if (is.symbol(head)) return(as.character(head))
  if (rlang::is_call(head, "::") && is.symbol(head[[2]]) && is.symbol(head[[3]])) {
    return(sub("^(base|stats)::", "", deparse1(head)))
  }
  if (is.null(found)) return("")
  stop_ensayo("formula", sprintf("%s must call functions by their names.", found$what),
    sprintf("It calls %s.", quoted(deparse1(head))), "Give the function a name of its own first.")
}

read_arguments <- function(expr, found) {
  map_arguments(expr, function(argument) {
    if (!rlang::is_missing(argument)) return(read_node(argument, found))
    stop_ensayo("formula", sprintf("%s must not leave out an argument.", found$what),
      sprintf("It holds %s.", quoted(deparse1(expr))))
  })
}

# A call with each argument changed. Sums lean to the left and may be long, so their spine is walked in a loop.
map_arguments <- function(expr, change) {
  spine <- list()
  while (is_operation(expr) && is_operation(expr[[2]])) {
    spine <- c(spine, list(expr))
    expr <- expr[[2]]
  }
  for (i in seq_along(expr)[-1]) expr[[i]] <- change(expr[[i]])
  for (node in rev(spine)) {
    node[[2]] <- expr
    node[[3]] <- change(node[[3]])
    expr <- node
  }
  expr
}

is_operation <- function(expr) {
  is.call(expr) && length(expr) == 3 && is.symbol(expr[[1]]) && as.character(expr[[1]]) %in% c("+", "-", "*", "/")
}

stop_unknown_function <- function(head, found) {
  special <- switch(head,
    "<-" = , "=" = , "{" = "A formula is one expression: make each step an output of its own.",
    "function" = "Write the function before the study and call it by its name.",
    "c" = "`c()` stands inside `min()`, `max()`, `sum()`, `mean()` and the like, or after `%in%`.",
    "for" = , "while" = , "repeat" = "Put loops into a function of your own and call it by its name.",
    NULL
  )
  near <- nearest_name(head, grep("^[a-z]", c(names(formula_verbs), elementwise_functions), value = TRUE))
  listed <- if (is.null(found$env)) "`ensayo check --help` lists its functions."
    else "`?add_outputs` tells what a formula may hold."
  stop_ensayo("formula", sprintf("%s must call functions that are known.", found$what),
    sprintf("%s is not one of the formula language%s.", quoted(head),
      if (is.null(found$env)) "" else ", nor a function of yours"),
    special %||% if (is.null(near)) listed else sprintf("Did you mean %s?", quoted(near)), name = head)
}

# A call on the user's own vectors, tables or lists alone, such as `mean(rates)`: its value is taken once, as a
# constant.
is_outside <- function(expr, found) {
  names <- if (found$picks && any(c("$", "@") %in% all.names(expr))) free_names(expr) else all.vars(expr)
  names <- names[names != "pi"]
  if (length(names) == 0) return(FALSE)
  for (name in normal_name(names)) {
    if (is_known(name, found) || !is.null(attr(found$known, "groups")[[name]])) return(FALSE)
  }
  values <- lapply(names, found$value)
  !any(vapply(values, is.null, TRUE)) && !all(vapply(values, is_plain_scalar, TRUE))
}

free_names <- function(expr) {
  names <- character()
  level <- list(expr)
  while (length(level) > 0) {
    names <- c(names, as.character(Filter(is.symbol, level)))
    level <- unlist(lapply(Filter(is.call, level), function(call) {
      as.list(if (rlang::is_call(call, c("$", "@"))) call[2] else call[-1])
    }), recursive = FALSE)
  }
  setdiff(unique(names), c("", "pi"))
}

fold_constant <- function(expr, found) {
  for (name in setdiff(all.names(expr), all.vars(expr))) {
    fault <- function_fault(name)
    if (!is.null(fault) && fault$cause != "across_runs") stop_function_fault(fault, found$what)
  }
  shown <- deparse1(expr)
  value <- rethrow_as(eval(expr, found$env), "formula", sprintf("%s must use values that can be found.", found$what))
  if (!is_plain_scalar(value)) {
    stop_ensayo("formula", sprintf("%s must use single values.", found$what),
      sprintf("%s is %s.", quoted(shown), shown_value(value)))
  }
  found$constants[[shown]] <- value
  as.symbol(shown)
}

lookup_value <- function(name, env) {
  value <- get0(name, envir = env, inherits = TRUE)
  if (is.function(value)) NULL else value
}

lookup_function <- function(head, env) {
  if (grepl("::", head, fixed = TRUE)) return(tryCatch(eval(str2lang(head)), error = function(e) NULL))
  get0(head, envir = env, mode = "function", inherits = TRUE)
}
