# Models besides formulas, as a study holds them: a list of
#   kind    the kind's name (model.R)
#   uses    the quantities that it takes, by the names under which it takes them
#   gives   the outputs that it gives
# and whatever its kind needs besides. Of an output that a model gives, `model` is the model's name, and its formula has
# no expression.

output_of_model <- function(output, name, uses) {
  output$model <- name
  output$formula <- list(expr = NULL, text = sprintf("given by %s", name), uses = unique(unname(uses)),
    constants = list(), functions = list())
  output
}

check_model_name <- function(study, name, call, option = "name") {
  if (name %in% names(study$models)) {
    stop_ensayo("name", sprintf("A model must have a name of its own; %s is taken.", quoted(name)), NULL, sprintf("Give it another with `%s`.", option),
      name = name, call = call)
  }
}

# The study with a model and the outputs that it gives.
with_model <- function(study, name, model, outputs) {
  study$models <- c(study$models, stats::setNames(list(model), name))
  study$outputs[names(outputs)] <- lapply(outputs, output_of_model, name, model$uses)
  output_order(study$outputs)
  study
}

# Models behind an output, or all, that draw random numbers themselves, as their call at base values showed.
drawing_models <- function(study, output = NULL) {
  drawing <- Filter(function(model) isTRUE(model$found$drew), study$models)
  if (is.null(output) || length(drawing) == 0) return(as.character(names(drawing)))
  given <- unlist(lapply(drawing, function(model) model$gives))
  behind <- c(output, reach_of(study, given)(output))
  names(Filter(function(model) any(model$gives %in% behind), drawing))
}

holds_programs <- function(study) any(vapply(study$models, function(model) model$kind == "program", NA))

# Programs that must not run yet.
refused_programs <- function(study) {
  names(Filter(function(model) !is.null(model$here) && !isTRUE(model$here$allowed), study$models))
}

# Models besides those that are made of another part of the study.
described_models <- function(study) Filter(function(model) model$kind != "schedule", study$models)

model_table <- function(study) {
  models <- described_models(study)
  new_table(list(name = as.character(names(models)), kind = text_of(models, function(model) model$kind),
    takes = text_of(models, function(model) paste(model$uses, collapse = ", ")),
    gives = text_of(models, function(model) paste(model$gives, collapse = ", ")),
    called = text_of(models, function(model) {
      if (model$kind == "program") command_shown(model)
      else if (model$kind == "surrogate") count_of(nrow(model$data$runs), "run")
      else if (model$kind == "workbook") sprintf("%s, %s", model$facts$file, count_of(sum(model$book$cells$formula > 0), "formula"))
      else if (model$kind == "steps") sprintf("%s of %s", count_of(length(model$steps), "step"), count_of(length(model$lines), "line"))
      else if (isTRUE(model$vectorised)) "with whole columns" else "one run at a time"
    })))
}

part_models <- list(
  title = "Models",
  renamed = function(study, old, new) {
    study$models[] <- lapply(study$models, function(model) {
      if (model$kind == "program") model <- renamed_in_program(model, old, new)
      if (model$kind == "steps") model <- renamed_in_steps(model, old, new)
      if (model$kind == "surrogate") model$data$coordinates <- lapply(model$data$coordinates, function(one) {
        if (one$input == old) one$input <- new
        one
      })
      model$uses[model$uses == old] <- new
      model
    })
    study
  },
  formulas = function(study) do.call(c, unname(lapply(study$models, function(model) c(model$lines, model$starts)))),
  users = function(study, name) names(Filter(function(model) name %in% model$uses, study$models)),
  record = function(study) {
    models <- described_models(study)
    odd <- names(Filter(Negate(is_model_of_files), models))
    if (length(odd)) {
      stop_ensayo("file", "A study file must hold formulas, steps and programs alone.",
        sprintf("%s is a model that a file cannot hold.", quoted(odd[1])),
        "Keep such a study as an R script; `saveRDS()` keeps its value.", name = odd[1])
    }
    lapply(models, function(model) {
      record <- switch(model$kind, steps = steps_record, surrogate = surrogate_record, workbook = workbook_record, program_record)
      record(model, study$outputs)
    })
  },
  reviewed = function(study, asked) review_workbooks(study),
  read = function(study, record, file) if (is.null(record)) study else file_models(study, record, file),
  table = function(study) model_table(study)
)
