# How far draws are off in probability: the cumulative probability of what is drawn for u, against u.

grid_of_laws <- function() {
  shapes <- c(0.05, 0.3, 1, 2.5, 40, 1e4)
  pairs <- expand.grid(a = shapes, b = shapes)
  c(
    Map(function(a, b) law_beta(a, b), pairs$a, pairs$b), lapply(shapes, law_gamma, scale = 3),
    lapply(c(0.5, 1, 2.2, 30, 1e4), law_student),
    list(law_pert(28, 34, 48), law_pert(0, 0, 1), law_pert(-1e6, 1, 3), law_beta(2, 3, min = -5, max = 1e3),
      law_truncated(law_normal(0, 1), -0.5, 8), law_truncated(law_gamma(0.3, 1), min = 0.01),
      law_curvilinear(-1, 1, 0.3), law_custom(cumulative = function(x) x^3, density = function(x) 3 * x^2, min = 0,
        max = 1),
      law_mixture(list(law_normal(0, 1), law_normal(5, 0.2)), c(0.4, 0.6)), 2 * law_beta(2, 5) - 1,
      law_largest(law_gamma(2, 1), 5))
  )
}

# Off by 1e-10 and by 1e-9 of the smaller tail's probability at most, or within 4 units in the last place of the
# quantile.
expect_drawn_right <- function(law, u) {
  x <- draw_from(law, u)
  lower <- u <= 0.5
  p <- ifelse(lower, u, 1 - u)
  reached <- ifelse(lower, cumulative(law, x), cumulative(law, x, tail = "upper"))
  off <- which(!(abs(reached - p) <= 1e-10 & abs(reached - p) <= 1e-9 * p))
  exact <- ifelse(u[off] <= 0.5, quantile(law, p[off]), quantile(law, p[off], tail = "upper"))
  expect_true(all(x[off] == exact | abs(x[off] - exact) <= 4 * .Machine$double.eps * abs(exact)), info = format(law))
}

test_that("draws of every continuous law are right in probability", {
  u <- c(stream_uniforms("u", 1, "latin", 3000), 2^-(1:60), 1 - 2^-(1:50), 10^-(1:300), 0.5, 0.25, 0.75)
  for (law in grid_of_laws()) expect_drawn_right(law, u)
})

test_that("formulas and steps give the quantile to the last bit", {
  u <- c(stream_uniforms("u", 2, "random", 20000), 2^-(1:60), 1 - 2^-(1:50), 10^-(1:300), (1:99) / 100)
  laws <- list(law_normal(30, 3), law_normal(-1e-300, 1e-301), law_lognormal(mean = 2, sd = 9),
    law_lognormal(mean = 7, sd = 1, min = 6), law_uniform(-1, 1e9), law_triangular(0, 0, 1), law_triangular(1, 2, 2),
    law_triangular(1, 1.7, 4), law_discrete(c(3, 1, 7), c(0.1, 0.2, 0.7)),
    law_discrete(c("a", "b", "c"), c(0.25, 0.25, 0.5)), law_integers(-3, 9), law_bernoulli(0.3), law_binomial(50, 0.02),
    law_poisson(0.01), law_poisson(1e4), law_poisson(1e9), law_negative_binomial(2, 0.001), law_geometric(0.9),
    law_hypergeometric(20, 30, 10), law_truncated(law_poisson(4), min = 2), 3 - 2 * law_bernoulli(0.5),
    law_empirical(c(3, 1, 1, 8), interpolate = FALSE))
  for (law in laws) expect_identical(draw_from(law, u), quantile(law, u), info = format(law))
})

test_that("a table leaves no trace in a law, and is remembered where numbers alone describe it", {
  law <- law_pert(28, 34, 48)
  before <- serialize(law, NULL)
  draw_from(law, 0.3)
  expect_identical(serialize(law, NULL), before)
  recipe <- inversion_recipe(law)
  expect_identical(recipe$kind, "table")
  expect_lt(mean(is.na(recipe$coefficients)), 0.001)
  expect_identical(inversion_recipe(law_pert(28, 34, 48)), recipe)
  expect_false(identical(inversion_recipe(law_pert(28, 34, 49)), recipe))
  # a function may read what changes meanwhile
  power <- new.env()
  power$k <- 2
  own <- law_custom(cumulative = function(x) x^power$k, density = function(x) power$k * x^(power$k - 1), min = 0, max = 1)
  expect_equal(draw_from(own, 0.3), sqrt(0.3), tolerance = 1e-9)
  power$k <- 3
  expect_equal(draw_from(own, 0.3), 0.3^(1 / 3), tolerance = 1e-9)
  # a kink is left to the quantile, in a small cell
  kinked <- inversion_recipe(law_mixture(list(law_uniform(0, 1), law_uniform(2, 3))))
  expect_gt(sum(is.na(kinked$coefficients[1, ])), 0)
  expect_lt(length(cpp_invert(stream_uniforms("u", 1, "latin", 1e5), kinked, 1)$open) / 1e5, 0.005)
})
