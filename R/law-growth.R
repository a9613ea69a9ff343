# Growth from step to step, as a recorded series shows it.

#' Growth from a recorded series
#'
#' The law of the factor by which a quantity changes over a step, where its logarithm has grown with a steady drift and a random
#' spread: a price, a population, a demand. Use it for an input that is drawn anew at each step, in a line that multiplies the
#' value of the step before.
#'
#' @param recorded Positive numbers, one for each recorded step, in order: at least three.
#' @param over Number: how many recorded steps one step of the model takes, 12 for years from months.
#' @param drift,spread Numbers or `NULL`: the mean and the standard deviation of the growth of the logarithm over a recorded step,
#'   where these are not to be taken from the record; a record is too short to tell its own drift well.
#' @return A lognormal law, whose `meanlog` is the drift and whose `sdlog` is the spread over a step of the model.
#' @details With \eqn{g_i = \log(x_i / x_{i-1})} the drift is their mean and the spread their standard deviation, over a recorded
#'   step; over \eqn{m} of them \eqn{m} and \eqn{\sqrt m} times as much. Growth is taken as independent from step to step.
#' @section Source: the geometric Brownian motion, fitted by maximum likelihood but for the divisor \eqn{n - 1} of the variance
#'   (Campbell, Lo and MacKinlay 1997, The Econometrics of Financial Markets, section 9.3).
#' @section Errors: `ensayo_error_argument` where `recorded` is not such numbers, or does not vary in its growth.
#' @family laws
#' @examples
#' price <- c(1.02, 1.05, 1.04, 1.09, 1.12, 1.10, 1.15)
#' law_growth(price)
#' study("Cost of water by truck") |>
#'   add_inputs(growth = input(law_growth(price), steps = 12)) |>
#'   add_steps(price = state(price * growth, start = 1.15, unit = "EUR/m3")) |>
#'   add_outputs(dearest = max(price)) |>
#'   simulate(nsim = 200, seed = 11)
#' @export
law_growth <- function(recorded, over = 1, drift = NULL, spread = NULL) {
  check_number(over)
  if (over <= 0) stop_argument("over", "a number above 0", over)
  recorded <- check_numbers(recorded, "recorded", 3, rlang::current_env())
  if (any(recorded <= 0)) stop_argument("recorded", "positive numbers", recorded[recorded <= 0][1],
    "What grows by a factor cannot be 0 or less.")
  growth <- diff(log(recorded))
  drift <- if (is.null(drift)) mean(growth) else check_number(drift)
  spread <- if (is.null(spread)) stats::sd(growth) else check_number(spread)
  if (spread <= 0) stop_argument("recorded", "numbers whose growth varies", recorded[1], "Else the growth is a constant.")
  law_lognormal(meanlog = drift * over, sdlog = spread * sqrt(over))
}
