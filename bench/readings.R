# Reading a result of ten million runs: all statistics of one output, against the same by hand with base R.
source(file.path("bench", "ratio.R"))

one <- study("Gravity main") |>
  add_inputs(flow = law_lognormal(mean = 34, sd = 5)) |>
  add_outputs(velocity = flow / 49 + 0.1 * flow^2 / 1000)
result <- simulate(one, 1e7, seed = 1, progress = NULL)
base <- base_case(result)$value[2]
values <- result$outputs$velocity
share <- c(5, 10, 25, 50, 75, 80, 90, 95) / 100

by_hand <- function(with_mode) {
  z <- (values - mean(values)) / stats::sd(values)
  z2 <- z * z
  p <- stats::quantile(values, share)
  out <- list(mean(values), stats::sd(values), min(values), max(values), mean(z2 * z), mean(z2 * z2) - 3, p,
    p[["75%"]] - p[["25%"]], p[["90%"]] - p[["10%"]], mean(values <= base), mean(values < base), p - base)
  if (with_mode) out$mode <- with(stats::density(values, n = 4096), x[which.max(y)])
  out
}

show_ratios("All statistics of one output, 1e7 runs",
  ratio("against base R, mode left out by hand", function() summary(result), function() by_hand(FALSE), 3),
  ratio("against base R, mode by density()", function() summary(result), function() by_hand(TRUE), 3),
  ratio("percentiles with their intervals, against quantile() alone", function() percentiles(result),
    function() stats::quantile(values, c(5, 10, 50, 90, 95) / 100), 3))

invisible(gc(reset = TRUE))
held <- sum(gc()[, 2])
summary(result)
peak <- sum(gc()[, 6])
cat(sprintf("\nMemory of the statistics at their peak beyond the result itself, over the output's own size: %.2f\n",
  (peak - held) / (8e7 / 2^20)))
