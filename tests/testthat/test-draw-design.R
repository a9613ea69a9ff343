# What designs gain, on functions whose exact means are known.

# Variance of the estimated mean over repeats, each with a seed of its own; `inputs` uniform inputs.
scatter <- function(f, inputs, n, design, repeats = 400) {
  directions <- sobol_directions(inputs)
  plan <- function(seed) list(nsim = n, seed = seed, design = design, replicates = 1, threads = 1)
  means <- vapply(seq_len(repeats), function(seed) {
    u <- lapply(seq_len(inputs), function(k) {
      plan_uniforms(stream_address(paste0("x", k), seed, directions = if (design == "sobol") directions[[k]]),
        plan(seed))
    })
    mean(f(u))
  }, 0)
  stats::var(means)
}

test_that("a Latin hypercube gains on additive functions what theory says", {
  # a sum of uniforms: variance 5 / (12 n) at random; with jitter in each of n slices 5 / (12 n^3), so n^2 times less
  n <- 50
  linear <- function(u) Reduce(`+`, u)
  random <- scatter(linear, 5, n, "random")
  latin <- scatter(linear, 5, n, "latin")
  # a ratio of two variances with 399 degrees of freedom each has a standard deviation of about a tenth
  expect_lt(abs(random / (5 / 12 / n) - 1), 0.35)
  expect_lt(abs(latin / (5 / 12 / n^3) - 1), 0.35)
  # x^2: within slice i the variance is about (2 m_i)^2 / (12 n^2), in all 1 / (9 n^3) for each input
  square <- scatter(function(u) Reduce(`+`, lapply(u, `^`, 2)), 5, n, "latin")
  expect_lt(abs(square / (5 / 9 / n^3) - 1), 0.4)
})

test_that("on the g function it removes the additive part, and a Sobol' sequence far more", {
  # g = product of (|4 x - 2| + a) / (1 + a); main effects have variance 1 / (3 (1 + a)^2), and the whole has
  # prod(1 + 1 / (3 (1 + a)^2)) - 1; what is left under Latin is the difference (Stein 1987)
  a <- c(0, 1, 4.5, 9, 99)
  g <- function(u) Reduce(`*`, Map(function(x, a) (abs(4 * x - 2) + a) / (1 + a), u, a))
  main <- 1 / (3 * (1 + a)^2)
  whole <- prod(1 + main) - 1
  n <- 256
  random <- scatter(g, 5, n, "random")
  latin <- scatter(g, 5, n, "latin")
  expect_lt(abs(random / (whole / n) - 1), 0.35)
  expect_lt(abs(latin / ((whole - sum(main)) / n) - 1), 0.35)
  expect_lt(scatter(g, 5, n, "sobol"), latin / 10)
})

test_that("it is not worse than random where nothing is additive", {
  product <- function(u) (u[[1]] - 0.5) * (u[[2]] - 0.5)
  expect_lt(scatter(product, 2, 100, "latin") / scatter(product, 2, 100, "random"), 1.4)
})

test_that("a Sobol' sequence fills slices, pairs, and elementary boxes", {
  directions <- sobol_directions(8)
  u <- vapply(1:8, function(k) {
    plan_uniforms(stream_address(paste0("x", k), 3, directions = directions[[k]]),
      list(nsim = 1024, seed = 3, design = "sobol", replicates = 1, threads = 1))
  }, numeric(1024))
  for (k in 1:8) expect_setequal(floor(1024 * u[, k]), 0:1023)
  # the first two dimensions are a (0, m, 2)-net: one point in every elementary box of volume 1 / 1024
  for (i in 0:10) expect_length(unique(floor(u[, 1] * 2^i) * 2^(10 - i) + floor(u[, 2] * 2^(10 - i))), 1024)
  # dimension 5 unscrambled, from its polynomial x^3 + x^2 + 1 and 1, 1, 1, by Bratley and Fox's recurrence by hand:
  # m4 = 2 m3 + 8 m1 + m1 (exclusive or) = 2 ^ 8 ^ 1 = 11
  expect_identical(directions[[5]], c(13, 1, 1, 1))
  expect_identical(directions[1:3], list(0, c(3, 1), c(7, 1, 3)))
  # the scramble is the seed's and the input's, so that means scatter about the truth
  means <- vapply(1:200, function(seed) {
    mean(stream_uniforms("x", seed, "sobol", 64))
  }, 0)
  expect_lt(abs(mean(means) - 0.5), 4.5 * stats::sd(means) / sqrt(200))
})

test_that("a second draw of the inputs within a run is another, and addressable like the first", {
  s <- three_normals()
  for (design in c("latin", "random", "sobol")) {
    plan <- draw_plan(512, 3, design, 1, NULL, 1)
    other <- c(plan, list(index = 1))
    first <- draw_columns(s, plan)
    second <- draw_columns(s, other)
    expect_lt(max(abs(cor(as.data.frame(first), as.data.frame(second)))), 0.2)
    expect_identical(lapply(second, `[`, 101:110), draw_columns(s, other, 100, 10))
    expect_equal(vapply(second, mean, 0), c(a = 0, b = 0, c = 0), tolerance = 0.15)
  }
})
