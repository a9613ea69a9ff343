strata <- function(u, n) sort(floor(u * n))

test_that("a Latin hypercube has one draw in each slice of equal probability", {
  for (n in c(1, 2, 3, 7, 1000, 4096, 4097, 10007)) {
    main <- gravity_main()
    draws <- draw_inputs(main, n, 5)[varying_names(main)]
    for (name in names(draws)) {
      u <- cumulative(main$inputs[[name]]$law, draws[[name]])
      # rounding in the law may move a draw across the edge of its slice, never the uniform number itself
      expect_lt(max(abs(sort(u) * n - (seq_len(n) - 0.5))), 0.5 + 1e-6)
    }
    for (design in c("latin", "midpoints")) {
      expect_equal(strata(stream_uniforms("x", 5, design, n), n), seq_len(n) - 1)
    }
    expect_equal(sort(stream_uniforms("x", 5, "midpoints", n)), (seq_len(n) - 0.5) / n)
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
})

test_that("more runs than a 32-bit count holds are drawn range by range", {
  big <- 2^31 + 5
  edge <- 2^31
  for (design in designs) {
    across <- stream_uniforms("x", 1, design, big, first = edge - 2, count = 7)
    expect_true(all(across > 0 & across < 1))
    for (k in c(1, 3, 7)) {
      expect_identical(stream_uniforms("x", 1, design, big, first = edge - 3 + k, count = 1), across[k])
    }
    if (design %in% c("latin", "midpoints")) expect_length(unique(floor(across * big)), 7)
  }
  main <- gravity_main()
  part <- draw_inputs(main, big, 5, runs = c(edge - 1, edge + 2))
  expect_identical(part$run, edge + c(-1, 0, 1, 2))
  expect_identical(draw_inputs(main, big, 5, runs = c(edge, edge))$friction, part$friction[2])
  expect_identical(draw_inputs(main, big, 5, runs = c(1, 2))$run, 1:2)
  expect_identical(draw_inputs(main, big, 5, runs = c(big, big))$run, big)
})

test_that("an index makes another hypercube at each step, and replicates one after another", {
  n <- 500
  steps <- lapply(0:2, function(index) stream_uniforms("x", 1, "latin", n, index = index))
  for (u in steps) expect_equal(strata(u, n), seq_len(n) - 1)
  expect_lt(abs(cor(steps[[1]], steps[[2]])), 4.5 / sqrt(n))
  u <- stream_uniforms("x", 1, "latin", 3 * n, replicates = 3)
  for (k in 0:2) expect_equal(strata(u[k * n + seq_len(n)], n), seq_len(n) - 1)
  expect_identical(u[seq_len(n)], steps[[1]])
  expect_lt(abs(cor(u[seq_len(n)], u[n + seq_len(n)])), 4.5 / sqrt(n))
  expect_identical(stream_uniforms("x", 1, "latin", 3 * n, first = n - 3, count = 6, replicates = 3), u[n + -2:3])
})

test_that("every code path and number of threads gives the same bits", {
  widest <- cpp_code_path()
  withr::defer(cpp_code_path(widest))
  s <- gravity_main() |> add_inputs(leak = law_gamma(2.5, 1), bursts = law_poisson(3))
  make <- function(threads, design) unclass_table(draw_inputs(s, 20011, 3, design = design, threads = threads))
  for (design in designs) {
    whole <- make(1, design)
    for (threads in c(2, 7)) expect_identical(make(threads, design), whole)
    for (path in c("plain", "avx2", "avx512")) {
      if (cpp_code_path(path) == path) expect_identical(make(2, design), whole)
    }
  }
  res <- quietly(gravity_main(), 20011)
  for (path in c("plain", "avx2", "avx512")) {
    if (cpp_code_path(path) != path) next
    expect_identical(summary(quietly(gravity_main(), 20011)), summary(res))
    expect_identical(drivers(quietly(gravity_main(), 20011)), drivers(res))
  }
})

test_that("another process draws the same from the study alone", {
  file <- withr::local_tempfile(fileext = ".rds")
  saveRDS(gravity_main(), file)
  code <- sprintf("saveRDS(ensayo::draw_inputs(readRDS('%s'), 20000, 'spring', runs = c(17000, 17100)), '%s')", file,
    file)
  system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote(code)),
    env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":")))
  there <- readRDS(file)
  expect_identical(there, draw_inputs(gravity_main(), 20000, "spring", runs = c(17000, 17100)))
  expect_identical(there$demand, draw_inputs(gravity_main(), 20000, "spring")$demand[17000:17100])
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

test_that("seeds are whole numbers of any size", {
  s <- three_normals() |> add_outputs(y = a)
  expect_false(identical(quietly(s, seed = 1)$draws, quietly(s, seed = 2)$draws))
  expect_false(identical(quietly(s, seed = -1)$draws, quietly(s, seed = 1)$draws))
  expect_false(identical(quietly(s, seed = 2^53)$draws, quietly(s, seed = 2^53 - 1)$draws))
  for (seed in list(1.5, "", NA, c(1, 2), Inf)) expect_fault(quietly(s, seed = seed), "argument", "`seed`")
  # a number is its 64 bits, so that nothing smaller is lost; texts and larger numbers are hashed
  seeds <- list(0, 1, -1, 2^62, -2^62, 2^63, 1e300, "1", "dry season", "Dry season", "\u0441\u0443\u0445\u043e")
  first <- vapply(seeds, function(seed) stream_uniforms("x", check_seed(seed), "random", 1), 0)
  expect_length(unique(first), length(seeds))
  res <- quietly(s, 50, seed = "dry season")
  expect_identical(provenance(res)$seed, "dry season")
  expect_match(format(res)[2], "seed `dry season`")
})

test_that("inputs of any name and number are drawn, each from a stream of its own", {
  s <- study() |> add_inputs("\u0440\u0430\u0441\u0445\u043e\u0434" := law_normal(0, 1), q = law_normal(0, 1))
  d <- draw_inputs(s, 1000, 1)
  expect_named(d, c("run", "\u0440\u0430\u0441\u0445\u043e\u0434", "q"))
  expect_lt(abs(cor(d[[2]], d[[3]])), 4.5 / sqrt(1000))
  many <- study() |> add_inputs(stats::setNames(rep(list(law_uniform(0, 1)), 2000), paste0("x", 1:2000)))
  for (design in setdiff(designs,
    "midpoints")) expect_length(unique(unlist(draw_inputs(many, 3, 1, design = design)[-1])), 6000)
  expect_fault(draw_inputs(add_inputs(many, stats::setNames(rep(list(law_uniform(0, 1)), 1700), paste0("y", 1:1700))),
    3, 1, design = "sobol"), "argument", "3667")
  # two names that stand for the same key get streams of different keys
  initial <- function(names) substr(names, nchar(names), nchar(names))
  expect_identical(free_streams("pipe", c("valve", "tank"), initial), c("valve'", "tank"))
  expect_false(anyDuplicated(cpp_name_keys(paste0("x", 1:1e5))) > 0)
})

test_that("inputs are uncorrelated beyond chance over a thousand seeds", {
  n <- 200
  z <- vapply(1:1000, function(seed) {
    cor(stream_uniforms("demand", seed, "latin", n), stream_uniforms("friction", seed, "latin", n)) * sqrt(n - 1)
  }, 0)
  expect_lt(abs(mean(z)), 4.5 / sqrt(1000))
  expect_lt(abs(mean(z^2) - 1), 4.5 * sqrt(2 / 1000))
  expect_lt(max(abs(z)), 4.9)
})
