# Where runs fail: by bands of the inputs.

#' Which inputs' values make runs fail
#'
#' Each input that varies is cut into bands of equal probability, and the share of failed runs is read off in each: all
#' above a speed, say, or where two things meet. With [failures()], which lists them one by one, and [run_details()], which
#' shows one of them.
#'
#' @param .result A result.
#' @param ... Names of outputs, bare or as text: runs in which one of these failed; any output when left out.
#' @param .reason Text: runs that failed for this reason alone, as [failures()] has it.
#' @param .bands Whole number from 2 to 100: how many bands; see [pass_rate_by()].
#' @param .inputs Names of inputs; all that vary when left out.
#' @return A data frame with a row for each input and band, inputs with the strongest effect first: `input`, `rank`, `effect`
#'   (the standard deviation of the share between bands, less what chance alone makes of it), `p_value`, `direction` (where
#'   runs fail: `"lower"`, `"higher"`, `"middle"`, `"ends"`, or `""` where bands do not differ beyond chance at 1 %),
#'   `band`, `category`, `from`, `to`, `runs`, `failed`, `share`, `low`, `high` (its 95 % interval).
#' @section Errors: `ensayo_error_name` for an unknown output or input; `ensayo_error_argument` for an unknown reason or
#'   another number of bands.
#' @examples
#' res <- study("Tank") |>
#'   add_inputs(volume = law_uniform(300, 500), demand = law_pert(20, 30, 40)) |>
#'   add_outputs(root = sqrt(volume - 320)) |>
#'   simulate(nsim = 400, seed = 11)
#' failures_by(res, .bands = 4)
#' @export
failures_by <- function(.result, ..., .reason = NULL, .bands = 10, .inputs = NULL) {
  check_result(.result)
  bands <- check_count(.bands, ".bands", at_least = 2, at_most = 100)
  inputs <- resolve_names(rlang::enquo(.inputs), draw_names(.result), "an input that varies")
  failed <- runs_that_failed(.result, rlang::enquos(...), .reason)
  failure_bands(.result, failed, bands, inputs)
}

# How often each output failed for each reason: outputs in their order, which is that of causes, reasons the most frequent
# first.
failure_counts <- function(result) {
  failures <- result$failures
  counts <- table(factor(failures$output, unique(failures$output)), failures$reason)
  cells <- which(counts > 0, arr.ind = TRUE)
  found <- rows_of(output = rownames(counts)[cells[, 1]], reason = colnames(counts)[cells[, 2]], runs = as.integer(counts[cells]))
  found <- found[order(match(found$output, output_order(result$study$outputs)), -found$runs), ]
  rownames(found) <- NULL
  found
}

reading_failures <- list(
  title = "Failed runs",
  places = "json",
  there = function(result) nrow(result$failures) > 0,
  table = function(result, asked) failure_counts(result)
)

reading_failure_regions <- list(
  title = "Where runs fail",
  places = "json",
  there = function(result) nrow(result$failures) > 0,
  table = function(result, asked) failure_regions(result) %||% data.frame()
)

runs_that_failed <- function(result, outputs, reason, call = rlang::caller_env()) {
  failures <- result$failures
  if (length(outputs)) {
    names <- unlist(lapply(outputs, resolve_names, result$store$names, "an output of the result"))
    failures <- failures[failures$output %in% names, ]
  }
  if (!is.null(reason)) {
    check_string(reason, ".reason", call = call)
    if (!reason %in% failures$reason) {
      stop_argument(".reason", "one of the reasons that `failures()` tells", reason, call = call)
    }
    failures <- failures[failures$reason == reason, ]
  }
  run_numbers(result) %in% failures$run
}

failure_bands <- function(result, failed, bands = 10, inputs = draw_names(result)) {
  rows <- lapply(inputs, function(name) {
    table <- band_rates(result, name, failed, bands)
    names(table)[match(c("met", "pass_rate"), names(table))] <- c("failed", "share")
    table
  })
  in_order_of_effect(rows)
}

# Of more runs the regions are told when they are asked for alone, by failures_by(): a print is not to wait for them.
regions_at_most <- 2e5

# The regions worth telling: of each input that decides beyond chance, the bands in which a run fails more often than not
# by chance alone, joined. At most `most` inputs.
failure_regions <- function(result, most = 2) {
  if (run_count(result) > regions_at_most) return(NULL)
  failed <- run_numbers(result) %in% result$failures$run
  if (sum(failed) < 5 || all(failed) || length(draw_names(result)) == 0) return(NULL)
  table <- failure_bands(result, failed)
  telling <- utils::head(unique(table$input[table$p_value < 0.001]), most)
  stacked(lapply(telling, function(name) {
    rows <- table[table$input == name, ]
    high <- rows$share > mean(failed)
    if (all(rows$category == "") && !all(diff(which(high)) == 1)) high <- rows$share == max(rows$share)
    rows_of(input = name, category = paste(Filter(nzchar, rows$category[high]), collapse = ", "), from = min(rows$from[high]),
      to = max(rows$to[high]), lowest = high[1], highest = high[length(high)], runs = sum(rows$runs[high]),
      failed = sum(rows$failed[high]), others = sum(rows$runs[!high]), others_failed = sum(rows$failed[!high]))
  }))
}
