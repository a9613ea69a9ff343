# Inputs that take from the occurrences of another.

#' @rdname occurrences
#' @export
from_occurrences <- function(of, take, above = NULL, unit = NULL, label = NULL, note = NULL, group = NULL) {
  of <- rlang::enexpr(of)
  if (!is.symbol(of) && !(is.character(of) && length(of) == 1)) stop_argument("of", "the name of an input", of)
  take <- check_choice(take, takes()[-1])
  needs <- endsWith(take, "above")
  if (needs) above <- check_number(above)
  if (!needs && !is.null(above)) stop_argument("above", "left out with this `take`", above)
  texts <- list(unit = check_string(unit, null = TRUE), label = check_string(label, null = TRUE),
    note = check_string(note, null = TRUE), group = check_string(group, null = TRUE))
  structure(list(of = as.character(of), take = take, above = above %||% 0, texts = texts), class = "ensayo_taken")
}

# As an input that shares the uncertainty of the one that it takes from, among others that are given with it.
taken_input <- function(taken, name, inputs, call) {
  source <- inputs[[normal_name(taken$of)]]
  law <- law_taken(if (is_input(source)) source$law else source, taken, name, inputs, call)
  base <- base_of_law(law)
  input <- new_input(law, base$value, base$rule, taken$texts)
  input$shares <- normal_name(taken$of)
  input
}

law_taken <- function(law, taken, name, inputs, call) {
  if (!is_drawn_singly(law)) {
    others <- Filter(function(input) is_drawn_singly(if (is_input(input)) input$law else input), inputs)
    stop_ensayo("argument", sprintf("Input %s must take from an input made by `occurrences()`.", quoted(name)),
      sprintf("%s is %s.", quoted(taken$of), if (is.null(law)) "no input" else "none"), suggestion(taken$of, names(others)),
      name = name, call = call)
  }
  par <- parameters_of(law)
  if (taken$take == "largest" && par$deductible == 0 && support(par$size)[[1]] < 0) {
    stop_ensayo("argument", "The largest can be taken of sizes that are not below 0.", sprintf("%s has sizes from %s.",
      quoted(taken$of), shown_value(support(par$size)[[1]])), name = name, call = call)
  }
  par[c("limit_in_all", "by", "take", "above")] <- list(Inf, "runs", taken$take, taken$above)
  new_law("occurrences", par)
}

# Inputs that take from another follow it when it gets another law.
with_taken <- function(study, call = rlang::caller_env()) {
  for (name in names(Filter(function(input) is_occurrences(input$law), study$inputs))) {
    input <- study$inputs[[name]]
    if (parameters_of(input$law)$take == "sum") next
    par <- parameters_of(input$law)
    study <- with_single_ones(study, input$shares, name, call)
    law <- law_taken(study$inputs[[input$shares %||% ""]]$law, list(of = input$shares %||% name, take = par$take, above = par$above),
      name, study$inputs, call)
    if (!identical(law, input$law)) study <- with_law(study, name, law, input$shares)
  }
  study
}

# Where another input takes from one, it is drawn by runs.
with_single_ones <- function(study, of, name, call) {
  law <- study$inputs[[of %||% ""]]$law
  if (!is_occurrences(law)) return(study)
  par <- parameters_of(law)
  if (par$by == "law") {
    stop_ensayo("argument", sprintf("%s must be drawn by runs where others take from it.", quoted(of)),
      sprintf("%s takes its %s.", quoted(name), parameters_of(study$inputs[[name]]$law)$take), "Leave `by` out.", name = of, call = call)
  }
  study$inputs[[of]]$law <- new_law("occurrences", replace(par, "by", "runs"))
  study
}

is_drawn_singly <- function(law) is_occurrences(law) && parameters_of(law)$take == "sum"
