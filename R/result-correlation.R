#' Correlations asked for and achieved
#'
#' @param x A study or a result.
#' @return A data frame with a row for each correlated pair: `a`, `b` (inputs), and rank correlations: of a study
#'   `given` (as it was given), `r` (as it will be drawn) and `moved` (their difference, other than 0 where
#'   [add_correlation()] was asked to repair the matrix); of a result `asked` and `achieved`.
#' @section Errors: `ensayo_error_argument` where `x` is neither.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_pert(28, 34, 48), friction = law_lognormal(mean = 0.021, sd = 0.003)) |>
#'   add_correlation(demand, friction, 0.4) |>
#'   add_outputs(loss = friction * demand^2)
#' correlations(main)
#' correlations(simulate(main, nsim = 1000, seed = 11))
#' @export
correlations <- function(x) {
  if (inherits(x, "ensayo_study")) {
    pairs <- x$correlations
    return(new_table(list(a = pairs$a, b = pairs$b, given = pairs$given, r = pairs$r, moved = pairs$r - pairs$given)))
  }
  check_result(x, "x", "Give a study or a result.")
  new_table(x$correlations)
}
