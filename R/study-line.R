# Straight lines through calibration points, and what follows from them forward and backward.

#' A straight line through calibration points
#'
#' `calibration_line()` fits y = intercept + slope (x - at) by least squares, with the uncertainty and correlation of both. `line_at()` reads a
#' correction at x, `line_back()` the x that belongs to a reading. `add_line()` takes both coefficients into a study as inputs.
#'
#' @param x,y Numbers, three or more: where the points were taken, and what was found there.
#' @param at Number: where the intercept counts from, in the unit of x. At the mean of x the coefficients do not correlate.
#' @param line A line, as `calibration_line()` gives it.
#' @param of `"mean"`: the line itself; `"next"`: one further point, which scatters about it as the others do.
#' @param coverage Number between 0 and 1: of the interval that `line_back()` gives.
#' @return `calibration_line()`: a list of class `ensayo_line` with a method for `as.data.frame()` (a row each for `"intercept"` and `"slope"`:
#'   `coefficient`, `value`, `standard`) and the parts `r` (their correlation), `sd` (standard deviation of a point about the line), `df` (n - 2) and
#'   `n`. `line_at()`: a data frame with a row for each `x`: `x`, `value`, `standard`, `df`. `line_back()`: a data frame of one row:
#'   `reading`, `x`, `standard`, `df`, `low`, `high`. `add_line()`: the study with inputs `<name>_intercept` and `<name>_slope`.
#' @details Each point's y scatters alike, x is taken as known. `line_back()` takes the mean of the readings, with the scatter about the line
#'   for each, and propagates it with that of both coefficients; its interval is Fieller's (1954), which is exact, and has no ends where the
#'   slope is not told from 0. In formulas the line forward is `name_intercept + name_slope * (x - at)`, backward
#'   `at + (reading - name_intercept) / name_slope`.
#' @section Source: JCGM 100:2008, H.3 (fit, eq. H.13; prediction, H.15); Fieller 1954, "Some problems in interval estimation", Journal of the
#'   Royal Statistical Society B 16(2).
#' @section Errors: `ensayo_error_argument` for fewer than three points, or x that do not differ.
#' @examples
#' thermometer <- calibration_line(x = c(21.5, 22, 22.5, 23, 23.5, 24, 24.5, 25, 25.5, 26, 26.5),
#'   y = c(-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.160),
#'   at = 20)
#' thermometer
#' line_at(thermometer, 30)
#' weighing <- calibration_line(c(0, 5, 10, 15, 20), c(0.02, 5.03, 10.01, 15.04, 20.05))
#' line_back(weighing, c(12.31, 12.29))
#' study("Reading at 30 degrees") |>
#'   add_inputs(indicated = law_measured(30, half_width = 0.05)) |>
#'   add_line(thermometer, "corr") |>
#'   add_outputs(temperature = indicated + corr_intercept + corr_slope * (indicated - 20)) |>
#'   budget()
#' @export
calibration_line <- function(x, y, at = 0) {
  check_numbers(x, "x", 3)
  check_numbers(y, "y", 3)
  check_number(at)
  if (length(x) != length(y)) stop_argument("y", sprintf("as many numbers as `x`, %d", length(x)), length(y))
  if (diff(range(x)) == 0) stop_argument("x", "different from one another", x[1], "A line needs two places at least.")
  n <- length(x)
  middle <- mean(x)
  spread <- sum((x - middle)^2)
  slope <- sum((x - middle) * y) / spread
  level <- mean(y)
  residuals <- y - level - slope * (x - middle)
  sd <- sqrt(sum(residuals^2) / (n - 2))
  if (!(sd > 0)) stop_ensayo("argument", "The points must scatter about the line.", "They lie on it exactly.", "Take readings as they were read, unrounded.")
  u <- sd * sqrt(c(1 / n + (middle - at)^2 / spread, 1 / spread))
  structure(list(intercept = level - slope * (middle - at), slope = slope, u = u, r = -(middle - at) / sqrt(spread / n + (middle - at)^2),
    sd = sd, df = n - 2, n = n, at = at, middle = middle, spread = spread, x = x, y = y), class = "ensayo_line")
}

#' @export
as.data.frame.ensayo_line <- function(x, ...) {
  list2DF(list(coefficient = c("intercept", "slope"), value = c(x$intercept, x$slope), standard = x$u))
}

check_line <- function(line, call = rlang::caller_env()) {
  check_class(line, "ensayo_line", "a line, as `calibration_line()` gives it", "line", call = call)
}

#' @rdname calibration_line
#' @export
line_at <- function(line, x, of = "mean") {
  check_line(line)
  check_numbers(x, "x", 1)
  one <- if (check_choice(of, c("mean", "next")) == "next") 1 else 0
  new_table(list(x = x, value = line$intercept + line$slope * (x - line$at),
    standard = line$sd * sqrt(one + 1 / line$n + (x - line$middle)^2 / line$spread), df = rep(line$df, length(x))))
}

#' @rdname calibration_line
#' @param readings Numbers: one reading or several of the same quantity.
#' @export
line_back <- function(line, readings, coverage = 0.95) {
  check_line(line)
  check_numbers(readings, "readings", 1)
  check_number(coverage, above = 0, below = 1)
  m <- length(readings)
  y <- mean(readings)
  x <- line$at + (y - line$intercept) / line$slope
  standard <- line$sd / abs(line$slope) * sqrt(1 / m + 1 / line$n + (x - line$middle)^2 / line$spread)
  # (y - line)^2 = t^2 s^2 (...) solved for x about the middle
  t <- coverage_factor(coverage, line$df)
  g <- (t * line$sd / line$slope)^2 / line$spread
  ends <- c(-Inf, Inf)
  if (g < 1) {
    d <- x - line$middle
    half <- t * line$sd / abs(line$slope) * sqrt((1 - g) * (1 / m + 1 / line$n) + d^2 / line$spread)
    ends <- line$middle + (d + c(-1, 1) * half) / (1 - g)
  }
  new_table(list(reading = y, x = x, standard = standard, df = line$df, low = ends[1], high = ends[2]))
}

#' @rdname calibration_line
#' @param .study A study.
#' @param name Text: what the two inputs' names begin with.
#' @param ... Not used; anything here is an error.
#' @param .unit Texts `c(intercept = , slope = )`, or `NULL`.
#' @export
add_line <- function(.study, line, name, ..., .unit = NULL) {
  check_study(.study)
  check_line(line)
  check_no_dots(..., .options = ".unit")
  name <- check_string(name)
  unknown <- setdiff(names(.unit), c("intercept", "slope"))
  if (length(unknown)) stop_unknown_name(unknown[1], c("intercept", "slope"), "a coefficient of the line")
  fitted <- as.data.frame(line)
  inputs <- lapply(1:2, function(i) {
    input(law_coefficient(fitted$value[i], fitted$standard[i], line$n, line$df), unit = unit_of_column(.unit, fitted$coefficient[i]), note = sprintf("line through %d points", line$n))
  })
  names <- paste(name, fitted$coefficient, sep = "_")
  .study <- add_inputs(.study, !!!stats::setNames(inputs, names))
  if (line$r == 0) return(.study)
  add_correlation(.study, !!names[1], !!names[2], line$r, kind = "score")
}
