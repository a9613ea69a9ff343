#' Rehearse a study
#'
#' Draws every input `nsim` times, evaluates the outputs for each run, and returns it all as one result.
#'
#' @param object A study with at least one input and one output.
#' @param nsim Whole number of at least 1: the number of runs.
#' @param seed Whole number, text or `NULL`. The same seed gives the same draws, in any session. With `NULL` one is
#'   drawn from R's own random state and recorded; otherwise R's random state is neither read nor changed.
#' @param ... Not used; anything here is an error.
#' @inheritParams draw_inputs
#' @param preview Whole number or `NULL`: run only that many of the runs, the first ones, for a first look. The
#'   result is marked preliminary everywhere; the whole simulation with the same seed and `nsim` has the same runs
#'   and the rest.
#' @param until `NULL`, or a target made by [known_within()], or a list of them: runs are added until every figure is
#'   known as exactly as asked. `nsim` is then the number of runs to begin with, in `replicates` independent designs
#'   (ten unless said), and as many designs of that size are added as it takes.
#' @param most Number: with `until`, the largest number of runs. The result says which was reached.
#' @param workers Whole number: how many other sessions of R on this machine make runs of models besides formulas, for this
#'   call; 1 for none. When left out, the workers that you have set by `mirai::daemons()`, if any: local ones, on other
#'   machines, or started by a scheduler. The result is the same to the last bit, whoever makes the runs.
#' @param most_failed Number from 0 to 1: the share of failed runs beyond which it stops, once 20 are made. The result holds
#'   the runs until then, as a preview, with a warning.
#' @param progress A function of two numbers, runs done and runs in all, called now and then; or `NULL`. The default
#'   shows a progress bar when it takes more than two seconds. A function of three arguments is given as the third a
#'   function that gives what was calculated so far, as `values`, a list of columns by output, and `failures`.
#' @return A result: see [result_readings] for what it answers, and [summary()][summary.ensayo_result],
#'   [percentiles()], [contingency()], [value_met()], [coverage_interval()], [expected_shortfall()], [chance()],
#'   [given()], [pass_rate()], [pass_rate_by()], [reweight_runs()], [parts_of()], [compare_results()], [evaluate()],
#'   [convergence_table()], [drivers()], [at_step()] and [series_table()] of series, [plot_distribution()],
#'   [plot_tornado()], [plot_series()] and [write_report()].
#' @section How draws are made: the number behind an input in a run depends on the seed, the input's first name and
#'   the run alone (and on `nsim` under a Latin hypercube). So adding, removing or changing an uncorrelated input
#'   changes no other draw, and two versions of a study share their random numbers. Designs, addresses and the
#'   accuracy of draws are told in [draw_inputs()]; to go on with more runs see [add_runs()].
#' @section Correlations: rank correlations are induced by a Gaussian copula, run by run, and under Latin hypercubes by
#'   putting each input's draws into another order (Iman and Conover 1982), which leaves every slice filled. This is
#'   done within blocks of runs, so that a range of runs can be had without the others; see `block`. Correlations of 1
#'   and -1 copy and mirror. [correlations()] tells what was asked and what the draws have.
#' @section Memory: a result holds 8 bytes for each run of each input that varies and each output (a series: each step); simulating takes
#'   about twice that at its peak. A million runs of ten inputs and three outputs hold 104 MB. For more runs than memory
#'   holds see [simulate_into()].
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
simulate.ensayo_study <- function(object, nsim = 10000, seed = NULL, ..., design = "latin",
                                  replicates = if (is.null(until)) 1 else 10, block = NULL, threads = NULL,
                                  preview = NULL, until = NULL, most = 1e6, workers = NULL,
                                  most_failed = 1, progress = show_progress) {
  check_no_dots(..., .options = c("nsim", "seed", "design", "replicates", "block", "threads", "preview", "until",
    "most", "workers", "most_failed"))
  plan <- draw_plan(nsim, seed, design, replicates, block, threads)
  validate_study(object)
  if (!is.null(until)) until <- check_until(until, object, plan, most, preview)
  count <- if (is.null(preview)) plan$nsim else check_count(preview, at_most = plan$nsim)
  most_failed <- check_most_failed(most_failed)
  check_memory(object, count)
  started <- Sys.time()
  with_workers(workers, {
    draws <- draw_columns(object, plan, 0, count)
    # formulas draw nothing, so that the base case has the same
    formulas <- if (length(object$models) == 0) study_evaluator(object, run_setting(plan$seed, NULL, most_failed, plan$threads, plan))
    runs <- evaluate_draws(object, draws, plan, 0, count, progress, most_failed = most_failed, evaluator = formulas)
    if (isTRUE(runs$stopped)) {
      count <- column_length(runs$values[[1]])
      draws <- lapply(draws, part_of, 0, count)
      warn_stopped(runs, count, plan$nsim)
    }
    result <- new_simulation(object, plan, draws, runs, base_case_of(object, formulas), started)
    if (count < plan$nsim) result$provenance$preview <- count
    if (is.null(until) || isTRUE(runs$stopped)) result else runs_until(result, until, most, progress, threads)
  })
}

