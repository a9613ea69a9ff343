# Laws of measured quantities: by certificates, observations, and what is known of an instrument.

#' Laws of measured quantities
#'
#' `law_measured()` is the law of a quantity by its certificate: a value with an expanded uncertainty and its coverage
#' factor or probability, or with the half-width of a rectangle. `law_observed()` is that of a mean, or of one further value, by
#' observations.
#'
#' @param value Number: the value on the certificate, in the input's unit.
#' @param expanded,k Numbers above 0: expanded uncertainty in the input's unit, and coverage factor. `expanded` may be a text in per
#'   cent of `value`, such as `"0.3 %"`.
#' @param coverage Number between 0 and 1, in place of `k`: the coverage probability, such as 0.95; with `df` the factor is that
#'   of Student's law, else of the normal law.
#' @param half_width Instead: number above 0, in the input's unit, or a text in per cent of `value`; the quantity lies within it, no
#'   more is known.
#' @param df Number above 0: degrees of freedom, of the expanded uncertainty where the certificate states them; of a half-width, how
#'   surely it is known ([budget()] counts with them: 50 where it may be off by a tenth, 2 by a half; G.4.2); in `law_observed()` those of `sd`, where it is pooled from earlier series ([pooled_sd()]). They are n - 1 when left out.
#' @param data Numbers: the observations, in the input's unit. Or `n` and `mean` instead, with `sd`.
#' @param n,mean,sd Number of observations (2 or more; 1 is enough with `df`), their mean, and the standard deviation of a single
#'   observation, from these observations or, with `df`, from others.
#' @param of Text, which must be said: `"mean"`, the quantity is what the observations scatter around; `"next"`, it is
#'   one further value of the same kind, which scatters as they do. The second is wider by the root of n + 1.
#' @return `law_measured()`: a normal law, uniform with `half_width`, Student t with `df`. `law_observed()`: a Student
#'   t law with n - 1 degrees of freedom, or with `df`. They print as they were stated.
#' @section Errors: `ensayo_error_argument` where the figures are not exactly one of the sets, or not in their range.
#' @section Source: JCGM 100:2008, 4.2 and 4.3.3 to 4.3.7; JCGM 101:2008, 6.4.2, 6.4.7 and 6.4.9: scale \eqn{s/\sqrt n} for the mean;
#'   \eqn{s \sqrt{1 + 1/n}} for one further value of a normal law (Hahn and Meeker 1991, Statistical Intervals, section 4.7).
#' @examples
#' law_measured(20.02, expanded = 0.06, k = 2)
#' law_measured(20.02, expanded = "0.3 %", coverage = 0.95, df = 8)
#' law_measured(20, half_width = 0.5)
#' law_observed(c(20.11, 20.04, 20.09, 20.13), of = "mean")
#' law_observed(n = 12, mean = 4.2, sd = 0.3, of = "next")
#' law_observed(c(20.11, 20.04), sd = 0.05, df = 24, of = "mean")
#' law_coefficient(0.00218, standard = 0.00067, n = 11, df = 9)
#' @export
law_measured <- function(value, expanded, k, half_width, df, coverage) {
  given <- Filter(Negate(rlang::is_missing), as.list(environment()))[c("value", "expanded", "k", "half_width", "df", "coverage")]
  given <- Filter(Negate(is.null), given)
  value <- check_number(value)
  by_width <- "half_width" %in% names(given) && !any(c("expanded", "k", "coverage") %in% names(given))
  by_factor <- "expanded" %in% names(given) && is.null(given$half_width) && sum(c("k", "coverage") %in% names(given)) == 1
  if (!by_width && !by_factor) {
    stop_ensayo("argument", "A certificate gives `expanded` with its `k` or its `coverage` probability, or `half_width` alone.",
      sprintf("You gave %s.", paste(quoted(setdiff(names(given), "value")), collapse = ", ")),
      "Without its coverage factor an expanded uncertainty says nothing.", argument = "k")
  }
  if (!missing(df)) check_number(df, above = 0)
  law <- if (by_width) {
    half <- certified_width(half_width, value, "half_width")
    law_uniform(value - half, value + half)
  } else {
    standard <- certified_width(expanded, value, "expanded") / certified_factor(given)
    if (missing(df)) law_normal(value, standard) else law_student(df, value, standard)
  }
  new_law(family_name(law), parameters_of(law), list(call = "measured", arguments = given, base = value))
}

certified_width <- function(x, value, arg, call = rlang::caller_env()) {
  check_number(distance_of(x, value, arg, call), arg, above = 0, mend = constant_hint, call = call)
}

