test_that("several results have the covariance of JCGM 100, H.2", {
  j <- joint_budget(impedance())
  r <- j$correlation
  expect_equal(c(r["R", "X"], r["R", "Z"], r["X", "Z"]), c(-0.588430, -0.485259, 0.992512), tolerance = 2e-6)
  expect_equal(sqrt(diag(j$covariance)), c(R = 0.0710714, X = 0.295582, Z = 0.236336), tolerance = 2e-6)
})

test_that("regions hold what they say (JCGM 102)", {
  s <- study("n") |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 2)) |> add_correlation(a, b, 0.5, kind = "score") |> add_outputs(p = a, q = b)
  j <- joint_budget(s)
  expect_equal(j$ellipse_factor, 2.447747, tolerance = 1e-6)
  expect_equal(j$rectangle_factor, 2.212128, tolerance = 1e-6)
  independent <- ensayo:::rectangle_factor(diag(4), 0.95)
  expect_equal(independent, qnorm((1 + 0.95^(1 / 4)) / 2), tolerance = 1e-3)
  expect_equal(ensayo:::rectangle_factor(matrix(1, 2, 2), 0.95), qnorm(0.975), tolerance = 1e-6)
  runs <- joint_budget(simulate(s, 50000, 3))
  expect_equal(runs$ellipse_factor, j$ellipse_factor, tolerance = 0.02)
  expect_equal(runs$rectangle_factor, j$rectangle_factor, tolerance = 0.02)
  # of a normal law the ellipse is the smallest region
  expect_equal(runs$region_area, runs$ellipse_area, tolerance = 0.06)
  table <- as.data.frame(j)
  expect_equal(table$high, j$rectangle_factor * c(1, 2))
})

test_that("of a law that is not normal the smallest region is smaller than the ellipse", {
  s <- study("ring") |> add_inputs(angle = law_uniform(0, 2 * pi), r = law_normal(1, 0.02)) |> add_outputs(x = r * cos(angle), y = r * sin(angle))
  j <- joint_budget(simulate(s, 50000, 3))
  expect_lt(j$region_area, 0.4 * j$ellipse_area)
})

test_that("results are taken into the next study with their correlations", {
  j <- joint_budget(impedance(), c(R, X))
  s <- study("next") |> add_measured(j) |> add_outputs(Z = sqrt(R^2 + X^2))
  expect_equal(budget_result(budget(s))$standard, 0.236336, tolerance = 1e-5)
  expect_error(joint_budget(impedance(), R), "two outputs", class = "ensayo_error_argument")
  expect_error(joint_budget(simulate(impedance(), 1000, 1) |> identity(), c(R, R)), class = "ensayo_error_argument")
  expect_error(add_measured(study("x"), 3), class = "ensayo_error_argument")
  linear <- study("s") |> add_inputs(a = law_normal(0, 1)) |> add_outputs(p = a, q = 2 * a) |> simulate(500, 1)
  expect_error(joint_budget(linear), "follow from one another", class = "ensayo_error_argument")
})

test_that("readings taken together keep their correlation", {
  s <- study("o") |> add_observations(impedance_readings, of = "mean", .unit = c(V = "V"))
  expect_equal(correlations(s)$r[1], 6 / pi * asin(cor(impedance_readings$V, impedance_readings$I) / 2))
  expect_identical(s$inputs$V$unit, "V")
  expect_error(add_observations(study("o"), impedance_readings[1:2, ], of = "mean"), "three rows", class = "ensayo_error_argument")
  expect_error(add_observations(study("o"), data.frame(a = c(1, 1, 1), b = 1:3), of = "mean"), "Column `a`", class = "ensayo_error_argument")
  expect_error(add_observations(study("o"), impedance_readings, of = "mean", .unit = c(W = "V")), class = "ensayo_error_name")
})
