# Models: what calculates outputs from draws. Formulas are one kind; each kind is a record in a file of its own:
#   dear       TRUE where a run may take long: nothing is evaluated that need not be
#   prepare(model, setting)   a step of the evaluation (formula-evaluate.R): a function of columns, runs and a log
#   alone(model, setting)     what must have the same value alone as among other runs: pieces for
#                             check_runs_alone()
#   taylor(model, columns, kinks)   what it gives of numbers that carry their derivatives (formula-taylor.R); left out where
#                             derivatives are found from runs
#   trial(model, setting, values, run, log)   one run with what happened in it (model-trial.R); left out where there is
#                             nothing to tell
# `setting` is what a simulation says besides the study: `seed`, behind what a model draws itself; `place`, the folder in
# which runs may leave something, NULL for none; `most_failed`, the share of failed runs at which it stops; `threads`; and
# the `plan` by which inputs with steps are drawn, where these are not given.
# A study's models are values (study-model.R), each of a kind: what it `uses` and `gives`, by name.

model_kinds <- function() {
  list(formulas = kind_formulas, `function` = kind_function, program = kind_program, steps = kind_steps,
    schedule = kind_schedule, surrogate = kind_surrogate, workbook = kind_workbook, elsewhere = kind_elsewhere)
}

model_kind <- function(model) model_kinds()[[model$kind]]

# The models of a study in an order in which each comes after those it needs: formulas that follow each other are one.
models_in_order <- function(study) {
  order <- output_order(study$outputs)
  if (length(study$models) == 0) return(list(formulas_model(study, order)))
  given_by <- text_of(study$outputs[order], function(output) output$model)
  # a model gives all of its outputs where the first of them stands
  kept <- !nzchar(given_by) | !duplicated(given_by)
  order <- order[kept]
  given_by <- given_by[kept]
  blocks <- split(seq_along(order), cumsum(c(TRUE, given_by[-1] != given_by[-length(given_by)])))
  lapply(unname(blocks), function(at) {
    if (nzchar(given_by[at[1]])) study$models[[given_by[at[1]]]] else formulas_model(study, order[at])
  })
}

# Outputs of a study, run by run: a function of columns and runs (new_evaluator() tells what it gives). What a model keeps
# going meanwhile has an end: a step may carry it as its attribute `end`, and end_evaluator() is called when all is done. The
# function carries the models of which it is made.
study_evaluator <- function(study, setting = run_setting(0), models = models_in_order(study)) {
  steps <- lapply(models, function(model) model_kind(model)$prepare(model, setting))
  evaluator <- evaluator_of(steps, if (length(study$models)) output_order(study$outputs) else names(models[[1]]$formulas))
  complete <- if (length(stepped_names(study)) == 0) evaluator
    else function(columns, runs) evaluator(with_series(study, columns, length(runs), setting$plan), runs)
  structure(complete, end = lapply(steps, attr, "end"), models = models)
}

end_evaluator <- function(evaluator) for (end in attr(evaluator, "end")) if (!is.null(end)) end()

run_setting <- function(seed, place = NULL, most_failed = 1, threads = threads_to_use(), plan = NULL) {
  list(seed = seed, place = place, most_failed = most_failed, threads = threads, plan = plan)
}

# Every input at its base value; one that is held at a value, at that value. Formulas alone may have their evaluator already.
base_case_of <- function(study, evaluator = NULL) {
  inputs <- base_values(study)
  if (is.null(evaluator)) {
    evaluator <- study_evaluator(study, run_setting(base_seed))
    on.exit(end_evaluator(evaluator))
  }
  outcome <- evaluator(inputs, 1)
  list(inputs = inputs, outputs = lapply(outcome$values, function(x) {
    if (is.logical(x) && all(is.na(x))) as.double(x) else as.vector(x)
  }), failures = outcome$failures[c("output", "reason")])
}

# A case's inputs and outputs as the columns of one run.
case_columns <- function(case, study) {
  series <- series_names(study)
  outputs <- case$outputs
  outputs[series] <- lapply(series, function(name) {
    matrix(outputs[[name]], 1, dimnames = list(NULL, step_keys(study$outputs[[name]]$steps)))
  })
  with_series(study, c(case$inputs, outputs), 1)
}

# What a model draws in the base case is the same whatever a simulation's seed.
base_seed <- "base case"

is_dear_study <- function(study) any(vapply(study$models, function(model) model_kind(model)$dear, TRUE))
