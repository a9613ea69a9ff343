# Surrogates of a dear model, fitted to the runs that a result holds: what is made of them, and what they are worth.

#' Surrogates: much from a few dear runs
#'
#' `surrogate()` fits a fast stand-in to the runs of a result: for each output the one of several kinds that predicts runs best
#' which it was not fitted to. It is simulated like a study, tells which inputs are idle, and says how far it can be trusted.
#'
#' @param result A result of [simulate()][simulate.ensayo_study], of a hundred runs or so.
#' @param outputs Names of outputs, bare or as text, series too; when left out those that functions, programs and steps give, or, where
#'   there are formulas alone, all. Formulas of them stay formulas.
#' @param ... Not used; anything here is an error.
#' @param runs A data frame of further runs, such as those that [suggest_runs()] proposed: a column for each input that varies and for
#'   each of `outputs`. A missing output is a run that failed.
#' @param kinds Which kinds to try: `"polynomial"`, `"additive"`, `"gaussian"`.
#' @param name Text: what the model is called in the surrogate's study.
#' @param object A surrogate.
#' @param newdata A data frame with a column for each input; those left out are at their base values.
#' @param nsim,seed As for a study.
#' @return `surrogate()`: a surrogate. `study_of()` of it is its study, in which the surrogate gives the outputs, and `outside` tells which
#'   runs lie outside those that it was fitted to; whatever takes a study works with that: [sweep_input()], [write_study()]. `simulate()`:
#'   a result. [variance_indices()] takes a surrogate itself.
#'
#'   `summary()`: a data frame with a row for each output: `output`; `surrogate` (the kind chosen); `r_squared` (predictive), `low` and
#'   `high` (95 %); `unexplained` (the rest of the variance); `error` (root mean square of held-out runs' errors, in the output's unit);
#'   `unit`; `runs` and `failed` (of which no value is known); `repeated` (runs of the same inputs as another); `idle` (inputs, with blanks
#'   between them); `findings`, codes with blanks between them: `poor` (less than half of the variance is predicted), `rests_on_few` (three
#'   runs or fewer are most of the spread), `still` (the same in every run), `noise` (repeated runs differ), `components` (a series, of so many).
#'
#'   `predict()`: a data frame with the inputs of `newdata`, and for each output its value and `<output>_error`, the standard error of the
#'   prediction; of a series a column for each step. `outside` is `TRUE` where a point is not among the runs, `failing` the chance that
#'   the model fails there.
#' @section Kinds: `"polynomial"`: polynomials that are orthonormal under the inputs' laws, with the terms that serve prediction;
#'   `"additive"`: a sum of smooth effects; `"gaussian"`: a Gaussian process with a linear trend, for up to 2000 runs. Of more than 5000
#'   runs the first 5000 are used.
#' @section How it is chosen: runs are put into twenty parts (of up to 60 runs), ten (up to 500) or five; each part is predicted from the
#'   others, with everything fitted and selected again, the lengths of a Gaussian process of many runs apart. Predictive R squared is one
#'   less the mean squared error of these predictions over the variance. Its interval is by the scatter of
#'   parts and runs, on the logarithm of what is unexplained; its upper end allows for the fit to all runs being better than those to most of
#'   them. Runs of the same inputs stay in one part. An input is idle where
#'   held-out runs are predicted no worse when its value is replaced by those of other runs; idle ones are left out.
#' @section What it cannot do: it knows nothing outside the runs, where `outside` says so; and what it leaves unexplained is missing from
#'   the spread of its outputs and from their tails. [surrogate_chance()] corrects a chance by the runs themselves.
#' @section Sources: orthonormal polynomials: Xiu and Karniadakis (2002, SIAM Journal on Scientific Computing 24(2)); selection: Pati,
#'   Rezaiifar and Krishnaprasad (1993, Asilomar Conference on Signals, Systems and Computers); Gaussian processes: Santner, Williams and
#'   Notz (2018, The Design and Analysis of Computer Experiments, chapters 3 and 4); cross-validation: Stone (1974, Journal of the Royal
#'   Statistical Society B 36(2)).
#' @section Errors: `ensayo_error_argument` where there are fewer good runs than ten, or than inputs and two more, and for inputs that are
#'   drawn over steps; `ensayo_error_name` for an unknown output.
#' @examples
#' slow <- function(slope, rough, flow) 60 - 40 * rough * flow^1.85 / (slope + 0.2)
#' main <- study("Slow simulator") |>
#'   add_inputs(slope = law_uniform(0.5, 1.5), rough = law_pert(0.8, 1, 1.4),
#'     flow = law_uniform(0.4, 0.9)) |>
#'   add_model(slow, outputs = "pressure") |>
#'   add_specs(pressure >= 30)
#' res <- simulate(main, nsim = 60, seed = 11)
#' fast <- surrogate(res)
#' fast
#' predict(fast, data.frame(slope = 1, rough = 1, flow = c(0.5, 0.8)))
#' percentiles(simulate(fast, nsim = 10000, seed = 11), pressure)
#' @export
surrogate <- function(result, outputs = NULL, ..., runs = NULL, kinds = c("polynomial", "additive", "gaussian"), name = "surrogate") {
  check_result(result)
  check_no_dots(..., .options = c("runs", "kinds", "name"))
  study <- result$study
  outputs <- rlang::enquo(outputs)
  known <- c(output_names(result), series_names(study))
  outputs <- if (rlang::quo_is_null(outputs)) dear_outputs(study) else resolve_names(outputs, known, "an output of the result")
  for (kind in kinds) check_choice(kind, names(surrogate_kinds()), "kinds")
  check_string(name)
  check_surrogate_study(study)
  varying <- draw_names(result)
  taught <- list(columns = store_columns(result$store, varying), values = store_columns(result$store, outputs),
    failed = run_numbers(result) %in% result$failures$run[result$failures$output %in% outputs])
  taught <- with_further_runs(taught, runs, study)
  surrogate_of(study, taught, outputs, kinds, name, result$provenance)
}

