# Variance indices of surrogates: those of the fast stand-in, with intervals that know how well it stands in.

# How far each index moves where a part of the runs is left out (a jackknife by parts), and what of the output the surrogate does not
# know: the index as a share of all of the variance lies between none and all of that belonging to it.
with_surrogate_error <- function(table, surrogate, index, confidence) {
  folds <- surrogate_index_folds(surrogate)
  parts <- lapply(seq_len(folds), function(i) index(surrogate_study(surrogate_without(surrogate, i)))$value)
  values <- matrix(unlist(parts), nrow(table))
  scatter <- sqrt((folds - 1) / folds * rowSums((values - rowMeans(values))^2))
  known <- pmin(pmax(vapply(table$output, function(name) surrogate$data$outputs[[name]]$found$score$r_squared %|% 0, 0), 0), 1)
  half <- stats::qt((1 + confidence) / 2, folds - 1) * sqrt(table$error^2 + scatter^2)
  table$error <- sqrt(table$error^2 + scatter^2)
  table$low <- (table$value - half) * known
  table$high <- (table$value + half) * known + (1 - known)
  table$beyond_noise <- table$low > 0 & !is.na(table$low)
  table$remark <- ifelse(nzchar(table$remark), table$remark, sprintf("of the surrogate, which predicts %s of the variance", format_share(known)))
  table
}

surrogate_index_folds <- function(surrogate) {
  max(vapply(surrogate$outputs, function(name) max(surrogate$data$outputs[[name]]$found$folds), 0))
}

# Fitted again without a part of the runs.
surrogate_without <- function(surrogate, fold) {
  surrogate$data$outputs <- lapply(surrogate$data$outputs, function(output) {
    kept <- output$found$folds != fold
    output$rows <- output$rows[kept]
    output$parts <- lapply(output$parts, function(part) {
      part$y <- part$y[kept]
      x <- surrogate$data$runs[output$rows, part$used, drop = FALSE]
      part$fit <- surrogate_kind(part$kind)$fit(x, part$y, surrogate$data$coordinates[part$used], part$fit)
      part
    })
    output
  })
  surrogate
}
