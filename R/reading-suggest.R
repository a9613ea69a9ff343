# Where the next runs of a dear model should go, and a loop of suggesting, running and fitting.

#' The next runs
#'
#' `suggest_runs()` says where further runs teach a surrogate most: where its error is largest, or where it cannot tell on which side of
#' a limit an output lies. `improve_surrogate()` runs the study's model there and fits again until an aim is met.
#'
#' @param surrogate A surrogate, made by [surrogate()].
#' @param n Whole number: how many runs to suggest.
#' @param near A comparison of an output with a number, such as `pressure >= 30`: runs that tell on which side it is. `NULL`: where the
#'   error is largest.
#' @param output Name of the output whose error counts, bare or as text; when left out the one that is predicted worst. A series counts by
#'   its first component.
#' @param ... Not used; anything here is an error.
#' @param seed As for [simulate()][simulate.ensayo_study]: of the points among which the suggestions are found.
#' @param pool Whole number: how many such points, drawn from the inputs' laws.
#' @param r_squared,error,unsure The aim, one of them: predictive R squared at least; root mean square of held-out runs' errors at most, in
#'   the output's unit; or, with `near`, the share of outcomes at most of which it is not sure (at 95 %) on which side of the limit they are.
#' @param batch Whole number: how many runs are suggested and made at a time.
#' @param most Whole number: how many runs to add at most.
#' @param file Text or `NULL`: a CSV file to which every batch is added as soon as it is run; with it `surrogate(res, runs =
#'   read.csv(file))` makes the same surrogate again.
#' @param workers,progress As for [simulate()][simulate.ensayo_study].
#' @return `suggest_runs()`: a data frame with a row for each run: a column for each input that varies, and `expected` and `error`, what the
#'   surrogate predicts there. `improve_surrogate()`: the surrogate, fitted to all runs; `learning()` of it is a data frame with a row for
#'   each batch: `runs` in all, `r_squared`, `error` and `unsure` (`NA` without `near`), `met`.
#' @details Runs are suggested one by one, each as if those before were made and had given what is expected. Without `near` the score of a
#'   point is the squared error that the nearest run had when it was held out, and the variance of a Gaussian process there (Liu, Cai and
#'   Ong 2017, Computers and Chemical Engineering 106, with equal weights); near a limit it is the chance to be on the other side (Echard,
#'   Gayton and Lemaire 2011, Structural Safety 33(2)). Points where the model would fail are left out. Predictive R squared and errors are
#'   of the runs of the first design alone: suggested runs lie where it is difficult, and would tell too low a score.
#' @section Errors: `ensayo_error_argument` for arguments that are not of the stated kind; those of the study's model where it cannot be run.
#' @examples
#' slow <- function(slope, flow) 60 - 40 * flow^1.85 / (slope + 0.2)
#' main <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), flow = law_uniform(0.4, 0.9)) |>
#'   add_model(slow, outputs = "pressure")
#' fast <- surrogate(simulate(main, nsim = 20, seed = 11))
#' suggest_runs(fast, 3, near = pressure >= 40, seed = 11)
#' better <- improve_surrogate(fast, error = 0.02, most = 20, seed = 11)
#' learning(better)
#' @export
suggest_runs <- function(surrogate, n = 5, near = NULL, output = NULL, ..., seed = NULL, pool = 2000) {
  check_surrogate(surrogate)
  check_no_dots(..., .options = c("seed", "pool"))
  aim <- learning_aim(surrogate, rlang::enquo(near), rlang::enquo(output))
  check_count(n)
  plan <- draw_plan(check_count(pool, at_least = n), seed, "latin", 1, NULL, NULL)
  suggested_runs(surrogate, aim, n, draw_columns(surrogate$study, plan))
}