check_most_failed <- function(x, arg = "most_failed", call = rlang::caller_env()) {
  if (!is.numeric(x) || length(x) != 1 || is.na(x) || x < 0 || x > 1) stop_argument(arg, "a number from 0 to 1", x, call = call)
  as.double(x)
}

warn_stopped <- function(runs, count, all) {
  failed <- length(unique(runs$failures$run))
  warn_ensayo(c(sprintf("Stopped after %s of %s: too many fail.", format_given(count), count_of(all, "run")),
    x = sprintf("%s failed, most often: %s.", format_given(failed), most_frequent(runs$failures$reason)),
    i = "`failures_by()` tells where, `run_details()` shows one of them."), "stopped", done = count, failed = failed)
}

most_frequent <- function(x) names(sort(-table(x)))[1]

# A column of 8 bytes a run for each input and output, of a series for each step, and half as much again on the way.
check_memory <- function(study, runs, there = memory_there(), call = rlang::caller_env()) {
  steps <- vapply(study$outputs, function(output) max(1, length(output$steps)), 0)
  needed <- 12 * runs * (length(varying_names(study)) + sum(steps))
  # to ask what is there takes longer than some simulations
  if (missing(there) && needed < 1e8 || needed <= there) return(invisible())
  gigabytes <- function(bytes) paste(format_number(bytes / 1e9, 2), "GB")
  stop_ensayo("argument", "The runs must fit into memory.", sprintf("%s take about %s; there are %s.",
    count_of(runs, "run"), gigabytes(needed), gigabytes(there)),
    "Simulate fewer, or into a folder, which takes as many as its disk holds: `simulate_into()`.",
    argument = "nsim", call = call)
}

# Memory that is free to use, in bytes, where the system says so; else what no machine has.
memory_there <- function() {
  lines <- if (file.exists("/proc/meminfo")) readLines("/proc/meminfo", warn = FALSE) else character()
  found <- grep("^MemAvailable:", lines, value = TRUE)
  if (length(found)) 1024 * as.double(gsub("[^0-9]", "", found[1])) else 1e15
}

check_until <- function(until, study, plan, most, preview, call = rlang::caller_env()) {
  if (!is.null(preview)) stop_ensayo("argument", "`preview` and `until` do not go together.", NULL,
    "A preview is a first look; leave one of them out.", call = call)
  if (plan$replicates < 2) {
    stop_argument("replicates", "at least 2 with `until`: their scatter tells how exactly a figure is known",
      plan$replicates, "Leave it out for ten.", call)
  }
  check_number(most, "most", at_least = plan$nsim, mend = "It is the largest number of runs, `nsim` the first ones.",
    call = call)
  bound_targets(until, study, "pass rate", call)
}

# Outputs and failures of `count` runs after the first `first`, checked against runs evaluated alone. `place`: the folder
# in which runs may leave something; `by_plan`: the draws are those that the plan gives, so that workers can make them;
# `journal`: where finished parts go at once, and what is there already (store-begun.R).
evaluate_draws <- function(study, draws, plan, first, count, progress, place = NULL, by_plan = TRUE, journal = NULL,
                           most_failed = 1, evaluator = NULL) {
  columns <- c(draws, lapply(Filter(Negate(varies), study$inputs), held_value))
  models <- attr(evaluator, "models") %||% models_in_order(study)
  setting <- run_setting(plan$seed, place, most_failed, plan$threads, plan)
  runs <- if (uses_workers(study)) {
    evaluate_by_workers(study, setting, plan, if (!by_plan) columns, first, count, progress, journal)
  } else {
    if (is.null(evaluator)) {
      evaluator <- study_evaluator(study, setting, models)
      on.exit(end_evaluator(evaluator))
    }
    evaluate_in_chunks(evaluator, columns, first, count, progress, chunk_sizes(study, setting), setting, journal)
  }
  if (isTRUE(runs$stopped)) return(runs)
  for (model in models) {
    check_runs_alone(model_kind(model)$alone(model, setting), columns, runs$values, plan$seed, first,
      function(row) with_series(study, row, 1, plan))
  }
  runs
}