# Outputs that are not formulas, else all.
dear_outputs <- function(study) {
  given <- names(Filter(function(output) !is.null(output$model), study$outputs))
  if (length(given)) given else names(study$outputs)
}

# Inputs that vary, and none that is drawn over steps.
check_single_inputs <- function(study, call = rlang::caller_env()) {
  stepped <- intersect(varying_names(study), stepped_names(study))
  if (length(stepped)) {
    stop_ensayo("argument", "Every input must have one value a run here.", sprintf("%s is drawn anew at each step.", quoted(stepped[1])),
      "Hold it at one value (`fix_inputs()`), or describe it by a few numbers.", name = stepped[1], call = call)
  }
  if (length(varying_names(study)) == 0) stop_ensayo("argument", "An input must vary.", "None does.", call = call)
}

check_surrogate_study <- function(study, call = rlang::caller_env(2)) {
  check_single_inputs(study, call)
  if (length(study$events) || length(study$tasks) || length(study$costs)) {
    stop_ensayo("argument", "A surrogate is for models that take long.", "Events, tasks and items of cost are calculated at once.",
      "Simulate the study itself; or fit the model alone, without them.", call = call)
  }
}

# Runs that were made elsewhere, after those of the result.
with_further_runs <- function(taught, runs, study, call = rlang::caller_env(2)) {
  taught$designed <- rep(TRUE, length(taught$failed))
  if (is.null(runs)) return(taught)
  if (!is.data.frame(runs)) stop_argument("runs", "a data frame of inputs and outputs", runs, call = call)
  runs <- as.list(runs)
  values <- lapply(stats::setNames(nm = names(taught$values)), function(name) {
    steps <- study$outputs[[name]]$steps
    if (is.null(steps)) return(needed_column(runs, name, call))
    columns <- lapply(step_columns(name, vapply(as.list(steps), step_words, "")), needed_column, runs = runs, call = call)
    matrix(unlist(columns), ncol = length(columns))
  })
  columns <- lapply(stats::setNames(nm = names(taught$columns)), function(name) {
    column <- needed_column(runs, name, call)
    if (anyNA(column)) stop_ensayo("argument", "Every further run must say its inputs.", sprintf("%s is missing in one.", quoted(name)), call = call)
    column
  })
  list(columns = Map(c, taught$columns, columns), values = Map(joined_rows, taught$values, values),
    failed = c(taught$failed, Reduce(`|`, lapply(values, function(value) !is_finite_run(value)))),
    designed = c(taught$designed, rep(FALSE, length(columns[[1]]))))
}

