#' Expected shortfall
#'
#' The mean of an output beyond a percentile or a value: how bad it is on average when it is bad.
#'
#' @inheritParams percentiles
#' @param percentiles Numeric from 0 to 100: beyond which, in the study's sense; left out where `beyond` is given.
#' @param beyond Numbers or `NULL`: values of the output instead of percentiles.
#' @param tail `"upper"`: the largest values; `"lower"`: the smallest.
#' @param reference A number that the mean is taken relative to, such as a start value or a budget (of a date the days
#'   since 1970-01-01); `"base"` for the base case; 0 for none.
#' @return A data frame with a row for each output and percentile or value: `output`, `tail`, `percentile` (`NA` for a
#'   value), `beyond` (the value), `share` of runs beyond it, `mean_beyond` (in the output's unit), its simulation error
#'   `error` (a standard error), `shortfall` (`mean_beyond` less `reference`; in the lower tail `reference` less
#'   `mean_beyond`), `unit` and `kind`.
#' @details Beyond a percentile it is the mean of exactly that share of the runs, the run on its edge counted in part
#'   (Acerbi and Tasche 2002, Journal of Banking & Finance 26(7), definition 2.6); the error is that of such a tail mean
#'   (Chen 2008, Journal of Financial Econometrics 6(1)). Beyond a value it is the mean of the runs further out; it is
#'   `NA` where there are none.
#' @section Errors: `ensayo_error_argument` for percentiles outside 0 to 100, another tail or reference;
#'   `ensayo_error_name` for an unknown output.
#' @examples
#' res <- study("Burst repairs") |>
#'   add_inputs(bursts = law_poisson(7.5), each = law_lognormal(mean = 900, sd = 400)) |>
#'   add_outputs(cost = output(bursts * each, unit = "EUR")) |>
#'   simulate(nsim = 1000, seed = 11)
#' expected_shortfall(res, cost, percentiles = c(90, 95), reference = 8000)
#' expected_shortfall(res, cost, beyond = 15000)
#' @export
expected_shortfall <- function(result, outputs = NULL, percentiles = 95, beyond = NULL, tail = "upper", reference = 0) {
  check_result(result)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  tail <- check_choice(tail, c("upper", "lower"))
  if (!identical(reference, "base")) check_number(reference, mend = "Or say \"base\" for the base case.")
  if (!is.null(beyond)) beyond <- check_numeric(beyond)
  asked <- check_percentiles(percentiles)
  at <- not_exceeded(asked, result$study$readings$sense)
  rows <- lapply(outputs, function(name) {
    values <- finite_values(result, name)
    replicates <- telling_replicates(result)
    if (!is.null(replicates)) replicates <- replicates[is.finite(run_column(result, name))]
    found <- if (is.null(beyond)) vapply(at, function(p) tail_mean(values, p, tail, replicates), numeric(4))
      else vapply(beyond, function(x) mean_past(values, x, tail), numeric(4))
    kind <- output_kind_of(result, name)
    from <- if (identical(reference, "base")) as.double(result$base$outputs[[name]])
      else if (kind == "date" && reference == 0) NA_real_ else reference
    data.frame(output = name, tail = tail, percentile = if (is.null(beyond)) asked else NA_real_, beyond = found[1, ],
      share = found[2, ], mean_beyond = found[3, ], error = found[4, ],
      shortfall = (found[3, ] - from) * if (tail == "upper") 1 else -1,
      unit = quantity_unit(result$study, name) %||% "", kind = kind)
  })
  table <- new_table(do.call(rbind, rows))
  typed_table(table, c("beyond", if (all(table$kind == "date")) "mean_beyond"))
}

# Edge, share, mean and standard error of the mean of a share of the runs, the largest or the smallest.
tail_mean <- function(values, percentile, tail, replicates = NULL) {
  n <- length(values)
  share <- if (tail == "upper") 1 - percentile / 100 else percentile / 100
  if (n == 0 || share <= 0) return(c(percentile_values(values, percentile), share, NA, NA))
  sign <- if (tail == "upper") 1 else -1
  size <- share * n
  # ranks counted from the far end; the edge is the value of rank ceiling(size)
  edge <- sign * percentile_rank(sign * values, n + 1 - max(1, ceiling(size - 1e-9)))
  excess <- pmax(sign * (values - edge), 0)
  mean_beyond <- edge + sign * sum(excess) / size
  # one run beyond, or a part of one, tells a mean and not how sure it is
  runs_beyond <- if (is.null(replicates)) size else size / length(unique(replicates))
  error <- if (runs_beyond < 2) NA_real_ else if (is.null(replicates)) stats::sd(excess) / sqrt(n) / share
    else replicate_errors(values, replicates, function(x) tail_mean(x, percentile, tail)[3])
  c(edge, share, mean_beyond, error)
}

percentile_rank <- function(values, rank) cpp_order_statistics(as.double(values), rank)

mean_past <- function(values, beyond, tail) {
  past <- if (tail == "upper") values[values > beyond] else values[values < beyond]
  c(beyond, length(past) / length(values), if (length(past)) mean(past) else NA,
    if (length(past) > 1) stats::sd(past) / sqrt(length(past)) else NA)
}
