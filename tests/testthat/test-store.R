# A result in a folder of small pieces, whose columns are read in passes.
in_passes <- function(study, nsim, seed = 3, frame = parent.frame(), ...) {
  local_record("store_piece_runs", 1600, frame)
  local_record("memory_at_most", 10, frame)
  local_record("column_at_most", 10, frame)
  local_record("values_collected", 1000, frame)
  local_record("long_cells", 1024, frame)
  simulate_into(study, withr::local_tempfile(.local_envir = frame), nsim, seed, progress = NULL, ...)
}

test_that("figures of columns too long for memory are those of all their values", {
  s <- study() |>
    add_inputs(a = law_normal(1e6, 1), k = law_poisson(2), u = law_uniform(0, 1),
      rain = law_mixture(list(0, law_gamma(mean = 8, sd = 6)), weights = c(7, 3)), wild = law_student(1)) |>
    add_outputs(y = a + u, n = k + 0, dry = rain, far = wild * 1e30, some = sqrt(u - 0.3), yes = u > 0.25, same = 0 * a + 2,
      day = date("2026-05-01") + 100 * u, edge = if (u < 0.5) 0 else if (u < 0.75) 5e-324 else 1e-323) |>
    add_specs(y > 1e6, n < 4)
  whole <- quietly(s, 3000, 3)
  long <- in_passes(s, 3000)
  expect_true(is_long(column_of(long, "y")))
  expect_identical(percentiles(long, c(0, 0.1, 5, 50, 62.5, 99.97, 100)), percentiles(whole, c(0, 0.1, 5, 50, 62.5, 99.97, 100)))
  expect_identical(median(long), median(whole))
  expect_equal(mean(long), mean(whole), tolerance = 1e-10)
  a <- summary(long)
  b <- summary(whole)
  exact <- c("output", "kind", "runs", "failed", "base_at", "base_met", "min", "max", "P5", "P80", "P95", "iqr")
  expect_identical(a[exact], b[exact])
  for (column in c("mean", "sd", "skewness", "excess_kurtosis")) {
    expect_equal(a[[column]], b[[column]], tolerance = 1e-9)
  }
  expect_identical(chance(long, y > 1e6 & n < 3, some > 0.5, max(y, dry) > 0), chance(whole, y > 1e6 & n < 3, some > 0.5,
    max(y, dry) > 0))
  expect_identical(pass_rate(long), pass_rate(whole))
})

test_that("values by ranks are found among ties, next doubles and the widest ranges", {
  local_record("store_piece_runs", 700)
  local_record("values_collected", 200)
  local_record("long_cells", 64)
  for (values in list(rep(7, 900), c(rep(0, 1500), 1:100), c(-1e308, rnorm(1000), 1e308), 1 + 2^-52 * rpois(3000, 3),
    c(rep(-Inf, 10), rnorm(2000), NaN, rep(Inf, 10)), cumsum(rep(0.1, 2500)), 42)) {
    dir <- withr::local_tempdir()
    store <- memory_store(list(y = as.double(values)), c(y = "number"))
    writer <- folder_writer(dir)
    pieces <- store_pieces(store)
    for (i in seq_len(nrow(pieces))) {
      writer$put(store_piece(store, "y", pieces$first[i], pieces$count[i]), store$kinds)
    }
    column <- long_column(writer$done(), "y")
    good <- sort(values[is.finite(values)])
    n <- length(good)
    expect_equal(length(column), n)
    ranks <- unique(c(1, 2, n %/% 3, n %/% 2, n - 1, n))
    ranks <- ranks[ranks >= 1 & ranks <= n]
    expect_identical(order_statistics(column, ranks), good[ranks])
    expect_identical(counts_about(column, good[n %/% 2 + 1])[["below"]], as.double(sum(good < good[n %/% 2 + 1])))
  }
})

test_that("stores give the same columns and pieces, in memory, in a folder and as a part", {
  s <- three_normals() |> add_model(function(a) data.frame(step = 1:3, x = a * 1:3), name = "m") |>
    add_outputs(low = min(x), yes = a > 0)
  whole <- quietly(s, 2000, 3)
  local_record("memory_at_most", 10)
  local_record("store_piece_runs", 700)
  folder <- simulate_into(s, withr::local_tempfile(), 2000, 3, progress = NULL)
  expect_identical(whole$store$kind, "memory")
  for (store in list(folder$store, store_at(folder$store, 2000:1))) {
    order <- if (store$kind == "view") 2000:1 else 1:2000
    for (name in whole$store$names) {
      expect_identical(store_column(store, name), column_at(store_column(whole$store, name), order))
      expect_identical(store_piece(store, name, 650, 800)[[1]], column_at(store_column(whole$store, name), order[651:1450]))
    }
    expect_identical(store_column(store, "x", 2), unname(store_column(whole$store, "x")[order, 2]))
  }
  at <- store_at_step(folder$store, list(x = 3L))
  expect_identical(store_column(at, "x"), unname(whole$x[, 3]))
  expect_identical(store_piece(at, "x", 10, 5)[[1]], unname(whole$x[11:15, 3]))
})

test_that("drivers of very many runs are those of the first ones", {
  s <- three_normals() |> add_outputs(y = a + 2 * b)
  res <- simulate_into(s, withr::local_tempdir(), 3e5, 2, design = "random", overwrite = TRUE, progress = NULL)
  first <- quietly(s, 2e5, 2, design = "random")
  local_record("leading_runs_at_most", 2e5)
  expect_identical(drivers(res), drivers(first))
  expect_identical(drivers(res, "rank"), drivers(first, "rank"))
})
