# A whole rehearsal: ten inputs, three of them correlated, three outputs, a million runs; draws, model, statistics, nine
# percentiles and all rank correlations. Against two scripts that an expert would write in plain R, vectorised
# throughout: one with the same Latin hypercube, one with R's own random numbers.
source(file.path("bench", "ratio.R"))

r <- c(0.5, 0.3, 0.2)
whole <- study("Valdehoz, cost of the main's renewal") |>
  add_inputs(
    length = law_normal(4200, 60), bedding = law_normal(38, 4),
    price = law_lognormal(mean = 95, sd = 18), wages = law_lognormal(mean = 31, sd = 4),
    trench = law_pert(60, 75, 120), output_rate = law_pert(9, 14, 18),
    waste = law_triangular(1.02, 1.05, 1.15), depth = law_triangular(0.9, 1.2, 1.8),
    repairs = law_gamma(shape = 2.5, scale = 4000), crossings = law_discrete(2:5, c(0.2, 0.4, 0.3, 0.1))
  ) |>
  add_correlation(price, wages, r[1]) |>
  add_correlation(price, trench, r[2]) |>
  add_correlation(wages, trench, r[3]) |>
  add_outputs(
    material = length * waste * price + length * depth * bedding,
    days = length / output_rate + 6 * crossings,
    cost = material + length * depth * trench + days * 8 * 5 * wages + repairs
  )

rehearse <- function(n, design) {
  result <- simulate(whole, n, seed = 1, design = design, progress = NULL)
  list(summary(result, percentiles = 1:9 * 10), drivers(result, "rank"))
}

triangular <- function(u, a, m, b) {
  left <- (m - a) / (b - a)
  ifelse(u < left, a + (b - a) * sqrt(u * left), b - (b - a) * sqrt((1 - u) * (1 - left)))
}
pert <- function(law) function(x, a, m, b) a + (b - a) * law(x, 1 + 4 * (m - a) / (b - a), 1 + 4 * (b - m) / (b - a))
log_sd <- function(mean, sd) sqrt(log1p((sd / mean)^2))

# Iman and Conover (1982) on three columns of draws, whose own values are put into another order.
correlate <- function(columns) {
  n <- length(columns[[1]])
  scores <- stats::qnorm(vapply(columns, fast_rank, integer(n)) / (n + 1))
  target <- diag(3)
  target[upper.tri(target)] <- 2 * sin(pi / 6 * r)
  mixed <- scores %*% solve(chol(stats::cor(scores)), chol(target + t(target) - diag(3)))
  Map(function(x, j) if (j == 1) x else sort(x, method = "radix")[fast_rank(mixed[, j])], columns, 1:3)
}

readings <- function(x, dependent) {
  attach <- c(dependent, x)
  names(attach) <- c("price", "wages", "trench", names(x))
  outputs <- with(attach, {
    material <- length * waste * price + length * depth * bedding
    days <- length / output_rate + 6 * crossings
    list(material, days, material + length * depth * trench + days * 8 * 5 * wages + repairs)
  })
  ranks <- lapply(attach, function(column) if (is.integer(column)) rank(column) else fast_rank(column))
  lapply(outputs, function(y) {
    ranked <- fast_rank(y)
    z <- (y - mean(y)) / stats::sd(y)
    z2 <- z * z
    list(mean(y), stats::sd(y), mean(z2 * z), mean(z2 * z2), range(y), stats::quantile(y, 1:9 / 10),
      vapply(ranks, stats::cor, 0, ranked))
  })
}

by_hand_latin <- function(n) {
  u <- function() latin(n)
  qpert <- pert(stats::qbeta)
  dependent <- correlate(list(
    stats::qlnorm(u(), log(95) - log_sd(95, 18)^2 / 2, log_sd(95, 18)),
    stats::qlnorm(u(), log(31) - log_sd(31, 4)^2 / 2, log_sd(31, 4)), qpert(u(), 60, 75, 120)
  ))
  readings(list(
    length = stats::qnorm(u(), 4200, 60), bedding = stats::qnorm(u(), 38, 4), output_rate = qpert(u(), 9, 14, 18),
    waste = triangular(u(), 1.02, 1.05, 1.15), depth = triangular(u(), 0.9, 1.2, 1.8),
    repairs = stats::qgamma(u(), 2.5, scale = 4000), crossings = findInterval(u(), c(0.2, 0.6, 0.9)) + 2L
  ), dependent)
}

by_hand_random <- function(n) {
  rpert <- pert(function(n, a, b) stats::rbeta(n, a, b))
  dependent <- correlate(list(
    stats::rlnorm(n, log(95) - log_sd(95, 18)^2 / 2, log_sd(95, 18)),
    stats::rlnorm(n, log(31) - log_sd(31, 4)^2 / 2, log_sd(31, 4)), rpert(n, 60, 75, 120)
  ))
  readings(list(
    length = stats::rnorm(n, 4200, 60), bedding = stats::rnorm(n, 38, 4), output_rate = rpert(n, 9, 14, 18),
    waste = triangular(stats::runif(n), 1.02, 1.05, 1.15), depth = triangular(stats::runif(n), 0.9, 1.2, 1.8),
    repairs = stats::rgamma(n, 2.5, scale = 4000),
    crossings = sample.int(4, n, replace = TRUE, prob = c(0.2, 0.4, 0.3, 0.1)) + 1L
  ), dependent)
}

# The scripts do the same: their means agree with ours.
ours <- rehearse(1e5, "latin")[[1]]$mean
stopifnot(all.equal(ours, vapply(by_hand_latin(1e5), function(y) y[[1]], 0), tolerance = 1e-3),
  all.equal(ours, vapply(by_hand_random(1e5), function(y) y[[1]], 0), tolerance = 1e-2))

show_ratios("A whole rehearsal: 10 inputs, 3 outputs, statistics, 9 percentiles, rank correlations",
  ratio("1e6 runs, Latin, against Latin by hand", function() rehearse(1e6, "latin"), function() by_hand_latin(1e6), 3),
  ratio("1e6 runs, Latin, against r*() by hand", function() rehearse(1e6, "latin"), function() by_hand_random(1e6), 3),
  ratio("1e6 runs, random, against r*() by hand", function() rehearse(1e6, "random"), function() by_hand_random(1e6),
    3),
  ratio("1e4 runs, Latin, against Latin by hand", function() rehearse(1e4, "latin"), function() by_hand_latin(1e4)))
