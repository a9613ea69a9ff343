#' Tables of a study
#'
#' @param study,x,object A study.
#' @param ... Not used.
#' @return `input_table()`: a data frame with a row an input: `name`, `law` (text; the number of a constant), `base`,
#'   `base_rule` (`"mode"`, `"mean"`, `"given"`, `"stated"`, `"linked"`, `"constant"` or `"fixed"`), `fixed` (the
#'   value it is held at, else `NA`), `shares` (the input whose uncertainty it shares), `unit`, `label`, `group`,
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
  inputs <- study$inputs
  new_table(list(
    name = as.character(names(inputs)),
    law = text_of(inputs, function(input) if (is_law(input$law)) format(input$law) else format_given(input$law)),
    base = values_column(base_values(study)),
    base_rule = text_of(inputs, function(input) if (is.null(input$fixed)) input$base_rule else "fixed"),
    fixed = values_column(lapply(inputs, function(input) input$fixed %||% NA_real_)),
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
  outputs <- study$outputs
  new_table(list(
    name = as.character(names(outputs)), formula = text_of(outputs, function(output) output$formula$text),
    unit = text_of(outputs, function(output) output$unit), label = text_of(outputs, function(output) output$label),
    note = text_of(outputs, function(output) output$note)
  ))
}

#' @rdname input_table
#' @export
print.ensayo_study <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_study <- function(x, ...) {
  c(
    title_line("Study", x$title), x$question,
    section_of("Inputs", nrow(input_table(x)), study_input_lines(x)),
    section_of("Rank correlations", nrow(x$correlations), correlation_lines(x)),
    section_of("Outputs", length(x$outputs), study_output_lines(x)),
    section_of("Specs", length(x$specs), spec_lines(x$specs)),
    constants_lines(x)
  )
}

section_of <- function(title, count, lines) {
  if (count == 0) return(if (title %in% c("Inputs", "Outputs")) c("", heading(paste0(title, ": none yet"))))
  c("", heading(sprintf("%s (%d)", title, count)), lines)
}

study_input_lines <- function(study, most = 60) {
  table <- utils::head(input_table(study), most)
  base <- vapply(utils::head(base_values(study), most), format_value, "")
  rule <- ifelse(table$base_rule %in% c("mode", "mean"), paste0(" (", table$base_rule, ")"), "")
  law <- ifelse(table$base_rule == "constant", "constant", table$law)
  law <- ifelse(is.na(table$fixed), law, paste0("fixed at ", base, ", was ", law))
  lines <- text_table(drop_empty(list(input = table$name, law = law, base = paste0(base, rule),
    unit = table$unit, shares = table$shares, group = table$group, label = table$label)), indent = "  ")
  c(lines, more_lines(length(study$inputs) - most, "input", "input_table()"))
}

# One pair as a line, a few inputs as a table with blanks for zeros, many by their strongest pairs.
correlation_lines <- function(study, most = 20) {
  pairs <- study$correlations
  names <- intersect(names(study$inputs), c(pairs$a, pairs$b))
  if (nrow(pairs) < 3 || length(names) > 9) {
    strongest <- utils::head(pairs[order(-abs(pairs$r)), , drop = FALSE], most)
    shown <- if (nrow(pairs) > most) strongest else pairs
    return(c(sprintf("  %s ~ %s: %s", shown$a, shown$b, format_number(shown$r)),
      more_lines(nrow(pairs) - most, "pair", "correlations()")))
  }
  m <- correlation_matrix(study, names)
  cells <- ifelse(m == 0, "", format_number(m))
  dim(cells) <- dim(m)
  cells[upper.tri(cells)] <- ""
  columns <- c(list(names), lapply(seq_along(names), function(j) cells[, j]))
  text_table(stats::setNames(columns, c("", names)), numeric = c(FALSE, rep(TRUE, length(names))), indent = "  ")
}

study_output_lines <- function(study, most = 60) {
  table <- utils::head(output_table(study), most)
  # a long formula goes on below itself
  formulas <- strwrap(table$formula, 72, simplify = FALSE)
  spread <- function(cells) unlist(Map(function(cell, formula) c(cell, rep("", length(formula) - 1)), cells, formulas))
  lines <- text_table(drop_empty(list(output = spread(table$name), unit = spread(table$unit),
    formula = unlist(formulas),
    label = spread(table$label))), indent = "  ")
  c(lines, more_lines(length(study$outputs) - most, "output", "output_table()"))
}

drop_empty <- function(columns) Filter(function(column) any(nzchar(column)), columns)

spec_lines <- function(specs) {
  text <- vapply(specs, function(spec) spec$text, "")
  paste0("  ", ifelse(names(specs) == text, text, paste0(names(specs), ": ", text)))
}

# Values and functions that came from the user's session, so that a slip of a name shows.
constants_lines <- function(study) {
  formulas <- c(lapply(study$outputs, function(output) output$formula), study$specs)
  constants <- do.call(c, unname(lapply(formulas, function(formula) formula$constants)))
  constants <- constants[!duplicated(names(constants))]
  functions <- do.call(c, unname(lapply(formulas, function(formula) formula$functions)))
  functions <- functions[!duplicated(names(functions))]
  values <- vapply(constants, function(value) if (is.numeric(value)) format_given(value) else shown_value(value), "")
  how <- vapply(functions, function(bound) if (bound$each) "one run at a time" else "whole columns", "")
  c(
    if (length(constants)) {
      c("", heading("Constants taken from your session"), sprintf("  %s = %s", names(constants), values))
    },
    if (length(functions)) {
      c("", heading("Functions taken from your session"), sprintf("  %s(), called with %s", names(functions), how))
    }
  )
}

#' @export
format.ensayo_input <- function(x, ...) {
  law <- if (is_law(x$law)) format(x$law) else format_given(x$law)
  paste0(law, if (!is.null(x$unit)) paste0(" ", x$unit), if (!is.null(x$label)) paste0(" (", x$label, ")"))
}

#' @export
print.ensayo_input <- function(x, ...) {
  cat("Input: ", format(x), "\n", sep = "")
  invisible(x)
}

#' @export
print.ensayo_output <- function(x, ...) {
  formula <- if (rlang::is_quosure(x$formula)) deparse1(rlang::quo_get_expr(x$formula)) else x$formula$text
  cat("Output: ", formula, if (!is.null(x$unit)) paste0(" [", x$unit, "]"), "\n", sep = "")
  invisible(x)
}
