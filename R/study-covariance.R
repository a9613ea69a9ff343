# How the values of inputs hang together, for sums of their uncertainties: Pearson's correlations and covariances, where the
# study has rank correlations, rows of data and shared uncertainties.

# The input whose uniform numbers an input takes.
source_of_draws <- function(study, name) study$inputs[[name]]$shares %||% name

value_correlations <- function(study, names) {
  r <- diag(length(names))
  dimnames(r) <- list(names, names)
  sources <- vapply(names, function(name) source_of_draws(study, name), "")
  pairs <- live_correlations(study)
  link <- function(i, j, score) r[i, j] <<- r[j, i] <<- pair_correlation(study, names[c(i, j)], score)
  for (same in Filter(function(at) length(at) > 1, split(seq_along(names), sources))) {
    for (k in seq_along(same)) for (l in seq_len(k - 1)) link(same[k], same[l], 1)
  }
  for (p in seq_len(nrow(pairs))) {
    for (i in which(sources == pairs$a[p])) for (j in which(sources == pairs$b[p])) link(i, j, score_correlation(pairs$r[p]))
  }
  r
}

pair_correlation <- function(study, pair, score) {
  laws <- lapply(study$inputs[pair], function(input) input$law)
  rows <- vapply(laws, family_name, "") == "rows"
  if (all(rows)) return(stats::cor(parameters_of(laws[[1]])$data, parameters_of(laws[[2]])$data))
  pearson_of_scores(score, laws[[1]], laws[[2]])
}
