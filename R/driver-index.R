#' Variance indices with runs of their own
#'
#' Sobol' indices: the share of an output's variance that would go if an input were known (first order), and the
#' share that would stay if all others were (total). Their difference is what the input does through others. They see
#' any relation, and take many runs of the model.
#'
#' @param study A study with at least one input that varies and one output; or a [surrogate()], for its outputs: intervals then hold
#'   its own error, found by leaving out parts of the runs it was fitted to, and the variance that it does not know.
#' @param nsim Whole number: rows of the base design (8192 of a surrogate, when left out). The model is run `nsim` times as often as there are inputs (or
#'   groups) and two more; with second-order indices, twice the inputs and two.
#' @param seed As for [simulate()][simulate.ensayo_study].
#' @param outputs Names of outputs, bare or as text; all when left out.
#' @param groups `FALSE`: an index for each input; `TRUE`: one for each `group` of inputs, and for each input without
#'   one; or a named list of names of inputs, `list(pump = c("head", "flow"))`, where inputs not named have their own.
#' @param second_order `TRUE` for the indices of pairs, too.
#' @param confidence Number between 0 and 1.
#' @param ... Not used; anything here is an error.
#' @param design As for [simulate()][simulate.ensayo_study]; when `NULL` scrambled Sobol' sequences, or a Latin hypercube where inputs are
#'   drawn over steps.
#' @param threads,workers As for [simulate()][simulate.ensayo_study].
#' @param announce A function of one text, told the number of model runs before they start; or `NULL`.
#' @param progress As for [simulate()][simulate.ensayo_study].
#' @return A data frame with a row for each output, kind and input (or group, or pair), the strongest total index
#'   first: `output`, `input`, `measure` (`"first_order"`, `"total"` or `"second_order"`), `value`, `low`, `high`,
#'   `error` (the standard error), `rank`, `beyond_noise`, `remark` and `model_runs`. Values are not cut off at 0 or
#'   1: a little below 0 is noise.
#' @details Two designs of the same inputs, independent of each other, give the base rows; each further design is the
#'   first with one input's (or group's) column taken from the second. Outputs are centred by the mean of both, so
#'   that an output of mean 1e6 and standard deviation 1 is as well known as one of mean 0. A row in which any of its
#'   runs failed is left out. Under Sobol' sequences, which powers of 2 such as 2048 suit best, intervals are from the scatter of eight
#'   stretches of rows; under other designs from that of the rows' contributions (the delta method). Both are conservative, but for
#'   random runs, where they are right.
#' @section Sources: Sobol' (1993, Mathematical Modelling and Computational Experiments 1(4)); first order by
#'   Saltelli et al. (2010, Computer Physics Communications 181(2), table 2, formula b), total by Jansen (1999,
#'   Computer Physics Communications 117(1-2)), second order by Saltelli (2002, Computer Physics Communications
#'   145(2)).
#' @section Errors: `ensayo_error_correlation` where inputs of different groups are correlated, share their
#'   uncertainty, or one's parameters are formulas of another: the indices then have no meaning; put such inputs into
#'   one group, or take `drivers(result, "variance_share")`. `ensayo_error_argument` for other arguments;
#'   `ensayo_error_name` for an unknown output or input.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048),
#'     diameter = law_triangular(0.246, 0.250, 0.252)) |>
#'   add_outputs(velocity = output(flow / (pi * diameter^2 / 4), unit = "m/s"))
#' variance_indices(main, nsim = 500, seed = 11)
#' @export
variance_indices <- function(study, nsim = 2048, seed = NULL, outputs = NULL, groups = FALSE, second_order = FALSE, ...,
                             design = NULL, confidence = 0.95, threads = NULL, workers = NULL, announce = announce_runs,
                             progress = show_progress) {
  surrogate <- if (inherits(study, "ensayo_surrogate")) study
  if (!is.null(surrogate)) study <- surrogate_study(surrogate)
  check_study(study)
  check_no_dots(..., .options = c("design", "confidence", "threads", "workers", "announce", "progress"))
  validate_study(study)
  if (missing(nsim) && !is.null(surrogate)) nsim <- 8192
  check_count(nsim, at_least = 10)
  design <- if (is.null(design)) index_design(study) else check_choice(design, designs)
  if (design == "sobol" && index_design(study) != "sobol") {
    stop_argument("design", "another where inputs are drawn over steps, or are very many", design, "Take \"latin\" or \"random\".")
  }
  plan <- draw_plan(nsim, seed, design, 1, NULL, threads)
  check_confidence(confidence)
  outputs <- resolve_names(rlang::enquo(outputs), scalar_outputs(study), "an output of the study")
  groups <- index_groups(study, groups)
  check_flag(second_order)
  if (second_order && length(groups) < 2) stop_argument("second_order", "FALSE where one input varies", TRUE)
  made <- 2 + length(groups) * (1 + second_order)
  if (!is.null(announce) && is.null(surrogate)) {
    announce(sprintf("%s of the model: %s rows for %s and two more.", count_of(plan$nsim * made, "run"),
      format_given(plan$nsim), paste0(if (second_order) "twice ", count_of(length(groups), "input"))))
  }
  index <- function(study, plan, progress = NULL) {
    runs <- index_runs(study, plan, groups, second_order, outputs, progress, made)
    do.call(rbind, lapply(outputs, function(name) {
      index_rows(runs, name, names(groups), confidence, plan$nsim * made, index_stretches(plan$nsim, design))
    }))
  }
  table <- with_workers(workers, index(study, plan, progress))
  if (!is.null(surrogate)) {
    fewer <- draw_plan(min(plan$nsim, 512), plan$seed, design, 1, NULL, threads)
    table <- with_surrogate_error(table, surrogate, function(part) in_rows_of(index(part, fewer), table), confidence)
  }
  new_table(table)
}

