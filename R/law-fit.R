# Fitting laws to data.

#' Fit laws to data
#'
#' Fits every law that the data allow, or those asked for, and ranks them. The table is a help to judgement: look at
#' [plot_fit()], and prefer a law that the quantity's nature speaks for to one that is first by a hair.
#'
#' @param data Numbers: the observations, in the input's unit; at least 3 different ones.
#' @param families Names of laws, or `NULL` for all that the data allow: continuous ones, and discrete ones where all
#'   data are whole numbers from 0 on.
#' @param method `"likelihood"`: maximum likelihood; `"moments"`: same mean and standard deviation; `"percentiles"`:
#'   same median, quartiles or deciles, as many as there are parameters.
#' @param held Named list of parameters that are not fitted, for the laws that have them: `list(min = 10)`. Shifts and
#'   the ends of a beta law are held at their defaults otherwise; the threshold of a generalised Pareto law at the
#'   smallest observation; the size of a binomial law must be held.
#' @param below Numbers or `NULL`: for each observation that is known only to lie below a limit, such as one below the
#'   limit of detection, its limit. They come besides `data`, and count in the likelihood by their probability.
#' @param bootstrap Whole number: how many data sets to simulate from each fitted law, and fit again, for p-values; 0
#'   for none. 199 give a p-value to about 0.03.
#' @param seed Whole number or `NULL`: for the bootstrap, as in [simulate()][simulate.ensayo_study].
#' @return A fit. It prints the table; `as.data.frame()` gives it: a row for each law with `law`, `kind`, `parameters`
#'   (text), `log_likelihood`, `aic`, `bic`, `anderson_darling`, `kolmogorov_smirnov` (statistics, smaller is nearer; `NA` with
#'   `below`), `p_ad`, `p_ks` (`NA` without bootstrap), `remark`; the lowest AIC of its kind first. AIC of continuous and
#'   discrete laws do not compare. [fitted_law()] gives a law, [fit_parameters()] the parameters with their standard
#'   errors.
#' @details A likelihood may grow without bound: a Student or generalised Pareto law can pile up ever higher on a value
#'   that occurs several times. Such a law is left out, and the print says so. Laws whose ends are fitted are left out
#'   where there are observations below a limit.
#' @section Errors: `ensayo_error_argument` where the data are not such numbers, a family is not one that can be
#'   fitted, none can be, or `below` comes with another method than likelihood or with a bootstrap.
#' @section Source: standard errors from the observed information, through the delta method; none for laws whose ends
#'   are fitted, where that theory does not hold. Anderson and Darling (1954), JASA 49; for discrete laws Choulakian,
#'   Lockhart and Stephens (1994), Canadian Journal of Statistics 22. p-values by parametric bootstrap, (1 +
#'   exceedances) / (1 + data sets) (Davison and Hinkley 1997, Bootstrap Methods, section 4.2).
#' @examples
#' costs <- c(410, 520, 610, 480, 930, 720, 560, 450, 1240, 690, 540, 830, 600, 470, 760)
#' fit <- fit_law(costs, c("normal", "lognormal", "gamma"))
#' fit
#' fitted_law(fit)
#' # three samples held less than could be detected
#' fit_law(c(0.31, 0.12, 0.74, 0.22, 0.18, 1.35, 0.40), "lognormal", below = c(0.1, 0.1, 0.2))
#' @export
fit_law <- function(data, families = NULL, method = "likelihood", held = list(), below = NULL, bootstrap = 0,
                    seed = NULL) {
  data <- check_fit_data(data)
  method <- check_choice(method, names(fit_methods))
  bootstrap <- check_count(bootstrap, at_least = 0, at_most = 1e5)
  below <- check_below(below, method, bootstrap)
  seed <- if (bootstrap > 0) check_seed(seed)
  if (!is.list(held)) stop_argument("held", "a named list of parameters", held)
  asked <- if (is.null(families)) default_families(data, held) else check_families(families)
  reasons <- vapply(asked, function(family) unfit_reason(family, data, held, below) %||% "", "")
  if (!is.null(families)) refuse_unfit(reasons)
  fits <- lapply(stats::setNames(nm = asked[!nzchar(reasons)]), fit_family, data = data, method = method, held = held,
    below = below)
  fits <- Filter(Negate(is.null), fits)
  unbounded <- vapply(fits, function(fit) unbounded_reason(fit$law, data) %||% "", "")
  fits <- fits[!nzchar(unbounded)]
  if (length(fits) == 0) {
    refuse_unfit(unbounded)
    stop_ensayo("argument", "No law could be fitted to these data.", NULL, "Look at them: `hist(data)`.",
      argument = "data")
  }
  p_values <- lapply(stats::setNames(nm = names(fits)), function(family) {
    if (bootstrap > 0) bootstrap_p(fits[[family]], family, length(data), method, held, bootstrap, seed)
  })
  structure(list(data = data, below = below, method = method, fits = fits, table = fit_table(fits, p_values, data,
    below), warnings = c(data_warnings(data, below), left_out_words(unbounded))), class = "ensayo_fit")
}

