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
  canonical = function(par) ready_scaled(par$of, par$times, par$plus),
  dear = function(par) is_dear(par$of),
  # a negative factor turns the tails round, and what is at most x into what is at least its image
  quantile = function(par, p, lower) {
    if (par$times < 0 && par$of$discrete) return(par$times * turned_quantile(par$of, p, lower) + par$plus)
    par$times * ask(par$of, "quantile", p, lower == (par$times > 0)) + par$plus
  },
  cumulative = function(par, x, lower, log) {
    ask(par$of, if (par$times > 0) "cumulative" else "strict", unscaled(par, x), lower == (par$times > 0), log)
  },
  strict = function(par, x, lower, log) {
    ask(par$of, if (par$times > 0) "strict" else "cumulative", unscaled(par, x), lower == (par$times > 0), log)
  },
  between = function(par, from, to, closed_from, closed_to) {
    from <- unscaled(par, from)
    to <- unscaled(par, to)
    if (par$times > 0) ask(par$of, "between", from, to, closed_from, closed_to)
    else ask(par$of, "between", to, from, closed_to, closed_from)
  },
  density = function(par, x, log) {
    d <- ask(par$of, "density", unscaled(par, x), log)
    if (par$of$discrete) d else if (log) d - base::log(abs(par$times)) else d / abs(par$times)
  },
  rough = function(par) sort(par$times * ask(par$of, "rough") + par$plus),
  kinks = function(par) par$times * ask(par$of, "kinks") + par$plus,
  atoms = function(par) {
    if (par$of$discrete) return(points_of(new_ready_law(family_scaled, par, TRUE)))
    atoms <- ask(par$of, "atoms")
    order <- order(par$times * atoms$values)
    list(values = (par$times * atoms$values + par$plus)[order], shares = atoms$shares[order])
  },
  tail_index = function(par) ask(par$of, "tail_index")[if (par$times > 0) 1:2 else 2:1],
  moments = function(par) {
    m <- ask(par$of, "moments")
    c(
      mean = par$times * m[["mean"]] + par$plus, variance = par$times^2 * m[["variance"]],
      skewness = sign(par$times) * m[["skewness"]], excess_kurtosis = m[["excess_kurtosis"]]
    )
  },
  mode = function(par) par$times * ask(par$of, "mode") + par$plus,
  peaks = function(par) par$times * ask(par$of, "peaks") + par$plus,
  support = function(par) sort(par$times * ask(par$of, "support") + par$plus)
)

# A ready law times a number, plus a number.
ready_scaled <- function(of, times, plus) {
  if (is_pointed(of)) {
    values <- times * of$par$values + plus
    order <- order(values)
    return(pointed_law(values[order], of$par$shares[order]))
  }
  if (identical(of$record$title, family_scaled$title)) {
    return(ready_scaled(of$par$of, times * of$par$times, times * of$par$plus + plus))
  }
  record <- family_scaled
  record$table_error <- of$record$table_error
  new_ready_law(record, list(times = times, plus = plus, of = of), of$discrete)
}

# Back to the inner law; values that have a probability of their own are met again in spite of rounding.
unscaled <- function(par, x) {
  inner <- (x - par$plus) / par$times
  if (par$of$discrete) {
    whole <- round(inner)
    back <- which(abs(par$times * whole + par$plus - x) <= 1e-14 * pmax(abs(x), abs(par$plus)))
    inner[back] <- whole[back]
    return(inner)
  }
  own <- sort(unique(c(ask(par$of, "support"), ask(par$of, "kinks"), ask(par$of, "atoms")$values)))
  own <- own[is.finite(own)]
  place <- match(x, par$times * own + par$plus)
  ifelse(is.na(place), inner, own[place])
}

# Of a law of whole numbers turned round: the largest value with probability p at or above it, or at most p below.
turned_quantile <- function(of, p, lower) {
  enough <- function(v, p) {
    tail <- ask(of, "strict", v, !lower, FALSE)
    if (lower) tail >= p else tail <= p
  }
  ends <- ask(of, "support")
  v <- ask(of, "quantile", p, !lower)
  active <- which(is.finite(v) & p > 0 & p < 1)
  while (length(active <- active[v[active] < ends[2] & enough(v[active] + 1, p[active])])) v[active] <- v[active] + 1
  active <- which(is.finite(v) & p > 0 & p < 1)
  while (length(active <- active[v[active] > ends[1] & !enough(v[active], p[active])])) v[active] <- v[active] - 1
  v
}
