#' What another law of an input would do
#'
#' Reads off the runs that are there what outputs and pass rates would be if inputs had other laws, by giving each run
#' the weight that it would have under them. Nothing is run again.
#'
#' @param .result A result.
#' @param ... The changed inputs as named laws: `demand = law_pert(30, 34, 44)`.
#' @param .outputs Names of outputs, bare or as text; all when left out.
#' @param .least Number: how many runs the weighted ones must be worth at the least.
#' @return A data frame with a row for each output's mean, sd and percentiles (the study's) and for each spec's pass
#'   rate: `about` (output or spec), `statistic`, `sense` (of percentiles), `was`, `becomes`, `change`, `error` (the
#'   standard error of `becomes`, for lack of runs), `effective_runs` and `unit`.
#' @details A run's weight is the ratio of the joint densities of its inputs, new over old (of probabilities, at values
#'   that have one of their own); where a changed input is
#'   correlated, the Gaussian copula is kept. Effective runs are (sum of weights)^2 / (sum of squared weights) (Kish
#'   1965, section 11.2).
#'   They are few where the new law puts weight where few runs are; then the answer would be luck, and is refused.
#' @section Errors: `ensayo_error_argument` where the effective runs are below `.least`, the new law reaches beyond
#'   the old one's support, an input does not vary or has linked parameters, or shares its uncertainty;
#'   `ensayo_error_name` for an unknown input or output.
#' @examples
#' res <- study("Gravity main") |>
#'   add_inputs(flow = law_pert(0.028, 0.034, 0.048)) |>
#'   add_outputs(velocity = output(flow / 0.049, unit = "m/s")) |>
#'   simulate(nsim = 1000, seed = 11)
#' reweight_runs(res, flow = law_pert(0.029, 0.034, 0.046))
#' @export
reweight_runs <- function(.result, ..., .outputs = NULL, .least = 100) {
  check_result(.result)
  outputs <- resolve_outputs(rlang::enquo(.outputs), .result)
  least <- check_number(.least, ".least", at_least = 2)
  laws <- rlang::dots_list(..., .homonyms = "error")
  check_reweighted(.result$study, laws)
  weight <- run_weights(.result, laws)
  effective <- sum(weight)^2 / sum(weight^2)
  if (!is.finite(effective) || effective < least) {
    stop_ensayo("argument", sprintf("The runs must be worth at least %s under the changed laws.",
      count_of(least, "run")),
      sprintf("They are worth %s of %s.", format_number(if (is.finite(effective)) effective else 0),
        format(run_count(.result))),
      "Simulate the changed study: `replace_inputs()`, then `simulate()`.", effective_runs = effective)
  }
  rows <- c(lapply(outputs, function(name) reweighted_output(.result, name, weight)),
    list(reweighted_specs(.result, weight)))
  new_table(c(as.list(do.call(rbind, rows)), list(effective_runs = effective))[c("about", "statistic", "sense", "was",
    "becomes", "change", "error", "effective_runs", "unit")])
}

check_reweighted <- function(study, laws, call = rlang::caller_env()) {
  if (length(laws) == 0) {
    stop_ensayo("argument", "Name at least one input with its changed law.", NULL,
      "Such as `reweight_runs(result, demand = law_pert(30, 34, 44))`.", call = call)
  }
  for (name in names_of(laws, call)) {
    check_known_input(study, name, call)
    check_law(laws[[name]], name, call = call)
    input <- study$inputs[[name]]
    shared <- c(input$shares, names(Filter(function(other) identical(other$shares, name), study$inputs)))
    fault <- if (!varies(input)) "does not vary in these runs"
      else if (is_stepped(input)) "is drawn at each step"
      else if (is_linked(input$law) || is_linked(laws[[name]])) "has parameters that are formulas"
      else if (length(shared)) sprintf("shares its uncertainty with %s", quoted(shared[1]))
      else if (is_discrete(input$law) != is_discrete(laws[[name]])) "has a law of the other kind, discrete or continuous"
      else if (is_discrete(input$law) && name %in% unlist(live_correlations(study)[c("a", "b")]))
        "is discrete and correlated"
    if (!is.null(fault)) {
      stop_ensayo("argument", sprintf("Runs cannot be weighted for %s.", quoted(name)), sprintf("It %s.", fault),
        "Simulate the changed study: `replace_inputs()`, then `simulate()`.", name = name, call = call)
    }
    check_within_support(input$law, laws[[name]], name, call)
  }
}

# Where the old law has no runs, none can be given weight.
check_within_support <- function(old, new, name, call) {
  missing <- if (is_categorical(new)) length(setdiff(parameters_of(new)$values, parameters_of(old)$values)) > 0
    else share_beyond(ready_law(old), ready_law(new)) > 1e-6
  if (missing) {
    stop_ensayo("argument", sprintf("The changed law of %s must lie within the old one's support.", quoted(name)),
      sprintf("It is %s; the runs were drawn from %s.", format(new), format(old)),
      "Simulate the changed study: `replace_inputs()`, then `simulate()`.", name = name, call = call)
  }
}