# Families that can be fitted, and how their parameters are found where there is a closed form.
fit_families <- list(
  continuous = c("normal", "lognormal", "uniform", "triangular", "pert", "trapezoidal", "beta", "gamma", "exponential",
    "weibull", "gumbel", "pareto", "logistic", "laplace", "student"),
  discrete = c("poisson", "negative_binomial", "geometric", "binomial", "bernoulli", "integers")
)

# Laws whose ends are fitted: no standard errors, and one law is not fitted by moments.
fitted_ends <- c("uniform", "triangular", "pert", "trapezoidal", "integers")

# Laws on one side of a parameter `min`, the last of which may have it as a value.
starting_at_min <- c("lognormal", "gamma", "weibull", "beta", "exponential")

fit_methods <- list(
  likelihood = function(family, data, held, below) likelihood_fit(family, data, held, below),
  moments = function(family, data, held, below) facts_fit(family, data, held, c("mean", "sd")),
  percentiles = function(family, data, held, below) facts_fit(family, data, held, "percentiles")
)

fit_family <- function(family, data, method, held, below = numeric()) {
  found <- tryCatch(fit_methods[[method]](family, data, held_for(family, held, data), below),
    ensayo_error = function(e) NULL)
  if (is.null(found)) return(NULL)
  statistics <- if (length(below)) c(anderson_darling = NA_real_, kolmogorov_smirnov = NA_real_)
    else distances_of(found$law, data)
  c(found, list(log_likelihood = log_likelihood(found$law, data, below), statistics = statistics))
}

# Of values by their densities, of those below a limit by the probability to lie there.
log_likelihood <- function(law, data, below) {
  sum(ask(law, "density", data, TRUE)) + if (length(below)) sum(ask(law, "strict", below, TRUE, TRUE)) else 0
}

held_for <- function(family, held, data) {
  held <- held[intersect(names(held), names(family_record(family)$parameters))]
  if (family == "pareto" && is.null(held$location)) held$location <- min(data)
  held
}

likelihood_fit <- function(family, data, held, below) {
  closed <- if (length(below) == 0) closed_fit(family, data, held)
  estimate <- closed %||% searched_fit(family, data, held, below)
  if (is.null(estimate)) return(NULL)
  law <- do.call(paste0("law_", family), c(estimate, held))
  list(law = law, estimate = estimate, errors = standard_errors(family, data, held, estimate, below))
}

# Maximum likelihood where it has a closed form; `held` shifts are taken off first.
closed_fit <- function(family, data, held) {
  n <- length(data)
  root_mean_square <- function(x) sqrt(mean((x - mean(x))^2))
  over <- data - (held$min %||% 0)
  switch(family,
    normal = list(mean = mean(data), sd = root_mean_square(data)),
    lognormal = list(meanlog = mean(log(over)), sdlog = root_mean_square(log(over))),
    uniform = , integers = list(min = min(data), max = max(data)),
    exponential = list(mean = mean(data)),
    laplace = list(location = stats::median(data), scale = mean(abs(data - stats::median(data)))),
    poisson = list(mean = mean(data)),
    geometric = list(probability = 1 / (1 + mean(data))),
    bernoulli = list(probability = mean(data)),
    binomial = list(probability = mean(data) / held$size)
  )
}