new_simulation <- function(study, plan, draws, runs, base, started) {
  columns <- c(lapply(draws, kept_column), runs$values)
  new_result(
    study = study, store = memory_store(columns, column_kinds(study, columns)), failures = runs$failures,
    warnings = runs$warnings, base = base, provenance = new_provenance(study, plan, started)
  )
}

# How many runs are evaluated at once, to begin with, at most and at least: what lies between stays in the cache, and series
# that are drawn on the way in some 70 MB. Of many steps a few runs take as long to draw as many. Formulas of the closed
# language keep what lies between in the cache by themselves.
chunk_sizes <- function(study, setting) {
  width <- series_width(study)
  if (is_compiled_study(study) && setting$most_failed >= 1) return(rep(max(2^16, 2^26 %/% length(study$outputs)), 3))
  most <- if (width == 0) 2^16 else min(2^16, max(16, 2^23 %/% width))
  if (is_dear_study(study)) c(16, most, 1) else if (width == 0) c(1024, most, 1) else rep(most, 3)
}

# Formulas alone, all of which are compiled.
is_compiled_study <- function(study) {
  length(study$models) == 0 && all(cpp_formulas_to_compile(lapply(unname(study$outputs), function(output) output$formula)))
}

# Chunks in turn; no value depends on their sizes. They get smaller where one takes more than two fifths of a second, so
# that progress flows.
evaluate_in_chunks <- function(evaluator, columns, first, count, progress, sizes, setting, journal = NULL) {
  size <- sizes[1]
  parts <- journal$known
  if (!is.null(journal)) on.exit(journal$flush())
  done <- runs_in(parts)
  for (gap in gaps_between(parts, count)) {
    at <- gap[1]
    while (at < gap[2]) {
      n <- min(size, gap[2] - at)
      began <- proc.time()[["elapsed"]]
      part <- evaluator(lapply(columns, part_of, at, n), first + at + seq_len(n))
      took <- proc.time()[["elapsed"]] - began
      parts[[length(parts) + 1]] <- list(first = at, runs = part)
      if (!is.null(journal)) journal$put(at, part)
      if (fails_too_often(parts, setting)) return(runs_without_gap(parts))
      at <- at + n
      done <- done + n
      tell_progress(progress, done, count, parts)
      size <- if (took < 0.1) min(size * 4, sizes[2]) else if (took > 0.4) max(size %/% 2, sizes[3]) else size
    }
  }
  runs_in_order(parts)
}

new_provenance <- function(study, plan, started) {
  software <- software_versions()
  list(
    seed = plan$seed, nsim = plan$nsim, design = plan$design, replicates = plan$replicates, block = plan$block,
    hash = study_hash(study), ensayo = software$ensayo, r = software$r,
    platform = R.version$platform, maths = basename(La_library()), cpu = cpp_code_path(),
    started = format(started, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC"),
    seconds = as.double(Sys.time()) - as.double(started)
  )
}

# `tell`: whether to warn of outputs of which no run is good.
new_result <- function(study, store, failures, warnings, base, provenance, tell = TRUE) {
  rownames(failures) <- NULL
  result <- structure(
    list(study = study, store = store, failures = failures, warnings = warnings, base = base,
      provenance = provenance, runs = NULL),
    class = "ensayo_result"
  )
  if (tell) warn_if_all_failed(result)
  result
}

# Outputs that failed in every run: each failure of an output in a run is listed once.
failed_outputs <- function(result) {
  names <- names(result$study$outputs)
  names[tabulate(match(result$failures$output, names), length(names)) == result$store$count]
}

warn_if_all_failed <- function(result) {
  for (name in failed_outputs(result)) {
    reason <- result$failures$reason[result$failures$output == name][1]
    warn_ensayo(c(sprintf("Every run of %s failed.", quoted(name)), x = sprintf("In run 1: %s.", reason),
      i = "The rest are in the list of failures (`failures()`)."), "all_failed", output = name)
  }
}
