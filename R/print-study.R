# Prints of studies, inputs and outputs.

#' @rdname input_table
#' @export
print.ensayo_study <- function(x, ...) {
  cat(format(x), sep = "\n")
  invisible(x)
}

#' @export
format.ensayo_study <- function(x, ...) {
  c(title_line("Study", x$title), x$question, unlist(lapply(names(study_parts()), part_lines, study = x)),
    constants_lines(x))
}

# A part's section: in its own way, or as its table.
part_lines <- function(id, study, most = 20) {
  part <- study_parts()[[id]]
  if (is.null(part$table)) return(NULL)
  table <- part$table(study)
  if (nrow(table) == 0) return(if (id %in% c("inputs", "outputs")) c("", heading(paste0(part$title, ": none yet"))))
  own <- own_lines[[id]]
  lines <- if (!is.null(own)) own(study) else {
    shown <- utils::head(unclass_table(table), most)
    cells <- drop_empty(lapply(shown, as.character))
    c(text_table(cells, vapply(shown[names(cells)], is.numeric, TRUE), indent = "  "),
      more_lines(nrow(table) - most, "row", sprintf("study$%s", id)))
  }
  c("", heading(sprintf("%s (%d)", part$title, nrow(table))), lines)
}

own_lines <- list(
  models = function(study) study_model_lines(study),
  inputs = function(study) study_input_lines(study), correlations = function(study) correlation_lines(study),
  outputs = function(study) study_output_lines(study), specs = function(study) spec_lines(study$specs)
)

study_model_lines <- function(study) {
  cells <- drop_empty(lapply(unclass_table(model_table(study)), as.character))
  in_steps <- lapply(unname(Filter(function(model) model$kind == "steps", study$models)), function(model) {
    text <- function(formulas) text_of(formulas, function(formula) formula$text)
    starts <- stats::setNames(rep("", length(model$lines)), names(model$lines))
    starts[names(model$starts)] <- text(model$starts)
    c(sprintf("  Lines of %s, from top to bottom at each of %s", model$name, count_of(length(model$steps), "step")),
      text_table(drop_empty(list(line = names(model$lines), formula = text(model$lines), `starts at` = unname(starts))),
        indent = "    "))
  })
  c(text_table(cells, indent = "  "), unlist(in_steps))
}

study_input_lines <- function(study, most = 60) {
  table <- utils::head(input_table(study), most)
  base <- vapply(base_values(study)[table$name], format_value, "")
  rule <- ifelse(table$base_rule %in% c("mode", "mean"), paste0(" (", table$base_rule, ")"), "")
  law <- ifelse(table$base_rule == "constant", "constant", table$law)
  law <- ifelse(is.na(table$fixed), law, paste0("fixed at ", base, ", was ", law))
  lines <- text_table(drop_empty(list(input = table$name, law = law, base = paste0(base, rule),
    unit = table$unit, drawn = table$drawn, shares = table$shares, group = table$group, label = table$label)), indent = "  ")
  c(lines, more_lines(length(study$inputs) - length(aside_names(study)) - most, "input", "input_table()"))
}

# One pair as a line, a few inputs as a table with blanks for zeros, many by their strongest pairs.
correlation_lines <- function(study, most = 20) {
  pairs <- own_correlations(study)
  names <- intersect(names(study$inputs), c(pairs$a, pairs$b))
  if (nrow(pairs) < 3 || length(names) > 9) {
    strongest <- utils::head(pairs[order(-abs(pairs$r)), , drop = FALSE], most)
    shown <- if (nrow(pairs) > most) strongest else pairs
    return(c(sprintf("  %s ~ %s: %s", shown$a, shown$b, format_number(shown$r)),
      more_lines(nrow(pairs) - most, "pair", "correlations()")))
  }
  study$correlations <- pairs
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
  c(lines, more_lines(nrow(output_table(study)) - most, "output", "output_table()"))
}

drop_empty <- function(columns) Filter(function(column) any(nzchar(column)), columns)

spec_lines <- function(specs) {
  text <- vapply(specs, function(spec) spec$text, "")
  paste0("  ", ifelse(names(specs) == text, text, paste0(names(specs), ": ", text)))
}

# Values and functions that came from the user's session, so that a slip of a name shows.
constants_lines <- function(study) {
  formulas <- formulas_of(study)
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