# From the curvature of the log likelihood at the estimate; NULL where ends are fitted or the curvature is not that of a
# maximum.
standard_errors <- function(family, data, held, estimate, below = numeric()) {
  if (family %in% fitted_ends) return(NULL)
  if (family == "laplace" && length(below) == 0) return(unlist(estimate)["scale"] / sqrt(length(data)) * c(location = 1, scale = 1))
  x <- unlist(estimate)
  # curvature in units of a rough error, so that all directions are alike
  free <- family_record(family)$parameters[names(x)] == "number"
  unit <- pmax(abs(x), ifelse(free, typical_step(names(x), stats::sd(data)), 0)) / sqrt(length(data))
  rest <- rest_of(family, c(estimate, held))
  value <- function(theta) {
    par <- c(as.list(x + unit * theta), held)
    if (!plainly_valid(family_record(family), par)) return(NaN)
    -suppressWarnings(log_likelihood(ready_law(new_law(family, c(par, rest))), data, below))
  }
  unit <- unit * telling_steps(0 * x, value)
  curvature <- tryCatch(stats::optimHess(rep(0, length(x)), value, control = list(ndeps = rep(0.02, length(x)))),
    error = function(e) NULL)
  inverse <- if (!is.null(curvature) && all(is.finite(curvature))) tryCatch(solve(curvature), error = function(e) NULL)
  if (is.null(inverse) || any(diag(inverse) <= 0)) return(NULL)
  stats::setNames(sqrt(diag(inverse)) * unit, names(x))
}

# By the same mean and standard deviation, or the same percentiles, as the data.
facts_fit <- function(family, data, held, facts) {
  record <- family_record(family)
  if (is.null(record$start) || record$kind != "continuous") return(likelihood_fit(family, data, held, numeric()))
  needed <- sought_parameters(family, names(held))
  asked <- if (identical(facts, "percentiles")) {
    at <- list(50, c(25, 75), c(10, 50, 90), c(5, 35, 65, 95))[[length(needed)]]
    stats::setNames(as.list(unname(stats::quantile(data, at / 100))), paste0("P", at))
  } else list(mean = mean(data), sd = stats::sd(data))[seq_len(min(length(needed), 2))]
  if (length(asked) < length(needed)) return(NULL)
  law <- solve_facts(family, record, held, asked, needed)
  list(law = law, estimate = parameters_of(law)[needed], errors = NULL)
}

# The share of all observations below each sorted value, itself by half. Those below a limit are spread over the values
# that they may have (Kaplan and Meier 1958, JASA 53, from the upper end).
empirical_shares <- function(values, below) {
  at_risk <- seq_along(values) + vapply(values, function(value) sum(below <= value), 0)
  reached <- rev(cumprod(rev(1 - 1 / at_risk)))
  (reached + c(reached[-1], 1)) / 2
}

# How far the law is from the data: Anderson-Darling and Kolmogorov-Smirnov.
distances_of <- function(law, data) {
  n <- length(data)
  if (is_discrete(law)) return(discrete_distances(law, data))
  x <- sort(data)
  below <- cumulative(law, x, log = TRUE)
  above <- cumulative(law, x, tail = "upper", log = TRUE)
  i <- seq_len(n)
  f <- exp(below)
  c(anderson_darling = -n - mean((2 * i - 1) * (below + rev(above))),
    kolmogorov_smirnov = max(i / n - f, f - (i - 1) / n))
}

discrete_distances <- function(law, data) {
  ends <- range(data, quantile(law, 1e-9), quantile(law, 1e-9, tail = "upper"))
  x <- seq(ends[1], ends[2])
  f <- cumulative(law, x)
  gap <- findInterval(x, sort(data)) / length(data) - f
  weight <- f * cumulative(law, x, tail = "upper")
  inside <- weight > 1e-12
  c(anderson_darling = length(data) * sum(gap[inside]^2 * density_at(law, x[inside]) / weight[inside]),
    kolmogorov_smirnov = max(abs(gap)))
}

