# The draws of a study: uniforms, correlated where asked, then inverted through each law.

# A named list of columns, one for each input that varies.
draw_columns <- function(study, nsim, seed, design) {
  varying <- varying_names(study)
  u <- lapply(study$inputs[varying], function(input) stream_uniforms(input$stream, seed, design, nsim))
  correlate <- switch(design, latin = correlate_latin, random = correlate_random)
  for (set in correlated_sets(study)) u[set] <- correlate(u[set], correlation_matrix(study, set))
  Map(function(input, column) quantile(input$law, column), study$inputs[varying], u)
}

# What was asked for and what the draws have, a row for each pair.
correlation_table <- function(study, draws) {
  pairs <- live_correlations(study)
  ranks <- lapply(draws[unique(c(pairs$a, pairs$b))], mid_ranks)
  achieved <- vapply(seq_len(nrow(pairs)), function(i) correlation_of(ranks[[pairs$a[i]]], ranks[[pairs$b[i]]]), 0)
  data.frame(a = pairs$a, b = pairs$b, asked = pairs$r, achieved = achieved)
}
