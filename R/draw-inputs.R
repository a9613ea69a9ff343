# The draws of a study: uniforms, correlated where asked, then inverted through each law.

# A named list of columns, one for each input that varies.
draw_columns <- function(study, nsim, seed, design) {
  varying <- varying_names(study)
  leader <- vapply(varying, function(name) study$inputs[[name]]$shares %||% name, "")
  u <- lapply(study$inputs[unique(leader)], function(input) stream_uniforms(input$stream, seed, design, nsim))
  correlate <- switch(design, latin = correlate_latin, random = correlate_random)
  for (set in correlated_sets(study)) u[set] <- correlate(u[set], correlation_matrix(study, set))
  columns <- lapply(Filter(Negate(varies), study$inputs), held_value)
  for (name in intersect(input_order(study), varying)) {
    law <- study$inputs[[name]]$law
    p <- u[[leader[[name]]]]
    columns[[name]] <- if (is_linked(law)) linked_quantile(law, p, columns) else draw_from(law, p)
  }
  columns[varying]
}

# By inversion; whole rows of a data set by their place in it, so that they stay together.
draw_from <- function(law, u) {
  if (family_name(law) != "rows") return(ask(law, "quantile", u, TRUE))
  data <- parameters_of(law)$data
  data[pmin(floor(u * length(data)) + 1, length(data))]
}

# Draws as numbers that can be ranked: categories by their place in their law.
numeric_draws <- function(study, draws) {
  Map(function(column, name) {
    if (is.character(column)) match(column, parameters_of(study$inputs[[name]]$law)$values) else column
  }, draws, names(draws))
}

# What was asked for and what the draws have, a row for each pair.
correlation_table <- function(study, draws) {
  pairs <- live_correlations(study)
  ranks <- lapply(numeric_draws(study, draws[unique(c(pairs$a, pairs$b))]), mid_ranks)
  achieved <- vapply(seq_len(nrow(pairs)), function(i) correlation_of(ranks[[pairs$a[i]]], ranks[[pairs$b[i]]]), 0)
  data.frame(a = pairs$a, b = pairs$b, asked = pairs$r, achieved = achieved)
}
