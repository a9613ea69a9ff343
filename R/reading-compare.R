#' Compare results
#'
#' Is one better, or is it luck? Results that share their random numbers are compared run by run: what both have in
#' common cancels, and a small difference shows.
#'
#' @param ... Results, named or not, or what [simulate()][simulate.ensayo_study] gives for [alternatives()]. Each is
#'   compared with the first.
#' @param .outputs Names of outputs that all of them have, bare or as text; all such when left out.
#' @param .better `"high"` or `"low"`: which is good; or both by output, as `c(pressure = "high", cost = "low")`; `NULL`
#'   where neither is.
#' @param .paired `TRUE` to compare run by run, which is an error where runs do not share their random numbers;
#'   `FALSE` not to; `NULL` to do so where they share them, and else to say why not.
#' @param .confidence Number between 0 and 1.
#' @return A comparison: it prints; `as.data.frame()` gives its differences, `summary()` the statistics side by side,
#'   and [plot_comparison()] its pictures. The differences have a row for each output and alternative:
#'   * `output`, `alternative`, `against`, `paired`, `runs` (good in both);
#'   * `mean_against`, `mean`, `difference` (of means: alternative less the other), `low` and `high` (its confidence
#'     interval, for lack of runs), `error` (its standard error), `unpaired_error` (what it would be without shared
#'     random numbers), `noise` (half the interval over the difference: above 1 it may all be luck);
#'   * `verdict`: `"higher"`, `"lower"`, `"not told apart"` or `"equal in every run"`; `better`: `"yes"`, `"no"` or
#'     `""`;
#'   * `chance_higher`, `chance_equal`: of the alternative's value being the higher, or the same, in a run (unpaired: in
#'     a run of each);
#'   * `P5`, `P50`, `P95`: percentiles (not exceeded) of the run-by-run difference, `NA` unpaired;
#'   * `dominance`: `"higher at every percentile"`, `"lower at every percentile"`, `"equal"`, or where the cumulative
#'     curves cross (from P1 to P99);
#'   * `unit`, and `remark`: why runs were not paired.
#' @section Errors: `ensayo_error_argument` where there are fewer than two results, they have no output in common, or
#'   runs that were to be paired do not share their random numbers (with the reason).
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s"))
#' wider <- replace_outputs(main, velocity = flow / 0.05)
#' compare_results(old = simulate(main, 1000, 11), new = simulate(wider, 1000, 11), .better = "low")
#' @export
compare_results <- function(..., .outputs = NULL, .better = NULL, .paired = NULL, .confidence = 0.95) {
  results <- named_results(rlang::enquos(...))
  common <- Reduce(intersect, lapply(results, function(result) main_outputs(result)))
  if (length(common) == 0) stop_ensayo("argument", "Results to compare must have an output in common.",
    "They have none.")
  outputs <- resolve_names(rlang::enquo(.outputs), common, "an output that all results have")
  check_flag(.paired, null = TRUE)
  faults <- lapply(results[-1], pairing_fault, results[[1]])
  fault <- Find(Negate(is.null), faults)
  if (isTRUE(.paired) && !is.null(fault)) {
    stop_ensayo("argument", "Runs can be paired only where they share their random numbers.", paste0(fault, "."),
      "Simulate both with the same seed, number of runs and design; or compare them unpaired, `.paired = FALSE`.")
  }
  sides <- lapply(results, function(result) {
    list(columns = numeric_columns(result, outputs), replicates = telling_replicates(result))
  })
  study <- results[[1]]$study
  about <- data.frame(output = outputs, unit = text_of(outputs, function(name) quantity_unit(study, name)),
    label = text_of(outputs, function(name) quantity_label(study, name)),
    kind = text_of(outputs, function(name) output_kind_of(results[[1]], name)), of_one_result = FALSE)
  remarks <- if (is.null(.paired)) lapply(faults, function(fault) fault %||% "") else rep(list(""), length(faults))
  paired <- if (identical(.paired, FALSE)) rep(FALSE, length(faults)) else vapply(faults, is.null, TRUE)
  new_comparison(sides, about, results, better_of(.better, outputs), paired, remarks, .confidence)
}

#' @rdname compare_results
#' @param .result One result, several of whose outputs are compared: the costs of two ways to do it, calculated in the
#'   same runs.
#' @return `compare_outputs()`: a comparison whose alternatives are the outputs.
#' @export
compare_outputs <- function(.result, .outputs, .better = NULL, .confidence = 0.95) {
  check_result(.result)
  outputs <- resolve_outputs(rlang::enquo(.outputs), .result)
  if (length(outputs) < 2) stop_ensayo("argument", "Name at least two outputs to compare.",
    sprintf("You named %s.", and_list(quoted(outputs))))
  sides <- lapply(stats::setNames(nm = outputs), function(name) {
    list(columns = list(value = values_of(.result, name)), replicates = telling_replicates(.result))
  })
  about <- data.frame(output = "value", unit = quantity_unit(.result$study, outputs[1]) %||% "", label = "Value",
    kind = output_kind_of(.result, outputs[1]), of_one_result = TRUE)
  new_comparison(sides, about, stats::setNames(rep(list(.result), length(outputs)), outputs),
    better_of(.better, "value"), rep(TRUE, length(outputs) - 1), rep(list(""), length(outputs) - 1), .confidence)
}

