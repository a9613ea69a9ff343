# Laws ready to be asked: the family's record with its canonical parameters, every law that it is made of ready, too. A
# composition is unfolded once, and whatever is discrete in the end has become a list of values.

is_ready <- function(x) inherits(x, "ensayo_ready_law")

new_ready_law <- function(record, par, discrete = FALSE) {
  ready <- list(record = record, par = par, discrete = discrete)
  class(ready) <- "ensayo_ready_law"
  ready
}

# Values in increasing order with their probabilities.
pointed_law <- function(values, shares) {
  new_ready_law(family_discrete, list(values = as.double(values), shares = as_shares(shares)), discrete = TRUE)
}

is_pointed <- function(ready) !is.null(ready$par$shares) && ready$discrete

ready_law <- function(law) {
  if (is_ready(law)) return(law)
  record <- family_of(law)
  # what is so dear that it is kept for the session
  if (isTRUE(record$kept)) return(remembered(c("ready", key_of_law(law)), function() made_ready(law, record)))
  made_ready(law, record)
}

# A law's family and parameters in a short text; as it was said does not matter.
key_of_law <- function(law) rlang::hash(list(family_name(law), parameters_of(law)))

made_ready <- function(law, record) {
  par <- parameters_of(law)
  for (name in record$inner$law) par[[name]] <- ready_law(par[[name]])
  for (name in record$inner$laws) par[[name]] <- lapply(par[[name]], ready_law)
  if (!is.null(record$canonical)) par <- record$canonical(par)
  if (is_ready(par)) par else new_ready_law(record, par, is_discrete(law))
}

# One question put to a law: `ask(law, "quantile", p, lower)`.
ask <- function(law, question, ...) {
  law <- ready_law(law)
  answer <- law$record[[question]]
  if (!is.null(answer)) return(answer(law$par, ...))
  switch(question,
    moments = integrated_moments(law),
    mode = searched_mode(law),
    strict = strict_of_whole(law, ...),
    between = difference_between(law, ...),
    atoms = if (law$discrete) points_of(law) else list(values = numeric(), shares = numeric()),
    kinks = numeric(),
    rough = ask(law, "quantile", c(0.25, 0.75), TRUE),
    peaks = if (is.null(law$record$mode)) numeric() else Filter(Negate(is.na), law$record$mode(law$par)),
    tail_index = c(Inf, Inf)
  )
}

# Laws of whole numbers have nothing between them; where there is a density, a single value has no probability.
strict_of_whole <- function(law, x, lower, log) {
  ask(law, "cumulative", if (law$discrete) ceiling(x) - 1 else x, lower, log)
}

# The values of a discrete law with their probabilities, as far out as doubles hold them, or between two limits.
points_of <- function(law, min = -Inf, max = Inf, most = 1e7) {
  law <- ready_law(law)
  if (is_pointed(law)) {
    inside <- law$par$values >= min & law$par$values <= max
    return(list(values = law$par$values[inside], shares = law$par$shares[inside]))
  }
  if (!is.null(law$par$times)) {
    inner <- points_of(law$par$of)
    values <- law$par$times * inner$values + law$par$plus
    kept <- order(values)[sort(values) >= min & sort(values) <= max]
    return(list(values = values[kept], shares = inner$shares[kept]))
  }
  from <- max(ask(law, "quantile", 1e-300, TRUE), ceiling(min))
  to <- min(ask(law, "quantile", 1e-300, FALSE), floor(max))
  if (to - from > most) {
    stop_argument("of", sprintf("a law of at most %s values", format(most, big.mark = " ", scientific = FALSE)),
      to - from + 1, "Give the limits to the law itself.")
  }
  values <- if (from <= to) as.double(seq(from, to)) else numeric()
  list(values = values, shares = ask(law, "density", values, FALSE))
}

# Where a law's cumulative probability is not smooth: finite ends, kinks and values with a probability of their own.
knots_of <- function(law) {
  ends <- ask(law, "support")
  knots <- sort(unique(c(ends, ask(law, "kinks"), ask(law, "atoms")$values)))
  knots[is.finite(knots) & knots >= ends[1] & knots <= ends[2]]
}

# A record says so of its family, or of the laws that one is made of.
is_dear <- function(law) {
  dear <- family_of(law)$dear
  if (is.function(dear)) dear(parameters_of(law)) else isTRUE(dear)
}
