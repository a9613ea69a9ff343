# How the values of inputs hang together, for sums of their uncertainties: Pearson's correlations and covariances, where the
# study has rank correlations, rows of data and shared uncertainties.

# The input whose uniform numbers an input takes.
source_of_draws <- function(study, name) study$inputs[[name]]$shares %||% name

value_correlations <- function(study, names) {
  r <- diag(length(names))
  dimnames(r) <- list(names, names)
  sources <- vapply(names, function(name) source_of_draws(study, name), "")
  pairs <- live_correlations(study)
  for (i in seq_along(names)) for (j in seq_len(i - 1)) {
    score <- if (sources[i] == sources[j]) 1 else {
      at <- pairs$a %in% sources[c(i, j)] & pairs$b %in% sources[c(i, j)]
      if (any(at)) score_correlation(pairs$r[at][1]) else 0
    }
    if (score != 0) r[i, j] <- r[j, i] <- pair_correlation(study, names[c(i, j)], score)
  }
  r
}

pair_correlation <- function(study, pair, score) {
  laws <- lapply(study$inputs[pair], function(input) input$law)
  rows <- vapply(laws, family_name, "") == "rows"
  if (all(rows)) return(stats::cor(parameters_of(laws[[1]])$data, parameters_of(laws[[2]])$data))
  pearson_of_scores(score, laws[[1]], laws[[2]])
}