# Results by name: those given, and those within a list of alternatives.
named_results <- function(quosures, least = 2, call = rlang::caller_env()) {
  opened <- lapply(seq_along(quosures), function(i) {
    value <- rlang::eval_tidy(quosures[[i]])
    if (inherits(value, "ensayo_results")) return(unclass(value))
    if (is.list(value) && !is.object(value) && all(vapply(value, inherits, TRUE, "ensayo_result"))) return(value)
    check_result(value, sprintf("argument %d", i), call = call)
    name <- names(quosures)[i]
    expr <- rlang::quo_get_expr(quosures[[i]])
    stats::setNames(list(value), if (nzchar(name)) name else if (is.symbol(expr)) as.character(expr)
      else sprintf("result %d", i))
  })
  results <- do.call(c, c(list(list()), opened))
  if (length(results) < least) {
    stop_ensayo("argument", sprintf("Give at least %s.", if (least == 1) "one result" else "two results"), sprintf("You gave %d.", length(results)), call = call)
  }
  names(results) <- make.unique(names(results), sep = " ")
  results
}

better_of <- function(better, outputs, call = rlang::caller_env()) {
  if (is.null(better)) return(stats::setNames(rep("", length(outputs)), outputs))
  ok <- is.character(better) && all(better %in% c("high", "low")) && (length(better) == 1 || !is.null(names(better)))
  if (!ok) stop_argument(".better", "\"high\", \"low\", or one of them for each output by name", better, call = call)
  if (is.null(names(better))) return(stats::setNames(rep(better, length(outputs)), outputs))
  unknown <- setdiff(names(better), outputs)
  if (length(unknown)) stop_unknown_name(unknown[1], outputs, "an output that is compared", call = call)
  out <- stats::setNames(rep("", length(outputs)), outputs)
  out[names(better)] <- better
  out
}

# Why two results' runs do not share their random numbers, or NULL.
pairing_fault <- function(a, b) {
  p <- a$provenance
  q <- b$provenance
  words <- c(seed = "seeds", nsim = "numbers of runs", design = "designs", replicates = "numbers of replicates",
    block = "blocks")
  for (key in names(words)) {
    if (!identical(p[[key]], q[[key]])) {
      return(sprintf("Their %s differ: %s and %s", words[[key]], format_given(q[[key]]), format_given(p[[key]])))
    }
  }
  if (!identical(as.double(run_numbers(a)),
    as.double(run_numbers(b)))) return("They hold different runs of their design")
  shared <- intersect(draw_names(a), draw_names(b))
  if (length(shared) == 0) return("They have no input in common that varies")
  stream <- function(result, name) result$study$inputs[[name]]$stream
  other <- Filter(function(name) stream(a, name) != stream(b, name), shared)
  if (length(other)) return(sprintf("The input %s has other random numbers in each", quoted(other[1])))
  if (p$design == "sobol" && !identical(draw_names(a)[seq_along(shared)], draw_names(b)[seq_along(shared)])) {
    return("Their inputs take the dimensions of the Sobol' sequence in another order")
  }
  NULL
}

new_comparison <- function(sides, about, results, better, paired, remarks, confidence) {
  check_confidence(confidence)
  first <- sides[[1]]
  rows <- lapply(about$output, function(output) {
    do.call(rbind, lapply(seq_along(sides)[-1], function(i) {
      row <- compared_pair(sides[[i]], first, output, paired[i - 1], confidence)
      data.frame(output = output, alternative = names(sides)[i], against = names(sides)[1], paired = paired[i - 1], row,
        better = better_word(row$verdict, better[[output]]), unit = about$unit[about$output == output],
        remark = remarks[[i - 1]])
    }))
  })
  order <- c("output", "alternative", "against", "paired", "runs", "mean_against", "mean", "difference", "low", "high",
    "error", "unpaired_error", "noise", "verdict", "better", "chance_higher", "chance_equal", "P5", "P50", "P95",
    "dominance", "unit", "remark")
  structure(list(sides = sides, about = about, results = results,
    differences = new_table(as.list(do.call(rbind, rows)[order])), confidence = confidence),
    class = "ensayo_comparison")
}

better_word <- function(verdict, better) {
  if (!nzchar(better) || !verdict %in% c("higher", "lower")) return("")
  if ((verdict == "higher") == (better == "high")) "yes" else "no"
}

