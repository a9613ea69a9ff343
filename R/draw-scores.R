# Inputs from normal scores: a point whose coordinates are independent and standard normal, as columns of a study's inputs. Where a
# simulation draws uniform numbers by address, searches and importance sampling choose such points themselves.

# The inputs that have a score of their own, in order of definition.
scored_inputs <- function(study) unique(unname(leaders_of(study, varying_names(study))))

# `scores`: a matrix with a row for each run and a column for each of them.
columns_of_scores <- function(study, scores) {
  varying <- varying_names(study)
  leader <- leaders_of(study, varying)
  colnames(scores) <- scored_inputs(study)
  for (set in correlated_sets(study)) {
    own <- intersect(set, colnames(scores))
    scores[, own] <- scores[, own, drop = FALSE] %*% t(semidefinite_root(score_correlation(correlation_matrix(study, own))))
  }
  columns <- lapply(Filter(Negate(varies), study$inputs), held_value)
  for (name in intersect(input_order(study), varying)) {
    law <- study$inputs[[name]]$law
    z <- scores[, leader[[name]]]
    columns[[name]] <- if (is_linked(law)) linked_quantile(law, stats::pnorm(z), columns) else scored_values(law, z)
  }
  columns[varying]
}

# From the nearer tail, where a probability has all its digits.
scored_values <- function(law, z) {
  if (family_name(law) == "rows" || is_categorical(law)) return(draw_from(law, stats::pnorm(z)))
  ready <- ready_to_invert(ready_law(law))
  out <- numeric(length(z))
  lower <- z < 0
  out[lower] <- ask(ready, "quantile", stats::pnorm(z[lower]), TRUE)
  out[!lower] <- ask(ready, "quantile", stats::pnorm(-z[!lower]), FALSE)
  out
}
