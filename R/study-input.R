# Inputs. An input keeps its law while it is fixed, so that it can be set free again; its stream is the name it was
# first given, so that renaming it changes no draw.

new_input <- function(law, base, base_rule, unit, label, note, group) {
  structure(
    list(law = law, base = base, base_rule = base_rule, unit = unit, label = label, note = note, group = group,
      fixed = NULL, stream = NULL),
    class = "ensayo_input"
  )
}

#' Describe an input
#'
#' An input is a law, or a number that never varies, with what readers want to know about it. A bare law or number in
#' [add_inputs()] is an input without trimmings.
#'
#' @param law A law such as [law_pert()] makes, or one finite number for a constant.
#' @param base Number or `NULL`: the single-point estimate, in the input's unit. When `NULL` it is the law's mode where
#'   the law has one as a parameter, else its mean; prints say which.
#' @param unit,label,note,group Texts or `NULL`: the unit, such as `"L/s"`; what readers call the input; where the
#'   figures came from; what it belongs with.
#' @return An input, for [add_inputs()] and [replace_inputs()].
#' @section Errors: `ensayo_error_argument` where an argument is not of the stated kind.
#' @examples
#' input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand")
#' @export
input <- function(law, base = NULL, unit = NULL, label = NULL, note = NULL, group = NULL) {
  texts <- list(unit = check_string(unit, null = TRUE), label = check_string(label, null = TRUE),
    note = check_string(note, null = TRUE), group = check_string(group, null = TRUE))
  if (!is_law(law)) {
    ok <- is.numeric(law) && !is.object(law) && length(law) == 1 && is.finite(law)
    if (!ok) stop_argument("law", "a law, or one finite number for a constant", law)
    if (!is.null(base) && !identical(as.double(base), as.double(law))) {
      stop_argument("base", "left out where the input is a constant, which is its own base value", base)
    }
    return(do.call(new_input, c(list(as.double(law), as.double(law), "constant"), texts)))
  }
  given <- if (is.null(base)) base_of_law(law) else list(value = check_number(base), rule = "given")
  if (!is.finite(given$value)) {
    stop_argument("base", "given, for this law has no finite mean", given$value)
  }
  do.call(new_input, c(list(law, given$value, given$rule), texts))
}

is_input <- function(x) inherits(x, "ensayo_input")

as_input <- function(x, name, call = rlang::caller_env()) {
  if (is_input(x)) return(x)
  ok <- is_law(x) || (is.numeric(x) && !is.object(x) && length(x) == 1 && is.finite(x))
  if (!ok) {
    stop_ensayo("argument", sprintf("Input %s must be a law, an `input()` or one finite number.", quoted(name)),
      sprintf("You gave %s.", shown_value(x)), name = name, call = call)
  }
  input(x)
}

varies <- function(input) is_law(input$law) && is.null(input$fixed)

varying_names <- function(study) names(Filter(varies, study$inputs))

# The value of an input that does not vary in the runs.
held_value <- function(input) input$fixed %||% input$law

#' Add inputs to a study
#'
#' @param .study A study.
#' @param ... Named inputs: laws, numbers or [input()]s. Also a list or a data frame of them, `!!!` and `!!name :=`. A
#'   data frame has a row for each input, with columns `name`, `law` (such as `"pert"`), the law's parameters, and
#'   if wanted `base`, `unit`, `label`, `note` and `group`; a constant has the law `"constant"` and its number in
#'   `value`; what does not apply is `NA`.
#' @return The study with the inputs added at the end.
#' @section Names: any name but words of the formula language (`pi`, `TRUE`, `if`, ...) and columns of every table of
#'   runs (`run`, `replicate`, `step`, `failed`). `length` and `length(x)` do not clash.
#' @section Errors: `ensayo_error_name` for a name that is missing, taken or not allowed; `ensayo_error_argument` for
#'   what
#'   is not an input.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(
#'     demand = input(law_pert(28, 34, 48), unit = "L/s", label = "Peak-hour demand"),
#'     friction = law_lognormal(mean = 0.021, sd = 0.003),
#'     length = 4200
#'   )
#' @export
add_inputs <- function(.study, ...) {
  check_study(.study)
  given <- spliced(rlang::dots_list(..., .homonyms = "keep"), inputs_from_table)
  names <- check_new_names(given, "input", quantity_names(.study))
  for (i in seq_along(given)) {
    input <- as_input(given[[i]], names[i])
    input$stream <- free_stream(.study, names[i])
    .study$inputs[[names[i]]] <- input
  }
  .study
}

