#' Correlations asked for and achieved
#'
#' @param x A study or a result.
#' @param kind Of a result: `"rank"` for Spearman's rho, `"score"` for Pearson's correlation of the normal scores, of
#'   what was asked and of what the draws have.
#' @return A data frame with a row for each correlated pair: `a`, `b` (inputs), and rank correlations: of a study
#'   `given` (as it was given), `r` (as it will be drawn) and `moved` (their difference, other than 0 where
#'   [add_correlation()] was asked to repair the matrix); of a result `asked` and `achieved` (of
#'   more than ten million runs, in the first ten million).
#' @section Errors: `ensayo_error_argument` where `x` is neither.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003)) |>
#'   add_correlation(demand, friction, 0.4) |>
#'   add_outputs(loss = friction * demand^2)
#' correlations(main)
#' correlations(simulate(main, nsim = 1000, seed = 11))
#' @export
correlations <- function(x, kind = "rank") {
  kind <- check_choice(kind, correlation_kinds)
  if (inherits(x, "ensayo_study")) {
    pairs <- x$correlations
    return(new_table(list(a = pairs$a, b = pairs$b, given = pairs$given, r = pairs$r, moved = pairs$r - pairs$given)))
  }
  check_result(x, "x", "Give a study or a result.")
  new_table(correlation_table(x, kind))
}

# What was asked for and what the draws have, a row for each pair. It is read off the draws when asked for: simulating
# need not wait for it.
correlation_table <- function(result, kind = "rank") {
  result <- with_leading_runs(result)
  pairs <- live_correlations(result$study)
  columns <- numeric_columns(result, unique(c(pairs$a, pairs$b)))
  if (kind == "score") columns <- lapply(mid_ranks(columns), function(rank) stats::qnorm(rank / (length(rank) + 1)))
  all <- correlations_between(columns, columns, kind == "rank")
  achieved <- all[cbind(match(pairs$a, names(columns)), match(pairs$b, names(columns)))]
  asked <- if (kind == "rank") pairs$r else score_correlation(pairs$r)
  data.frame(a = pairs$a, b = pairs$b, asked = asked, achieved = achieved)
}
