# What a law is: the name of its family and its parameters, as data. What the family can do stands in one record of
# pure functions, `family_<name>` in `law-<name>.R`; a law's value holds none of them, so that it can be saved, hashed
# and sent to a worker. Every record has
#   title, about     what it is called, and when to use it: the words of `laws()`, the help pages and `ensayo laws`
#   kind             "continuous", "discrete", "data" or "derived"
#   parameters       its parameters in order, each with what is asked of it (law-parameters.R)
#   quantile(par, p, lower), cumulative(par, x, lower, log), density(par, x, log), support(par)
# where it is not smooth everywhere inside its support, or is not certain to stay near
#   kinks(par)       the values inside at which the density jumps, bends or is infinite
#   atoms(par)       values that have a probability of their own beside a density: `values` and `shares`
#   strict(par, x, lower, log)  the probability below x, or of at least x, where that differs from `cumulative`
#   tail_index(par)  how far the lower and the upper tail reach: moments below this order exist; else all of them do
# and where it can be said
#   quick_mean(parameters)  the mean from the parameters as given, where what `canonical` makes is dear
#   forms            the sets of parameters of which exactly one must be given
#   check(par)       what is asked of several parameters together
#   canonical(par)   the one set of parameters that the functions above and below work with; laws among them are ready
#                    (law-ready.R). A law made of others may be a plain one in the end: then a ready law
#   between(par, from, to, closed_from, closed_to)  the logarithm of the probability between two values, to the last
#                    digits; laws made of laws compose it, the others leave it to law-between.R
#   moments(par)     mean, variance, skewness, excess kurtosis; else they are integrated
#   composed(par)    whether its quantile is looked for by the cumulative probability (law-inversion.R), from
#   rough(par)       two values that are about as far from each other as most of the law is wide; else its quartiles
#   mode(par)        else it is searched for, beginning at peaks(par)
#   mode_parameter   the parameter that is the mode, or a function of `par` that gives it
#   recipe(par), dear  how the draw engine inverts it, and whether its quantile is worth a table (draw-table.R)
#   kept             TRUE where what `canonical` makes, and its table, are so dear that they are kept for the session
#   table_error      how far that table may be off, relative to the smaller tail's probability; else as draw-table.R says
#   symmetric_about(par)  the middle that the law mirrors itself in: half a table then serves for both sides
#   elementwise      TRUE where `quantile` also takes a column for each parameter, a row for each p

# `told` is how the user said it, where that was by facts about the law or relative to a value: the call's name and
# arguments (law-facts.R, law-around.R).
new_law <- function(family, parameters, told = NULL) {
  law <- list(family = family, parameters = parameters)
  if (!is.null(told)) law$told <- told
  structure(law, class = "ensayo_law")
}

told_of <- function(law) .subset2(law, "told")

law_family_names <- c(
  "normal", "lognormal", "uniform", "triangular", "pert", "trapezoidal", "curvilinear", "arcsine", "beta", "gamma",
  "exponential", "weibull", "gumbel", "pareto", "logistic", "laplace", "student", "piecewise", "histogram",
  "discrete", "integers", "bernoulli", "binomial", "poisson", "negative_binomial", "geometric", "hypergeometric",
  "empirical", "truncated", "mixture", "largest", "smallest", "compound", "custom"
)

is_law <- function(x) inherits(x, "ensayo_law")

# Looked up by name, so that no file needs to be read before another.
family_record <- function(family) {
  met <- records_met[[family]]
  if (!is.null(met)) return(met)
  record <- get(paste0("family_", family), envir = topenv(), mode = "list")
  # which parameters are laws, and which lists of them
  record$inner <- lapply(c(law = "law", laws = "laws"), function(kind) names(record$parameters)[record$parameters == kind])
  records_met[[family]] <- record
}

records_met <- new.env(parent = emptyenv())

family_name <- function(law) .subset2(law, "family")

family_of <- function(law) family_record(family_name(law))

parameters_of <- function(law) .subset2(law, "parameters")

is_discrete <- function(law) {
  if (is_ready(law)) return(law$discrete)
  record <- family_of(law)
  if (is.function(record$discrete)) record$discrete(parameters_of(law)) else record$kind == "discrete"
}

