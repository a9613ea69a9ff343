# Formulas at random, evaluated for all runs at once and, as the truth, run by run with base R's own functions: of
# single
# numbers base R's `min`, `if` and `&&` are the within-run ones.

random_formula <- function(depth) {
  pick <- function(x) x[[sample.int(length(x), 1)]]
  if (depth == 0) return(pick(list(quote(a), quote(b), quote(c), 2, -0.5)))
  part <- function() random_formula(depth - 1)
  condition <- function() {
    simple <- call(pick(c("<", ">=", "!=")), part(), part())
    pick(list(simple, call("&&", simple, call(">", part(), 0)), call("||", call("<", part(), part()), simple),
      call("!", simple), call("any", simple, call("<", part(), 1)), call("all", simple, call(">", part(), -1))))
  }
  switch(sample.int(9, 1),
    call("+", part(), part()), call("*", part(), part()), call("-", part()), call("abs", part()),
    call("min", part(), part(), part()), call("max", part(), call("c", part(), part())), call("mean", part(), part()),
    call("if", condition(), part(), part()), call("ifelse", condition(), part(), call("sqrt", call("abs", part())))
  )
}

truth_of <- function(formula, row) {
  mean_of_all <- function(...) base::mean(c(...))
  eval(formula, c(row, list(mean = mean_of_all)), baseenv())
}

test_that("formulas mean for every run what they mean for one", {
  withr::local_seed(20)
  columns <- list(a = c(1, -2, 0.5, 3, 0), b = c(4, 5, -6, 0.25, 0), c = c(0, 1, 2, -3, 0))
  for (i in 1:300) {
    formula <- random_formula(sample(1:4, 1))
    seen <- study_evaluator(three_normals() |> add_outputs(y = !!formula))(columns, 1:5)$values$y
    truth <- vapply(1:5, function(i) as.double(truth_of(formula, lapply(columns, `[[`, i))), 0)
    expect_equal(as.double(seen), truth, label = deparse1(formula))
  }
})

test_that("formulas survive a study file", {
  withr::local_seed(21)
  formulas <- stats::setNames(lapply(1:40, function(i) random_formula(3)), paste0("y", 1:40))
  s <- three_normals() |> add_outputs(!!!formulas)
  file <- withr::local_tempfile()
  write_study(s, file)
  expect_identical(quietly(read_study(file), 50)$outputs, quietly(s, 50)$outputs)
})
