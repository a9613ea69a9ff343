# What it is worth to know inputs before deciding between alternatives: perfect information in all, on single inputs or groups, of
# half their spread, and of a survey. Given runs serve; nothing is run again.

#' Worth of knowing an input before deciding
#'
#' A decision between alternatives is taken now, on the mean, or after something more is known. `worth_of_knowing()` says what the
#' second gains at most: in all, and by knowing single inputs or groups, or knowing them twice as well. `worth_of_survey()` says what
#' readings of one input gain.
#'
#' @param results What [simulate()][simulate.ensayo_alternatives] gives for [alternatives()], or a list of results that share their random
#'   numbers; or one result, of which several outputs are the alternatives.
#' @param output Name of the output that is compared, bare or as text. Of one result: two outputs or more, `c(cost_lined, cost_new)`.
#' @param better `"high"` or `"low"`: which is good.
#' @param inputs Names of inputs, bare or as text; all that vary when left out.
#' @param ... Not used; anything here is an error.
#' @param by `"input"` or `"group"`: the inputs of a group become known together.
#' @param most Whole number: how many runs to use at most.
#' @return `worth_of_knowing()`: a data frame with a row for everything together and one for each input or group, the most worth first:
#'   `about`; `worth` (what the decision gains in the mean, in the output's unit), `low`, `high` (95 % interval, for lack of runs and of the
#'   regression's); `bias` (by how much the figure may be too large: that of choosing the best of what is estimated); `halved` (worth of
#'   half the spread) with `halved_low` and `halved_high`; `share` (of the worth of everything); `noise` (`TRUE` where it is not told
#'   from nothing); `unit`, `remark`. `worth_of_survey()`: a row for each `n`: `input`, `n`, `worth`, `low`, `high`, `bias`, `share` (of knowing the
#'   input for certain), `unit`.
#' @section How: the gain of alternatives over the first is smoothed against what would be known, by penalised splines; the mean of the
#'   best smoothed gain less the best mean is the worth (Strong, Oakley and Brennan 2014). Groups of up to three inputs are smoothed with what
#'   pairs do together, larger ones as sums, and the remark says so. Intervals come from draws of the smooth's coefficients
#'   and the scatter over runs. Known to half its spread means: with readings whose error leaves a normal quantity half of its standard
#'   deviation. A survey of n readings, each with the standard deviation `sd`, tells the input with an error of `sd` over the root of n.
#'   Where inputs are correlated, what one tells of the others counts.
#' @section Source: Raiffa and Schlaifer 1961, Applied Statistical Decision Theory; Strong, Oakley and Brennan 2014, "Estimating multiparameter
#'   partial expected value of perfect information from a probabilistic sensitivity analysis sample", Medical Decision Making 34(3); Strong,
#'   Oakley, Brennan and Breeze 2015, "Estimating the expected value of sample information", Medical Decision Making 35(5). Smooths are
#'   those of package mgcv (Wood 2017, Generalized Additive Models).
#' @section Errors: `ensayo_error_argument` where there is nothing to decide between, runs do not share their random numbers (with the
#'   reason), or fewer than 100 runs are good in all; `ensayo_error_name` for unknown names.
#' @seealso [tighten_inputs()] for what a smaller spread does to one output, [drivers()] for what makes it spread.
#' @examples
#' main <- study("Gravity main") |>
#'   add_inputs(demand = law_normal(34, 3), lining = law_normal(10, 6), trench = law_normal(9, 2)) |>
#'   add_outputs(line = 12 + demand / 10 + lining, replace = 17 + trench)
#' res <- simulate(main, nsim = 2000, seed = 11)
#' worth_of_knowing(res, c(line, replace), better = "low")
#' worth_of_survey(res, c(line, replace), lining, n = c(1, 5, 20), sd = 8, better = "low")
#' @export
worth_of_knowing <- function(results, output, better, inputs = NULL, ..., by = "input", most = 20000) {
  check_no_dots(..., .options = c("inputs", "by", "most"))
  by <- check_choice(by, c("input", "group"))
  decision <- decision_of(results, rlang::enquo(output), better, check_count(most, at_least = 100))
  inputs <- resolve_names(rlang::enquo(inputs), names(decision$inputs), "an input that varies")
  sets <- if (by == "input") stats::setNames(as.list(inputs), inputs) else grouped_inputs(decision$study, inputs)
  whole <- perfect_worth(decision$gains)
  rows <- lapply(names(sets), function(name) {
    known <- smoothed_worth(decision$gains, decision$inputs[sets[[name]]])
    half <- if (length(sets[[name]]) == 1 && is.numeric(decision$inputs[[sets[[name]]]])) {
      noisy_worth(decision, sets[[name]], stats::sd(decision$inputs[[sets[[name]]]]) / sqrt(3))
    }
    rows_of(about = name, worth = known$worth, low = known$low, high = known$high, bias = known$bias, halved = half$worth %||% NA_real_,
      halved_low = half$low %||% NA_real_, halved_high = half$high %||% NA_real_, remark = known$remark)
  })
  rows <- stacked(rows)
  rows <- rows[order(-rows$worth), ]
  all <- stacked(list(rows_of(about = "everything", worth = whole$worth, low = whole$low, high = whole$high, bias = whole$bias, halved = NA_real_,
    halved_low = NA_real_, halved_high = NA_real_, remark = ""), rows))
  all$share <- if (whole$worth > 0) all$worth / whole$worth else NA_real_
  all$noise <- all$low <= 0 | all$worth <= 2 * all$bias
  all$unit <- decision$unit
  new_table(all[c("about", "worth", "low", "high", "bias", "halved", "halved_low", "halved_high", "share", "noise", "unit", "remark")])
}