# The output, and its limit where one is given.
learning_aim <- function(surrogate, near, output, call = rlang::caller_env()) {
  if (!rlang::quo_is_null(near)) {
    condition <- read_conditions(rlang::new_quosures(list(near)) |> stats::setNames(""), quantity_vocabulary(surrogate$study), "Condition", call)[[1]]
    for (name in surrogate$outputs) {
      found <- comparisons_of(with_constants(condition$expr, condition$constants), name)
      if (length(found) == 1) return(list(output = name, limit = found[[1]]$limit))
    }
    stop_ensayo("argument", "`near` must compare an output of the surrogate with a number.", sprintf("You gave %s.", quoted(condition$text)),
      sprintf("Such as `%s >= 30`.", surrogate$outputs[1]), argument = "near", call = call)
  }
  if (!rlang::quo_is_null(output)) return(list(output = resolve_name(output, surrogate$outputs, "an output of the surrogate", call)))
  list(output = surrogate$outputs[which.min(vapply(surrogate$data$outputs, function(one) one$found$score$r_squared %|% 1, 0))])
}

suggested_runs <- function(surrogate, aim, n, pool) {
  data <- ready_surrogate(surrogate$data)
  candidates <- coordinate_matrix(data$coordinates, pool)
  possible <- which(failing_chance(data, candidates) <= 0.5)
  if (length(possible) == 0) possible <- seq_len(nrow(candidates))
  output <- data$outputs[[aim$output]]
  part <- output$parts[[1]]
  used <- part$used
  x <- data$runs[output$rows, used, drop = FALSE]
  y <- part$y
  at <- candidates[possible, used, drop = FALSE]
  fit <- if (part$kind == "gaussian") part$fit else surrogate_gaussian$fit(x, y, data$coordinates[used])
  lengths <- fit$lengths
  held <- if (is.null(output$loadings)) output$found$held - y else rep(stats::sd(y) / 2, length(y))
  wide <- if (part$kind == "gaussian") part$calibration else 1
  chosen <- integer()
  for (i in seq_len(n)) {
    state <- surrogate_gaussian$ready(fit, x, y)
    error <- wide * surrogate_gaussian$error(state, at)
    score <- if (is.null(aim$limit)) error^2 + held[nearest_run(at, x, lengths)]^2
      else -abs(surrogate_gaussian$mean(state, at) - aim$limit) / pmax(error, 1e-300)
    # nothing new where a run was made
    score[cpp_nearest(at, x, lengths, FALSE, threads_to_use()) < 1e-9] <- -Inf
    score[chosen] <- -Inf
    chosen[i] <- which.max(score)
    x <- rbind(x, at[chosen[i], ])
    y <- c(y, surrogate_gaussian$mean(state, at[chosen[i], , drop = FALSE]))
    held <- c(held, 0)
  }
  rows <- possible[chosen]
  values <- surrogate_values(output, candidates[rows, , drop = FALSE])
  errors <- surrogate_values(output, candidates[rows, , drop = FALSE], "error")
  new_table(c(lapply(pool, column_at, rows), list(expected = as.matrix(values)[, 1], error = as.matrix(errors)[, 1])))
}

# Which run is nearest, of few points at a time.
nearest_run <- function(at, x, lengths) {
  scaled <- function(m) t(m) / lengths
  a <- scaled(at)
  b <- scaled(x)
  far <- outer(colSums(a^2), colSums(b^2), `+`) - 2 * crossprod(a, b)
  max.col(-far, "first")
}