# The rows of a table in the order of another.
in_rows_of <- function(table, other) {
  key <- function(table) paste(table$output, table$input, table$measure)
  table[match(key(other), key(table)), ]
}

# Sobol' sequences where they have a dimension for each input of both base designs. Of inputs over steps the second design would be
# the first's sequence continued, which is not independent of it.
index_design <- function(study) {
  varying <- varying_names(study)
  if (length(intersect(varying, stepped_names(study))) == 0 && 2 * length(varying) <= sobol_dimensions) "sobol" else "latin"
}

# Stretches of a Sobol' sequence fill the space each by itself, and together better than apart: their scatter tells an error that is
# rather too large.
index_stretches <- function(nsim, design) {
  if (design == "sobol" && nsim >= 128) (seq_len(nsim) - 1) %/% ceiling(nsim / 8)
}

# Inputs that are taken together, by name.
index_groups <- function(study, groups, call = rlang::caller_env()) {
  varying <- varying_names(study)
  if (length(varying) == 0) stop_ensayo("model", "The study must have an input that varies.", NULL,
    "Give an input a law with `add_inputs()`.", call = call)
  if (isTRUE(groups)) {
    groups <- grouped_inputs(study, varying)
  } else if (is.list(groups)) {
    if (is.null(names(groups)) || any(!nzchar(names(groups)))) stop_argument("groups", "TRUE, FALSE or a named list",
      groups, call = call)
    given <- unlist(groups, use.names = FALSE)
    unknown <- setdiff(given, varying)
    if (length(unknown)) stop_unknown_name(unknown[1], varying, "an input that varies", call = call)
    if (anyDuplicated(given)) stop_argument("groups", "lists that have each input once", given[duplicated(given)][1],
      call = call)
    alone <- setdiff(varying, given)
    groups <- c(groups, stats::setNames(as.list(alone), alone))
  } else {
    check_flag(groups, call = call)
    groups <- stats::setNames(as.list(varying), varying)
  }
  check_independent_groups(study, groups, call)
  groups
}

check_independent_groups <- function(study, groups, call) {
  home <- stats::setNames(rep(names(groups), lengths(groups)), unlist(groups))
  pairs <- live_correlations(study)
  ties <- rbind(data.frame(a = pairs$a, b = pairs$b, how = rep("are correlated", nrow(pairs))),
    do.call(rbind, lapply(names(home), function(name) {
      other <- intersect(c(links_of(study$inputs[[name]]$law), study$inputs[[name]]$shares), names(home))
      if (length(other)) data.frame(a = name, b = other, how = "depend on each other")
    })))
  across <- which(home[ties$a] != home[ties$b])
  if (length(across) == 0) return(invisible())
  tie <- ties[across[1], ]
  stop_ensayo("correlation", "Variance indices need inputs (or groups) that are independent of each other.",
    sprintf("%s and %s %s.", quoted(tie$a), quoted(tie$b), tie$how),
    sprintf("Put them into one group, `groups = list(both = c(\"%s\", \"%s\"))`, or ask %s.", tie$a, tie$b,
      "`drivers(result, \"variance_share\")`"), inputs = c(tie$a, tie$b), call = call)
}

