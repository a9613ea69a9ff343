#' Alternatives of a study
#'
#' Variants of one study that are simulated with the same random numbers, so that they differ by their changes and
#' not by luck.
#'
#' @param .study A study: the first alternative, as it is.
#' @param ... Named alternatives, each
#'   * a list of changes: an input's name with another law, number or [input()]; an output's name with another
#'     formula; a new name with a law or number (an input) or an [output()];
#'   * a function of a study that returns a study; or
#'   * a study.
#' @param .first Text: what the study as it is is called, or `NULL` to leave it out.
#' @return Alternatives, for [simulate()][simulate.ensayo_study] and then [compare_results()].
#' @section Errors: `ensayo_error_name` for an alternative without a name or with one used twice, or as in
#'   [replace_inputs()] and [add_outputs()]; `ensayo_error_argument` for what is none of the above.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     friction = law_lognormal(mean = 0.021, sd = 0.003)) |>
#'   add_outputs(headloss = output(friction * 14200 * (flow / 0.049)^2 / 19.62, unit = "m"))
#' variants <- alternatives(main,
#'   lined = list(friction = law_lognormal(mean = 0.016, sd = 0.001)),
#'   twin = list(headloss = friction * 14200 * (flow / 2 / 0.049)^2 / 19.62)
#' )
#' compare_results(simulate(variants, nsim = 1000, seed = 11), .better = "low")
#' @export
alternatives <- function(.study, ..., .first = "as is") {
  check_study(.study)
  check_string(.first, null = TRUE)
  quosures <- rlang::enquos(..., .ignore_empty = "all")
  names <- normal_name(names(quosures) %||% character())
  twice <- names[duplicated(names) | names %in% .first]
  if (any(!nzchar(names)) || length(twice)) {
    stop_ensayo("name", "Every alternative needs a name of its own.",
      if (length(twice)) sprintf("%s is used twice.", quoted(twice[1])), "Write it as `name = list(...)`.")
  }
  variants <- lapply(seq_along(quosures), function(i) {
    in_place(sprintf("Alternative %s", quoted(names[i])), alternative_study(.study, quosures[[i]]))
  })
  studies <- c(if (!is.null(.first)) stats::setNames(list(.study), .first), stats::setNames(variants, names))
  if (length(studies) == 0) stop_ensayo("argument", "Give at least one alternative.")
  structure(list(studies = studies), class = "ensayo_alternatives")
}

alternative_study <- function(study, quosure) {
  expr <- rlang::quo_get_expr(quosure)
  if (rlang::is_call(expr, "list")) {
    changes <- lapply(rlang::call_args(expr), rlang::new_quosure, env = rlang::quo_get_env(quosure))
    return(changed_study(study, changes))
  }
  value <- rlang::eval_tidy(quosure)
  if (inherits(value, "ensayo_study")) return(value)
  if (is.function(value)) return(check_study(value(study), "the function's value"))
  if (is.list(value) && !is.object(value)) return(changed_study(study,
    lapply(value, rlang::as_quosure, env = baseenv())))
  stop_ensayo("argument", "An alternative must be a list of changes, a study, or a function of a study.",
    sprintf("You gave %s.", shown_value(value)))
}

# Inputs first, so that changed formulas may use new ones.
changed_study <- function(study, changes) {
  names <- names_of(changes)
  is_formula <- vapply(seq_along(names), function(i) {
    names[i] %in% names(study$outputs) ||
      rlang::is_call(rlang::quo_get_expr(changes[[i]]), "output", ns = c("", "ensayo"))
  }, TRUE)
  laws <- lapply(changes[!is_formula], rlang::eval_tidy)
  # an input that is new and that no changed formula uses is a slip of the pen
  used <- unlist(lapply(changes[is_formula], function(quosure) all.vars(rlang::quo_get_expr(quosure))))
  idle <- setdiff(names(laws), c(names(study$inputs), used))
  if (length(idle)) stop_unknown_name(idle[1], quantity_names(study), "an input or output of the study")
  known <- names(laws) %in% names(study$inputs)
  # a number holds a varying input and keeps its law, so that its correlations rest too
  held <- known & vapply(names(laws), function(name) is.numeric(laws[[name]]) && is_law(study$inputs[[name]]$law), TRUE)
  study <- replace_inputs(fix_inputs(study, !!!laws[held]), !!!laws[known & !held])
  study <- add_inputs(study, !!!laws[!known])
  formulas <- changes[is_formula]
  known <- names(formulas) %in% names(study$outputs)
  study <- add_outputs(study, !!!formulas[!known])
  replace_outputs(study, !!!formulas[known])
}


# The inputs and outputs that differ between two studies.
changed_names <- function(old, new) {
  differs <- function(part) {
    Filter(function(name) !identical(old[[part]][[name]], new[[part]][[name]]),
      union(names(old[[part]]), names(new[[part]])))
  }
  c(differs("inputs"), differs("outputs"))
}
