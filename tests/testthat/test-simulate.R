test_that("a product of lognormals and a sum of normals have their closed forms", {
  products <- study() |> add_inputs(a = law_lognormal(mean = 3, sd = 1), b = law_lognormal(mean = 5, sd = 2)) |>
    add_outputs(y = a * b)
  v <- log1p(1 / 9) + log1p(4 / 25)
  m <- log(3) + log(5) - v / 2
  truth <- c(mean = 15, sd = 15 * sqrt(expm1(v)), P5 = qlnorm(0.05, m, sqrt(v)), P50 = exp(m),
    P95 = qlnorm(0.95, m, sqrt(v)))
  sums <- study() |> add_inputs(a = law_normal(30, 3), b = law_normal(20, 4)) |> add_outputs(y = a + b)
  truth_sum <- c(mean = 50, sd = 5, P5 = qnorm(0.05, 50, 5), P50 = 50, P95 = qnorm(0.95, 50, 5))
  allowed <- c(mean = 0.001, sd = 0.007, P5 = 0.004, P50 = 0.002, P95 = 0.005)
  for (seed in 1:20) {
    for (case in list(list(products, truth), list(sums, truth_sum))) {
      seen <- unlist(summary(quietly(case[[1]], 1e6, seed = seed))[names(truth)])
      expect_true(all(abs(seen / case[[2]] - 1) < allowed), label = paste("seed", seed))
    }
  }
})

test_that("the same seed gives the same result in another session, and R's random state is left alone", {
  res <- quietly(gravity_main(), 500, seed = 11)
  file <- withr::local_tempfile(fileext = ".rds")
  code <- sprintf("set.seed(9); library(ensayo); source('%s'); saveRDS(quietly(gravity_main(), 500, seed = 11), '%s')",
    normalizePath(test_path("helper-studies.R")), file)
  expect_equal(system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote(code)),
    env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))), 0)
  again <- readRDS(file)
  expect_identical(again[c("draws", "outputs", "base", "correlations")],
    res[c("draws", "outputs", "base", "correlations")])
  expect_identical(provenance(again)$hash, provenance(res)$hash)

  set.seed(4)
  expected <- runif(3)
  set.seed(4)
  first <- runif(1)
  quietly(gravity_main(), seed = 11)
  expect_identical(c(first, runif(2)), expected)
  set.seed(4)
  seed <- provenance(simulate(gravity_main(), 10, progress = NULL))$seed
  set.seed(4)
  expect_identical(provenance(simulate(gravity_main(), 10, progress = NULL))$seed, seed)
})

test_that("the recorded study, simulated again, gives the same numbers", {
  res <- quietly(gravity_main(), 300)
  p <- provenance(res)
  again <- simulate(study_of(res), p$nsim, seed = p$seed, design = p$design, progress = NULL)
  expect_identical(again$outputs, res$outputs)
  expect_identical(provenance(again)$hash, p$hash)
  expect_false(provenance(quietly(replace_inputs(gravity_main(), length = 4201)))$hash == p$hash)
})

test_that("chunks never show", {
  s <- gravity_main()
  draws <- unclass_table(draw_inputs(s, 5000, 3))[-1]
  columns <- c(draws, list(length = 4200))
  whole <- study_evaluator(s)(columns, 1:5000)$values
  expect_identical(quietly(s, 5000, seed = 3)$outputs, whole)
  expect_identical(cpp_moments(whole$pressure), cpp_moments(c(whole$pressure[1:4096], whole$pressure[4097:5000])))
})

test_that("progress is told and can be left out", {
  told <- NULL
  res <- simulate(gravity_main(), 5000, seed = 1, progress = function(done, total) told <<- c(told, done, total))
  expect_equal(utils::tail(told, 2), c(5000, 5000))
  expect_false(is.unsorted(told[c(TRUE, FALSE)]))
})

test_that("the number of runs and the options are checked", {
  s <- gravity_main()
  for (nsim in list(0, 1.5, NA, "many", -3, Inf, c(1, 2))) expect_fault(simulate(s, nsim), "argument", "`nsim`",
    "whole number")
  expect_fault(simulate(s, 10, design = "latn"), "argument", "Did you mean \"latin\"?")
  expect_fault(simulate(s, 10, deisgn = "latin"), "argument", "Did you mean `design`?")
  expect_fault(simulate(s, 10, 1, "latin"), "argument", "named")
})

