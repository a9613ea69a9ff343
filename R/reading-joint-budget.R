# Several results of one measurement, with their covariance (JCGM 102:2011).

#' Several results of one measurement
#'
#' Estimates of two outputs or more with their covariance, and the region that holds all of them together with a stated probability: an
#' ellipse, a rectangle, and, from runs, the smallest region.
#'
#' @param x A study, whose model is propagated linearly, or a result, whose runs are taken.
#' @param outputs Names of two outputs or more, bare or as text; all when left out.
#' @param ... Not used; anything here is an error.
#' @param coverage Number between 0 and 1: the probability that the region holds all values.
#' @return A list of class `ensayo_joint`, with a method for `as.data.frame()` (a row for each output: `output`, `value`, `standard`, `unit`, `low`,
#'   `high`: its side of the rectangle) and the parts `covariance`, `correlation` (matrices), `ellipse_factor`, `rectangle_factor` (multiples of the
#'   standard uncertainties), `region_area` and `ellipse_area` (of two outputs from runs: of the smallest region, and of the ellipse).
#' @details An ellipse of the normal law has the factor \eqn{\sqrt{\chi^2_{m,p}}}, a rectangle that for which all m outputs lie within so many
#'   standard uncertainties of their estimates. From runs both are such that this share of the runs lies inside. The smallest region is
#'   made of the cells of a grid that hold most runs (JCGM 102, 7.7.4), approximately.
#' @section Source: JCGM 102:2011, 6.2 (covariance), 6.5 (regions), 7.7 (from runs).
#' @section Errors: `ensayo_error_argument` for fewer than two outputs, or outputs that do not vary or say the same.
#' @seealso [plot_region()], [add_measured()].
#' @examples
#' readings <- data.frame(voltage = c(5.007, 4.994, 5.005, 4.990, 4.999),
#'   current = c(19.663, 19.639, 19.640, 19.685, 19.678),
#'   phase = c(1.0456, 1.0438, 1.0468, 1.0428, 1.0433))
#' impedance <- study("Impedance") |>
#'   add_observations(readings, of = "mean") |>
#'   add_outputs(resistance = output(voltage / current * 1000 * cos(phase), unit = "ohm"),
#'     reactance = output(voltage / current * 1000 * sin(phase), unit = "ohm"))
#' both <- joint_budget(impedance)
#' both
#' study("Power") |>
#'   add_measured(both) |>
#'   add_outputs(z = sqrt(resistance^2 + reactance^2)) |>
#'   budget()
#' @export
joint_budget <- function(x, outputs = NULL, ..., coverage = 0.95) {
  check_no_dots(..., .options = c("outputs", "coverage"))
  check_number(coverage, above = 0, below = 1)
  from_runs <- inherits(x, "ensayo_result")
  study <- if (from_runs) x$study else check_study(x)
  names <- resolve_names(rlang::enquo(outputs), scalar_outputs(study), "an output of the study")
  names <- unique(as.character(names))
  if (length(names) < 2) {
    stop_ensayo("argument", "Name two outputs or more.", sprintf("There is %s.", if (length(names)) "one" else "none"), "One output has a `budget()`.",
      argument = "outputs")
  }
  joint <- if (from_runs) joint_of_runs(x, names, coverage) else joint_of_study(study, names, coverage)
  structure(c(list(study = study, outputs = names, coverage = coverage, basis = if (from_runs) "runs" else "budget"), joint), class = "ensayo_joint")
}

joint_of_study <- function(study, names, coverage) {
  validate_study(study)
  each <- lapply(names, function(name) propagated(study, name, second = FALSE))
  inputs <- unique(unlist(lapply(each, function(one) one$names)))
  moves <- vapply(each, function(one) {
    row <- stats::setNames(numeric(length(inputs)), inputs)
    row[one$names] <- one$derivatives$first
    row
  }, numeric(length(inputs)))
  moves <- matrix(moves, length(inputs))
  covariance <- crossprod(moves, value_correlations(study, inputs) %*% moves)
  value <- vapply(each, function(one) one$derivatives$value, 0)
  correlation <- checked_correlation(covariance, names)
  c(joint_parts(names, value, covariance, correlation),
    list(ellipse_factor = sqrt(stats::qchisq(coverage, length(names))), rectangle_factor = rectangle_factor(correlation, coverage)))
}