certified_factor <- function(given, call = rlang::caller_env()) {
  if (!is.null(given$k)) return(check_number(given$k, "k", above = 0, call = call))
  coverage_factor(check_number(given$coverage, "coverage", above = 0, below = 1, call = call), given$df %||% Inf)
}

# How many standard uncertainties hold a share of a Student law, on both sides.
coverage_factor <- function(share, df) stats::qt((1 + share) / 2, df)

# Degrees of freedom as tables have them, cut to a whole number (JCGM 100:2008, G.6.4).
whole_freedom <- function(df) if (is.infinite(df)) Inf else max(floor(df + 1e-9), 1)

#' @rdname law_measured
#' @export
law_observed <- function(data, n, mean, sd, of, df) {
  if (missing(of)) {
    stop_ensayo("argument", "`of` must be given: \"mean\" or \"next\".", NULL,
      "Is the quantity what the observations scatter around, or one further value like them?", argument = "of")
  }
  of <- check_choice(of, c("mean", "next"))
  earlier <- !missing(df)
  if (earlier && missing(sd)) stop_argument("sd", "given with `df`, whose standard deviation it is", NULL)
  least <- if (earlier) 1 else 2
  if (!missing(data)) {
    if (!missing(n) || !missing(mean) || !missing(sd) && !earlier) {
      stop_ensayo("argument", "Give either `data`, or `n`, `mean` and `sd`.", "You gave some of both.",
        "A standard deviation from earlier series stands beside `data` with its degrees of freedom, `df`.", argument = "data")
    }
    data <- as.double(check_observed(data, least, "data"))
    n <- length(data)
    mean <- base::mean(data)
    if (!earlier) sd <- stats::sd(data)
  }
  if (missing(n) || missing(mean) || missing(sd)) {
    stop_ensayo("argument", "Give either `data`, or `n`, `mean` and `sd`.", "One of these is missing.", argument = "data")
  }
  n <- check_count(n, at_least = least)
  mean <- check_number(mean)
  sd <- check_number(sd, above = 0, mend = constant_hint)
  scale <- sd * if (of == "mean") 1 / sqrt(n) else sqrt(1 + 1 / n)
  told <- if (missing(data)) list(n = n, mean = mean, sd = sd, of = of) else c(list(data = data), if (earlier) list(sd = sd), list(of = of))
  if (earlier) told$df <- check_number(df, above = 0)
  new_law("student", list(df = if (earlier) df else n - 1, location = mean, scale = scale),
    list(call = "observed", arguments = told, base = mean))
}

#' @rdname law_measured
#' @param standard Number above 0: the standard uncertainty of a coefficient.
#' @return `law_coefficient()`: that of a coefficient fitted to `n` points, such as [calibration_line()] gives: a Student t law with `df`.
#' @export
law_coefficient <- function(value, standard, n, df) {
  told <- list(value = check_number(value), standard = check_number(standard, above = 0, mend = constant_hint), n = check_count(n, at_least = 2),
    df = check_number(df, above = 0))
  new_law("student", list(df = df, location = value, scale = standard), list(call = "coefficient", arguments = told, base = value))
}

check_observed <- function(data, least, arg, call = rlang::caller_env()) {
  if (is.numeric(data) && length(data) == 1 && least == 2) {
    stop_ensayo("argument", sprintf("`%s` must be two observations or more.", arg), "It is one: a single reading tells nothing of its scatter.",
      "Give the standard deviation of earlier series with its degrees of freedom: `sd`, `df` (see `pooled_sd()`).", argument = arg, call = call)
  }
  check_numbers(data, arg, least, call)
}

#' Standard deviation pooled from several series
#'
#' The scatter of single observations that several earlier series of the same procedure have in common.
#'
#' @param data Numbers: observations of all series; or a list of numeric vectors, one for each series.
#' @param by As long as `data`: which series each observation belongs to. Left out where `data` is a list.
#' @return A data frame of one row: `sd`, the pooled standard deviation of a single observation in the unit of `data`, `df`, its
#'   degrees of freedom, `series` and `n`, how many series and observations there are. Series of one observation add none.
#' @section Errors: `ensayo_error_argument` where no series has two observations.
#' @section Source: JCGM 100:2008, 4.2.4 and H.1.3.2: \eqn{s_p^2 = \sum \nu_i s_i^2 / \sum \nu_i}.
#' @examples
#' earlier <- pooled_sd(list(c(20.1, 20.2, 20.15), c(19.8, 19.95)))
#' law_observed(c(20.11, 20.04), sd = earlier$sd, df = earlier$df, of = "mean")
#' @export
pooled_sd <- function(data, by = NULL) {
  if (is.list(data)) {
    by <- rep(seq_along(data), lengths(data))
    data <- unlist(data, use.names = FALSE)
  }
  check_numbers(data, "data", 1)
  if (length(by) != length(data)) {
    stop_argument("by", "the series of each observation", by, "Or give `data` as a list, with a vector for each series.")
  }
  series <- unname(split(data, by))
  df <- lengths(series) - 1
  if (sum(df) == 0) {
    stop_ensayo("argument", "One series at least must have two observations.", "Each has one.", argument = "data")
  }
  squares <- vapply(series, function(x) sum((x - mean(x))^2), 0)
  new_table(list(sd = sqrt(sum(squares) / sum(df)), df = sum(df), series = length(series), n = length(data)))
}

