# The formula verbs that are our own: within a run where base R's would act across runs. A formula is evaluated in an
# environment of columns (formula-evaluate.R); its attribute "context" says which runs the columns stand for.

within_run <- function(pairwise) {
  force(pairwise)
  function(...) {
    if (...length() == 1) return(Reduce(pairwise, over_steps(substitute(...), parent.frame())))
    Reduce(pairwise, list(...))
  }
}

within_mean <- function(...) {
  values <- if (...length() == 1) over_steps(substitute(...), parent.frame()) else list(...)
  Reduce(`+`, values) / length(values)
}

# `if`, `ifelse`, `&&` and `||` evaluate each branch for the runs that take it and no others: what is not taken gives
# neither warning nor failure.
within_if <- function(condition, yes, no) {
  choose_branch(condition, substitute(yes), substitute(no), parent.frame())
}

within_and <- function(left, right) as.logical(choose_branch(left, substitute(right), FALSE, parent.frame(), "&&"))

within_or <- function(left, right) as.logical(choose_branch(left, TRUE, substitute(right), parent.frame(), "||"))

choose_branch <- function(condition, yes, no, env, verb = "if") {
  context <- attr(env, "context")
  if (!is.logical(condition) && !is.numeric(condition)) {
    stop_ensayo("model", sprintf("The condition of `%s` must be TRUE or FALSE.", verb),
      sprintf("It is %s.", shown_value(condition)))
  }
  n <- length(context$runs)
  condition <- rep_len(as.logical(condition), n)
  unknown <- which(is.na(condition))
  if (length(unknown)) context$fail(context$runs[unknown], sprintf("the condition of `%s` is NA", verb))
  taken <- list(which(condition), which(!condition))
  if (length(taken[[1]]) == n) return(eval(yes, env))
  if (length(taken[[2]]) == n) return(eval(no, env))
  if (n == 0 || length(unknown) == n) return(rep(NA, n))
  values <- Map(function(branch, rows) {
    if (length(rows)) rep(eval(branch, subset_context(env, rows)), length.out = length(rows))
  }, list(yes, no), taken)
  together <- do.call(c, Filter(Negate(is.null), unname(values)))
  together[match(seq_len(n), unlist(taken))]
}

# The same columns for some of the runs; single values stay single.
subset_context <- function(env, rows) {
  context <- attr(env, "context")
  columns <- lapply(as.list(env, all.names = TRUE), function(column) {
    if (length(column) == 1) column else column_at(column, rows)
  })
  new_context(columns, context$runs[rows], context$fail, parent.env(env))
}

new_context <- function(columns, runs, fail, parent) {
  env <- list2env(columns, parent = parent)
  attr(env, "context") <- list(runs = runs, fail = fail)
  env
}

# Written in formula-lookup.R; looked up when called, so that no file needs to be read before another.
lookup_verb <- function(table, x, y) lookup_in_run(table, x, y, attr(parent.frame(), "context"))
date_verb <- function(text) date_of_text(text)

formula_verbs <- list(
  min = within_run(function(a, b) pmin(a, b)), max = within_run(function(a, b) pmax(a, b)),
  sum = within_run(function(a, b) a + b), prod = within_run(function(a, b) a * b), mean = within_mean,
  any = within_run(function(a, b) a | b), all = within_run(function(a, b) a & b),
  `if` = within_if, ifelse = within_if, `&&` = within_and, `||` = within_or, `%in%` = function(x, table) x %in% table,
  lookup = lookup_verb, date = date_verb, weighted_sum = function(...) NULL,
  at = function(series, step) series_at(substitute(series), step, parent.frame()),
  last = function(series) series_at(substitute(series), NULL, parent.frame()),
  first_step = function(condition, never) step_of_first(substitute(condition), never, parent.frame()),
  highest_step = function(series) step_of_extreme(substitute(series), TRUE, parent.frame()),
  lowest_step = function(series) step_of_extreme(substitute(series), FALSE, parent.frame()),
  longest_stay = function(condition) longest_of_stays(substitute(condition), parent.frame()),
  deepest_fall = function(series) deepest_of_falls(substitute(series), parent.frame()),
  recovery = function(series, never) steps_of_recovery(substitute(series), never, parent.frame())
)

# A verb's call as it will be evaluated, after what is asked of its arguments.
read_verb <- function(head, expr, found) {
  if (head %in% c("if", "ifelse") && length(expr) != 4) {
    stop_ensayo("formula", sprintf("%s: `%s` needs a condition and two branches.", found$what, head),
      sprintf("It reads %s.", quoted(deparse1(expr))), "Write `if (condition) a else b`.")
  }
  if (head == "%in%") {
    expr[[2]] <- read_node(expr[[2]], found)
    expr[[3]] <- read_choices(expr[[3]], found)
    return(expr)
  }
  if (head == "weighted_sum") return(read_weighted_sum(expr, found))
  if (head == "lookup") return(read_lookup(expr, found))
  if (head == "date") return(read_date(expr, found))
  if (head %in% series_verbs || is_over_steps(head, expr, found)) return(read_over_steps(head, expr, found))
  if (head %in% several_verbs) {
    given <- flatten_combined(expr)
    if (head == "sum") given <- with_sums(given, found)
    expr <- expand_families(given, found)
    if (head == "sum" && length(expr) == 2 && is_sum_known(expr[[2]], found)) return(read_symbol(expr[[2]], found))
    # a family of one is several in kind
    if (identical(expr, given)) check_several(head, expr, found)
  }
  read_arguments(expr, found)
}

several_verbs <- c("min", "max", "sum", "prod", "mean", "any", "all")

check_several <- function(head, expr, found) {
  options <- Filter(nzchar, names(expr))
  if (length(options)) {
    stop_ensayo("formula", sprintf("%s: `%s()` takes quantities alone.", found$what, head),
      sprintf("It was given the option %s.", quoted(options[1])))
  }
  if (length(expr) < 3) {
    read_arguments(expr, found)  # a name that is not known comes first
    stop_ensayo("across_runs",
      sprintf("%s: `%s()` in a formula takes several quantities and acts within a run.", found$what, head),
      sprintf("It was given one: %s.", quoted(deparse1(expr))),
      sprintf("Did you mean the %s across runs? That is a reading of the result (`summary(result)`).", head))
  }
}

# The right side of `%in%`: constants, as `c(...)` of single values.
read_choices <- function(expr, found) {
  uses <- normal_name(free_names(expr))
  value <- if (is.null(found$env) || any(vapply(uses, is_known, TRUE, found))) literal_choices(expr)
    else tryCatch(eval(expr, found$env), error = function(e) NULL)
  if (!is.atomic(value) || length(value) == 0) {
    stop_ensayo("formula", sprintf("%s: `%%in%%` needs constants on its right side.", found$what),
      sprintf("It was given %s.", quoted(deparse1(expr))), "Compare quantities with `==` and `||`.")
  }
  as.call(c(quote(c), as.list(value)))
}

literal_choices <- function(expr) {
  parts <- if (rlang::is_call(expr, "c")) as.list(expr)[-1] else list(expr)
  if (all(vapply(parts, rlang::is_scalar_atomic, TRUE))) unlist(parts)
}

# `mean(c(a, b), d)` as `mean(a, b, d)`.
flatten_combined <- function(expr) {
  arguments <- lapply(as.list(expr)[-1],
    function(x) if (rlang::is_call(x, "c")) as.list(flatten_combined(x))[-1] else list(x))
  as.call(c(expr[[1]], unlist(arguments, recursive = FALSE)))
}