# Outputs of the two base designs and of each mixed one.
index_runs <- function(study, plan, groups, second_order, outputs, progress, designs) {
  first <- draw_columns(study, plan)
  second <- draw_columns(study, c(plan, list(index = 1)))
  done <- 0
  run <- function(draws) {
    step <- if (!is.null(progress)) function(part, all) if (done + part < designs * all) progress(done + part,
      designs * all)
    values <- evaluate_draws(study, draws, plan, 0, plan$nsim, step, by_plan = FALSE)$values[outputs]
    done <<- done + plan$nsim
    lapply(values, as.double)
  }
  mixed <- function(base, other) lapply(groups, function(names) run(utils::modifyList(base, other[names])))
  out <- list(a = run(first), b = run(second), ab = mixed(first, second), ba = if (second_order) mixed(second, first))
  if (!is.null(progress)) progress(designs * plan$nsim, designs * plan$nsim)
  out
}

index_rows <- function(runs, output, names, confidence, model_runs, stretches) {
  of <- function(design) design[[output]]
  a <- of(runs$a)
  b <- of(runs$b)
  ab <- lapply(runs$ab, of)
  ba <- lapply(runs$ba, of)
  good <- Reduce(`&`, lapply(c(list(a, b), ab, ba), is.finite))
  columns <- lapply(c(list(a = a, b = b), ab, ba), `[`, good)
  centre <- mean(c(columns$a, columns$b))
  columns <- lapply(columns, function(x) x - centre)
  found <- list(first_order = lapply(seq_along(ab), function(i) first_contributions(columns, i)),
    total = lapply(seq_along(ab), function(i) total_contributions(columns, i)))
  variance <- (columns$a^2 + columns$b^2) / 2
  stretches <- stretches[good]
  rows <- lapply(names(found), function(measure) index_table(found[[measure]], variance, output, names, measure,
    confidence, stretches))
  if (length(ba)) rows <- c(rows, list(second_order_table(columns, variance, length(ab), output, names, confidence, stretches)))
  table <- do.call(rbind, rows)
  table$remark <- index_remark(variance, sum(!good), table)
  table$model_runs <- model_runs
  total <- table[table$measure == "total", ]
  place <- match(table$input, total$input[order(-total$value)])
  table[order(match(table$measure, c("first_order", "total", "second_order")),
    ifelse(is.na(place), -table$value, place)), ]
}

# What each row adds to an index times the variance, twice the base designs' own rows.
first_contributions <- function(columns, i) columns$b * (columns[[2 + i]] - columns$a)
total_contributions <- function(columns, i) (columns$a - columns[[2 + i]])^2 / 2

index_table <- function(contributions, variance, output, names, measure, confidence, stretches) {
  read <- vapply(contributions, ratio_of_means, c(0, 0), below = variance, stretches = stretches)
  df <- if (is.null(stretches)) Inf else length(unique(stretches)) - 1
  z <- stats::qt((1 + confidence) / 2, df)
  p <- stats::pt(-read[1, ] / read[2, ], df)
  if (measure == "second_order") p <- 2 * stats::pt(-abs(read[1, ] / read[2, ]), df)
  data.frame(output = output, input = names, measure = measure, value = read[1, ], low = read[1, ] - z * read[2, ],
    high = read[1, ] + z * read[2, ], error = read[2, ],
    rank = rank(-read[1, ], ties.method = "first", na.last = "keep"), beyond_noise = (p < 1 - confidence) %in% TRUE,
    row.names = NULL)
}

# A ratio of means of rows, and its standard error: by what stretches of rows give, else by the delta method.
ratio_of_means <- function(above, below, stretches = NULL) {
  if (length(below) < 2 || all(below == 0)) return(c(NaN, NaN))
  ratio <- mean(above) / mean(below)
  if (!is.null(stretches)) {
    sums <- rowsum(cbind(above, below), stretches)
    # how far each stretch's own ratio moves the whole
    return(c(ratio, stats::sd((sums[, 1] - ratio * sums[, 2]) / mean(sums[, 2])) / sqrt(nrow(sums))))
  }
  c(ratio, stats::sd(above - ratio * below) / mean(below) / sqrt(length(below)))
}

second_order_table <- function(columns, variance, k, output, names, confidence, stretches) {
  pairs <- utils::combn(k, 2)
  contributions <- lapply(seq_len(ncol(pairs)), function(p) {
    i <- pairs[1, p]
    j <- pairs[2, p]
    columns[[2 + k + i]] * columns[[2 + j]] - columns$a * columns$b - first_contributions(columns, i) -
      first_contributions(columns, j)
  })
  index_table(contributions, variance, output, paste(names[pairs[1, ]], "and", names[pairs[2, ]]), "second_order",
    confidence, stretches)
}

index_remark <- function(variance, failed, table) {
  rows <- if (failed > 0) sprintf("%s left out, for a run of it failed", count_of(failed, "row")) else ""
  if (length(variance) < 2) return(rep("too few good rows", nrow(table)))
  if (all(variance == 0)) return(rep("the output does not vary", nrow(table)))
  rep(rows, nrow(table))
}
