# A surrogate in words: what it predicts, what matters, what does nothing, and what acts together.

#' @export
in_words.ensayo_surrogate <- function(result, outputs = NULL) {
  outputs <- resolve_names(rlang::enquo(outputs), result$outputs, "an output of the surrogate")
  words_of_surrogate(result, outputs, list(more = "Next: `suggest_runs()` tells where further runs teach most.",
    use = "Next: `variance_indices()` of the surrogate, and `surrogate_chance()` for chances that are corrected by the runs."))
}

# `advice` names what to call next, which differs from where it is read.
words_of_surrogate <- function(surrogate, outputs, advice) words_by_output(outputs, function(name) surrogate_words(surrogate, name, advice))

surrogate_words <- function(surrogate, name, advice) {
  label <- quantity_label(surrogate$study, name)
  row <- summary(surrogate)
  row <- row[row$output == name, ]
  if ("still" %in% strsplit(row$findings, " ")[[1]]) return(sprintf("%s has the same value in every run.", label))
  number <- function(x) with_unit(decimal_text(x, decimals_for(x, 2)), quantity_unit(surrogate$study, name))
  parts <- surrogate_inputs(surrogate)
  parts <- parts[parts$output == name, ]
  active <- parts[!parts$idle, ]
  lost <- sprintf("`%s` (%s)", active$input, vapply(pmin(active$part, 1), format_share, "", digits = 0))
  c(sprintf("A surrogate predicts %s of the variance of %s in runs that it was not fitted to (%s to %s); its errors are about %s.",
    known_share(row$r_squared), lower_first(label), known_share(row$low), known_share(row$high), number(row$error)),
    if (nrow(active)) sprintf("Not knowing an input loses so much of that: %s.", few_listed(lost)),
    if (any(parts$idle)) sprintf("No effect can be seen of %s.", few_listed(quoted(parts$input[parts$idle]))),
    interaction_words(surrogate, name, active$input),
    if (row$r_squared < 0.9) advice$more else advice$use)
}

# First-order indices that sum to clearly less than 1: inputs that act together, and which pair most.
interaction_words <- function(surrogate, name, active) {
  study <- surrogate$study
  single <- !is.matrix(surrogate$taught$values[[name]])
  if (!single || length(active) < 2 || length(active) > 12 || nrow(live_correlations(study)) > 0 || any(lengths(input_needs(study)) > 0)) return(NULL)
  table <- variance_indices(surrogate, 2048, 1, outputs = name, second_order = TRUE, announce = NULL, progress = NULL)
  first <- table[table$measure == "first_order", ]
  known <- surrogate$data$outputs[[name]]$found$score$r_squared
  together <- 1 - sum(first$value)
  error <- sqrt(sum(first$error^2))
  if (!is.finite(together) || together < max(0.05, 2 * error, 1 - known)) return(NULL)
  pairs <- table[table$measure == "second_order", ]
  pair <- pairs[which.max(pairs$value), ]
  sprintf("Single inputs make %s of it; %s is what inputs do together, most of it %s (%s).", format_share(sum(first$value), 0),
    format_share(together, 0), quoted_pair(pair$input), format_share(max(pair$value, 0), 0))
}

quoted_pair <- function(text) gsub(" and ", "` and `", sprintf("`%s`", text), fixed = TRUE)