# How much of a law lies where another has nothing: at values with a probability of their own that the other has not,
# and in the pieces between knots that it leaves empty.
share_beyond <- function(old, new) {
  points <- ask(new, "atoms")
  own <- sum(points$shares[own_share(old, points$values) == 0])
  if (new$discrete) return(own)
  ends <- sort(unique(c(-Inf, knots_of(old), knots_of(new), Inf)))
  from <- ends[-length(ends)]
  to <- ends[-1]
  empty <- ask(old, "between", from, to, FALSE, FALSE) == -Inf
  own + sum(exp(ask(new, "between", from[empty], to[empty], FALSE, FALSE)))
}

# The probability that single values have of their own.
own_share <- function(law, x) {
  if (law$discrete) return(ask(law, "density", x, FALSE))
  atoms <- ask(law, "atoms")
  shares <- atoms$shares[match(x, atoms$values)]
  ifelse(is.na(shares), 0, shares)
}

# The logarithm of a law's weight over another's at single values: of probabilities where the other has one of its own,
# of densities elsewhere.
log_ratio <- function(new, old, x) {
  if (is_categorical(old)) return(density_at(new, x, log = TRUE) - density_at(old, x, log = TRUE))
  new <- ready_law(new)
  old <- ready_law(old)
  was <- own_share(old, x)
  ratio <- log(own_share(new, x)) - log(was)
  dense <- which(was == 0)
  ratio[dense] <- ask(new, "density", x[dense], TRUE) - ask(old, "density", x[dense], TRUE)
  ratio
}

# The ratio of joint densities, new over old: of the margins, and of the Gaussian copula at the new and the old scores.
run_weights <- function(result, laws) {
  study <- result$study
  log_weight <- numeric(run_count(result))
  for (name in names(laws)) {
    log_weight <- log_weight + log_ratio(laws[[name]], study$inputs[[name]]$law, run_column(result, name))
  }
  for (set in correlated_sets(study)) {
    if (!any(set %in% names(laws))) next
    matrix <- score_correlation(correlation_matrix(study, set))
    old <- scores_under(result, set, lapply(study$inputs[set], function(input) input$law))
    new <- scores_under(result, set, utils::modifyList(lapply(study$inputs[set], function(input) input$law),
      laws[intersect(set, names(laws))]))
    log_weight <- log_weight + copula_density(new, matrix) - copula_density(old, matrix)
  }
  log_weight[is.nan(log_weight)] <- -Inf
  exp(log_weight - max(log_weight))
}

scores_under <- function(result, set, laws) {
  scores <- vapply(set, function(name) {
    x <- run_column(result, name)
    low <- cumulative(laws[[name]], x)
    ifelse(low < 0.5, stats::qnorm(low), -stats::qnorm(cumulative(laws[[name]], x, tail = "upper")))
  }, numeric(run_count(result)))
  matrix(scores, ncol = length(set))
}

# The Gaussian copula's log density, up to a constant.
copula_density <- function(scores, matrix) {
  diag(matrix) <- 1
  less <- solve(matrix) - diag(nrow(matrix))
  -0.5 * rowSums((scores %*% less) * scores)
}

reweighted_output <- function(result, name, weight) {
  values <- values_of(result, name)
  good <- is.finite(values)
  values <- values[good]
  w <- weight[good] / sum(weight[good])
  readings <- result$study$readings
  at <- not_exceeded(shown_percentiles(readings), readings$sense)
  was <- c(mean(values), stats::sd(values), percentile_values(values, at, 1))
  centre <- sum(w * values)
  spread <- sqrt(sum(w * (values - centre)^2) / (1 - sum(w^2)))
  found <- weighted_percentiles(values, w, at)
  fourth <- sum(w * (values - centre)^4) / spread^4
  error <- c(sqrt(sum(w^2 * (values - centre)^2)), spread * sqrt(max(fourth - 1, 0) * sum(w^2)) / 2, found$error)
  becomes <- c(centre, spread, found$value)
  data.frame(about = name, statistic = c("mean", "sd", percentile_names(shown_percentiles(readings))), sense = readings$sense,
    was = was, becomes = becomes, change = becomes - was, error = error,
    unit = quantity_unit(result$study, name) %||% "")
}

# Values at which the weights of those not above reach each percentile; the error from where it would be one standard
# error of its probability to either side.
weighted_percentiles <- function(values, w, percentiles) {
  order <- order(values)
  sorted <- values[order]
  reached <- cumsum(w[order])
  value_at <- function(p) sorted[pmin(findInterval(p, reached, left.open = TRUE) + 1, length(sorted))]
  p <- percentiles / 100
  step <- sqrt(p * (1 - p) * sum(w^2))
  list(value = value_at(p), error = (value_at(pmin(p + step, 1)) - value_at(pmax(p - step, 0))) / 2)
}

reweighted_specs <- function(result, weight) {
  if (length(result$study$specs) == 0) return(NULL)
  held <- with_all_specs(evaluate_conditions(result, result$study$specs))
  w <- weight / sum(weight)
  met <- vapply(held, function(x) as.double(x %in% TRUE), numeric(length(w)))
  met <- matrix(met, ncol = length(held))
  becomes <- colSums(w * met)
  error <- sqrt(colSums(w^2 * (met - rep(becomes, each = nrow(met)))^2))
  data.frame(about = names(held), statistic = "pass rate", sense = "", was = colMeans(met), becomes = becomes,
    change = becomes - colMeans(met), error = error, unit = "")
}
