# What a result says, in sentences: the report and the demo read it out.

# For one output: what the single number said, what the runs say.
output_sentences <- function(result, name) {
  label <- lower_first(quantity_label(result$study, name))
  unit <- quantity_unit(result$study, name)
  values <- finite_values(result, name)
  base <- as.double(result$base$outputs[[name]])
  p <- percentile_values(values, c(10, 90))
  kind <- output_kind_of(result, name)
  number <- function(x) with_unit(format_value(x, kind), unit)
  if (length(values) == 0) return(sprintf("Every run of %s failed.", label))
  c(
    if (is.finite(base)) sprintf("The single-number calculation gives %s for %s.", number(base), label),
    sprintf("In the rehearsal 80 %% of runs lie from %s to %s%s.", format_value(p[1], kind), number(p[2]),
      if (is.finite(base)) paste0("; ", base_sentence(values, base)) else "")
  )
}

base_sentence <- function(values, base) {
  below <- mean(values < base)
  if (min(values) == max(values)) return("they do not vary")
  sprintf("%s of all runs fall below the single number", format_share(below, 0))
}

# For each spec: whether the single number meets it, and how often the runs do.
spec_sentences <- function(result) {
  if (length(result$study$specs) == 0) return(character())
  rates <- pass_rate(result)
  columns <- lapply(c(result$base$inputs, result$base$outputs), function(value) value)
  base_met <- new_evaluator(result$study$specs)(columns, 1)$values
  vapply(seq_along(base_met), function(i) {
    met <- if (isTRUE(base_met[[i]])) "meets" else "does not meet"
    share <- if (rates$pass_rate[i] == 1) "all runs do" else paste(format_share(rates$pass_rate[i]), "of runs do")
    sprintf("The single-number calculation %s \u201c%s\u201d; %s.", met, rates$condition[i], share)
  }, "")
}

driver_sentence <- function(result, name) {
  table <- drivers_of(result, name)
  table <- table[is.finite(table$value) & table$remark == "", ]
  label <- lower_first(quantity_label(result$study, name))
  if (nrow(table) == 0) return(sprintf("No input makes %s vary.", label))
  top <- utils::head(table[table$share >= 0.05, ], 3)
  shown <- sprintf("%s (%s)", vapply(top$input, function(input) lower_first(quantity_label(result$study, input)), ""),
    format_share(top$share, 0))
  sprintf("Most of the spread of %s comes from %s.", label, and_list(shown))
}

# The outputs a reader asks about first: those that specs are about, else the last one defined.
leading_outputs <- function(result) {
  used <- unlist(lapply(result$study$specs, function(spec) intersect(spec$uses, names(result$outputs))))
  if (length(used)) unique(used) else utils::tail(names(result$study$outputs), 1)
}
