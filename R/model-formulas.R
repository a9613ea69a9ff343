# The model that is a study's formulas, or some that follow each other.

formulas_model <- function(study, names) {
  list(kind = "formulas", formulas = lapply(study$outputs[names], function(output) output$formula))
}

kind_formulas <- list(
  dear = FALSE,
  prepare = function(model, setting) formula_step(model$formulas, threads = setting$threads),
  alone = function(model, setting) pieces_alone(model$formulas),
  taylor = function(model, columns, kinks) {
    language <- taylor_language()
    for (name in names(model$formulas)) columns[[name]] <- evaluate_taylor(model$formulas[[name]], columns, language, kinks)
    columns[names(model$formulas)]
  }
)

# Formulas that hand whole columns to functions of the user's, to be evaluated alone.
pieces_alone <- function(formulas) {
  formulas <- Filter(takes_columns, formulas)
  Map(function(formula, name) {
    list(uses = formula$uses, gives = name, runs = 32, evaluate = new_evaluator(stats::setNames(list(formula), name)))
  }, formulas, names(formulas))
}

takes_columns <- function(formula) any(!vapply(formula$functions, function(bound) bound$each, TRUE))
