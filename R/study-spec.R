# Specs: named conditions that outputs should meet.

#' Add specs to a study
#'
#' A spec is a condition that an output should meet; [pass_rate()] reads off the share of runs that meet it.
#'
#' @param .study A study.
#' @param ... Conditions on outputs and inputs, such as `pressure >= 38`. They are formulas as in [add_outputs()], and
#'   may be named, as in `adequate = pressure >= 38`. Also a list of them with `!!!`.
#' @return The study with the specs added.
#' @section Errors: `ensayo_error_argument` for what is not a condition, with its own message for `pressure = 38`;
#'   `ensayo_error_name` for an unknown name or a spec named twice.
#' @examples
#' study("Gravity main") |>
#'   add_inputs(pressure = law_normal(40, 3), velocity = law_normal(0.7, 0.1)) |>
#'   add_outputs(margin = pressure - 38) |>
#'   add_specs(margin >= 0, comfortable = pressure >= 42 & velocity <= 1)
#' @export
add_specs <- function(.study, ...) {
  check_study(.study)
  specs <- read_conditions(rlang::enquos(..., .ignore_empty = "all"), quantity_vocabulary(.study), "Spec")
  twice <- c(names(specs)[duplicated(names(specs))], intersect(names(specs), names(.study$specs)))
  if (length(twice)) {
    stop_ensayo("name", "Every spec needs a name of its own.", sprintf("%s is used twice.", quoted(twice[1])),
      name = twice[1])
  }
  .study$specs <- c(.study$specs, specs)
  .study
}

# Conditions as formulas, named by the user or else by their own text.
read_conditions <- function(quosures, known, what, call = rlang::caller_env()) {
  formulas <- lapply(seq_along(quosures), function(i) {
    name <- names(quosures)[i]
    # a condition in quotation marks is read as a study file's would be
    if (rlang::is_string(rlang::quo_get_expr(quosures[[i]]))) {
      text <- rlang::quo_get_expr(quosures[[i]])
      return(condition_from_text(text, paste(what, quoted(text)), known, what))
    }
    expr <- rlang::quo_get_expr(quosures[[i]])
    at_fault <- part_not_condition(expr, attr(known, "yes_no"))
    if (!is.null(at_fault)) stop_not_condition(name, at_fault, known, what, call)
    place <- paste(what, quoted(if (nzchar(name)) name else deparse1(expr)))
    formula <- read_formula(quosures[[i]], known, place)
    is_date_formula(formula, attr(known, "dates"), place, call)
    days_compared(formula, attr(known, "dates"))
  })
  names(formulas) <- ifelse(nzchar(names(quosures)), normal_name(names(quosures)),
    vapply(formulas, function(formula) formula$text, ""))
  formulas
}

# A condition in the formula language. `label` says where it stands.
condition_from_text <- function(text, label, known, what) {
  formula <- read_formula_text(text, known, label)
  is_date_formula(formula, attr(known, "dates"), label, NULL)
  formula <- days_compared(formula, attr(known, "dates"))
  at_fault <- part_not_condition(formula$expr, attr(known, "yes_no"))
  if (!is.null(at_fault)) stop_not_condition("", at_fault, known, what, NULL)
  formula
}

# The outputs whose formulas are conditions; their names are conditions, too.
yes_no_outputs <- function(study) {
  read <- Filter(function(output) is.list(output$formula), study$outputs)
  names(Filter(function(output) is_condition(output$formula$expr), read))
}

# Whether an expression can only be TRUE or FALSE, as far as its shape shows.
is_condition <- function(expr, yes_no = character()) {
  if (is.logical(expr)) return(TRUE)
  if (is.symbol(expr)) return(as.character(expr) %in% yes_no)
  if (!is.call(expr)) return(FALSE)
  head <- call_head(expr)
  if (head == "(") return(is_condition(expr[[2]], yes_no))
  if (head %in% c("if", "ifelse")) return(length(expr) == 4 && is_condition(expr[[3]]) && is_condition(expr[[4]]))
  head %in% c("==", "!=", "<", "<=", ">", ">=", "&", "|", "&&", "||", "!", "any", "all", "%in%", "xor", "is.na") ||
    !head %in% c(names(formula_verbs), elementwise_functions)
}

# The part of an expression that ought to be TRUE or FALSE and is not; NULL where there is none.
part_not_condition <- function(expr, yes_no) {
  if (!is_condition(expr, yes_no)) return(expr)
  if (!rlang::is_call(expr, c("&", "|", "&&", "||", "!", "(", "xor"))) return(NULL)
  faults <- lapply(as.list(expr)[-1], part_not_condition, yes_no = yes_no)
  Filter(Negate(is.null), faults)[1][[1]]
}

