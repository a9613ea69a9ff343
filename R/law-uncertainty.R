# What a law says of a measured quantity: estimate, standard uncertainty, how it is known, and degrees of freedom (JCGM
# 100:2008, 4.2, 4.3 and G.4.2).
#   estimate, u   the mean and the standard deviation; of a Student law its scale, which is what the guide calls u
#   type          "A", from observations; else "B"
#   df            degrees of freedom, Inf where none are known
#   n             number of observations, where there are any
#   shape         which family, for words
standard_uncertainty <- function(law) {
  family <- family_name(law)
  par <- parameters_of(law)
  told <- told_of(law)
  if (family == "scaled") {
    of <- standard_uncertainty(par$of)
    return(utils::modifyList(of, list(estimate = par$times * of$estimate + par$plus, u = abs(par$times) * of$u)))
  }
  known <- list(type = "B", df = Inf, n = NA_real_, shape = family)
  if (family == "student") {
    known[c("estimate", "u", "df")] <- par[c("location", "scale", "df")]
    if (isTRUE(told$call %in% c("observed", "coefficient"))) known[c("type", "n")] <- list("A", as.double(told$arguments$n %||% length(told$arguments$data)))
    return(known)
  }
  if (identical(told$call, "measured")) known$df <- told$arguments$df %||% Inf
  if (family == "curvilinear") known$df <- ((par$max - par$min) / 2 / par$within)^2 / 2
  if (family == "empirical") known[c("type", "n", "df")] <- list("A", length(par$data), length(par$data) - 1)
  m <- moments(law)
  known[c("estimate", "u")] <- list(m$mean, m$sd)
  known
}

# What stands for a law in sums with correlations: normal and Student laws by their scores, others by what they are.
score_values <- function(law, z) {
  if (family_name(law) == "scaled") {
    par <- parameters_of(law)
    return(sign(par$times) * score_values(par$of, sign(par$times) * z))
  }
  if (family_name(law) %in% c("normal", "student")) z else {
    upper <- z > 0
    x <- quantile(law, stats::pnorm(-abs(z)))
    x[upper] <- quantile(law, stats::pnorm(-z[upper]), tail = "upper")
    x
  }
}

# Pearson's correlation of two quantities whose normal scores have the correlation `score`: by expansion of both in Hermite
# polynomials of the scores (Mehler's formula; Lancaster 1957, "Some properties of the bivariate normal distribution", Biometrika 44).
pearson_of_scores <- function(score, a, b, terms = 60) {
  if (score == 0) return(0)
  z <- seq(-8, 8, length.out = 1601)
  weight <- stats::dnorm(z)
  weight <- weight / sum(weight)
  x <- score_values(a, z)
  y <- score_values(b, z)
  x <- x - sum(weight * x)
  y <- y - sum(weight * y)
  # where both are one number the series would hardly end
  if (abs(score) == 1) return(sum(weight * x * if (score > 0) y else rev(y)) / sqrt(sum(weight * x^2) * sum(weight * y^2)))
  before <- rep(1, length(z))
  now <- z
  total <- 0
  for (n in seq_len(terms)) {
    total <- total + score^n * sum(weight * x * now) * sum(weight * y * now)
    after <- (z * now - sqrt(n) * before) / sqrt(n + 1)
    before <- now
    now <- after
  }
  total / sqrt(sum(weight * x^2) * sum(weight * y^2))
}
