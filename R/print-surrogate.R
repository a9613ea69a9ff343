# Surrogates on the terminal, and the sentences that tell how far they can be trusted.

#' @export
print.ensayo_surrogate <- function(x, ...) {
  cat(surrogate_lines(x), sep = "\n")
  invisible(x)
}

surrogate_lines <- function(surrogate) {
  table <- summary(surrogate)
  all <- length(surrogate$taught$failed)
  added <- sum(!surrogate$taught$designed)
  cells <- surrogate_cells(surrogate, table)
  remarks <- c(unlist(lapply(table$output, function(name) surrogate_remarks(surrogate, name))), failing_words(surrogate))
  told <- paste0(count_of(all, "run"), if (added) sprintf(", %s of them added later", format_given(added)), sprintf(" of %s",
    count_of(length(surrogate$taught$columns), "input")), if (any(surrogate$taught$failed)) sprintf("; %s failed", format_given(sum(surrogate$taught$failed))))
  c(title_line("Surrogate", surrogate$study$title), told, "", heading("Outputs, by predictions of runs that they were not fitted to"),
    text_table(cells, numeric = names(cells) %in% c("predicted variance", "95 %", "error"), indent = "  "),
    if (length(remarks)) c("", wrapped_lines(remarks)))
}

surrogate_cells <- function(surrogate, table) {
  decimals <- decimals_for(table$error, 2)
  drop_empty(list(output = table$output, unit = table$unit, surrogate = surrogate_titles(table$surrogate),
    `predicted variance` = known_share(table$r_squared), `95 %` = sprintf("%s to %s", known_share(table$low), known_share(table$high)),
    error = ifelse(is.finite(table$error), decimal_text(table$error, decimals), "-"), idle = gsub(" ", ", ", table$idle)))
}

surrogate_titles <- function(kinds) {
  vapply(strsplit(kinds, ", ", fixed = TRUE), function(each) {
    paste(vapply(each, function(kind) surrogate_kind(kind)$title, ""), collapse = ", ")
  }, "")
}

# What a reader must know before trusting it.
surrogate_remarks <- function(surrogate, name) {
  label <- quantity_label(surrogate$study, name)
  found <- surrogate_findings(surrogate, name)
  output <- surrogate$data$outputs[[name]]
  worst <- worst_region(surrogate, name)
  number <- function(x) with_unit(decimal_text(x, decimals_for(x, 2)), quantity_unit(surrogate$study, name))
  said <- function(code, words) if (code %in% found) sprintf("%s: %s", label, words)
  c(said("still", "it has the same value in every run."),
    said("poor", "less than half of its variance is predicted. Do not use it in place of the model; run more, or look for what is missing."),
    said("rests_on_few", "three runs are most of its spread, so that no fit can be trusted where they are. Run more there."),
    said("noise", "runs of the same inputs differ. What is random in the model is missing from the surrogate."),
    said("components", sprintf("the series is put together from %s.", count_of(length(output$parts), "component"))),
    if (!is.null(worst)) sprintf("%s: errors are largest where %s is %s (%s against %s on the whole).", label,
      if (worst$about == name) "it" else sprintf("`%s`", worst$about), worst$region, number(worst$error), number(held_out_error(surrogate, name))))
}

failing_words <- function(surrogate) {
  if (!any(surrogate$taught$failed)) return(NULL)
  failing <- surrogate$data$failing
  if (is.null(failing)) return("Where runs fail cannot be told from these: no surrogate run fails.")
  sprintf("Where runs fail is predicted, too (%s of the variance of whether they do, %s); surrogate runs that would probably fail have no value.",
    known_share(failing$found$score$r_squared), failing_inputs(failing$found$parts))
}
