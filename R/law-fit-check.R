# What data and families can be fitted, and why others cannot.

refuse_unfit <- function(reasons, call = rlang::caller_env()) {
  reasons <- reasons[nzchar(reasons)]
  if (length(reasons) == 0) return(invisible())
  stop_ensayo("argument", sprintf("A %s law cannot be fitted to these data.", names(reasons)[1]), reasons[[1]],
    argument = "families", call = call)
}

check_below <- function(below, method, bootstrap, call = rlang::caller_env()) {
  if (is.null(below)) return(numeric())
  below <- check_numeric(below, "below", call)
  if (any(!is.finite(below))) stop_argument("below", "finite numbers", below[!is.finite(below)][1], call = call)
  if (method != "likelihood" || bootstrap > 0) {
    stop_ensayo("argument", "Observations below a limit need the method \"likelihood\", without a bootstrap.",
      if (bootstrap > 0) "A bootstrap was asked for." else sprintf("The method is \"%s\".", method),
      argument = "below", call = call)
  }
  below
}

check_fit_data <- function(data, call = rlang::caller_env()) {
  data <- check_numeric(data, "data", call)
  if (any(!is.finite(data))) {
    stop_argument("data", "finite numbers", data[!is.finite(data)][1], "Leave missing observations out first.", call)
  }
  if (length(unique(data)) < 3) stop_argument("data", "at least three different numbers", length(unique(data)),
    call = call)
  data
}

check_families <- function(families, call = rlang::caller_env()) {
  known <- unlist(fit_families, use.names = FALSE)
  for (family in families) check_choice(family, known, "families", call)
  unique(families)
}

is_whole_data <- function(data) all(data == floor(data)) && all(data >= 0)

default_families <- function(data, held) {
  c(fit_families$continuous,
    if (is_whole_data(data)) setdiff(fit_families$discrete, c("bernoulli", if (is.null(held$size)) "binomial")))
}

# Why a family cannot have the data, or NULL.
unfit_reason <- function(family, data, held, below = numeric()) {
  lowest <- min(data)
  if (length(below)) {
    if (family %in% fitted_ends || family == "pareto" && is.null(held$location)) {
      return("Its end is fitted, which observations below a limit do not tell.")
    }
    if (family %in% starting_at_min && min(below) <= (held$min %||% 0)) {
      return(sprintf("A limit is not above %s.", format(held$min %||% 0)))
    }
  }
  if (family %in% fit_families$discrete && !is_whole_data(data)) return("Some are not whole numbers from 0 on.")
  if (family == "binomial") {
    if (is.null(held$size)) return("The number of tries must be held: `held = list(size = ...)`.")
    if (max(data) > held$size) return("One is larger than `size`.")
  }
  if (family == "bernoulli" && !all(data %in% 0:1)) return("Some are neither 0 nor 1.")
  if (family == "negative_binomial" &&
    stats::var(data) <= mean(data)) return("They spread less than counts of a Poisson law.")
  if (family %in% starting_at_min[1:3] && lowest <= (held$min %||% 0)) {
    return(sprintf("Some are not above %s.", format(held$min %||% 0)))
  }
  if (family == "exponential" && lowest < (held$min %||% 0)) return("Some are below the smallest possible value.")
  if (family == "beta" && (lowest <= (held$min %||% 0) || max(data) >= (held$max %||% 1))) {
    return(sprintf("Some are not between %s and %s.", format(held$min %||% 0), format(held$max %||% 1)))
  }
  if (family == "pareto" && lowest < (held$location %||% -Inf)) return("Some are below the threshold.")
}

# A law that piles up on one value: higher there than any law that is smooth up to the next value could be.
unbounded_reason <- function(law, data) {
  if (!family_name(law) %in% c("pareto", "student")) return(NULL)
  values <- sort(unique(data))
  step <- diff(values)
  piled <- which(density_at(law, values) * pmin(c(Inf, step), c(step, Inf)) > 100)
  if (length(piled) == 0) return(NULL)
  sprintf("Its likelihood grows without bound on the value %s, which occurs %s.", format(values[piled[1]]),
    count_of(sum(data == values[piled[1]]), "time"))
}

left_out_words <- function(reasons) {
  reasons <- reasons[nzchar(reasons)]
  if (length(reasons)) sprintf("%s is left out. %s", names(reasons), reasons)
}

# What a reader should know of the data before trusting any fit.
data_warnings <- function(data, below = numeric()) {
  n <- length(data) + length(below)
  least <- sum(data == min(data))
  ties <- mean(duplicated(data))
  quartiles <- stats::quantile(data, c(0.25, 0.75), names = FALSE)
  far <- sum(data < quartiles[1] - 3 * diff(quartiles) | data > quartiles[2] + 3 * diff(quartiles))
  humps <- if (n >= 30) count_humps(data) else 1
  c(
    if (n < 30) sprintf("%s tell little: several laws will fit, and tails are guesses.", count_of(n, "observation")),
    if (ties > 0.05 && !is_whole_data(data)) sprintf("%.0f %% of the observations are repeated: were they rounded?",
      100 * ties),
    if (least > 2 && least >= 0.1 * n && !is_whole_data(data)) sprintf(
      "%d observations share the smallest value: if it is a limit that they lie below, give them as `below`.", least),
    if (length(below)) sprintf("%d of %s lie below a limit; distances (AD, KS) are not told.", length(below),
      count_of(n, "observation")),
    if (far > 0) sprintf("%s far from the rest (beyond three times the quartile range).",
      if (far == 1) "1 observation lies" else paste(far, "observations lie")),
    if (humps > 1) sprintf("The data have %d humps: they may be a mixture of several kinds.", humps)
  )
}

# Peaks of a smoothed density that stand out: a tenth as high as the highest, and a fifth above the valley between.
count_humps <- function(data) {
  curve <- stats::density(data, n = 512)$y
  turn <- diff(sign(diff(curve)))
  peaks <- which(turn < 0) + 1
  peaks <- peaks[curve[peaks] > 0.1 * max(curve)]
  kept <- peaks[1]
  for (peak in peaks[-1]) {
    last <- kept[length(kept)]
    valley <- min(curve[last:peak])
    if (valley < 0.8 * min(curve[last], curve[peak])) kept <- c(kept, peak)
    else if (curve[peak] > curve[last]) kept[length(kept)] <- peak
  }
  length(kept)
}
