# What a law is: the name of its family and its parameters, as data. What the family can do stands in one record of
# pure functions, `family_<name>` in `law-<name>.R`; a law's value holds none of them, so that it can be saved, hashed
# and sent to a worker. Every record has
#   title, about     what it is called, and when to use it
#   parameters       the names of its parameters, in order; `forms` where there is more than one set
#   mode_parameter   the parameter that is the mode, where there is one
#   quantile(par, p, lower), cumulative(par, x, lower, log), density(par, x, log)
#   moments(par)     mean, variance, skewness, excess kurtosis
#   mode(par), support(par)

new_law <- function(family, parameters) {
  structure(list(family = family, parameters = parameters), class = "ensayo_law")
}

law_family_names <- c("normal", "lognormal", "uniform", "triangular", "pert")

is_law <- function(x) inherits(x, "ensayo_law")

# Looked up by name, so that no file needs to be read before another.
family_record <- function(family) get(paste0("family_", family), envir = topenv(), mode = "list")

family_of <- function(law) family_record(.subset2(law, "family"))

parameters_of <- function(law) .subset2(law, "parameters")

#' Ask a law
#'
#' Every law answers the same questions. All are vectorised over `probs` or `x`; an `NA` gives an `NA`.
#'
#' Far tails are exact: ask for the upper tail with `tail = "upper"` rather than with `1 - p`, which has no digits left
#' below about `1e-16`.
#'
#' @param law,x,object A law, such as [law_normal()] makes.
#' @param probs Numeric: probabilities from 0 to 1.
#' @param tail `"lower"`: the probability of at most that value; `"upper"`: of more than that value.
#' @param log `TRUE` for natural logarithms of the probability or density.
#' @param ... Not used; anything here is an error.
#' @return `quantile()`, `cumulative()` and `density_at()`: a numeric as long as `probs` or `x`, in the law's unit, as a
#'   probability, and per unit. `mean()`, `median()` and `most_likely()`: one number; `most_likely()` is `NA` where
#'   all values are equally likely. `moments()`: a data frame of one row with `mean`, `sd`, `variance`,
#'   `skewness` (third standardised moment) and `excess_kurtosis` (fourth, less 3). `support()`: a numeric with
#'   names `min` and `max`. `parameters()`: a named list, as given. `summary()`: a data frame of one row.
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
  family_of(x)$quantile(parameters_of(x), check_probabilities(probs), tail == "lower")
}

#' @rdname law_accessors
#' @export
cumulative <- function(law, x, tail = "lower", log = FALSE) {
  check_law(law)
  tail <- check_choice(tail, c("lower", "upper"))
  family_of(law)$cumulative(parameters_of(law), check_numeric(x), tail == "lower", check_flag(log))
}

#' @rdname law_accessors
#' @export
density_at <- function(law, x, log = FALSE) {
  check_law(law)
  family_of(law)$density(parameters_of(law), check_numeric(x), check_flag(log))
}

#' @rdname law_accessors
#' @export
mean.ensayo_law <- function(x, ...) {
  check_no_dots(..., .options = character())
  family_of(x)$moments(parameters_of(x))[["mean"]]
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
  m <- family_of(law)$moments(parameters_of(law))
  new_table(list(
    mean = m[["mean"]], sd = sqrt(m[["variance"]]), variance = m[["variance"]],
    skewness = m[["skewness"]], excess_kurtosis = m[["excess_kurtosis"]]
  ))
}

#' @rdname law_accessors
#' @export
most_likely <- function(law) {
  check_law(law)
  family_of(law)$mode(parameters_of(law))
}

#' @rdname law_accessors
#' @export
support <- function(law) {
  check_law(law)
  stats::setNames(family_of(law)$support(parameters_of(law)), c("min", "max"))
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

# The single-point estimate a law stands for when the user gives none, and the rule it came from.
base_of_law <- function(law) {
  mode <- mode_parameter(law)
  if (is.null(mode)) list(value = mean(law), rule = "mean") else list(value = mode, rule = "mode")
}

mode_parameter <- function(law) {
  parameter <- family_of(law)$mode_parameter
  if (is.function(parameter)) return(parameter(parameters_of(law)))
  if (!is.null(parameter)) parameters_of(law)[[parameter]]
}
