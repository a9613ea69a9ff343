strata <- function(u, n) sort(floor(u * n))

test_that("a Latin hypercube has one draw in each slice of equal probability", {
  for (n in c(1, 2, 3, 7, 1000, 4096, 4097, 10007)) {
    draws <- draw_columns(gravity_main(), n, 5, "latin")
    main <- gravity_main()
    for (name in names(draws)) {
      u <- cumulative(main$inputs[[name]]$law, draws[[name]])
      # rounding in the law may move a draw across the edge of its slice, never the uniform number itself
      expect_lt(max(abs(sort(u) * n - (seq_len(n) - 0.5))), 0.5 + 1e-6)
    }
    expect_equal(strata(stream_uniforms("x", 5, "latin", n), n), seq_len(n) - 1)
  }
})

test_that("correlation leaves every slice filled", {
  for (n in c(2, 3, 7, 1000)) {
    u <- lapply(c(a = "a", b = "b", c = "c"), stream_uniforms, seed = 2, design = "latin", nsim = n)
    r <- matrix(c(1, 0.8, -0.3, 0.8, 1, 0.1, -0.3, 0.1, 1), 3)
    for (column in correlate_latin(u, r)) expect_equal(strata(column, n), seq_len(n) - 1)
  }
})

test_that("any range of runs has the draws it has in the whole", {
  for (design in designs) {
    whole <- stream_uniforms("demand", 11, design, 5000)
    expect_identical(stream_uniforms("demand", 11, design, 5000, first = 4321, count = 77), whole[4322:4398])
    expect_identical(stream_uniforms("demand", 11, design, 5000, first = 4999, count = 1), whole[5000])
  }
  expect_identical(stream_uniforms("demand", 11, "random", 10), stream_uniforms("demand", 11, "random", 20)[1:10])
  expect_false(identical(stream_uniforms("x", 1, "random", 5, index = 1), stream_uniforms("x", 1, "random", 5)))
  big <- 2^31 + 5
  expect_true(all(abs(stream_uniforms("x", 1, "latin", big, first = big - 3, count = 3) - 0.5) < 0.5))
})

test_that("random uniforms are uniform and independent across inputs, seeds and runs", {
  u <- stream_uniforms("demand", 11, "random", 1e5)
  expect_gt(stats::ks.test(u, "punif")$p.value, 1e-4)
  others <- list(stream_uniforms("friction", 11, "random", 1e5), stream_uniforms("demand", 12, "random", 1e5),
    c(u[-1], u[1]))
  for (other in others) expect_lt(abs(cor(u, other)), 4.5 / sqrt(1e5))
})

test_that("changing one input changes no other draw", {
  s <- three_normals() |> add_outputs(y = a + b + c)
  before <- quietly(s)$draws
  expect_identical(quietly(add_inputs(s, extra = law_uniform(0, 1)))$draws[c("a", "b", "c")], before)
  expect_identical(quietly(replace_inputs(s, b = law_uniform(0, 1)))$draws[c("a", "c")], before[c("a", "c")])
  expect_identical(quietly(fix_inputs(s, b))$draws, before[c("a", "c")])
  reordered <- study() |> add_inputs(c = law_normal(0, 1), b = law_normal(0, 1), a = law_normal(0, 1)) |>
    add_outputs(y = a)
  expect_identical(quietly(reordered)$draws[c("a", "b", "c")], before)
  # in a correlated set: itself and those after it
  for (design in designs) {
    pair <- quietly(add_correlation(s, a, b, 0.6), design = design)$draws
    triple <- quietly(s |> add_correlation(a, b, 0.6) |> add_correlation(b, c, 0.3), design = design)$draws
    expect_identical(pair[c("a", "c")], quietly(s, design = design)$draws[c("a", "c")])
    expect_identical(triple[c("a", "b")], pair[c("a", "b")])
  }
})

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
  }
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

test_that("seeds are whole numbers of any size", {
  s <- three_normals() |> add_outputs(y = a)
  expect_false(identical(quietly(s, seed = 1)$draws, quietly(s, seed = 2)$draws))
  expect_false(identical(quietly(s, seed = -1)$draws, quietly(s, seed = 1)$draws))
  expect_false(identical(quietly(s, seed = 2^53)$draws, quietly(s, seed = 2^53 - 1)$draws))
  for (seed in list(1.5, "a", NA, c(1, 2))) expect_fault(quietly(s, seed = seed), "argument", "`seed`")
})

test_that("ranks are base R's", {
  for (x in list(c(3, 1, 2), c(2, 2, 1, 5, 5, 5), numeric(), 7, round(stream_uniforms("x", 1, "random", 1000), 2))) {
    expect_identical(mid_ranks(x), rank(x))
    expect_equal(order_ranks(x), rank(x, ties.method = "first"))
  }
})
