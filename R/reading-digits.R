# The decimals that an output's values are shown with, the same in print, figure, report and words.

output_decimals <- function(result, name) {
  good <- is.finite(values_of(result, name))
  values <- values_of(result, name)[good]
  if (length(values) < 2) return(NA_real_)
  spread <- diff(percentile_values(values, c(10, 90)))
  decimals_of(if (spread > 0) spread else 2.56 * stats::sd(values),
    mean_error(values, telling_replicates(result)[good]))
}