#' @rdname worth_of_knowing
#' @param input Name of one input, bare or as text.
#' @param n Whole numbers: how many readings.
#' @param sd Number above 0: the standard deviation of a single reading about the input, in its unit.
#' @export
worth_of_survey <- function(results, output, input, n, sd, better, ..., most = 20000) {
  check_no_dots(..., .options = "most")
  decision <- decision_of(results, rlang::enquo(output), better, check_count(most, at_least = 100))
  input <- resolve_name(rlang::enquo(input), names(decision$inputs), "an input that varies")
  if (!is.numeric(decision$inputs[[input]])) stop_argument("input", "an input of numbers", input)
  check_numbers(n, "n", 1)
  for (one in n) check_count(one, "n")
  check_number(sd, above = 0)
  known <- smoothed_worth(decision$gains, decision$inputs[input])$worth
  rows <- lapply(n, function(one) {
    told <- noisy_worth(decision, input, sd / sqrt(one))
    rows_of(input = input, n = one, worth = told$worth, low = told$low, high = told$high, bias = told$bias,
      share = if (known > 0) told$worth / known else NA_real_, unit = decision$unit)
  })
  new_table(stacked(rows))
}

# What there is to decide between: `gains` over the first alternative, a column for each of the others, where high is good; and the
# `inputs` that vary, as columns of the same runs.
decision_of <- function(results, quosure, better, most, call = rlang::caller_env()) {
  better <- check_choice(better, c("high", "low"), "better", call)
  one <- inherits(results, "ensayo_result")
  results <- if (one) list(results) else named_results(rlang::new_quosures(list(rlang::new_quosure(results))) |> stats::setNames(""), call = call)
  study <- results[[1]]$study
  if (one) {
    names <- resolve_outputs(quosure, results[[1]], call)
    if (length(names) < 2) {
      stop_ensayo("argument", "There must be two alternatives or more.", "One output was named.",
        "Name several outputs, or give results of alternatives (`alternatives()`).", argument = "output", call = call)
    }
    values <- lapply(names, function(name) as.double(values_of(results[[1]], name)))
  } else {
    fault <- Find(Negate(is.null), lapply(results[-1], pairing_fault, results[[1]]))
    if (!is.null(fault)) {
      stop_ensayo("argument", "Alternatives must share their random numbers.", paste0(fault, "."),
        "Simulate all with the same seed, number of runs and design (`alternatives()`).", call = call)
    }
    common <- Reduce(intersect, lapply(results, function(result) scalar_outputs(result$study)))
    names <- resolve_name(quosure, common, "an output that all results have", call)
    values <- lapply(results, function(result) as.double(values_of(result, names)))
  }
  inputs <- list()
  for (result in results) {
    for (name in setdiff(draw_names(result), c(names(inputs), stepped_names(result$study)))) inputs[[name]] <- values_of(result, name)
  }
  good <- which(Reduce(`&`, lapply(values, is.finite)))
  if (length(good) < 100) stop_ensayo("argument", "100 runs or more must be good in all alternatives.", count_of(length(good), "run"), call = call)
  good <- utils::head(good, most)
  gains <- vapply(values[-1], function(column) (column - values[[1]])[good], numeric(length(good))) * (if (better == "high") 1 else -1)
  list(study = study, gains = matrix(gains, length(good)), inputs = lapply(inputs, `[`, good), unit = quantity_unit(study, names[1]) %||% "",
    seed = results[[1]]$provenance$seed, runs = run_numbers(results[[1]])[good], nsim = results[[1]]$provenance$nsim)
}

