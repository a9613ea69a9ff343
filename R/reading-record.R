#' Statistics alone, for more runs than memory holds
#'
#' Simulates a study piece by piece and keeps figures instead of runs: for hundreds of outputs, or many millions of
#' runs.
#'
#' @param study A study with at least one input and one output.
#' @inheritParams simulate.ensayo_study
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @param percentiles Numeric from 0 to 100, in the study's sense; `NULL` for the study's own.
#' @param piece Whole number: runs in memory at a time.
#' @return A data frame with a row for each output: `output`, `unit`, `runs`, `failed`, `base`, `mean`, `mean_error`,
#'   `sd`, `skewness`, `excess_kurtosis`, `min`, the percentiles, `max` and `sense`, as in
#'   [summary()][summary.ensayo_result]; and the pass rate of each spec under its name, after them, in rows with
#'   `unit` "share".
#' @details Draws and runs are those of `simulate()` with the same arguments. Percentiles come from counts in 4,096
#'   cells that held equally many of the first piece's runs, along straight lines within a cell: what is given as P95
#'   is exceeded in 5 % of runs to within about 0.025 points. Because no run is kept there are no chances of new
#'   conditions, no drivers, no pictures, no intervals of percentiles and no paired comparison afterwards: for those,
#'   [simulate()][simulate.ensayo_study] fewer runs.
#' @section Errors: as for `simulate()`.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' record_statistics(main, nsim = 50000, seed = 11, piece = 20000)
#' @export
record_statistics <- function(study, nsim = 1e6, seed = NULL, outputs = NULL, percentiles = NULL, ..., design = "latin",
                              replicates = 1, block = NULL, threads = NULL, piece = 2^17, progress = show_progress) {
  check_study(study)
  check_no_dots(..., .options = c("design", "replicates", "block", "threads", "piece"))
  plan <- draw_plan(nsim, seed, design, replicates, block, threads)
  validate_study(study)
  outputs <- resolve_names(rlang::enquo(outputs), names(study$outputs), "an output of the study")
  asked <- sort(unique(check_percentiles(percentiles %||% shown_percentiles(study$readings), "percentiles")))
  piece <- check_count(piece, at_least = 1000)
  if (length(correlated_sets(study))) piece <- max(piece, plan$block)
  records <- recorded_pieces(study, plan, outputs, piece, progress)
  base <- base_case_of(study, study_evaluator(study))$outputs
  rows <- lapply(outputs, function(name) record_row(study, name, records[[name]], as.double(base[[name]]), asked,
    plan$nsim))
  new_table(as.list(do.call(rbind, c(rows, spec_rows(study, records$specs, rows[[1]], plan$nsim)))))
}

recorded_pieces <- function(study, plan, outputs, piece, progress) {
  records <- list()
  met <- stats::setNames(numeric(length(study$specs)), names(study$specs))
  for (first in seq(0, plan$nsim - 1, by = piece)) {
    count <- min(piece, plan$nsim - first)
    draws <- draw_columns(study, plan, first, count)
    values <- evaluate_draws(study, draws, plan, first, count, NULL)$values
    records[outputs] <- lapply(outputs, function(name) record_more(records[[name]], as.double(values[[name]])))
    if (length(met)) met <- met + specs_met(study, draws, values, first + seq_len(count))
    if (!is.null(progress)) progress(first + count, plan$nsim)
  }
  c(records, list(specs = met))
}

specs_met <- function(study, draws, values, runs) {
  columns <- c(draws, lapply(Filter(Negate(varies), study$inputs), held_value), values)
  held <- new_evaluator(study$specs)(columns, runs)$values
  vapply(held, function(x) sum(x %in% TRUE), 0)
}