joined_rows <- function(a, b) if (is.matrix(a)) rbind(a, b, deparse.level = 0) else c(as.double(a), as.double(b))

needed_column <- function(runs, name, call) {
  if (name %in% names(runs)) return(runs[[name]])
  stop_ensayo("argument", "Further runs must have a column for each input that varies and each output.",
    sprintf("%s is missing.", quoted(name)), name = name, call = call)
}

# The runs that one can be fitted to at most; and above which a Gaussian process takes too long.
surrogate_most <- 5000L

surrogate_of <- function(study, taught, outputs, kinds, name, provenance, call = rlang::caller_env(2)) {
  good <- sum(Reduce(`&`, lapply(taught$values, is_finite_run)) & !taught$failed)
  needed <- max(10, length(taught$columns) + 2)
  if (good < needed) {
    stop_ensayo("argument", sprintf("A surrogate needs at least %d good runs.", needed),
      sprintf("You have %s, and %s.", count_of(good, "good run"), count_of(length(taught$columns), "input")),
      "Run more, or hold the inputs that matter least.", runs = good, needed = needed, call = call)
  }
  rows <- seq_len(min(length(taught$failed), surrogate_most))
  taught <- list(columns = lapply(taught$columns, column_at, rows), values = lapply(taught$values, column_at, rows),
    failed = taught$failed[rows], designed = taught$designed[rows])
  if (length(rows) > gaussian_most) kinds <- setdiff(kinds, "gaussian")
  coordinates <- coordinates_of(study, taught$columns)
  x <- coordinate_matrix(coordinates, taught$columns)
  data <- surrogate_data(coordinates, x, taught$values, kinds, taught$failed, taught$designed)
  out <- list(study = study, outputs = outputs, taught = taught, data = data, kinds = kinds, name = name, provenance = provenance)
  structure(out, class = "ensayo_surrogate")
}

check_surrogate <- function(x, call = rlang::caller_env()) {
  check_class(x, "ensayo_surrogate", "a surrogate", "surrogate", "Surrogates are made by `surrogate()`.", call)
}

# Fitted again without a part of the runs.
surrogate_without <- function(surrogate, fold) {
  surrogate$data$outputs <- lapply(surrogate$data$outputs, function(output) {
    kept <- output$found$folds != fold
    output$rows <- output$rows[kept]
    output$parts <- lapply(output$parts, function(part) {
      part$y <- part$y[kept]
      x <- surrogate$data$runs[output$rows, part$used, drop = FALSE]
      part$fit <- surrogate_kind(part$kind)$fit(x, part$y, surrogate$data$coordinates[part$used], part$fit)
      part
    })
    output
  })
  surrogate
}

# The study in which the surrogate gives its outputs: what can be calculated from them stays.
surrogate_study <- function(surrogate) {
  study <- surrogate$study
  own <- surrogate$outputs
  quantities <- c(names(study$inputs), names(study$tables), own)
  kept <- character()
  for (name in setdiff(output_order(study$outputs), own)) {
    output <- study$outputs[[name]]
    if (is.null(output$model) && all(output$formula$uses %in% c(quantities, kept))) kept <- c(kept, name)
  }
  known <- c(quantities, kept)
  outside <- free_name("outside", known)
  outputs <- study$outputs[own]
  for (name in own) outputs[[name]]$kind <- outputs[[name]]$kind %||% surrogate_output_kind(surrogate, name)
  outputs[[outside]] <- outside_output()
  study$outputs <- study$outputs[kept]
  study$models <- list()
  holds <- function(formula) all(formula$uses %in% known)
  study$specs <- Filter(holds, study$specs)
  study$readings$chances <- Filter(holds, study$readings$chances)
  with_surrogate(study, surrogate$name, bare_data(surrogate$data), outputs, outside)
}

free_name <- function(name, taken) {
  while (name %in% taken) name <- paste0(name, "_")
  name
}

surrogate_output_kind <- function(surrogate, name) {
  kind <- column_kind(surrogate$study, name, surrogate$taught$values[[name]])
  if (kind %in% c("whole", "date", "yes/no")) kind
}