# One output of an alternative and of what it is compared with.
compared_pair <- function(side, first, output, paired, confidence) {
  x <- side$columns[[output]]
  y <- first$columns[[output]]
  good_x <- is.finite(x)
  good_y <- is.finite(y)
  if (!any(good_x) || !any(good_y)) return(nothing_compared())
  errors <- c(mean_error(x[good_x], side$replicates[good_x]), mean_error(y[good_y], first$replicates[good_y]))
  unpaired <- sqrt(sum(errors^2))
  if (paired) {
    good <- good_x & good_y
    if (!any(good)) return(nothing_compared())
    d <- x[good] - y[good]
    # a difference that is the same in every run is exact; one run tells that of none alone
    exact <- all(d == d[1]) && (length(d) > 1 || d[1] == 0)
    read <- list(runs = length(d), means = c(mean(y[good]), mean(x[good])),
      difference = if (exact) d[1] else mean(d),
      error = if (exact) 0 else mean_error(d, side$replicates[good]), higher = mean(d > 0),
      equal = mean(d == 0), spread = percentile_values(d, c(5, 50, 95)))
  } else {
    read <- c(list(runs = min(sum(good_x), sum(good_y)), means = c(mean(y[good_y]), mean(x[good_x])), error = unpaired),
      chances_between(x[good_x], y[good_y]), list(spread = rep(NA_real_, 3)))
    read$difference <- diff(read$means)
  }
  degrees <- if (is.null(side$replicates)) max(read$runs - 1, 1) else length(unique(side$replicates)) - 1
  half <- read$error * stats::qt((1 + confidence) / 2, degrees)
  equal <- paired && read$equal == 1
  told <- is.finite(half) && abs(read$difference) > half
  verdict <- if (equal) "equal in every run" else if (!told) "not told apart"
    else if (read$difference > 0) "higher" else "lower"
  data.frame(runs = read$runs, mean_against = read$means[1], mean = read$means[2], difference = read$difference,
    low = read$difference - half, high = read$difference + half, error = read$error, unpaired_error = unpaired,
    noise = if (read$difference == 0) NA_real_ else half / abs(read$difference), verdict = verdict,
    chance_higher = read$higher, chance_equal = read$equal, P5 = read$spread[1], P50 = read$spread[2],
    P95 = read$spread[3], dominance = dominance_of(x[good_x], y[good_y]))
}

nothing_compared <- function() {
  none <- NA_real_
  data.frame(runs = 0, mean_against = none, mean = none, difference = none, low = none, high = none, error = none,
    unpaired_error = none, noise = none, verdict = "not told apart", chance_higher = none, chance_equal = none,
    P5 = none, P50 = none, P95 = none, dominance = "no run is good in both")
}

# The chance that an x is above a y, and that they are equal, over all pairs of runs (Mann and Whitney 1947).
chances_between <- function(x, y) {
  sorted <- sort(y)
  below <- findInterval(x, sorted, left.open = TRUE)
  list(higher = mean(below) / length(y), equal = mean(findInterval(x, sorted) - below) / length(y))
}

# First-order dominance, as far as percentiles from P1 to P99 tell.
dominance_of <- function(x, y) {
  at <- 1:99
  gap <- percentile_values(x, at) - percentile_values(y, at)
  if (all(gap == 0)) return("equal")
  if (all(gap >= 0)) return("higher at every percentile")
  if (all(gap <= 0)) return("lower at every percentile")
  sign <- sign(gap[gap != 0])
  crossings <- at[gap != 0][which(diff(sign) != 0) + 1]
  shown <- utils::head(crossings, 3)
  paste0("curves cross at ", and_list(paste0("P", shown)), if (length(crossings) > 3) " and more")
}

#' @rdname compare_results
#' @param x,object A comparison.
#' @export
as.data.frame.ensayo_comparison <- function(x, ...) {
  check_no_dots(..., .options = character())
  x$differences
}

#' @rdname compare_results
#' @param percentiles Numeric from 0 to 100; `NULL` for those of the first result's study.
#' @return `summary()`: a data frame with a row for each output and alternative, with columns `output`, `alternative`
#'   and those of [summary()][summary.ensayo_result], and for all specs together, where there are any, `pass_rate`.
#' @export
summary.ensayo_comparison <- function(object, ..., percentiles = NULL) {
  check_no_dots(..., .options = "percentiles")
  asked <- sort(unique(check_percentiles(percentiles %||% shown_percentiles(object$results[[1]]$study$readings),
    "percentiles")))
  rows <- lapply(names(object$results), function(name) {
    result <- object$results[[name]]
    table <- statistics_table(result, if (of_one_result(object)) name else object$about$output, asked,
      sense = object$results[[1]]$study$readings$sense)
    data.frame(output = table$output, alternative = name, unclass_table(table)[-1], pass_rate = all_specs_rate(result),
      check.names = FALSE)
  })
  table <- do.call(rbind, rows)
  new_table(as.list(table[order(match(table$output, object$about$output)), ]))
}

# Whether several outputs of one result are compared, rather than results.
of_one_result <- function(comparison) comparison$about$of_one_result[1]

# The pass rate of all specs together; NA without specs.
all_specs_rate <- function(result) {
  if (length(result$study$specs)) utils::tail(pass_rate(result)$pass_rate, 1) else NA_real_
}