joint_parts <- function(names, value, covariance, correlation) {
  dimnames(covariance) <- dimnames(correlation) <- list(names, names)
  list(value = stats::setNames(value, names), covariance = covariance, correlation = correlation)
}

checked_correlation <- function(covariance, names, call = rlang::caller_env(3)) {
  still <- which(!(diag(covariance) > 0))
  if (length(still)) {
    stop_ensayo("argument", sprintf("%s must have an uncertainty.", quoted(names[still[1]])), "It does not vary, or is on a kink.",
      argument = "outputs", call = call)
  }
  r <- covariance / sqrt(outer(diag(covariance), diag(covariance)))
  diag(r) <- 1
  r
}

joint_of_runs <- function(result, names, coverage, call = rlang::caller_env(2)) {
  values <- vapply(names, function(name) as.double(values_of(result, name)), numeric(run_count(result)))
  values <- values[rowSums(!is.finite(values)) == 0, , drop = FALSE]
  if (nrow(values) < 100) stop_ensayo("argument", "100 runs or more must be good in all outputs.", count_of(nrow(values), "run"), call = call)
  covariance <- stats::cov(values)
  correlation <- checked_correlation(covariance, names)
  if (rcond(correlation) < 1e-12) {
    stop_ensayo("argument", "The outputs must not follow from one another.", sprintf("%s do.", and_list(quoted(names))),
      "Leave one of them out.", argument = "outputs", call = call)
  }
  middle <- colMeans(values)
  moved <- sweep(values, 2, middle)
  distance <- sqrt(rowSums((moved %*% solve(covariance)) * moved))
  largest <- do.call(pmax, as.data.frame(abs(sweep(moved, 2, sqrt(diag(covariance)), `/`))))
  held <- function(x) sort(x)[max(1, ceiling(coverage * length(x)))]
  parts <- c(joint_parts(names, middle, covariance, correlation), list(ellipse_factor = held(distance), rectangle_factor = held(largest)))
  if (length(names) != 2) return(parts)
  cells <- smallest_region(values, coverage)
  shown <- unique(round(seq(1, nrow(values), length.out = min(nrow(values), 2000))))
  c(parts, list(points = values[shown, ], region = cells$cells, region_area = cells$area,
    ellipse_area = pi * parts$ellipse_factor^2 * sqrt(det(covariance))))
}

# Cells of a grid, those with most runs first, until they hold the share. Counts are those of cells smoothed with their neighbours, so that
# the grid's own noise does not make islands.
smallest_region <- function(values, coverage) {
  n <- nrow(values)
  cells <- min(max(10, floor((n / 50)^(1 / 2))), 120)
  # a few runs far out must not make the cells wide
  out <- (1 - coverage) / 50
  ends <- unname(apply(values, 2, function(x) percentile_values(x, 100 * c(out, 1 - out))))
  at <- lapply(1:2, function(j) floor((values[, j] - ends[1, j]) / diff(ends[, j]) * cells) + 1)
  on_grid <- at[[1]] >= 1 & at[[1]] <= cells & at[[2]] >= 1 & at[[2]] <= cells
  counts <- matrix(tabulate((at[[1]] + (at[[2]] - 1) * cells)[on_grid], cells^2), cells)
  smooth <- smoothed_cells(counts)
  order <- order(-smooth)
  needed <- which(cumsum(counts[order]) >= coverage * n)[1]
  inside <- matrix(FALSE, cells, cells)
  inside[order[seq_len(needed)]] <- TRUE
  size <- (ends[2, ] - ends[1, ]) / cells
  which <- which(inside, arr.ind = TRUE)
  list(cells = data.frame(x = ends[1, 1] + (which[, 1] - 0.5) * size[1], y = ends[1, 2] + (which[, 2] - 0.5) * size[2],
    width = size[1], height = size[2]), area = sum(inside) * prod(size))
}

