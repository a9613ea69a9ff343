#' Ensayo: rehearse calculations with uncertain numbers
#'
#' Describe what is known about each input of a calculation as a probability law, let the computer rehearse the
#' calculation thousands of times, and read off how the outputs spread, how likely a target is met, and which inputs
#' drive the spread.
#'
#' Start with [study()], [add_inputs()] and [add_outputs()]; then [simulate()][simulate.ensayo_study],
#' [summary()][summary.ensayo_result], [chance()], [drivers()], [plot_distribution()] and [write_report()]. The
#' command line does the same from study files: `ensayo --help`.
#'
#' @keywords internal
#' @useDynLib ensayo, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom rlang %||% :=
#' @importFrom stats simulate quantile median predict
#' @importFrom rlang .data
#' @importFrom utils head str
"_PACKAGE"