# Moments about the mean put together as in Chan, Golub and LeVeque (1979), and counts in cells of the first piece.
record_more <- function(record, values) {
  m <- cpp_moments(values)
  good <- values[is.finite(values)]
  if (is.null(record)) record <- list(n = 0, mean = 0, m = c(0, 0, 0), min = Inf, max = -Inf, cells = NULL)
  if (m$count == 0) return(record)
  if (is.null(record$cells)) {
    record$edges <- unique(percentile_values(good, 100 * seq(0, 1, length.out = 4097), 1))
    record$cells <- numeric(length(record$edges) + 1)
  }
  record$cells <- record$cells + tabulate(findInterval(good, record$edges, left.open = TRUE) + 1, length(record$cells))
  central <- c(m$m2, m$m3, m$m4) * m$count * m$scale^(2:4)
  joined <- joined_moments(record$n, record$mean, record$m, m$count, m$mean, central)
  record$m <- joined$m
  record$mean <- joined$mean
  record$n <- record$n + m$count
  record$min <- min(record$min, m$min)
  record$max <- max(record$max, m$max)
  record
}

# Sums of second, third and fourth powers about the common mean.
joined_moments <- function(n, mean, m, n2, mean2, m2) {
  all <- n + n2
  d <- mean2 - mean
  list(mean = mean + d * n2 / all, m = c(
    m[1] + m2[1] + d^2 * n * n2 / all,
    m[2] + m2[2] + d^3 * n * n2 * (n - n2) / all^2 + 3 * d * (n * m2[1] - n2 * m[1]) / all,
    m[3] + m2[3] + d^4 * n * n2 * (n^2 - n * n2 + n2^2) / all^3 + 6 * d^2 * (n^2 * m2[1] + n2^2 * m[1]) / all^2 +
      4 * d * (n * m2[2] - n2 * m[2]) / all))
}

record_row <- function(study, name, record, base, percentiles, nsim) {
  sense <- study$readings$sense
  n <- record$n
  sd <- sqrt(record$m[1] / (n - 1))
  at <- cell_percentiles(record, not_exceeded(percentiles, sense))
  none <- n == 0
  data.frame(output = name, unit = quantity_unit(study, name) %||% "", runs = n, failed = nsim - n, base = base,
    mean = if (none) NA_real_ else record$mean, mean_error = sd / sqrt(n), sd = sd,
    skewness = record$m[2] / n / (record$m[1] / n)^1.5, excess_kurtosis = record$m[3] / n / (record$m[1] / n)^2 - 3,
    min = if (none) NA_real_ else record$min, stats::setNames(as.list(at), percentile_names(percentiles)),
    max = if (none) NA_real_ else record$max, sense = sense)
}

# Along straight lines between the cells' edges; the first and last cell end at the extremes.
cell_percentiles <- function(record, percentiles) {
  if (record$n == 0) return(rep(NA_real_, length(percentiles)))
  if (length(record$edges) < 2000) {  # few values: a percentile is one that occurred
    reached <- cumsum(record$cells) / record$n
    return(c(record$edges, record$max)[findInterval(percentiles / 100 - 1e-12, reached) + 1])
  }
  edges <- c(record$min, record$edges, record$max)
  reached <- c(0, cumsum(record$cells)) / record$n
  keep <- !duplicated(edges, fromLast = TRUE)
  edges <- edges[keep]
  reached <- reached[keep]
  if (length(edges) == 1) return(rep(edges, length(percentiles)))
  stats::approx(reached, edges, percentiles / 100, rule = 2, ties = list("ordered", min))$y
}

# Pass rates in rows of the same columns, all others missing.
spec_rows <- function(study, met, like, nsim) {
  lapply(names(study$specs), function(spec) {
    row <- like
    row[vapply(row, is.numeric, TRUE)] <- NA_real_
    rate <- met[[spec]] / nsim
    row[c("output", "unit", "runs", "failed", "mean", "mean_error", "sense")] <- list(spec, "share", nsim, 0, rate,
      sqrt(rate * (1 - rate) / nsim), "")
    row
  })
}
