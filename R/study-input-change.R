# Other laws, held values, base values and names for inputs that a study has.

#' Change inputs of a study
#'
#' `replace_inputs()` gives inputs another law or number; `fix_inputs()` holds them at one value in every run, which
#' shows what their uncertainty does; `set_base()` gives them other base values; `rename_inputs()` and `remove_inputs()`
#' do what they say. The rest of the study stays as it is, and so do the draws of all other uncorrelated inputs.
#'
#' @inheritParams add_inputs
#' @param ... `replace_inputs()`: as in [add_inputs()], for names the study has. A bare law or number keeps the unit,
#'   label, note and group, and a base value that was given; an [input()] replaces all of them. `fix_inputs()`: names
#'   alone, which are fixed at their base values, or `name = number`, which is the base value then. `set_base()`: `name =
#'   number`, or the `inputs` of a run ([run_details()]). `rename_inputs()`:
#'   `new = old`; formulas follow. `remove_inputs()`: names that no formula uses.
#' @return The changed study. A renamed or replaced input keeps its stream of random numbers.
#' @section Errors: `ensayo_error_name` where a name is not an input of the study (with the nearest one), is used by a
#'   formula, or is not allowed.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003))
#' main |> replace_inputs(demand = law_pert(24, 30, 40))
#' main |> fix_inputs(friction, demand = 36)
#' main |> rename_inputs(peak_demand = demand)
#' @export
replace_inputs <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "error"), inputs_from_table)
  for (name in names_of(given)) {
    check_known_input(.study, name)
    old <- .study$inputs[[name]]
    new <- as_input(given[[name]], name)
    if (!is_input(given[[name]])) {
      kept <- c("unit", "label", "note", "group", "lower", "upper", "shares", if (is_law(new$law)) c("steps", "persistence", "block"))
      new[intersect(kept, names(old))] <- old[intersect(kept, names(old))]
      if (!is_law(new$law)) new["shares"] <- list(NULL)
      if (old$base_rule == "given" && is_law(new$law) && !is.null(old$base)) {
        new[c("base", "base_rule")] <- old[c("base", "base_rule")]
      }
    }
    new["stream"] <- old["stream"]
    if (!is_law(new$law)) refuse_correlated(.study, name, "become a constant")
    .study <- with_task_value(.study, name, new$law)
    made <- intersect(c("task", "aside"), names(old))  # of an input that is made of a task or an item
    new[made] <- old[made]
    .study$inputs[[name]] <- new
  }
  if (any(names_of(given) %in% task_value_names(.study))) with_tasks(.study) else bound_inputs(.study)
}

#' @rdname replace_inputs
#' @export
fix_inputs <- function(.study, ...) {
  check_study(.study)
  quosures <- rlang::enquos(...)
  for (i in seq_along(quosures)) {
    if (nzchar(names(quosures)[i])) {
      name <- normal_name(names(quosures)[i])
      check_known_input(.study, name)
      value <- rlang::eval_tidy(quosures[[i]])
      law <- .study$inputs[[name]]$law
      .study$inputs[[name]]$fixed <- if (is_law(law) && is_categorical(law)) check_base(value, law)
        else check_number(value, name)
    } else {
      for (name in resolve_names(quosures[[i]], names(.study$inputs), "an input of the study")) {
        .study$inputs[[name]]$fixed <- base_values(.study)[[name]]
      }
    }
  }
  .study
}

#' @rdname replace_inputs
#' @export
set_base <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "error"), as.list)
  for (name in names_of(given)) {
    check_known_input(.study, name)
    input <- .study$inputs[[name]]
    value <- given[[name]]
    if (!is_law(input$law)) {
      if (!identical(as.double(value), as.double(input$law))) {
        stop_ensayo("argument", sprintf("%s is a constant and has no base value of its own.", quoted(name)), NULL,
          "Give it another value with `replace_inputs()`.", argument = name)
      }
      next
    }
    .study$inputs[[name]][c("base", "base_rule")] <- list(check_base(value, input$law), "given")
  }
  .study
}

#' @rdname replace_inputs
#' @export
rename_inputs <- function(.study, ...) {
  check_study(.study)
  quosures <- rlang::enquos(...)
  for (i in seq_along(quosures)) {
    old <- resolve_name(quosures[[i]], names(.study$inputs), "an input of the study")
    new <- check_new_names(quosures[i], "input", quantity_names(.study))
    .study <- with_input_renamed(.study, old, new)
  }
  remade(.study)
}

#' @rdname replace_inputs
#' @export
remove_inputs <- function(.study, ...) {
  check_study(.study)
  for (quosure in rlang::enquos(...)) {
    names <- resolve_names(quosure, names(.study$inputs), "an input of the study")
    for (name in names) .study <- without_input(.study, name)
  }
  .study
}

names_of <- function(given, call = rlang::caller_env()) {
  names <- normal_name(names(given) %||% rep("", length(given)))
  if (any(!nzchar(names))) {
    stop_ensayo("name", "Every input needs a name.", NULL, "Write it as `name = ...`.", call = call)
  }
  names
}

check_known_input <- function(study, name, call = rlang::caller_env()) {
  if (!name %in% names(study$inputs)) stop_unknown_name(name, names(study$inputs), "an input of the study", call = call)
}
