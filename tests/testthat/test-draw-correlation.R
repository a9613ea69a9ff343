# Correlated draws: met, and every slice still filled.
strata <- function(u, n) sort(floor(u * n))

test_that("rank correlations are as asked", {
  s <- study() |> add_inputs(a = law_pert(0, 1, 9), b = law_lognormal(mean = 1, sd = 2), c = law_uniform(0, 1),
    d = law_normal(0, 1)) |>
    add_outputs(y = a) |> add_correlation(a, b, 0.8) |> add_correlation(b, c, -0.5) |> add_correlation(a, d, 0.2)
  latin <- correlations(quietly(s, 10000))
  expect_lt(max(abs(latin$achieved - latin$asked)), 0.001)
  random <- correlations(quietly(s, 1e5, design = "random"))
  expect_lt(max(abs(random$achieved - random$asked)), 0.01)
  # of the pairs that were not given, none is correlated
  draws <- quietly(s, 10000)$draws
  expect_lt(abs(cor(draws$c, draws$d, method = "spearman")), 0.001)
})

test_that("random correlation matrices of ten inputs are met", {
  set.seed(3)
  for (i in 1:5) {
    root <- matrix(rnorm(100), 10)
    r <- cov2cor(tcrossprod(root) + diag(10))
    names <- paste0("x", 1:10)
    dimnames(r) <- list(names, names)
    inputs <- stats::setNames(rep(list(law_normal(0, 1)), 10), names)
    s <- study() |> add_inputs(inputs) |> add_outputs(y = x1) |> add_correlation(r)
    table <- correlations(quietly(s, 10000, seed = i))
    expect_lt(max(abs(table$achieved - table$asked)), 0.001)
    table <- correlations(quietly(s, 10000, seed = i, block = 1024))
    expect_lt(max(abs(table$achieved - table$asked)), 0.005)
  }
})

test_that("matrices that no joint law has are repaired on request, and met nearly", {
  set.seed(8)
  names <- paste0("x", 1:10)
  for (i in 1:8) {
    r <- matrix(0, 10, 10, dimnames = list(names, names))
    r[upper.tri(r)] <- runif(45, -0.35, 0.45)
    r <- r + t(r) + diag(10)
    s <- study() |> add_inputs(stats::setNames(rep(list(law_normal(0, 1)), 10), names)) |> add_outputs(y = x1)
    s <- add_correlation(s, r, repair = TRUE)
    table <- correlations(quietly(s, 10000, seed = i))
    expect_lt(max(abs(table$achieved - correlations(s)$r)), 0.03)
  }
})

test_that("correlation leaves every slice filled, whole and in blocks", {
  r <- matrix(c(1, 0.8, -0.3, 0.8, 1, 0.1, -0.3, 0.1, 1), 3)
  addresses <- lapply(c(a = "a", b = "b", c = "c"), stream_address, seed = 2)
  # primes, and numbers around multiples of the block
  for (n in c(2, 3, 7, 1000, 10007, 16384, 16385, 3 * 5120 + 1029 * 2 + 1, 32768, 40009)) {
    for (block in unique(c(block_size(n), n, min(n, 1000)))) {
      plan <- draw_plan(n, 2, "latin", 1, max(block, 2), 2)
      u <- lapply(core_columns(addresses, vector("list", 3), plan, 0, n, list(list(r = r, columns = list(1:3)))), `[[`, "x")
      for (column in u) expect_equal(strata(column, n), seq_len(n) - 1)
      expect_identical(u$a, plan_uniforms(addresses$a, plan))
      if (n > 5000) expect_lt(max(abs(cor(do.call(cbind, u), method = "spearman") - r)), 0.005)
    }
  }
})

test_that("two hundred inputs are correlated at once", {
  names <- sprintf("x%03d", 1:200)
  loading <- seq(0.1, 0.9, length.out = 200)
  r <- tcrossprod(loading)
  diag(r) <- 1
  dimnames(r) <- list(names, names)
  s <- study() |> add_inputs(stats::setNames(rep(list(law_normal(0, 1)), 200), names)) |> add_correlation(r)
  for (design in c("latin", "random")) {
    achieved <- cor(as.matrix(draw_inputs(s, 2000, 1, design = design)[names]), method = "spearman")
    expect_lt(max(abs(achieved - r)), if (design == "latin") 0.002 else 5 / sqrt(2000))
  }
})

test_that("discrete laws have the correlation on their uniform numbers and less on their values", {
  s <- study() |> add_inputs(a = law_bernoulli(0.3), b = law_poisson(4)) |> add_outputs(y = a) |>
    add_correlation(a, b, 0.7)
  table <- correlations(quietly(s, 10000))
  # the closed form: the mean of mid-ranks over the joint law of the Gaussian copula
  set.seed(1)
  z <- qnorm((sample(1e6) - 0.5) / 1e6)
  w <- 2 * sin(pi / 6 * 0.7)
  other <- w * z + sqrt(1 - w^2) * rnorm(1e6)
  expect_lt(abs(table$achieved - cor(rank(z > qnorm(0.7)), rank(qpois(pnorm(other), 4)))), 0.01)
})

test_that("score correlations are read off the draws on request", {
  s <- three_normals() |> add_outputs(y = a) |> add_correlation(a, b, 0.5, kind = "score")
  scores <- correlations(quietly(s, 10000), "score")
  expect_equal(scores$asked, 0.5)
  expect_lt(abs(scores$achieved - 0.5), 0.002)
})

test_that("block size is a function of the number of runs alone, and recorded", {
  expect_equal(block_size(16384), 16384)
  expect_equal(block_size(16385), 1281)
  expect_equal(block_size(1e6), 10000)
  s <- three_normals() |> add_outputs(y = a) |> add_correlation(a, b, 0.5)
  expect_equal(provenance(quietly(s, 20000))$block, block_size(20000))
  expect_equal(provenance(quietly(s, 20000, block = Inf))$block, 20000)
  expect_fault(quietly(s, block = 1), "argument", "`block`")
})

test_that("correlations of 1 and -1 copy and mirror", {
  for (design in designs) {
    s <- three_normals() |> add_outputs(y = a) |> add_correlation(a, b, 1) |> add_correlation(a, c, -1) |>
      add_correlation(b, c, -1)
    draws <- quietly(s, 1000, design = design)$draws
    expect_equal(cor(draws$a, draws$b, method = "spearman"), 1)
    expect_equal(cor(draws$a, draws$c, method = "spearman"), -1)
  }
  expect_length(quietly(s, 1)$draws$c, 1)
})