# A stream nobody in the study has: the name, unless an input that was renamed took its stream along.
free_stream <- function(study, name) {
  taken <- vapply(study$inputs, function(input) input$stream, "")
  while (name %in% taken) name <- paste0(name, "'")
  name
}

# Named dots, with unnamed lists and data frames opened into them.
spliced <- function(dots, from_table) {
  opened <- lapply(seq_along(dots), function(i) {
    x <- dots[[i]]
    unnamed <- is.null(names(dots)) || !nzchar(names(dots)[i])
    if (unnamed && is.data.frame(x)) return(from_table(x))
    if (unnamed && is.list(x) && !is.object(x)) return(x)
    stats::setNames(list(x), names(dots)[i] %||% "")
  })
  do.call(c, c(list(list()), opened))
}

inputs_from_table <- function(table) {
  if (!"name" %in% names(table)) {
    stop_ensayo("argument", "A table of inputs must have a column `name`.",
      sprintf("Its columns are %s.", paste(quoted(names(table)), collapse = ", ")), argument = "name")
  }
  rows <- lapply(seq_len(nrow(table)), function(i) {
    record <- as.list(table[i, setdiff(names(table), "name"), drop = FALSE])
    record <- lapply(record, function(cell) if (is.factor(cell)) as.character(cell) else cell)
    input_from_record(Filter(function(cell) !is.na(cell) && !identical(cell, ""), record), as.character(table$name[i]))
  })
  stats::setNames(rows, as.character(table$name))
}

#' Change inputs of a study
#'
#' `replace_inputs()` gives inputs another law or number; `fix_inputs()` holds them at one value in every run, which
#' shows what their uncertainty does; `rename_inputs()` and `remove_inputs()` do what they say. The rest of the study
#' stays as it is, and so do the draws of all other uncorrelated inputs.
#'
#' @inheritParams add_inputs
#' @param ... `replace_inputs()`: as in [add_inputs()], for names the study has. A bare law or number keeps the unit,
#'   label, note and group, and a base value that was given; an [input()] replaces all of them.
#'   `fix_inputs()`: names alone, which are fixed at their base values, or `name = number`, which is the base value
#'   then.
#'   `rename_inputs()`: `new = old`; formulas follow. `remove_inputs()`: names that no formula uses.
#' @return The changed study. A renamed or replaced input keeps its stream of random numbers.
#' @section Errors: `ensayo_error_name` where a name is not an input of the study (with the nearest one), is used by
#'   a formula, or is not allowed.
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
      new[c("unit", "label", "note", "group")] <- old[c("unit", "label", "note", "group")]
      if (old$base_rule == "given" && is_law(new$law)) new[c("base", "base_rule")] <- old[c("base", "base_rule")]
    }
    new["stream"] <- old["stream"]
    if (!is_law(new$law)) refuse_correlated(.study, name, "become a constant")
    .study$inputs[[name]] <- new
  }
  .study
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
      value <- check_number(rlang::eval_tidy(quosures[[i]]), name)
      .study$inputs[[name]]$fixed <- value
    } else {
      for (name in resolve_names(quosures[[i]], names(.study$inputs), "an input of the study")) {
        .study$inputs[[name]]$fixed <- .study$inputs[[name]]$base
      }
    }
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
    names(.study$inputs)[names(.study$inputs) == old] <- new
    for (end in c("a", "b")) .study$correlations[[end]][.study$correlations[[end]] == old] <- new
    .study$outputs[] <- lapply(.study$outputs, function(output) {
      output$formula <- rename_in_formula(output$formula, old, new)
      output
    })
    .study$specs[] <- lapply(.study$specs, rename_in_formula, old = old, new = new)
  }
  .study
}

#' @rdname replace_inputs
#' @export
remove_inputs <- function(.study, ...) {
  check_study(.study)
  for (quosure in rlang::enquos(...)) {
    for (name in resolve_names(quosure, names(.study$inputs), "an input of the study")) {
      formulas <- c(lapply(.study$outputs, function(output) output$formula), .study$specs)
      users <- names(Filter(function(formula) name %in% formula$uses, formulas))
      if (length(users)) {
        stop_ensayo("name", sprintf("%s cannot be removed while a formula uses it.", quoted(name)),
          sprintf("It is used by %s.", paste(quoted(users), collapse = ", ")),
          sprintf("To take its uncertainty away, use `fix_inputs(%s)`.", name), name = name)
      }
      .study$inputs[[name]] <- NULL
      pairs <- .study$correlations
      .study$correlations <- pairs[pairs$a != name & pairs$b != name, , drop = FALSE]
    }
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
