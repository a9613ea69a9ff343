bump <- function() {
  study("Bump") |> add_inputs(a = law_uniform(0, 1), b = law_uniform(0, 1)) |>
    add_model(function(a, b) exp(-30 * ((a - 0.7)^2 + (b - 0.3)^2)) + 0.3 * a, outputs = list(y = output(unit = "m")), name = "bump")
}

test_that("runs are suggested where the error is, near a limit, and never where one was made", {
  res <- simulate(bump(), 25, 3, progress = NULL)
  fast <- surrogate(res, kinds = "gaussian")
  some <- suggest_runs(fast, 6, seed = 1)
  expect_identical(names(some), c("a", "b", "expected", "error"))
  expect_identical(some, suggest_runs(fast, 6, seed = 1))
  expect_true(all(some$a >= 0 & some$a <= 1 & some$b >= 0 & some$b <= 1))
  pool <- simulate(study_of(fast), 2000, 5)
  typical <- median(predict(fast, as.data.frame(pool)[c("a", "b")])$y_error)
  expect_gt(mean(some$error), typical)
  expect_gt(min(dist(some[c("a", "b")])), 0.01)
  near <- suggest_runs(fast, 6, near = y >= 0.5, seed = 1)
  expect_lt(max(abs(near$expected - 0.5) / near$error), 2)
  # none of a pool that was run is suggested again
  of_pool <- draw_columns(bump(), draw_plan(40, 9, "latin", 1, NULL, NULL))
  used <- simulate(bump(), 40, 9, progress = NULL)
  taken <- suggest_runs(surrogate(used, kinds = "gaussian"), 3, seed = 10, pool = 40)
  expect_false(any(taken$a %in% of_pool$a))
  expect_error(suggest_runs(fast, near = a >= 0.5), "compare an output", class = "ensayo_error_argument")
  expect_error(suggest_runs(fast, output = z), class = "ensayo_error_name")
  expect_error(suggest_runs(fast, 0), class = "ensayo_error_argument")
})

test_that("the loop learns until its aim is met, with the model's own runs and workers, and keeps them in a file", {
  fast <- surrogate(simulate(bump(), 20, 3, progress = NULL), kinds = "gaussian")
  file <- withr::local_tempfile(fileext = ".csv")
  better <- improve_surrogate(fast, error = 0.02, most = 40, seed = 1, file = file, progress = NULL)
  told <- learning(better)
  expect_true(told$met[nrow(told)])
  expect_false(any(told$met[-nrow(told)]))
  expect_identical(told$runs[1], 20L)
  made <- read.csv(file)
  expect_identical(nrow(made), as.integer(told$runs[nrow(told)] - 20L))
  expect_equal(made$y, exp(-30 * ((made$a - 0.7)^2 + (made$b - 0.3)^2)) + 0.3 * made$a)
  # the same again from the file
  again <- surrogate(simulate(bump(), 20, 3, progress = NULL), kinds = "gaussian", runs = made)
  expect_equal(predict(again, data.frame(a = 0.7, b = 0.3))$y, predict(better, data.frame(a = 0.7, b = 0.3))$y)
  expect_equal(summary(again)$error, told$error[nrow(told)])
  expect_lt(summary(better)$error, summary(fast)$error)
  # by a limit, and not beyond what was allowed
  limit <- improve_surrogate(fast, unsure = 0.001, near = y >= 0.6, most = 10, seed = 1, progress = NULL)
  rows <- learning(limit)
  expect_lte(max(rows$runs), 30)
  expect_lt(rows$unsure[nrow(rows)], rows$unsure[1] + 0.01)
  by_workers <- improve_surrogate(fast, error = 1e-9, most = 5, seed = 1, workers = 2, progress = NULL)
  expect_identical(by_workers$taught$values, improve_surrogate(fast, error = 1e-9, most = 5, seed = 1, progress = NULL)$taught$values)
  expect_error(improve_surrogate(fast), "One aim", class = "ensayo_error_argument")
  expect_error(improve_surrogate(fast, unsure = 0.1), "near", class = "ensayo_error_argument")
  expect_error(learning(fast), class = "ensayo_error_argument")
})

test_that("it goes on with a program whose runs sometimes fail", {
  network <- allow_programs(read_study(system.file("studies", "network.yml", package = "ensayo")))
  fast <- surrogate(simulate(network, 30, 4, progress = NULL), pressure, kinds = "additive")
  better <- improve_surrogate(fast, r_squared = 0.999, near = pressure >= 15, batch = 4, most = 8, seed = 1, progress = NULL)
  expect_identical(nrow(learning(better)), 3L)
  expect_length(better$taught$failed, 38)
  expect_identical(sum(!better$taught$designed), 8L)
})