# Everything known: the best in each run.
perfect_worth <- function(gains) {
  all <- cbind(0, gains)
  means <- colMeans(all)
  best <- which.max(means)
  won <- all[cbind(seq_len(nrow(all)), max.col(all, "first"))] - all[, best]
  worth_interval(mean(won), stats::sd(won) / sqrt(length(won)), 0, 0)
}

worth_interval <- function(worth, error, spread, bias, remark = "") {
  half <- 1.96 * sqrt(error^2 + spread^2)
  list(worth = worth, low = max(worth - half, 0), high = worth + half, bias = bias, remark = remark)
}

# The mean over runs of the best smoothed gain, less the best mean.
best_of_smooths <- function(smooths) {
  all <- cbind(0, smooths)
  do.call(pmax, as.data.frame(all)) - all[, which.max(colMeans(all))]
}

smoothed_worth <- function(gains, known, draws = 200) {
  smooth <- smoother_of(known)
  fits <- lapply(seq_len(ncol(gains)), function(j) {
    y <- gains[, j]
    # a gain that is the same in every run is known
    if (stats::sd(y) == 0) list(fitted = y, basis = matrix(1, length(y), 1), root = matrix(0, 1, 1)) else smooth$fit(y)
  })
  fitted <- vapply(fits, function(fit) fit$fitted, numeric(nrow(gains)))
  won <- best_of_smooths(matrix(fitted, nrow(gains)))
  # other coefficients that the runs allow, each fit by itself; some of the runs tell how far they move
  some <- unique(round(seq(1, nrow(gains), length.out = min(nrow(gains), 2000))))
  moves <- lapply(seq_along(fits), function(j) {
    fit <- fits[[j]]
    fit$basis[some, , drop = FALSE] %*% (fit$root %*% score_matrix(ncol(fit$root), draws, j))
  })
  there <- matrix(fitted, nrow(gains))[some, , drop = FALSE]
  other <- vapply(seq_len(draws), function(i) {
    mean(best_of_smooths(there + vapply(moves, function(move) move[, i], numeric(length(some)))))
  }, 0)
  worth <- mean(won)
  worth_interval(worth, stats::sd(won) / sqrt(length(won)), stats::sd(other), max(mean(other) - mean(best_of_smooths(there)), 0), smooth$remark)
}

