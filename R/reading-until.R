#' How exactly a figure must be known
#'
#' A target for [simulate()][simulate.ensayo_study]`(until = )`, which adds runs until it is met, and for
#' [runs_needed()], which tells beforehand how many it takes.
#'
#' @param what Name of an output, bare or as text; or a condition such as `pressure < 38`, for its chance. Left out for
#'   the statistics that need none.
#' @param statistic `"mean"`, `"sd"`, or a percentile such as `"P95"`, in the study's sense; `"pass rate"` of all specs;
#'   and for [runs_needed()] alone `"correlation"` (any rank correlation), `"index"` (any first-order variance index)
#'   and `"surrogate"` (a fast stand-in for the model, fitted to runs).
#' @param within Number: the simulation error that is allowed, in the unit of the statistic (a chance or pass rate is
#'   from 0 to 1); or a text such as `"1 %"` for a share of the statistic's own size.
#' @param confidence Number between 0 and 1: how surely the figure is to be within.
#' @return A target.
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind. Names are looked up where the
#'   target is used.
#' @examples
#' known_within(pressure, "P95", within = 0.2)
#' known_within(pressure < 38, within = 0.005)
#' known_within(cost, within = "0.5 %", confidence = 0.99)
#' @export
known_within <- function(what, statistic = "mean", within, confidence = 0.95) {
  what <- rlang::enquo(what)
  condition <- !rlang::quo_is_missing(what) && is.call(rlang::quo_get_expr(what)) &&
    is_condition(rlang::quo_get_expr(what))
  statistic <- if (condition) "chance" else check_statistic(statistic, study_statistics)
  if (rlang::quo_is_missing(what) && !statistic %in% study_statistics) {
    stop_ensayo("argument", "`what` must name an output or be a condition.", NULL,
      "Such as `known_within(pressure, \"P95\", within = 0.2)`.", argument = "what")
  }
  check_confidence(confidence)
  allowed <- if (statistic != "surrogate") read_within(if (missing(within)) NULL else within)
  structure(list(what = what, statistic = statistic, within = allowed$value, relative = isTRUE(allowed$relative),
    confidence = confidence, bind = bound_target, now = target_now), class = "ensayo_target")
}

# "P95 of pressure within 0.2", "chance of pressure < 38 within 0.01", "pass rate within 1 %": targets as texts.
targets_from_text <- function(texts) {
  lapply(texts, function(text) {
    parts <- regmatches(text, regexec("^ *(.+?)( of (.+))? within (.+?) *$", text, perl = TRUE))[[1]]
    expr <- if (length(parts) && nzchar(parts[4])) tryCatch(str2lang(parts[4]), error = function(e) NULL)
    if (length(parts) == 0 || nzchar(parts[4]) && is.null(expr)) {
      stop_ensayo("argument", "A target must read \"STATISTIC of WHAT within HOW MUCH\".",
        sprintf("You gave %s.", shown_value(text)),
        "Such as \"P95 of pressure within 0.2\" or \"pass rate within 0.01\".")
    }
    within <- if (is_number_text(parts[5])) read_number(parts[5], "`within`") else parts[5]
    if (parts[2] == "chance") known_within(!!expr, within = within)
    else if (is.null(expr)) known_within(statistic = parts[2], within = within)
    else known_within(!!expr, parts[2], within)
  })
}

# Statistics that are of no one output.
study_statistics <- c("pass rate", "correlation", "index", "surrogate")

read_within <- function(within, call = rlang::caller_env()) {
  if (rlang::is_string(within) && grepl("^[0-9.]+ *%$", within)) {
    share <- as.double(sub(" *%$", "", within)) / 100
    if (is.finite(share) && share > 0) return(list(value = share, relative = TRUE))
  }
  list(value = check_number(within, "within", above = 0, mend = "Or a share of the figure, such as \"1 %\".",
    call = call))
}

bound_target <- function(target, study, statistics, call) {
  if (target$statistic %in% setdiff(study_statistics, statistics)) {
    stop_ensayo("argument", "Runs can be added until a mean, sd, percentile, chance or pass rate is known.",
      sprintf("You asked for %s.", quoted(target$statistic)), "`runs_needed()` advises on the others.", call = call)
  }
  if (target$statistic == "pass rate") {
    if (length(study$specs) == 0) stop_ensayo("argument", "A pass rate needs specs.", "The study has none.",
      call = call)
    target$conditions <- study$specs
    target$about <- if (length(study$specs) > 1) "all specs" else names(study$specs)
  } else if (target$statistic == "chance") {
    target$conditions <- read_conditions(rlang::new_quosures(list(target$what)) |> stats::setNames(""),
      quantity_vocabulary(study), "Condition", call)
    target$about <- names(target$conditions)
  } else if (!target$statistic %in% study_statistics) {
    target$about <- resolve_name(target$what, scalar_outputs(study), "an output of the study", call)
  } else target$about <- ""
  target
}

# A target's values in each run: of an output, or 1 where its condition is met.
target_values <- function(result, target) {
  if (is.null(target$conditions)) return(values_of(result, target$about))
  held <- with_all_specs(evaluate_conditions(result, target$conditions))
  as.double(held[[length(held)]] %in% TRUE)
}

target_reader <- function(result, target) {
  if (!is.null(target$conditions)) return(mean)
  type <- kind_type(output_kind_of(result, target$about))
  at <- if (is_percentile_name(target$statistic)) {
    not_exceeded(percentile_of_name(target$statistic), result$study$readings$sense)
  }
  if (!is.null(at)) function(x) percentile_values(x, at, type)
  else if (target$statistic == "mean") mean else stats::sd
}

# How far a target's figure may be off now, from the scatter of the replicates' own figures.
target_now <- function(result, target) {
  p <- result$provenance
  replicates <- (run_numbers(result) - 1) %/% (p$nsim / p$replicates)
  values <- target_values(result, target)
  good <- is.finite(values)
  of <- target_reader(result, target)
  value <- if (any(good)) of(values[good]) else NA_real_
  error <- if (any(good)) replicate_errors(values[good], replicates[good], of) else Inf
  half <- error * stats::qt((1 + target$confidence) / 2, p$replicates - 1)
  allowed <- if (target$relative) target$within * abs(value) else target$within
  # without a single run that meets it (or fails it) a chance is not known to be nil
  if (!is.null(target$conditions) && value %in% c(0, 1)) {
    half <- 1 - ((1 - target$confidence) / 2)^(1 / length(values))
  }
  data.frame(statistic = target$statistic, about = target$about, value = value, error = half, allowed = allowed,
    confidence = target$confidence, met = half <= allowed)
}
