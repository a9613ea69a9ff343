#' Uniform law
#'
#' For a quantity that is known to lie between two limits and of which nothing more is known.
#'
#' @param min,max Numbers, `min` below `max`: the limits, in the input's unit.
#' @inherit law_normal return
#' @section Errors: `ensayo_error_argument` where a limit is not a finite number, or `min` is not below `max`.
#' @family laws
#' @examples
#' quantile(law_uniform(-0.5, 0.5), c(0.05, 0.95))
#' @export
law_uniform <- function(min, max) {
  min <- check_number(min)
  max <- check_number(max)
  check_limits(min, max)
  new_law("uniform", list(min = min, max = max))
}

# The parameters of a law between two limits with a mode.
three_figures <- function(min, mode, max, call = rlang::caller_env()) {
  min <- check_number(min, call = call)
  mode <- check_number(mode, call = call)
  max <- check_number(max, call = call)
  check_limits(min, max, mode, call)
  list(min = min, mode = mode, max = max)
}

# Shared by the laws between two limits, with or without a mode.
check_limits <- function(min, max, mode = NULL, call = rlang::caller_env()) {
  if (min >= max) {
    stop_ensayo("argument", "`min` must be below `max`.",
      sprintf("You gave min = %s and max = %s.", shown_value(min), shown_value(max)),
      if (min == max) constant_hint else "Are they the wrong way round?", argument = "min", call = call)
  }
  if (!is.finite(max - min)) {
    stop_ensayo("argument", "`max` less `min` must be a finite number.",
      sprintf("You gave min = %s and max = %s.", shown_value(min), shown_value(max)), argument = "max", call = call)
  }
  if (!is.null(mode) && (mode < min || mode > max)) {
    stop_ensayo("argument",
      sprintf("`mode` must lie from `min` = %s to `max` = %s.", shown_value(min), shown_value(max)),
      sprintf("You gave mode = %s.", shown_value(mode)), argument = "mode", call = call)
  }
}

family_uniform <- list(
  title = "Uniform",
  about = "Only the limits are known.",
  parameters = c("min", "max"),
  # from the nearer end, so that neither end loses digits
  quantile = function(par, p, lower) {
    from_min <- if (lower) p else 1 - p
    from_max <- if (lower) 1 - p else p
    ifelse(from_min <= 0.5, par$min + from_min * (par$max - par$min), par$max - from_max * (par$max - par$min))
  },
  cumulative = function(par, x, lower, log) stats::punif(x, par$min, par$max, lower.tail = lower, log.p = log),
  density = function(par, x, log) stats::dunif(x, par$min, par$max, log = log),
  moments = function(par) {
    c(mean = par$min / 2 + par$max / 2, variance = (par$max - par$min)^2 / 12, skewness = 0, excess_kurtosis = -6 / 5)
  },
  mode = function(par) NA_real_,
  support = function(par) c(par$min, par$max)
)