#' Laws of what an instrument adds
#'
#' Each is the law of an error around 0, to be added to a reading in a formula; or, with `value`, of a quantity around it.
#'
#' * `law_resolution()`: a display that shows steps of `step`, rounded to the nearest.
#' * `law_hysteresis()`: readings differ by `width` depending on the side from which the value was reached, and which side is not
#'   known.
#' * `law_drift()`: what may have changed since the last calibration: at most `limit` over a whole `interval`, in proportion to the
#'   time `elapsed`; or by a `rate` with its standard uncertainty.
#' * `law_cycle()`: what is controlled between two ends and swings, such as a room's temperature: most often near its ends.
#'
#' @param step,width,amplitude,limit Numbers above 0, in the input's unit: the step of the display, the whole difference, how far it
#'   swings to each side, how far it may drift to each side.
#' @param elapsed,interval Numbers above 0, in the same unit of time: since the last calibration, and from one to the next.
#' @param rate,standard Numbers, `standard` above 0: drift in the input's unit for each unit of time, and its standard uncertainty.
#' @param value Number: the middle, in the input's unit.
#' @return A law, which prints as it was stated: uniform within half a step, half the width, or what may have drifted; normal for a
#'   drift with a rate; arcsine for a cycle.
#' @section Errors: `ensayo_error_argument` where a figure is not in its range, or a drift is not said in one way.
#' @section Source: JCGM 100:2008, F.2.2.1 (resolution), F.2.2.2 (hysteresis), F.2.3.3 and H.1.3.4 (temperature that swings); JCGM 101:2008, 6.4.6
#'   (arcsine).
#' @seealso [law_measured()] for certificates, [law_curvilinear()] for limits that are themselves known roughly.
#' @examples
#' law_resolution(0.01)
#' law_hysteresis(0.04)
#' law_drift(limit = 0.2, elapsed = 5, interval = 12)
#' law_drift(rate = 0.003, standard = 0.001, elapsed = 5)
#' law_cycle(0.5, value = 20)
#' @export
law_resolution <- function(step, value = 0) {
  half <- check_number(step, above = 0, mend = constant_hint) / 2
  told_around(law_uniform(check_number(value) - half, value + half), "resolution", list(step = step), value)
}

#' @rdname law_resolution
#' @export
law_hysteresis <- function(width, value = 0) {
  half <- check_number(width, above = 0, mend = constant_hint) / 2
  told_around(law_uniform(check_number(value) - half, value + half), "hysteresis", list(width = width), value)
}

#' @rdname law_resolution
#' @export
law_drift <- function(limit, elapsed, interval, rate, standard, value = 0) {
  given <- Filter(Negate(rlang::is_missing), as.list(environment()))[c("limit", "elapsed", "interval", "rate", "standard")]
  given <- Filter(Negate(is.null), given)
  check_number(value)
  for (name in setdiff(names(given), "rate")) check_number(given[[name]], name, above = 0)
  law <- if (setequal(names(given), c("limit", "elapsed", "interval"))) {
    reach <- limit * elapsed / interval
    law_uniform(value - reach, value + reach)
  } else if (setequal(names(given), c("rate", "standard", "elapsed"))) {
    law_normal(value + check_number(rate) * elapsed, standard * elapsed)
  } else {
    stop_ensayo("argument", "A drift is said by `limit`, `elapsed` and `interval`, or by `rate`, `standard` and `elapsed`.",
      sprintf("You gave %s.", paste(quoted(names(given)), collapse = ", ")), argument = "limit")
  }
  told_around(law, "drift", given, value)
}

#' @rdname law_resolution
#' @export
law_cycle <- function(amplitude, value = 0) {
  check_number(amplitude, above = 0, mend = constant_hint)
  told_around(law_arcsine(check_number(value) - amplitude, value + amplitude), "cycle", list(amplitude = amplitude), value)
}

told_around <- function(law, name, arguments, value) {
  if (value != 0) arguments$value <- value
  base <- if (is.null(arguments$rate)) value else mean(law)
  new_law(family_name(law), parameters_of(law), list(call = name, arguments = arguments, base = base))
}