smoothed_cells <- function(counts) {
  n <- nrow(counts)
  padded <- matrix(0, n + 2, n + 2)
  padded[seq_len(n) + 1, seq_len(n) + 1] <- counts
  weights <- outer(c(1, 2, 1), c(1, 2, 1))
  total <- matrix(0, n, n)
  for (i in 1:3) for (j in 1:3) total <- total + weights[i, j] * padded[seq_len(n) + i - 1, seq_len(n) + j - 1]
  total
}

# k such that all of a normal vector lie within k standard deviations: of two exactly, of more by 2^16 points of a Sobol' sequence.
rectangle_factor <- function(r, coverage) {
  m <- nrow(r)
  if (m == 2) {
    rho <- min(max(r[1, 2], -1), 1)
    if (abs(rho) > 1 - 1e-12) return(stats::qnorm((1 + coverage) / 2))
    within <- function(k) {
      stats::integrate(function(z) {
        s <- sqrt(1 - rho^2)
        stats::dnorm(z) * (stats::pnorm((k - rho * z) / s) - stats::pnorm((-k - rho * z) / s))
      }, -k, k, rel.tol = 1e-11)$value
    }
    ends <- stats::qnorm((1 + c(coverage, sqrt(coverage))) / 2)
    return(stats::uniroot(function(k) within(k) - coverage, ends + c(-1e-6, 1e-6), tol = 1e-11)$root)
  }
  parts <- eigen(r, symmetric = TRUE)
  root <- parts$vectors %*% diag(sqrt(pmax(parts$values, 0)), m)
  n <- 2^16
  plan <- draw_plan(n, "rectangle", "sobol", 1, NULL, 1)
  scores <- vapply(sobol_directions(m), function(one) stats::qnorm(plan_uniforms(stream_address("rectangle", plan$seed, directions = one), plan)),
    numeric(n))
  largest <- do.call(pmax, as.data.frame(abs(scores %*% t(root))))
  sort(largest)[ceiling(coverage * n)]
}

#' @export
as.data.frame.ensayo_joint <- function(x, ...) {
  standard <- unname(sqrt(diag(x$covariance)))
  list2DF(list(output = x$outputs, value = unname(x$value), standard = standard, unit = text_of(x$outputs, function(name) quantity_unit(x$study, name)),
    low = unname(x$value) - x$rectangle_factor * standard, high = unname(x$value) + x$rectangle_factor * standard))
}

#' Take several results into the next study
#'
#' Adds the results of a measurement as inputs, with their uncertainties and correlations.
#'
#' @param .study A study.
#' @param joint What [joint_budget()] gives.
#' @return The study with an input for each of its outputs, under their names, with normal laws and the correlations added.
#' @section Errors: `ensayo_error_name` where a name is taken; `ensayo_error_argument` where `joint` is no such thing.
#' @seealso [joint_budget()], with an example.
#' @export
add_measured <- function(.study, joint) {
  check_study(.study)
  check_class(joint, "ensayo_joint", "what `joint_budget()` gives", "joint")
  standard <- sqrt(diag(joint$covariance))
  inputs <- lapply(stats::setNames(nm = joint$outputs), function(name) {
    input(law_normal(joint$value[[name]], standard[[name]]), unit = quantity_unit(joint$study, name), label = joint$study$outputs[[name]]$label,
      note = sprintf("measured: %s", joint$study$title))
  })
  .study <- add_inputs(.study, !!!inputs)
  add_correlation(.study, joint$correlation, kind = "score")
}
