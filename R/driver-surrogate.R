# Variance indices of surrogates: those of the fast stand-in, with intervals that know how well it stands in.

# How far each index moves where a part of the runs is left out (a jackknife by parts), and what of the output the surrogate does not
# know: the index as a share of all of the variance lies between none and all of that belonging to it.
with_surrogate_error <- function(table, surrogate, index, confidence) {
  folds <- surrogate_index_folds(surrogate)
  parts <- lapply(seq_len(folds), function(i) index(surrogate_study(surrogate_without(surrogate, i)))$value)
  values <- matrix(unlist(parts), nrow(table))
  scatter <- sqrt((folds - 1) / folds * rowSums((values - rowMeans(values))^2))
  study <- surrogate_study(surrogate)
  # a formula is known as well as the worst of what it is made of
  known <- vapply(table$output, function(name) {
    behind <- intersect(needed_outputs(study, name), surrogate$outputs)
    min(1, vapply(behind, function(one) max(surrogate$data$outputs[[one]]$found$score$r_squared %|% 0, 0), 0))
  }, 0)
  half <- stats::qt((1 + confidence) / 2, folds - 1) * sqrt(table$error^2 + scatter^2)
  table$error <- sqrt(table$error^2 + scatter^2)
  table$low <- (table$value - half) * known
  table$high <- (table$value + half) * known + (1 - known)
  table$beyond_noise <- table$low > 0 & !is.na(table$low)
  table$remark <- ifelse(nzchar(table$remark) | known >= 0.99, table$remark, sprintf("of a surrogate that predicts %s", known_share(known)))
  table
}

surrogate_index_folds <- function(surrogate) {
  max(vapply(surrogate$outputs, function(name) max(surrogate$data$outputs[[name]]$found$folds), 0))
}
