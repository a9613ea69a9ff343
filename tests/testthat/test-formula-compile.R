# Compiled formulas against R's own evaluation of them.

test_that("formulas made at random have the bits of R's own evaluation, and the same runs fail", {
  expect_identical(suppressWarnings(faulty_formulas(1:300)), NULL)
})

test_that("the demo studies' formulas have the bits of R's own evaluation", {
  for (file in c("gravity-main.yml", "reference.yml")) {
    s <- read_study(system.file("studies", file, package = "ensayo"))
    formulas <- lapply(s$outputs[output_order(s$outputs)], function(output) output$formula)
    plan <- draw_plan(5000, 3, "latin", 1, NULL, 1)
    columns <- c(draw_columns(s, plan, 0, 5000), lapply(Filter(Negate(varies), s$inputs), held_value))
    made <- new_evaluator(formulas)(columns, 1:5000)
    expect_identical(made, new_evaluator(formulas, step = interpreted_step)(columns, 1:5000))
    # nor does it matter how many there are at once, or on how many threads
    at <- c(1, 513, 5000)
    parts <- lapply(at, function(i) new_evaluator(formulas)(lapply(columns, part_of, i - 1, 1), i)$values)
    expect_identical(lapply(made$values, function(x) x[at]), joined_columns(parts))
    expect_identical(evaluator_of(list(formula_step(formulas, threads = 3)), names(formulas))(columns, 1:5000), made)
  }
})

test_that("remainders and quotients of awkward sizes are R's", {
  set.seed(2)
  a <- c(10^runif(5e4, -20, 60), -10^runif(5e4, -20, 40), -5:5, NA, NaN, Inf)
  b <- c(10^runif(1e5, -30, 10) * sample(c(-1, 1), 1e5, TRUE), rep(c(3, -3, 0, Inf, NA, NaN, 2.5), 2))
  s <- study() |> add_inputs(a = law_normal(0, 1), b = law_normal(0, 1)) |> add_outputs(m = a %% b, q = a %/% b)
  expect_warning(values <- evaluated(s, list(a = a, b = b)), NA)
  lost <- function(x) ifelse(is.finite(x), x, NA)
  expect_identical(lost(values$values$m), lost(suppressWarnings(a %% b)))
  expect_identical(lost(values$values$q), lost(a %/% b))
  expect_match(values$warnings$message, "accuracy in modulus")
})

test_that("whole numbers overflow to NA, with a warning, and a failed run is told with where it went wrong", {
  s <- study() |> add_inputs(k = law_poisson(2), a = law_normal(0, 1)) |>
    add_outputs(big = k * 2L, root = 1 + sqrt(a - 1), both = if (a > 0) log(a - 2) else 1 / (a + 3))
  made <- evaluated(s, list(k = c(5L, .Machine$integer.max, NA), a = c(0.5, 3, -3)))
  expect_identical(made$values$big, c(10L, NA, NA))
  expect_match(made$warnings$message, "integer overflow")
  reason <- function(output, run) made$failures$reason[made$failures$output == output & made$failures$run == run]
  expect_identical(reason("big", 2), "missing (NA) in `k * 2L`")
  expect_identical(reason("big", 3), "missing (NA)")
  expect_identical(reason("root", 1), "not a number (NaN) in `sqrt(a - 1)`")
  expect_identical(reason("both", 1), "not a number (NaN) in `log(a - 2)`")
  expect_identical(reason("both", 3), "infinite (Inf) in `1/(a + 3)`")
  series <- study() |> add_inputs(a = law_normal(2, 1)) |>
    add_model(function(a) data.frame(step = 1:3, x = a - 0:2), name = "walk", outputs = list(x = output())) |>
    add_outputs(deepest = min(sqrt(x)))
  expect_match(failures(quietly(series, 20))$reason, "NaN\\) in `sqrt\\(x\\)` at step [123] of 3", all = TRUE)
})

test_that("arguments by name are what R takes them for", {
  s <- three_normals() |> add_outputs(y = ifelse(a > 0, no = b, yes = c), z = ifelse(a > 0, no = b, c), l = log(base = 3, x = abs(b)),
    m = log(abs(b), base = 3), r = round(digits = 1, x = a))
  columns <- list(a = c(1.26, -1), b = c(2, 3), c = c(4, 5))
  made <- evaluated(s, columns)$values
  expect_identical(made$y, c(4, 3))
  expect_identical(made$z, c(4, 3))
  expect_identical(made$l, log(c(2, 3), 3))
  expect_identical(made$m, made$l)
  expect_identical(made$r, c(1.3, -1))
})

test_that("formulas of 50,000 outputs are compiled in linear time, shared parts once", {
  chain <- function(n) {
    formulas <- lapply(seq_len(n), function(i) {
      list(expr = if (i == 1) quote(a + 1) else bquote((.(as.name(paste0("y", i - 1))) + a * b) / (1 + a * b)),
        uses = c("a", "b", if (i > 1) paste0("y", i - 1)), constants = list(), functions = list())
    })
    names(formulas) <- paste0("y", seq_len(n))
    formulas
  }
  columns <- list(a = c(1, 2, 3), b = c(0.5, 0.25, 2))
  seconds <- function(n) {
    formulas <- chain(n)
    system.time(made <<- new_evaluator(formulas)(columns, 1:3))[["elapsed"]]
  }
  made <- NULL
  few <- seconds(5000)
  many <- seconds(50000)
  expect_lt(many, 60 * few + 5)
  y <- columns$a + 1
  for (i in 2:50000) y <- (y + columns$a * columns$b) / (1 + columns$a * columns$b)
  expect_identical(made$values$y50000, y)
  expect_length(made$values, 50000)
})
