# Laws whose parameters are other inputs. Their value holds the parameters as given; a run's law comes to be when the
# inputs it needs are drawn.

#' Parameters that are uncertain themselves
#'
#' A number that is a parameter of a law may be a formula of other inputs, written with a tilde: `law_normal(mean = ~
#' mu, sd = 2)`, `law_lognormal(mean = ~ yearly, sd = ~ 0.2 * yearly)`. In each run the law then has the parameters
#' which that run's draws give it.
#'
#' Such a law answers no questions by itself, for its numbers are not known before the run; it can be an input, be
#' correlated, fixed or replaced like any other. Its base value is that of the law with every other input at its base
#' value. A run in which the parameters make no law (a standard deviation of -1) is a failed run.
#'
#' In study files and tables of inputs the formula stands as it is: `normal(mean = mu, sd = 2)`, or `{law: normal,
#' mean: mu, sd: 2}`.
#'
#' @section Errors: `ensayo_error_argument` where such a law is asked for quantiles or the like, or another law is
#'   made from it; `ensayo_error_name` and `ensayo_error_formula` where the formula is not one of inputs.
#' @examples
#' study("Bursts in a year") |>
#'   add_inputs(
#'     rate = law_gamma(mean = 7.5, sd = 2),
#'     bursts = law_poisson(mean = ~ rate)
#'   ) |>
#'   add_outputs(hours = bursts * 6) |>
#'   simulate(nsim = 1000, seed = 11)
#' @name linked_parameters
NULL

is_linked <- function(law) family_name(law) == "linked"

new_linked_law <- function(family, given, call) {
  record <- family_record(family)
  for (name in names(given)) {
    if (!rlang::is_formula(given[[name]])) {
      check_parameter(given[[name]], name, record$parameters[[name]], call)
    } else if (!record$parameters[[name]] %in% c("number", "spread", "positive", "factor", "share",
      "whole", "count")) {
      stop_argument(name, "given as it is: a formula can stand for a number alone", given[[name]], call = call)
    }
  }
  new_law("linked", list(family = family, given = given))
}

family_linked <- list(
  title = "Linked",
  about = "A law whose parameters are other inputs.",
  kind = "derived",
  discrete = function(par) family_record(par$family)$kind == "discrete",
  parameters = c(family = "text", given = "values"),
  quantile = function(par, ...) stop_linked(par),
  cumulative = function(par, ...) stop_linked(par),
  density = function(par, ...) stop_linked(par),
  moments = function(par) stop_linked(par),
  mode = function(par) stop_linked(par),
  support = function(par) stop_linked(par)
)

stop_linked <- function(par) {
  stop_ensayo("argument", "Only a law with numbers for parameters can be asked.",
    sprintf("It is %s.", quoted(call_text(par$family, par$given, FALSE))),
    "Its parameters are known in each run: read the input off the result.")
}

# The formulas of a linked law, read with the study's inputs in sight; and the inputs they use.
bind_links <- function(law, known, what) {
  if (!is_law(law) || !is_linked(law)) return(law)
  par <- parameters_of(law)
  par$given <- Map(function(value, name) {
    if (!rlang::is_formula(value)) return(value)
    rhs <- rlang::f_rhs(value)
    place <- sprintf("%s, %s", what, quoted(name))
    env <- rlang::f_env(value)
    if (identical(env, emptyenv())) return(read_formula_text(deparse1(rhs), known, place))
    read_formula(rlang::new_quosure(rhs, env), known, place)
  }, par$given, names(par$given))
  new_law("linked", par)
}

is_read_formula <- function(x) is.list(x) && !is.null(x$expr)

links_of <- function(law) {
  if (!is_law(law) || !is_linked(law)) return(character())
  unique(unlist(lapply(Filter(is_read_formula, parameters_of(law)$given), function(formula) formula$uses)))
}

# The same law with the links to an input under another name.
rename_links <- function(law, old, new) {
  if (!old %in% links_of(law)) return(law)
  par <- parameters_of(law)
  par$given <- lapply(par$given, function(x) if (is_read_formula(x)) rename_in_formula(x, old, new) else x)
  new_law("linked", par)
}

# The draws of a linked law: its parameters in each run from the columns of the inputs they use. Where they make no law
# the draw is not a number.
linked_quantile <- function(law, p, columns) {
  par <- linked_parameters_in(law, columns, length(p))
  record <- family_record(parameters_of(law)$family)
  n <- lengths(par)
  if (isTRUE(record$elementwise)) {
    full <- Map(function(value, name) rep_len(value, length(p)), par, names(par))
    good <- plainly_valid(record, full)
    canonical <- record$canonical %||% identity
    x <- suppressWarnings(record$quantile(canonical(Map(function(column, count) if (count == 1) column[1] else column,
      full, n)), p, TRUE))
    x[!good] <- NaN
    return(x)
  }
  vapply(seq_along(p), function(i) {
    one <- Map(function(value, count) if (count == 1) value else value[[i]], par, n)
    tryCatch(quantile(do.call(paste0("law_", parameters_of(law)$family), one), p[i]), ensayo_error = function(e) NaN)
  }, 0)
}

linked_parameters_in <- function(law, columns, runs) {
  given <- parameters_of(law)$given
  formulas <- Filter(is_read_formula, given)
  values <- new_evaluator(formulas)(columns, seq_len(runs))$values
  given[names(formulas)] <- values
  c(given, rest_of(parameters_of(law)$family, given))
}

# Whether parameters make a law as far as their ranges and order say; vectorised over runs.
plainly_valid <- function(record, par) {
  Reduce(`&`, Map(in_range, par, record$parameters[names(par)])) & in_order(par)
}

in_range <- function(x, asked) {
  switch(asked,
    spread = , positive = x > 0 & is.finite(x), factor = x > 1 & is.finite(x),
    share = x > 0 & x < 1, count = x >= 1 & x == floor(x), whole = x == floor(x), tail = rep(TRUE, length(x)),
    is.finite(x)
  )
}

# Limits in order, as far as the elementwise families have them.
in_order <- function(par) {
  steps <- par[intersect(c("min", "from", "mode", "to", "max"), names(par))]
  good <- TRUE
  if (all(c("min", "max") %in% names(par))) good <- par$min < par$max
  for (i in seq_along(steps)[-1]) good <- good & steps[[i]] >= steps[[i - 1]]
  over <- par[["mean"]] %||% par[["median"]]
  if (!is.null(over) && !is.null(par[["min"]])) good <- good & over > par$min
  good
}

# The law that a linked law is in a single case, such as the base case.
linked_law_at <- function(law, columns) {
  do.call(paste0("law_", parameters_of(law)$family), linked_parameters_in(law, columns, 1))
}
