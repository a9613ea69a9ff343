# What a result says, in sentences: the report and the demo read it out.

# For one output: what the single number said, what the runs say.
output_sentences <- function(result, name) {
  label <- lower_first(quantity_label(result$study, name))
  unit <- quantity_unit(result$study, name)
  values <- finite_values(result, name)
  base <- as.double(result$base$outputs[[name]])
  p <- percentile_values(values, c(10, 90))
  kind <- output_kind_of(result, name)
  plain <- function(x) format_value(x, kind, output_decimals(result, name))
  number <- function(x) with_unit(plain(x), unit)
  if (length(values) == 0) return(sprintf("Every run of %s failed.", label))
  c(
    if (is.finite(base)) sprintf("The single-number calculation gives %s for %s.", number(base), label),
    sprintf("In the rehearsal 80 %% of runs lie from %s to %s%s.", plain(p[1]), number(p[2]),
      if (is.finite(base)) paste0("; ", base_sentence(values, base)) else ""),
    planning_sentence(result$study$readings, values, number)
  )
}

planning_sentence <- function(readings, values, number) {
  value <- percentile_values(values, not_exceeded(readings$planning, readings$sense))
  sprintf("P%s, the planning percentile, is %s: %s in %s %% of runs.", format(readings$planning), number(value),
    readings$sense, format(readings$planning))
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
  base_met <- new_evaluator(result$study$specs)(case_columns(result$base, result$study), 1)$values
  vapply(seq_along(base_met), function(i) {
    met <- if (isTRUE(base_met[[i]])) "meets" else "does not meet"
    share <- if (rates$pass_rate[i] == 1) "all runs do" else paste(format_share(rates$pass_rate[i]), "of runs do")
    sprintf("The single-number calculation %s \u201c%s\u201d; %s.", met, rates$condition[i], share)
  }, "")
}