#' Ask a law
#'
#' Every law answers the same questions. All are vectorised over `probs` or `x`; an `NA` gives an `NA`.
#'
#' Far tails are exact: ask for the upper tail with `tail = "upper"` rather than with `1 - p`, which has no digits
#' left below about `1e-16`.
#'
#' @param law,x,object A law, such as [law_normal()] makes.
#' @param probs Numeric: probabilities from 0 to 1.
#' @param tail `"lower"`: the probability of at most that value; `"upper"`: of more than that value.
#' @param log `TRUE` for natural logarithms of the probability or density.
#' @param ... Not used; anything here is an error.
#' @return `quantile()`, `cumulative()` and `density_at()`: a numeric as long as `probs` or `x`, in the law's unit, as
#'   a probability, and per unit. `mean()`, `median()` and `most_likely()`: one number; `most_likely()` is `NA` where
#'   all values are equally likely. `moments()`: a data frame of one row with `mean`, `sd`, `variance`, `skewness`
#'   (third standardised moment) and `excess_kurtosis` (fourth, less 3). `support()`: a numeric with names `min` and
#'   `max`. `parameters()`: a named list, as given. `summary()`: a data frame of one row.
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' demand <- law_pert(28, 34, 48)
#' quantile(demand, c(0.1, 0.5, 0.9))
#' cumulative(demand, 40, tail = "upper")
#' moments(demand)
#' quantile(law_normal(0, 1), 1e-300, tail = "upper")
#' @name law_accessors
NULL

#' @rdname law_accessors
#' @export
quantile.ensayo_law <- function(x, probs = c(0, 0.25, 0.5, 0.75, 1), tail = "lower", ...) {
  check_no_dots(..., .options = c("probs", "tail"))
  tail <- check_choice(tail, c("lower", "upper"))
  ask(x, "quantile", check_probabilities(probs), tail == "lower")
}

#' @rdname law_accessors
#' @export
cumulative <- function(law, x, tail = "lower", log = FALSE) {
  check_law(law)
  tail <- check_choice(tail, c("lower", "upper"))
  ask(law, "cumulative", check_values(law, x), tail == "lower", check_flag(log))
}

#' @rdname law_accessors
#' @export
density_at <- function(law, x, log = FALSE) {
  check_law(law)
  ask(law, "density", check_values(law, x), check_flag(log))
}

#' @rdname law_accessors
#' @export
mean.ensayo_law <- function(x, ...) {
  check_no_dots(..., .options = character())
  ask(x, "moments")[["mean"]]
}

#' @rdname law_accessors
#' @export
median.ensayo_law <- function(x, na.rm = FALSE, ...) {
  check_no_dots(..., .options = character())
  quantile(x, 0.5)
}

#' @rdname law_accessors
#' @param na.rm Not used; there for the generic.
#' @export
moments <- function(law) {
  check_law(law)
  m <- ask(law, "moments")
  new_table(list(
    mean = m[["mean"]], sd = sqrt(m[["variance"]]), variance = m[["variance"]],
    skewness = m[["skewness"]], excess_kurtosis = m[["excess_kurtosis"]]
  ))
}

#' @rdname law_accessors
#' @export
most_likely <- function(law) {
  check_law(law)
  ask(law, "mode")
}

#' @rdname law_accessors
#' @export
support <- function(law) {
  check_law(law)
  stats::setNames(ask(law, "support"), c("min", "max"))
}

#' @rdname law_accessors
#' @export
parameters <- function(law) {
  check_law(law)
  parameters_of(law)
}

#' @rdname law_accessors
#' @export
summary.ensayo_law <- function(object, ...) {
  check_no_dots(..., .options = character())
  ends <- support(object)
  percentiles <- quantile(object, c(0.1, 0.5, 0.9))
  new_table(c(
    list(law = format(object), min = ends[["min"]], max = ends[["max"]]),
    moments(object)[c("mean", "sd", "skewness", "excess_kurtosis")],
    list(P10 = percentiles[1], P50 = percentiles[2], P90 = percentiles[3])
  ))
}

# Categories are asked for by their texts, everything else by numbers.
check_values <- function(law, x, call = rlang::caller_env()) {
  if (!is_categorical(law)) return(check_numeric(x, "x", call))
  if (!is.character(x)) stop_argument("x", "texts, as the law's values are", x, call = call)
  normal_name(x)
}

is_categorical <- function(law) {
  family_name(law) == "discrete" && is.character(parameters_of(law)$values)
}

# The single-point estimate a law stands for when the user gives none, and the rule it came from.
base_of_law <- function(law) {
  stated <- told_of(law)$base
  if (!is.null(stated)) return(list(value = stated, rule = "stated"))
  mode <- mode_parameter(law)
  if (is.null(mode)) list(value = quick_mean(law), rule = "mean") else list(value = mode, rule = "mode")
}

# The mean without what else a law needs to be asked, where its record knows how.
quick_mean <- function(law) {
  known <- family_of(law)$quick_mean
  if (is.null(known)) mean(law) else known(parameters_of(law))
}

mode_parameter <- function(law) {
  parameter <- family_of(law)$mode_parameter
  if (is.function(parameter)) return(parameter(parameters_of(law)))
  if (!is.null(parameter)) parameters_of(law)[[parameter]]
}