#' @rdname suggest_runs
#' @export
improve_surrogate <- function(surrogate, r_squared = NULL, error = NULL, unsure = NULL, near = NULL, output = NULL, ..., batch = 5, most = 100,
                              seed = NULL, pool = 2000, file = NULL, workers = NULL, progress = show_progress) {
  check_surrogate(surrogate)
  check_no_dots(..., .options = c("batch", "most", "seed", "pool", "file", "workers", "progress"))
  aim <- learning_aim(surrogate, rlang::enquo(near), rlang::enquo(output))
  aim[c("r_squared", "error", "unsure")] <- list(r_squared, error, unsure)
  check_learning_aim(aim)
  check_count(most)
  check_count(batch, at_most = most)
  check_string(file, null = TRUE)
  seed <- check_seed(seed)
  plan <- draw_plan(check_count(pool, at_least = batch), seed, "latin", 1, NULL, NULL)
  points <- draw_columns(surrogate$study, plan)
  told <- list(learning_row(surrogate, aim, points))
  added <- 0
  with_workers(workers, while (!told[[length(told)]]$met && added + batch <= most) {
    runs <- suggested_runs(surrogate, aim, batch, points)
    made <- made_runs(surrogate, runs, plan, progress_after(progress, added, most))
    if (!is.null(file)) write_csv(made, file, append = file.exists(file))
    surrogate <- surrogate_with(surrogate, made)
    added <- added + batch
    told <- c(told, list(learning_row(surrogate, aim, points)))
  })
  if (!is.null(progress)) call_progress(progress, most, most, function() NULL)
  surrogate$learning <- new_table(stacked(told))
  surrogate
}

check_learning_aim <- function(aim, call = rlang::caller_env()) {
  given <- Filter(function(name) !is.null(aim[[name]]), c("r_squared", "error", "unsure"))
  if (length(given) != 1) {
    stop_ensayo("argument", "One aim must be given: `r_squared`, `error` or `unsure`.", sprintf("%s given.", count_of(length(given), "aim")),
      "Such as `improve_surrogate(fast, r_squared = 0.99)`.", call = call)
  }
  check_number(aim[[given]], given, above = 0, below = if (given == "error") Inf else 1, call = call)
  if (given == "unsure" && is.null(aim$limit)) stop_argument("near", "given with `unsure`", NULL, call = call)
}

# Where learning stands.
learning_row <- function(surrogate, aim, pool) {
  found <- surrogate$data$outputs[[aim$output]]$found
  told <- list(runs = length(surrogate$taught$failed), r_squared = found$score$r_squared, error = held_out_error(surrogate, aim$output), unsure = NA_real_)
  if (!is.null(aim$limit)) {
    data <- ready_surrogate(surrogate$data)
    x <- coordinate_matrix(data$coordinates, pool)
    output <- data$outputs[[aim$output]]
    told$unsure <- mean(abs(surrogate_values(output, x) - aim$limit) < 1.645 * surrogate_values(output, x, "error"))
  }
  met <- if (!is.null(aim$r_squared)) told$r_squared >= aim$r_squared else if (!is.null(aim$error)) told$error <= aim$error
    else told$unsure <= aim$unsure
  do.call(rows_of, c(told, met = isTRUE(met)))
}

# The study's model at points of our own: runs count on from those that there are.
made_runs <- function(surrogate, runs, plan, progress) {
  study <- study_for(surrogate$study, needed_outputs(surrogate$study, surrogate$outputs))
  columns <- as.list(runs)[varying_names(study)]
  made <- evaluate_draws(study, columns, plan, length(surrogate$taught$failed), nrow(runs), progress, by_plan = FALSE)
  values <- flat_columns(made$values[surrogate$outputs], function(name) vapply(as.list(study$outputs[[name]]$steps), step_words, ""))
  list2DF(c(columns, lapply(values, as.double)))
}

surrogate_with <- function(surrogate, runs) {
  designed <- surrogate$taught$designed
  taught <- with_further_runs(surrogate$taught, runs, surrogate$study)
  taught$designed[seq_along(designed)] <- designed
  surrogate_of(surrogate$study, taught, surrogate$outputs, surrogate$kinds, surrogate$name, surrogate$provenance)
}

#' @rdname suggest_runs
#' @export
learning <- function(surrogate) {
  check_surrogate(surrogate)
  surrogate$learning %||% stop_ensayo("argument", "The surrogate must have been improved.", "It was fitted to one set of runs.",
    "`improve_surrogate()` adds runs.", argument = "surrogate")
}
