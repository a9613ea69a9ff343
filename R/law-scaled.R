# A law multiplied by a number, and a number added: what `2 * law + 1` makes.

scale_law <- function(law, times = 1, plus = 0) {
  if (times == 0) {
    stop_ensayo("argument", "A law cannot be multiplied by 0.", NULL, constant_hint, argument = "times")
  }
  # 2 * (3 * law + 1) is kept as one step, 6 * law + 2
  if (.subset2(law, "family") == "scaled") {
    inner <- parameters_of(law)
    return(scale_law(inner$of, times * inner$times, times * inner$plus + plus))
  }
  if (times == 1 && plus == 0) return(law)
  new_law("scaled", list(
    times = check_number(times, "the factor of a law"), plus = check_number(plus, "the number added to a law"), of = law
  ))
}

# Asks the inner law; a negative factor turns its tails round.
inner_law <- function(par, question, ...) family_of(par$of)[[question]](parameters_of(par$of), ...)

family_scaled <- list(
  title = "Scaled",
  about = "Another law times a number, plus a number.",
  parameters = c("times", "plus", "of"),
  mode_parameter = function(par) {
    mode <- mode_parameter(par$of)
    if (!is.null(mode)) par$times * mode + par$plus
  },
  quantile = function(par, p, lower) {
    par$times * inner_law(par, "quantile", p, lower == (par$times > 0)) + par$plus
  },
  cumulative = function(par, x, lower, log) {
    inner_law(par, "cumulative", (x - par$plus) / par$times, lower == (par$times > 0), log)
  },
  density = function(par, x, log) {
    d <- inner_law(par, "density", (x - par$plus) / par$times, log)
    if (log) d - log(abs(par$times)) else d / abs(par$times)
  },
  moments = function(par) {
    m <- inner_law(par, "moments")
    c(
      mean = par$times * m[["mean"]] + par$plus, variance = par$times^2 * m[["variance"]],
      skewness = sign(par$times) * m[["skewness"]], excess_kurtosis = m[["excess_kurtosis"]]
    )
  },
  mode = function(par) par$times * inner_law(par, "mode") + par$plus,
  support = function(par) sort(par$times * inner_law(par, "support") + par$plus)
)
