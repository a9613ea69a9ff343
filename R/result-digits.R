# The decimals that an output's values are shown with, the same in print, figure, report and words.

output_decimals <- function(result, name) {
  values <- finite_values(result, name)
  if (length(values) < 2) return(NA_real_)
  spread <- diff(percentile_values(values, c(10, 90)))
  sd <- stats::sd(values)
  decimals_of(if (spread > 0) spread else 2.56 * sd, sd / sqrt(length(values)))
}