stop_not_condition <- function(name, expr, known, what, call) {
  shown <- deparse1(expr)
  expected <- sprintf("A %s must be TRUE or FALSE in each run, such as `%s >= 38`.", tolower(what),
    utils::tail(known, 1))
  if (nzchar(name) && name %in% known) {
    stop_ensayo("argument", expected,
      sprintf("`%s = %s` gives %s the name %s and compares nothing.", name, shown, quoted(shown), quoted(name)),
      sprintf("Did you mean `%s == %s` or `%s >= %s`?", name, shown, name, shown), name = name, call = call)
  }
  stop_ensayo("argument", expected, sprintf("%s is neither.", quoted(shown)),
    if (is.symbol(expr) && shown %in% known) sprintf("Compare it with a value, as in `%s > 0`.", shown), name = name,
    call = call)
}

# The limits that specs set for one quantity: comparisons with a number, alone or joined by `&`. Data frame of spec,
# operator (as seen from the quantity) and limit.
spec_limits <- function(study, name) {
  rows <- lapply(names(study$specs), function(spec) {
    formula <- study$specs[[spec]]
    limits <- comparisons_of(with_constants(formula$expr, formula$constants), name)
    if (length(limits)) data.frame(spec = spec, do.call(rbind, limits))
  })
  do.call(rbind, c(list(data.frame(spec = character(), operator = character(), limit = numeric())), rows))
}

comparisons_of <- function(expr, name) {
  if (!is.call(expr)) return(list())
  if (rlang::is_call(expr, "(")) return(comparisons_of(expr[[2]], name))
  if (rlang::is_call(expr, c("&", "&&", "all"))) {
    return(unlist(lapply(as.list(expr)[-1], comparisons_of, name = name), recursive = FALSE))
  }
  mirrored <- c("<" = ">", "<=" = ">=", ">" = "<", ">=" = "<=")
  operator <- call_head(expr)
  if (!operator %in% names(mirrored)) return(list())
  left <- plain_limit(expr[[2]])
  right <- plain_limit(expr[[3]])
  if (identical(left, as.symbol(name)) &&
    is.numeric(right)) return(list(data.frame(operator = operator, limit = right)))
  if (identical(right, as.symbol(name)) && is.numeric(left)) {
    return(list(data.frame(operator = mirrored[[operator]], limit = left)))
  }
  list()
}

# `-3` and `date("2027-05-01")` as the numbers they are; a quantity that is compared in whole days as itself.
plain_limit <- function(x) {
  if (rlang::is_call(x, "floor", n = 1) && is.symbol(x[[2]])) return(x[[2]])
  if (rlang::is_call(x, "-", n = 1) && is.numeric(x[[2]])) return(-x[[2]])
  if (rlang::is_call(x, "date", n = 1) && is.character(x[[2]])) return(date_of_text(x[[2]]))
  x
}

# Conditions of a file: a map of names to texts, or a list of texts.
conditions_from_text <- function(records, known, what) {
  if (length(records) == 0) return(list())
  texts <- vapply(as.list(records), read_text, "", place = what)
  formulas <- lapply(seq_along(texts), function(i) {
    label <- sprintf("%s %s", what, quoted(if (is.null(names(texts))) texts[i] else names(texts)[i]))
    condition_from_text(texts[i], label, known, what)
  })
  names <- names(texts) %||% vapply(formulas, function(formula) formula$text, "")
  stats::setNames(formulas, normal_name(names))
}

file_specs <- function(study, records) {
  if (is.null(records)) return(study)
  study$specs <- conditions_from_text(records, quantity_vocabulary(study), "Spec")
  study
}

part_specs <- list(
  title = "Specs",
  formulas = function(study) study$specs,
  changed = function(study, change) {
    study$specs[] <- lapply(study$specs, change)
    study
  },
  record = function(study) lapply(Filter(function(spec) is.null(spec$task), study$specs), file_formula),
  read = function(study, record, file) file_specs(study, record),
  table = function(study) new_table(list(spec = as.character(names(study$specs)),
    condition = text_of(study$specs, function(spec) spec$text)))
)

# Of some outputs those that specs are about, else the last that is shown.
leading_of <- function(study, outputs) {
  used <- unlist(lapply(study$specs, function(spec) intersect(spec$uses, outputs)))
  if (length(used)) unique(used) else utils::tail(shown_names(outputs), 1)
}
