# Laws stated relative to a value, and by certificates and observations.

#' A law around a value
#'
#' States a law relative to a single figure: "10 per cent under to a quarter over", "plus or minus 2 per cent", "0.9
#' to 1.25 times", "a coefficient of variation of 15 per cent". The figure is the input's base value.
#'
#' @param value Number: the figure, in the input's unit.
#' @param below,above How far the law reaches below and above `value`: a positive number in the input's unit, or a
#'   text in per cent of `value`, such as `"10 %"`. `above` is the same as `below` when left out.
#' @param low,high Instead: numbers by which `value` is multiplied to give the ends, such as 0.9 and 1.25; from 0 to 1,
#'   and from 1 to 10 (a number beyond is more likely a distance, see `below` and `above`).
#' @param cv Instead: number above 0, the coefficient of variation (sd / value).
#' @param shape Text, which must be said: `"uniform"`, `"triangular"` or `"pert"` between the ends with `value` as the
#'   mode; `"normal"`, whose reach is `k` standard deviations; with `cv`, `"normal"`, `"lognormal"` or `"gamma"` with
#'   `value` as the mean.
#' @param k Number above 0: for `"normal"`, how many standard deviations the reach is.
#' @param cut `TRUE`: the normal law is truncated at its reach.
#' @return A law of that shape, which prints as it was stated; `value` is the base value of an input that has it.
#' @section Errors: `ensayo_error_argument` where the reach is not said in exactly one way, `shape` or `k` is missing,
#'   or a normal law is to reach farther on one side.
#' @examples
#' law_around(34, below = "10 %", above = "25 %", shape = "pert")
#' law_around(0.25, "2 %", shape = "normal", k = 2)
#' law_around(1200, low = 0.9, high = 1.4, shape = "triangular")
#' law_around(900, cv = 0.15, shape = "lognormal")
#' @export
law_around <- function(value, below, above, low, high, cv, shape, k, cut = FALSE) {
  given <- Filter(Negate(rlang::is_missing), as.list(environment()))
  value <- check_number(value)
  check_flag(cut)
  if (missing(shape)) {
    stop_ensayo("argument", "`shape` must be given.", NULL,
      "A tolerance says nothing about the law inside it: \"uniform\", \"triangular\", \"pert\" or \"normal\".",
      argument = "shape")
  }
  told <- list(call = "around", arguments = given[intersect(names(formals()), names(given))], base = value)
  if (!cut) told$arguments$cut <- NULL
  way <- intersect(c("below", "low", "cv"), names(given))
  if (length(way) != 1 || way != "low" && any(c("high") %in% names(given)) || way != "below" &&
    "above" %in% names(given)) {
    stop_ensayo("argument", "The reach must be said in one way: `below` and `above`, `low` and `high`, or `cv`.",
      sprintf("You gave %s.",
        if (length(given) > 1) paste(quoted(setdiff(names(given), c("value", "shape", "k", "cut"))),
        collapse = ", ") else "none"), argument = "below")
  }
  law <- if (way == "cv") around_by_cv(value, cv, shape) else {
    ends <- if (way == "low") multiplied_ends(value, low, high) else distant_ends(value, below,
      if (missing(above)) below else above)
    around_between(value, ends, shape, if (missing(k)) NULL else k, cut)
  }
  new_law(family_name(law), parameters_of(law), told)
}

distant_ends <- function(value, below, above, call = rlang::caller_env()) {
  c(value - distance_of(below, value, "below", call), value + distance_of(above, value, "above", call))
}

# "10 %" of the value, or a distance in its unit.
distance_of <- function(x, value, arg, call) {
  if (is.character(x) && length(x) == 1 && grepl("^ *[0-9.]+(e-?[0-9]+)? *% *$", x)) {
    x <- as.double(sub("%", "", x)) / 100 * abs(value)
    if (value == 0) stop_argument(arg, "a distance in the input's unit, since per cents of 0 are 0", x, call = call)
  }
  ok <- is.numeric(x) && length(x) == 1 && is.finite(x) && x >= 0
  if (!ok) stop_argument(arg, "a distance of at least 0, or a text such as \"10 %\"", x, call = call)
  x
}

multiplied_ends <- function(value, low, high, call = rlang::caller_env()) {
  multiplier <- "It multiplies the value: 0.9 is 10 % less, 1.3 is 30 % more. Distances are `below` and `above`."
  low <- check_number(low, "low", at_least = 0, at_most = 1, mend = multiplier, call = call)
  high <- check_number(high, "high", at_least = 1, at_most = 10, mend = multiplier, call = call)
  if (value == 0) stop_argument("value", "other than 0, to be multiplied", value, call = call)
  sort(value * c(low, high))
}

around_between <- function(value, ends, shape, k, cut, call = rlang::caller_env()) {
  shape <- check_choice(shape, c("uniform", "triangular", "pert", "normal"), "shape", call)
  if (shape == "uniform") return(law_uniform(ends[1], ends[2]))
  if (shape == "triangular") return(law_triangular(ends[1], value, ends[2]))
  if (shape == "pert") return(law_pert(ends[1], value, ends[2]))
  reach <- abs(ends - value)
  if (abs(diff(reach)) > 1e-9 * max(reach)) {
    stop_ensayo("argument", "A normal law must reach as far below as above.",
      sprintf("It is to reach %s below and %s above.", format(reach[1]), format(reach[2])),
      "Take \"pert\" or \"triangular\" for a lopsided reach.", argument = "above", call = call)
  }
  if (is.null(k)) {
    stop_ensayo("argument", "`k` must be given for a normal law: how many standard deviations its reach is.", NULL,
      "`k = 2` where about 95 % of the outcomes lie within it.", argument = "k", call = call)
  }
  law <- law_normal(value, reach[1] / check_number(k, "k", above = 0, call = call))
  if (cut) law_truncated(law, ends[1], ends[2]) else law
}

around_by_cv <- function(value, cv, shape, call = rlang::caller_env()) {
  shape <- check_choice(shape, c("normal", "lognormal", "gamma"), "shape", call)
  sd <- check_number(cv, "cv", above = 0, call = call) * abs(value)
  switch(shape, normal = law_normal(value, sd), lognormal = law_lognormal(mean = value, sd = sd),
    gamma = law_gamma(mean = value, sd = sd))
}