test_that("one run, and a study in which nothing varies, go through", {
  one <- quietly(gravity_main(), 1)
  expect_equal(summary(one)$runs, c(1, 1, 1))
  expect_identical(summary(one)$sd, rep(NA_real_, 3))
  still <- study() |> add_inputs(a = 2, b = 3) |> add_outputs(y = a * b) |> quietly(10)
  expect_equal(summary(still)$mean, 6)
  expect_equal(summary(still)$sd, 0)
  expect_equal(nrow(drivers(still)), 0)
  expect_output(print(still), "does not vary")
})

test_that("runs that fail are counted and left out, never dropped", {
  s <- three_normals() |> add_outputs(root = sqrt(a), plain = a)
  res <- quietly(s, 1000)
  table <- summary(res)
  expect_equal(table$failed, c(500, 0))  # half of a Latin hypercube's draws lie below the median
  expect_equal(table$runs, c(500, 1000))
  expect_equal(table$mean[1], mean(sqrt(res$draws$a[res$draws$a >= 0])))
  expect_equal(sum(as.data.frame(res)$failed), 500)
  expect_equal(nrow(failures(res)), 500)
  expect_output(print(res), "root failed in 500 runs: not a number")
  expect_warning(broken <- quietly(three_normals() |> add_outputs(y = 1 / (a - a))),
    class = "ensayo_warning_all_failed")
  expect_equal(summary(broken)$failed, 200)
  expect_true(is.na(summary(broken)$mean))
  expect_output(print(broken), "y failed in 200 runs: infinite")
  expect_equal(broken$base$failures$reason, "infinite (Inf) in `1/(a - a)`")
})

test_that("a Latin hypercube estimates a mean more sharply than random runs, as theory has it", {
  # Stein (1987), Technometrics 29(2): for an additive function the variance of the mean falls from order 1/n to
  # 1/n^3. Of a
  # sum of two uniforms, a jittered hypercube of n runs has 2 / (12 n^3), random runs 2 / (12 n).
  s <- study() |> add_inputs(a = law_uniform(0, 1), b = law_uniform(0, 1)) |> add_outputs(y = a + b)
  means <- function(design) vapply(1:300, function(seed) mean(quietly(s, 20, seed, design = design)$outputs$y), 0)
  expect_equal(var(means("latin")) / (2 / (12 * 20^3)), 1, tolerance = 0.3)
  expect_equal(var(means("random")) / (2 / (12 * 20)), 1, tolerance = 0.3)
  expect_lt(abs(mean(means("latin")) - 1), 4 * sqrt(2 / (12 * 20^3) / 300))
})

test_that("inputs in any script and of any number go through", {
  cyrillic <- "\u0440\u0430\u0441\u0445\u043e\u0434"
  s <- study() |> add_inputs(!!cyrillic := law_uniform(0, 1)) |> add_outputs(y = !!as.symbol(cyrillic) * 2)
  res <- quietly(s, 100)
  expect_equal(sort(floor(res$draws[[cyrillic]] * 100)), 0:99)
  expect_output(print(res), cyrillic)
  names <- paste0("x", 1:300)
  many <- study() |> add_inputs(stats::setNames(rep(list(law_normal(0, 1)), 300), names)) |>
    add_outputs(y = !!str2lang(paste(names, collapse = "+")))
  res <- quietly(many, 1000)
  expect_equal(res$outputs$y, Reduce(`+`, res$draws))
  expect_equal(length(unique(vapply(res$draws, function(x) x[1], 0))), 300)
})

test_that("the progress bar ends with its run, and an interrupted one leaves nothing to the next", {
  withr::local_options(cli.progress_show_after = 0)
  show_progress(100, 1000)
  expect_false(is.null(progress_bar$id))
  first <- progress_bar$id
  show_progress(50, 500)
  expect_false(identical(progress_bar$id, first))
  show_progress(500, 500)
  expect_null(progress_bar$id)
})

test_that("runs that do not fit into memory are refused before anything is drawn", {
  expect_fault(simulate(three_normals() |> add_outputs(y = a), 1e13), "argument", "GB", "simulate_into()")
})
