# Inputs and outputs as tables for readers.

#' Tables of a study
#'
#' @param study,x,object A study.
#' @param ... Not used.
#' @return `input_table()`: a data frame with a row an input: `name`, `law` (text; the number of a constant), `base`,
#'   `base_rule` (`"mode"`, `"mean"`, `"given"`, `"stated"`, `"linked"`, `"constant"` or `"fixed"`), `fixed` (the
#'   value it is held at, else `NA`), `drawn` (how it goes over the steps; `""` where it is drawn once), `shares` (the input
#'   whose uncertainty it shares), `unit`, `label`, `group`,
#'   `note`. `output_table()`: `name`, `formula`, `unit`, `label`, `note`. Texts that are not given are `""`.
#' @section Errors: `ensayo_error_argument` where `study` is not a study.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = input(law_pert(0.028, 0.034, 0.048), unit = "m3/s")) |>
#'   add_outputs(velocity = flow / 0.049)
#' input_table(main)
#' output_table(main)
#' main
#' @export
input_table <- function(study) {
  check_study(study)
  inputs <- study$inputs[setdiff(names(study$inputs), aside_names(study))]
  new_table(list(
    name = as.character(names(inputs)),
    law = text_of(inputs, function(input) if (is_law(input$law)) format(input$law) else constant_text(input$law)),
    base = values_column(base_values(study)[names(inputs)]),
    base_rule = text_of(inputs, function(input) if (is.null(input$fixed)) input$base_rule else "fixed"),
    fixed = values_column(lapply(inputs, function(input) input$fixed %||% NA_real_)),
    drawn = text_of(inputs, over_steps_words),
    shares = text_of(inputs, function(input) input$shares),
    unit = text_of(inputs, function(input) input$unit), label = text_of(inputs, function(input) input$label),
    group = text_of(inputs, function(input) input$group), note = text_of(inputs, function(input) input$note)
  ))
}

#' @rdname input_table
#' @return `summary()`: what `input_table()` gives.
#' @export
summary.ensayo_study <- function(object, ...) input_table(object)

#' @rdname input_table
#' @export
output_table <- function(study) {
  check_study(study)
  outputs <- study$outputs[shown_names(with_aside(names(study$outputs), study))]
  new_table(list(
    name = as.character(names(outputs)), formula = text_of(outputs, function(output) output$formula$text),
    unit = text_of(outputs, function(output) output$unit), label = text_of(outputs, function(output) output$label),
    note = text_of(outputs, function(output) output$note)
  ))
}
