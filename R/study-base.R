# A study at its base values.

output_formulas <- function(study) lapply(study$outputs, function(output) output$formula)

study_evaluator <- function(study) new_evaluator(output_formulas(study), output_order(study$outputs))

# Every input at its base value; one that is held at a value, at that value.
base_case_of <- function(study, evaluator) {
  inputs <- base_values(study)
  outcome <- evaluator(inputs, 1)
  list(inputs = inputs, outputs = outcome$values, failures = outcome$failures[c("output", "reason")])
}
