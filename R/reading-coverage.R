#' Coverage intervals
#'
#' The interval that holds a stated share of the runs: probabilistically symmetric, with equal shares on either side, or
#' the shortest of all. It is a **range** of outcomes; it says nothing of the simulation error.
#'
#' @inheritParams percentiles
#' @param coverage Numbers between 0 and 1: the shares, such as 0.95.
#' @param interval `"symmetric"`, `"shortest"` or both.
#' @return A data frame with a row for each output, coverage and interval: `output`, `coverage`, `interval`, `low`,
#'   `high`, `width`, `unit`, `kind` and `remark` (where the runs are too few for the coverage).
#' @section Source: JCGM 101:2008, 7.7: with q the whole number nearest to coverage times runs, the symmetric interval
#'   starts at the run of rank (runs - q) / 2, the shortest where q ranks further up is nearest. On a plateau of equally
#'   short ones the middle one is given.
#' @section Errors: `ensayo_error_argument` for a coverage outside 0 to 1 or another interval; `ensayo_error_name`
#'   for an unknown output.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' coverage_interval(res, coverage = 0.95)
#' @export
coverage_interval <- function(result, outputs = NULL, coverage = 0.95, interval = c("symmetric", "shortest")) {
  check_result(result)
  outputs <- resolve_outputs(rlang::enquo(outputs), result)
  coverage <- check_probabilities(coverage)
  for (share in coverage) check_number(share, "coverage", above = 0, below = 1)
  for (one in interval) check_choice(one, c("symmetric", "shortest"), "interval")
  rows <- lapply(outputs, function(name) {
    sorted <- sort(finite_values(result, name))
    asked <- expand.grid(interval = interval, coverage = coverage, stringsAsFactors = FALSE)
    ends <- vapply(seq_len(nrow(asked)), function(i) {
      covering_ends(sorted, asked$coverage[i], asked$interval[i])
    }, c(0, 0))
    few <- length(sorted) * pmin(asked$coverage, 1 - asked$coverage) < 1
    data.frame(output = name, coverage = asked$coverage, interval = asked$interval, low = ends[1, ], high = ends[2, ],
      width = ends[2, ] - ends[1, ], unit = quantity_unit(result$study, name) %||% "",
      kind = output_kind_of(result, name), remark = ifelse(few, "too few runs for this coverage", ""))
  })
  typed_table(new_table(do.call(rbind, rows)), c("low", "high"))
}

# The ends of the interval among sorted values.
covering_ends <- function(sorted, coverage, interval) {
  n <- length(sorted)
  if (n < 2) return(c(sorted, sorted, NA_real_, NA_real_)[1:2])
  span <- min(n - 1, floor(coverage * n + 0.5))
  from <- if (interval == "symmetric") max(1, floor((n - span) / 2 + 0.5)) else {
    widths <- sorted[(span + 1):n] - sorted[seq_len(n - span)]
    shortest <- which(widths == min(widths))
    shortest[(length(shortest) + 1) %/% 2]
  }
  sorted[c(from, from + span)]
}
