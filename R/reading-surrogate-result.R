# What a reader of a result must know where its outputs come from a surrogate.

reading_surrogates <- list(
  title = "Predicted by a surrogate, not by the model",
  places = c("print", "show", "json", "report"),
  there = function(result) length(surrogate_models(result$study)) > 0,
  table = function(result, asked) {
    stacked(lapply(surrogate_models(result$study), function(model) {
      outside <- mean(values_of(result, model$outside), na.rm = TRUE)
      stacked(lapply(names(model$data$outputs), function(name) {
        output <- model$data$outputs[[name]]
        score <- output$score
        rows_of(output = name, `fitted to` = length(output$rows), `variance predicted` = score[1], low = score[2], high = score[3], error = score[4],
          outside = outside)
      }))
    }))
  },
  shown = c(output = "text", `fitted to` = "count", `variance predicted` = "known", low = "known", high = "known", error = "number", outside = "share"),
  note = function(result, asked) {
    "Judged by runs of the model that it was not fitted to; `outside`: the share of these runs that lie outside them."
  }
)

surrogate_models <- function(study) Filter(function(model) model$kind == "surrogate", study$models)
