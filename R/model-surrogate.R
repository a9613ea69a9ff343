# Surrogates as models: what was fitted to runs predicts the outputs of others (surrogate-output.R).

kind_surrogate <- list(
  dear = FALSE,
  prepare = function(model, setting) {
    check_surrogate_data(model)
    data <- ready_surrogate(model$data)
    function(values, runs, log) {
      columns <- mget(unname(model$uses), envir = values)
      columns <- lapply(columns, function(column) if (length(column) == 1) rep(column, length(runs)) else column)
      x <- coordinate_matrix(data$coordinates, columns)
      outside <- is_beyond_runs(data, x)
      failing <- failing_chance(data, x) > 0.5
      for (name in names(data$outputs)) {
        value <- rounded_to_kind(surrogate_values(data$outputs[[name]], x), model$kinds[[name]])
        if (is.matrix(value)) value[failing, ] <- NA else value[failing] <- NA
        if (is.matrix(value)) colnames(value) <- step_keys(model$steps[[name]])
        if (any(failing)) log$add(name, runs[failing], "the model would probably fail here")
        broken <- which(!is_finite_run(value) & !failing)
        if (length(broken)) log$add(name, runs[broken], "the surrogate has no value here")
        assign(name, value, envir = values)
      }
      assign(model$outside, outside, envir = values)
      if (any(outside)) {
        log$output <- model$outside
        log$warn(sprintf("some runs lie outside those that the surrogate was fitted to: `%s` tells which", model$outside))
      }
    }
  },
  alone = function(model, setting) list()
)

rounded_to_kind <- function(value, kind) {
  switch(kind %||% "number", `yes/no` = value > 0.5, whole = round(value), value)
}