# Chances of distances as large under the fitted law itself, each data set fitted anew.
bootstrap_p <- function(fit, family, n, method, held, times, seed) {
  larger <- c(anderson_darling = 0, kolmogorov_smirnov = 0)
  good <- 0
  for (i in seq_len(times)) {
    u <- stream_uniforms(paste("fit of", family), seed, "random", n, index = i)
    again <- fit_family(family, quantile(fit$law, u), method, held)
    if (is.null(again) || any(!is.finite(again$statistics))) next
    good <- good + 1
    larger <- larger + (again$statistics >= fit$statistics)
  }
  (1 + larger) / (1 + good)
}

fit_table <- function(fits, p_values, data, below) {
  kind <- ifelse(names(fits) %in% fit_families$discrete, "discrete", "continuous")
  # a threshold that the data gave is fitted, too
  threshold <- names(fits) == "pareto" & vapply(fits, function(fit) parameters_of(fit$law)[["location"]] %||% NaN,
    0) %in% min(data)
  count <- vapply(fits, function(fit) length(fit$estimate), 0) + threshold
  log_likelihood <- vapply(fits, function(fit) fit$log_likelihood, 0)
  statistic <- function(name) vapply(fits, function(fit) fit$statistics[[name]], 0)
  p <- function(name) vapply(p_values, function(p) if (is.null(p)) NA_real_ else p[[name]], 0)
  table <- data.frame(
    law = names(fits), kind = kind, parameters = vapply(fits, function(fit) estimate_text(fit), ""),
    log_likelihood = log_likelihood, aic = 2 * count - 2 * log_likelihood,
    bic = log(length(data) + length(below)) * count - 2 * log_likelihood, anderson_darling = statistic("anderson_darling"),
    kolmogorov_smirnov = statistic("kolmogorov_smirnov"), p_ad = p("anderson_darling"), p_ks = p("kolmogorov_smirnov"),
    remark = ifelse(names(fits) %in% fitted_ends, "ends fitted", ifelse(threshold, "threshold at the smallest", ""))
  )
  # counts are fitted as counts first
  first <- if (is_whole_data(data)) "discrete" else "continuous"
  table <- table[order(table$kind != first, table$aic), , drop = FALSE]
  new_table(as.list(table))
}

estimate_text <- function(fit) {
  paste(names(fit$estimate), "=", vapply(fit$estimate, function(x) format(x, digits = 5), ""), collapse = ", ")
}

#' What a fit holds
#'
#' @param fit,x A fit, made by [fit_law()].
#' @param family Text or `NULL`: which law; the first of the table when `NULL`.
#' @param ... Not used; anything here is an error.
#' @return `fitted_law()`: a law. `fit_parameters()`: a data frame with a row for each law and parameter: `law`,
#'   `parameter`, `estimate`, `standard_error` (`NA` where theory gives none). `as.data.frame()`: the table of
#'   [fit_law()].
#' @section Errors: `ensayo_error_argument` for a law that was not fitted.
#' @examples
#' fit <- fit_law(c(4.1, 5.2, 6.1, 4.8, 9.3, 7.2, 5.6, 4.5), c("lognormal", "gamma"))
#' fit_parameters(fit)
#' input(fitted_law(fit, "gamma"), unit = "h")
#' @export
fitted_law <- function(fit, family = NULL) {
  check_class(fit, "ensayo_fit", "a fit", mend = "Fits are made by `fit_law()`.")
  if (is.null(family)) family <- fit$table$law[1]
  fit$fits[[check_choice(family, names(fit$fits))]]$law
}

#' @rdname fitted_law
#' @export
fit_parameters <- function(fit) {
  check_class(fit, "ensayo_fit", "a fit", mend = "Fits are made by `fit_law()`.")
  rows <- lapply(fit$table$law, function(family) {
    found <- fit$fits[[family]]
    data.frame(law = family, parameter = names(found$estimate), estimate = unlist(found$estimate, use.names = FALSE),
      standard_error = if (is.null(found$errors)) NA_real_ else unname(found$errors[names(found$estimate)]))
  })
  new_table(as.list(do.call(rbind, rows)))
}

#' @rdname fitted_law
#' @export
as.data.frame.ensayo_fit <- function(x, ...) {
  check_no_dots(..., .options = character())
  x$table
}
