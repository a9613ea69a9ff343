# How many occurrences there are: the generating function G(z) = E(z^N) of a count, its slope, and its cumulants.

# `value` and `slope` are functions of complex numbers; `ends` and `cumulants` are the count's own.
generating_function <- function(count) {
  par <- count$par
  made <- switch(count$record$title,
    Poisson = list(value = function(z) exp(par$mean * (z - 1)), slope = function(z) par$mean * exp(par$mean * (z - 1))),
    Binomial = list(value = function(z) (1 + par$probability * (z - 1))^par$size,
      slope = function(z) par$size * par$probability * (1 + par$probability * (z - 1))^(par$size - 1)),
    `Negative binomial` = negative_binomial_function(par$size, par$probability),
    Geometric = negative_binomial_function(1, par$probability),
    polynomial_function(points_of(count))
  )
  m <- ask(count, "moments")
  made$ends <- ask(count, "support")
  made$far <- ask(count, "quantile", 1e-17, FALSE)
  made$cumulants <- c(m[["mean"]], m[["variance"]], certain_zero(m[["skewness"]] * m[["variance"]]^1.5, m),
    certain_zero(m[["excess_kurtosis"]] * m[["variance"]]^2, m))
  made
}

certain_zero <- function(x, moments) if (moments[["variance"]] == 0) 0 else x

negative_binomial_function <- function(size, p) {
  ratio <- function(z) p / (1 - (1 - p) * z)
  list(value = function(z) ratio(z)^size, slope = function(z) size * (1 - p) / p * ratio(z)^(size + 1))
}

# Of values with their probabilities, by Horner's rule from the largest down.
polynomial_function <- function(points) {
  first <- points$values[1]
  shares <- numeric(points$values[length(points$values)] - first + 1)
  shares[points$values - first + 1] <- points$shares
  horner <- function(c, z) {
    sum <- c[length(c)] + 0 * z
    for (k in rev(seq_len(length(c) - 1))) sum <- sum * z + c[k]
    sum
  }
  number <- first + seq_along(shares) - 1
  list(value = function(z) z^first * horner(shares, z), slope = function(z) {
    if (first > 0) z^(first - 1) * horner(number * shares, z) else if (length(shares) == 1) 0 * z else horner((number * shares)[-1], z)
  })
}

# Cumulants of a count of which each is kept with a probability: those of factorial moments, which thin by powers.
thinned_cumulants <- function(k, q) {
  # factorial cumulants from cumulants, thinned, and back (Johnson, Kemp and Kotz 2005, section 1.2)
  f <- c(k[1], k[2] - k[1], k[3] - 3 * k[2] + 2 * k[1], k[4] - 6 * k[3] + 11 * k[2] - 6 * k[1]) * q^(1:4)
  c(f[1], f[2] + f[1], f[3] + 3 * f[2] + f[1], f[4] + 6 * f[3] + 7 * f[2] + f[1])
}