# The same normal numbers in every session.
score_matrix <- function(rows, columns, key) {
  matrix(stats::qnorm(stream_uniforms(sprintf("worth %d", key), 1, "random", rows * columns)), rows)
}

# How gains are smoothed against what is known: a spline of one quantity, a surface of two or three, means of few values. `fit` gives
# fitted values, the basis that they are made of, and a root of the coefficients' covariance.
smoother_of <- function(known) {
  names(known) <- paste0("x", seq_along(known))
  few <- vapply(known, function(x) is.character(x) || length(unique(x)) <= 12, NA)
  if (length(known) == 1 && !few) return(list(remark = "", fit = spline_smoother(known[[1]])))
  data <- list2DF(known)
  data[few] <- lapply(data[few], factor)
  size <- function(x) min(8, length(unique(x)) - 1)
  smooth <- names(known)[!few]
  terms <- c(names(known)[few], sprintf("s(%s, bs = \"cr\", k = %d)", smooth, vapply(known[smooth], size, 0)))
  together <- length(known) > 1 && length(known) <= 3
  if (together && length(smooth) > 1) {
    pairs <- utils::combn(smooth, 2)
    terms <- c(terms, sprintf("ti(%s, %s, bs = \"cr\", k = 5)", pairs[1, ], pairs[2, ]))
  }
  terms <- terms[nzchar(terms) & !grepl("^s\\(,", terms)]
  formula <- stats::as.formula(paste("y ~", paste(terms, collapse = " + ")), env = asNamespace("mgcv"))
  list(remark = if (length(known) > 3) "taken as a sum of its inputs' effects" else "", fit = function(y) {
    data$y <- y
    made <- suppressWarnings(mgcv::bam(formula, data = data, discrete = length(smooth) > 0))
    parts <- eigen(made$Vp, symmetric = TRUE)
    list(fitted = as.vector(made$fitted.values), basis = stats::model.matrix(made),
      root = parts$vectors %*% diag(sqrt(pmax(parts$values, 0)), length(parts$values)))
  })
}

# A cubic regression spline of one quantity. In the basis in which its penalty is diagonal (Demmler and Reinsch 1975) each coefficient
# is shrunk by itself, and restricted likelihood is a function of one number.
spline_smoother <- function(x) {
  made <- mgcv::smoothCon(mgcv::s(x, bs = "cr", k = min(20, length(unique(x)) - 1)), data = data.frame(x = x))[[1]]
  root <- chol(crossprod(made$X))
  bent <- backsolve(root, t(backsolve(root, t(made$S[[1]]), transpose = TRUE)), transpose = TRUE)
  parts <- eigen((bent + t(bent)) / 2, symmetric = TRUE)
  s <- pmax(parts$values, 0)
  s[s < 1e-9 * max(s)] <- 0
  basis <- made$X %*% backsolve(root, parts$vectors)
  free <- sum(s == 0)
  function(y) {
    z <- as.vector(crossprod(basis, y))
    rest <- max(sum(y^2) - sum(z^2), 1e-12 * sum(y^2))
    kept <- function(penalty) 1 / (1 + penalty * s)
    variance <- function(penalty) (rest + sum(z^2 * (1 - kept(penalty)))) / (length(y) - free)
    unlikely <- function(log_penalty) (length(y) - free) * log(variance(exp(log_penalty))) - sum(log1p(-kept(exp(log_penalty))[s > 0]))
    best <- exp(stats::optimize(unlikely, log(1 / max(s)) + c(-12, 30))$minimum)
    list(fitted = as.vector(basis %*% (z * kept(best))), basis = basis, root = diag(sqrt(variance(best) * kept(best)), length(s)))
  }
}

# What readings of an input with a normal error tell.
noisy_worth <- function(decision, input, error) {
  u <- stream_uniforms(paste("survey of", input), decision$seed, "random", decision$nsim)[decision$runs]
  smoothed_worth(decision$gains, list(decision$inputs[[input]] + error * stats::qnorm(u)))
}