# What predicts, without what was found on the way but its score: predictive R squared with its interval, and the error.
bare_data <- function(data) {
  bare <- function(output) {
    score <- output$found$score
    c(output[setdiff(names(output), "found")], list(score = c(score$r_squared, score$low, score$high, output$found$off)))
  }
  data$outputs <- lapply(data$outputs, bare)
  if (!is.null(data$failing)) data$failing <- bare(data$failing)
  data
}

#' @rdname surrogate
#' @export
simulate.ensayo_surrogate <- function(object, nsim = 10000, seed = NULL, ...) {
  simulate(surrogate_study(object), nsim, seed, ...)
}

#' @rdname surrogate
#' @export
predict.ensayo_surrogate <- function(object, newdata, ...) {
  check_no_dots(..., .options = "newdata")
  if (!is.data.frame(newdata) || nrow(newdata) == 0) stop_argument("newdata", "a data frame with a column for each input", newdata)
  data <- ready_surrogate(object$data)
  inputs <- unique(coordinate_inputs(data$coordinates))
  unknown <- setdiff(names(newdata), names(object$study$inputs))
  if (length(unknown)) stop_unknown_name(unknown[1], inputs, "an input of the study")
  base <- base_values(object$study)
  columns <- lapply(stats::setNames(nm = inputs), function(name) newdata[[name]] %||% rep(base[[name]], nrow(newdata)))
  x <- coordinate_matrix(data$coordinates, columns)
  parts <- lapply(names(data$outputs), function(name) {
    values <- lapply(list("mean", "error"), function(question) {
      found <- surrogate_values(data$outputs[[name]], x, question)
      if (is.matrix(found)) matrix_columns(found) else list(found)
    })
    names <- if (is.null(object$study$outputs[[name]]$steps)) name else
      step_columns(name, vapply(as.list(object$study$outputs[[name]]$steps), step_words, ""))
    stats::setNames(c(values[[1]], values[[2]]), c(names, paste0(names, "_error")))
  })
  new_table(c(as.list(newdata), do.call(c, parts), list(outside = is_beyond_runs(data, x), failing = failing_chance(data, x))))
}

#' @rdname surrogate
#' @export
summary.ensayo_surrogate <- function(object, ...) {
  check_no_dots(..., .options = character())
  rows <- lapply(object$outputs, function(name) {
    output <- object$data$outputs[[name]]
    found <- output$found
    score <- found$score
    rows_of(output = name, surrogate = paste(unique(vapply(output$parts, `[[`, "", "kind")), collapse = ", "), r_squared = score$r_squared,
      low = score$low, high = score$high, unexplained = 1 - score$r_squared, error = held_out_error(object, name),
      unit = quantity_unit(object$study, name) %||% "", runs = length(output$rows), failed = sum(object$taught$failed),
      repeated = sum(duplicated(row_keys(object$data$runs[output$rows, , drop = FALSE]))),
      idle = paste(found$parts$input[found$parts$idle], collapse = " "), findings = paste(surrogate_findings(object, name), collapse = " "))
  })
  new_table(stacked(rows))
}

output_taught <- function(surrogate, name) column_at(surrogate$taught$values[[name]], surrogate$data$outputs[[name]]$rows)

# Of the runs by which it is judged.
held_out_error <- function(surrogate, name) surrogate$data$outputs[[name]]$found$off

surrogate_findings <- function(surrogate, name) {
  y <- output_taught(surrogate, name)
  found <- surrogate$data$outputs[[name]]$found
  spread <- sort(rowSums(as.matrix((y - rep(apply(as.matrix(y), 2, stats::median), each = NROW(y)))^2)), decreasing = TRUE)
  keys <- row_keys(surrogate$data$runs[surrogate$data$outputs[[name]]$rows, , drop = FALSE])
  again <- duplicated(keys)
  differs <- any(rowSums(as.matrix(column_at(as.matrix(y), which(again)) != column_at(as.matrix(y), match(keys, keys)[again]))) > 0)
  c(if (all(spread == 0)) "still", if (isTRUE(found$score$r_squared < 0.5)) "poor", if (length(spread) >= 20 && sum(spread[1:3]) > 0.5 * sum(spread)) "rests_on_few",
    if (differs) "noise", if (is.matrix(y)) "components")
}

#' @export
study_of.ensayo_surrogate <- function(result) surrogate_study(result)

#' @export
allow_programs.ensayo_surrogate <- function(study) {
  study$study <- allow_programs(study$study)
  study
}
