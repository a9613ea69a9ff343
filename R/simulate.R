#' Rehearse a study
#'
#' Draws every input `nsim` times, evaluates the outputs for each run, and returns it all as one result.
#'
#' @param object A study with at least one input and one output.
#' @param nsim Whole number of at least 1: the number of runs.
#' @param seed Whole number or `NULL`. The same seed gives the same draws, in any session. With `NULL` one is drawn
#'   from R's own random state and recorded; otherwise R's random state is neither read nor changed.
#' @param ... Not used; anything here is an error.
#' @param design `"latin"`: a Latin hypercube, each input having exactly one draw in each of `nsim` slices of equal
#'   probability; or `"random"`: independent runs.
#' @param progress A function of two numbers, runs done and runs in all, called now and then; or `NULL`. The default
#'   shows a progress bar when it takes more than two seconds.
#' @return A result: see [result_readings] for what it answers, and [summary()][summary.ensayo_result],
#'   [percentiles()], [chance()], [pass_rate()], [drivers()], [plot_distribution()], [plot_tornado()] and
#'   [write_report()].
#' @section How draws are made: the number behind an input in a run depends on the seed, the input's first name and
#'   the run alone (and on `nsim` under the Latin hypercube). So adding, removing or changing an uncorrelated input
#'   changes no other draw, and two versions of a study share their random numbers. Uniform numbers come from
#'   Threefry-4x64 (Salmon et al. 2011), Latin hypercubes follow McKay, Beckman and Conover (1979), and each law is
#'   sampled by inversion. Rank correlations are induced by a Gaussian copula under `"random"`, and under `"latin"` by
#'   putting each input's draws into another order (Iman and Conover 1982), which leaves every slice filled.
#' @section Failed runs: a run in which an output is missing, not a number or infinite is kept, counted and listed
#'   with its reason by [failures()]; statistics are over the other runs.
#' @section Errors: `ensayo_error_argument` for arguments; `ensayo_error_model` for a study without inputs or outputs,
#'   or a formula that cannot be evaluated; `ensayo_error_correlation` where no joint law has the correlations;
#'   `ensayo_error_across_runs` where a run has another value alone than among others. If every run fails, there is a
#'   warning of class `ensayo_warning_all_failed`.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(
#'     flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)
#'   ) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' simulate(main, nsim = 1000, seed = 11)
#' @export
simulate.ensayo_study <- function(object, nsim = 10000, seed = NULL, ..., design = "latin", progress = show_progress) {
  check_no_dots(..., .options = c("nsim", "seed", "design", "progress"))
  nsim <- check_count(nsim)
  design <- check_choice(design, designs)
  validate_study(object)
  seed <- check_seed(seed)
  started <- Sys.time()

  draws <- draw_columns(object, nsim, seed, design)
  columns <- c(draws, lapply(Filter(Negate(varies), object$inputs), held_value))
  evaluate <- study_evaluator(object)
  runs <- evaluate_in_chunks(evaluate, columns, nsim, progress)
  check_runs_alone(evaluate, columns, runs$values, seed)

  new_result(
    study = object, draws = draws, outputs = runs$values, failures = runs$failures, warnings = runs$warnings,
    base = base_case_of(object, evaluate), correlations = correlation_table(object, draws),
    provenance = new_provenance(object, nsim, seed, design, started)
  )
}

study_evaluator <- function(study) {
  new_evaluator(lapply(study$outputs, function(output) output$formula), output_order(study$outputs))
}

# Chunks keep intermediate columns small and progress flowing; no value depends on them. They grow until one takes about
# a fifth of a second.
evaluate_in_chunks <- function(evaluate, columns, nsim, progress) {
  parts <- list()
  done <- 0
  size <- 1024
  while (done < nsim) {
    runs <- done + seq_len(min(size, nsim - done))
    began <- proc.time()[["elapsed"]]
    part <- evaluate(lapply(columns, function(column) if (length(column) == 1) column else column[runs]), runs)
    took <- proc.time()[["elapsed"]] - began
    parts <- c(parts, list(part))
    done <- done + length(runs)
    if (!is.null(progress)) progress(done, nsim)
    size <- if (took < 0.1) min(size * 2, 2^18) else if (took > 0.4) max(size %/% 2, 16) else size
  }
  values <- lapply(stats::setNames(nm = names(parts[[1]]$values)), function(name) {
    unlist(lapply(parts, function(part) part$values[[name]]), use.names = FALSE)
  })
  failures <- do.call(rbind, lapply(parts, function(part) part$failures))
  list(values = values, failures = failures[order(failures$run), , drop = FALSE],
    warnings = unique(do.call(rbind, lapply(parts, function(part) part$warnings))))
}

# Every input at its base value; one that is held at a value, at that value.
base_case_of <- function(study, evaluate) {
  inputs <- base_values(study)
  outcome <- evaluate(inputs, 1)
  list(inputs = inputs, outputs = outcome$values, failures = outcome$failures[c("output", "reason")])
}

new_provenance <- function(study, nsim, seed, design, started) {
  list(
    seed = seed, nsim = nsim, design = design, hash = study_hash(study),
    ensayo = as.character(utils::packageVersion("ensayo")), r = as.character(getRversion()), platform = R.version$platform,
    maths = basename(La_library()), started = format(started, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    seconds = as.numeric(difftime(Sys.time(), started, units = "secs"))
  )
}
