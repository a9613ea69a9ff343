# Every law as users meet it: drawn in a study, in both designs, read off the result.

all_laws <- c(law_grid(), discrete_grid())
all_moments <- lapply(all_laws, moments)
plain <- vapply(all_moments, function(m) {
  is.finite(m$excess_kurtosis) && m$excess_kurtosis < 50 && m$sd > 1e-9 * abs(m$mean)
}, TRUE)
plain_laws <- all_laws[plain]
plain_moments <- all_moments[plain]

test_that("draws have the law's mean and spread, in both designs", {
  laws <- stats::setNames(plain_laws, paste0("x", seq_along(plain_laws)))
  s <- study() |> add_inputs(!!!laws) |> add_outputs(y = x1)
  n <- 4000
  for (design in c("latin", "random")) {
    draws <- quietly(s, n, seed = 17, design = design)$draws
    z <- mapply(function(m, x) (mean(x) - m$mean) / m$sd * sqrt(n), plain_moments, draws)
    ratio <- mapply(function(m, x) sd(x) / m$sd, plain_moments, draws)
    # a Latin mean is nearer than chance lets a random one be
    expect_lt(max(abs(z)), if (design == "latin") 1.5 else 4, label = design)
    spread <- vapply(plain_moments, function(m) sqrt((m$excess_kurtosis + 2) / n), 0)
    expect_lt(max(abs(ratio - 1) / pmax(spread, 1e-3)), 5, label = design)
  }
})

test_that("under a Latin hypercube every slice of every law holds one draw", {
  n <- 500
  for (law in plain_laws) {
    if (is_discrete(law)) next
    x <- quietly(study() |> add_inputs(x = law) |> add_outputs(y = x), n)$draws$x
    slice <- floor(cumulative(law, x) * n)
    # at a slice's very end rounding may say the next
    expect_gte(length(unique(pmin(slice, n - 1))), n - 3, label = format(law))
  }
})

test_that("discrete draws have their probabilities", {
  n <- 10000
  for (law in list(law_discrete(c(3, 1, 2), c(0.3, 0.2, 0.5)), law_binomial(5, 0.3), law_poisson(2),
    law_discrete(c("rock", "clay"), c(1, 3)))) {
    x <- quietly(study() |> add_inputs(x = law) |> add_outputs(y = if (x == 3) 1 else 0), n)$draws$x
    for (value in unique(x)) expect_lt(abs(mean(x == value) - density_at(law, value)), 2 / n, label = format(law))
  }
})

test_that("laws travel: saved, read, hashed and drawn the same", {
  laws <- plain_laws[seq(1, length(plain_laws), 3)]
  names(laws) <- paste0("x", seq_along(laws))
  s <- study() |> add_inputs(!!!laws) |> add_outputs(y = x1)
  file <- withr::local_tempfile()
  saveRDS(s, file)
  expect_identical(study_hash(readRDS(file)), study_hash(s))
  yaml <- withr::local_tempfile(fileext = ".yml")
  write_study(s, yaml)
  expect_identical(study_hash(read_study(yaml)), study_hash(s))
  expect_identical(quietly(read_study(yaml), 50)$draws, quietly(s, 50)$draws)
})

test_that("categories go all the way: formulas, tables, folders, drivers, fixing and reports", {
  s <- study("Trench") |>
    add_inputs(soil = input(law_discrete(c("rock", "gravel", "clay"), c(1, 6, 3)), label = "Soil"),
      depth = law_uniform(1, 2)) |>
    add_outputs(cost = depth * (if (soil == "rock") 90 else if (soil %in% c("gravel", "clay")) 40 else 0)) |>
    add_specs(cost < 100)
  res <- quietly(s, 1000)
  d <- as.data.frame(res)
  expect_equal(d$cost, d$depth * ifelse(d$soil == "rock", 90, 40))
  expect_identical(sort(unique(d$soil)), c("clay", "gravel", "rock"))
  expect_identical(s$inputs$soil$base, "gravel")
  expect_identical(base_case(res)$value, c("gravel", "1.5", "60"))
  expect_equal(chance(res, soil == "rock" && cost > 90)$chance, mean(d$soil == "rock" & d$cost > 90))
  dir <- withr::local_tempfile()
  write_result(res, dir)
  expect_identical(read_result(dir)$draws, res$draws)
  expect_true(all(is.finite(drivers(res)$value)))
  expect_true(all(quietly(s |> fix_inputs(soil = "rock"), 50)$outputs$cost >= 90))
  expect_fault(s |> fix_inputs(soil = "sand"), "argument", "\"gravel\"")
  expect_fault(input(law_discrete(c("a", "b")), base = "c"), "argument", "`base`")
  report <- withr::local_tempfile(fileext = ".html")
  write_report(res, report)
  expect_match(paste(readLines(report), collapse = ""), "gravel")
  correlated <- s |> add_correlation(soil, depth, 0.8)
  table <- correlations(quietly(correlated, 2000))
  expect_gt(table$achieved, 0.6)  # ties keep it below what was asked of the uniforms
})
