# A law multiplied by a number, and a number added: what `2 * law + 1` makes.

scale_law <- function(law, times = 1, plus = 0) {
  if (is_categorical(law)) {
    stop_ensayo("argument", "A law of categories cannot be calculated with.", NULL,
      "Compare it in `add_outputs()`, as in `if (soil == \"rock\") 40 else 25`.", operation = "*")
  }
  if (times == 0) {
    stop_ensayo("argument", "A law cannot be multiplied by 0.", NULL, constant_hint, argument = "times")
  }
  # 2 * (3 * law + 1) is kept as one step, 6 * law + 2
  if (family_name(law) == "scaled") {
    inner <- parameters_of(law)
    return(scale_law(inner$of, times * inner$times, times * inner$plus + plus))
  }
  if (times == 1 && plus == 0) return(law)
  check_plain_law(law, "law", rlang::caller_env())
  new_law("scaled", list(
    times = check_number(times, "the factor of a law"), plus = check_number(plus, "the number added to a law"), of = law
  ))
}

family_scaled <- list(
  title = "Scaled",
  about = "Another law times a number, plus a number.",
  kind = "derived",
  discrete = function(par) is_discrete(par$of),
  parameters = c(times = "number", plus = "number", of = "law"),
  mode_parameter = function(par) {
    mode <- mode_parameter(par$of)
    if (!is.null(mode)) par$times * mode + par$plus
  },
  # a negative factor turns the tails round; a discrete law's steps then close on their other side
  dear = function(par) is_dear(par$of),
  quantile = function(par, p, lower) {
    if (par$times < 0 && is_discrete(par$of)) p <- pmin(p * (1 + (if (lower) -1 else 1) * .Machine$double.eps), 1)
    par$times * ask(par$of, "quantile", p, lower == (par$times > 0)) + par$plus
  },
  cumulative = function(par, x, lower, log) {
    inner <- unscaled(par, x)
    if (par$times > 0 || !is_discrete(par$of)) return(ask(par$of, "cumulative", inner, lower == (par$times > 0), log))
    # turned round, at most x is at least its image, which counts the mass that lies on it
    tail <- ask(par$of, "cumulative", inner, !lower, FALSE) +
      (if (lower) 1 else -1) * ask(par$of, "density", inner, FALSE)
    if (log) log(tail) else tail
  },
  density = function(par, x, log) {
    d <- ask(par$of, "density", unscaled(par, x), log)
    if (is_discrete(par$of)) d else if (log) d - log(abs(par$times)) else d / abs(par$times)
  },
  moments = function(par) {
    m <- ask(par$of, "moments")
    c(
      mean = par$times * m[["mean"]] + par$plus, variance = par$times^2 * m[["variance"]],
      skewness = sign(par$times) * m[["skewness"]], excess_kurtosis = m[["excess_kurtosis"]]
    )
  },
  mode = function(par) par$times * ask(par$of, "mode") + par$plus,
  support = function(par) sort(par$times * ask(par$of, "support") + par$plus)
)

# Back to the inner law; a discrete law's values are met again in spite of rounding.
unscaled <- function(par, x) {
  inner <- (x - par$plus) / par$times
  if (!is_discrete(par$of)) return(inner)
  near <- ask(par$of, "quantile", ask(par$of, "cumulative", inner + 1e-9 * pmax(abs(inner), 1e-9), TRUE, FALSE), TRUE)
  back <- which(abs(par$times * near + par$plus - x) <= 1e-14 * pmax(abs(x), abs(par$plus)))
  inner[back] <- near[back]
  inner
}
